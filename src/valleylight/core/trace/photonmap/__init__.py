"""Photons through and off water and solid glass."""
