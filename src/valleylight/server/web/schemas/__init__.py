"""What the API sends and takes, beyond the core's own description models; a module for each part of the work."""
