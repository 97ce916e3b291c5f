"""The film: light groups, passes, noise removal and picture files."""

from valleylight.core.film.denoise import remove_noise
from valleylight.core.film.film import Film

__all__ = ["Film", "remove_noise"]
