"""Valleylight: a lighting studio for architectural pictures."""

__version__ = "0.1.0"
