"""The process that serves: routes, what stands before them, and its side of the worker."""
