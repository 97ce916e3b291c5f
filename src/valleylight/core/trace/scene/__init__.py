"""From a stage to the arrays that kernels read."""
