"""Measurements of speed on the demo project."""
