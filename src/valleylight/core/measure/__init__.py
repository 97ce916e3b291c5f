"""Measures of a stage: plans, illuminance and what a ray meets."""
