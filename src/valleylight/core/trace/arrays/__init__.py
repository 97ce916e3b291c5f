"""What kernels read: the columns of flat records, and the arrays of a scene."""
