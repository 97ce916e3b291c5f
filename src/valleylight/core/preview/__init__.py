"""Small pictures of a material, a profile, a fixture, made by the tracer."""
