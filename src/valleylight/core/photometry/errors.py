"""The error of a photometric file."""

from valleylight.core.errors import InputError


class PhotometryError(InputError):
    """A photometric file cannot be read; names the line and what was expected there."""
