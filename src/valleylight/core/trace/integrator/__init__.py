"""The path integrator."""
