"""The tracer: ray structure, kernels and the path integrator."""
