"""What became of a picture over time: how two states differ, and which plates are kept."""
