"""Random numbers: the sequence, and the register of what is drawn for what."""
