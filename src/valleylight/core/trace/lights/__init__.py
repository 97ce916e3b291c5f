"""Sampling of sky, openings, fixtures and emitting surfaces."""
