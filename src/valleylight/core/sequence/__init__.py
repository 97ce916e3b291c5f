"""Sequences: what is seen at each of their moments, frames held steady, and films made of them."""
