"""Colour: linear RGB, the standard observer and colour temperature."""
