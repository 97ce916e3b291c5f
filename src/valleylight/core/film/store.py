"""A film on disk as it is being traced, so that the trace can go on from it another day."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

import numpy as np

from valleylight.core.errors import InputError
from valleylight.core.film.film import Film


def save_film(film: Film, path: Path, **more: Any) -> None:
    """Save the sums of a film, and whole numbers beside them; whole or not at all."""
    partial = path.with_suffix(".part")
    with partial.open("wb") as file:
        np.savez(
            file, light=film.light, auxiliary=film.auxiliary, masks=film.masks, counts=film.counts, spill=film.spill,
            samples=film.samples, groups=np.array(film.group_names), **more,
        )  # fmt: skip
        file.flush()
        os.fsync(file.fileno())
    partial.replace(path)


def load_film(path: Path, film: Film) -> dict[str, int]:
    """Fill an empty film of the same size and lights from a saved one; returns the numbers saved beside it.

    Raises InputError for a file that is damaged or of another size or other lights; the film is then left as it was.
    """
    try:
        with np.load(path) as kept:
            if tuple(kept["groups"]) != film.group_names or kept["light"].shape != film.light.shape:
                raise InputError("the film is of another size or has other lights", str(path), "Start the picture anew")
            parts = {name: kept[name] for name in ("light", "auxiliary", "masks", "counts", "spill")}
            if any(parts[name].shape != getattr(film, name).shape for name in parts):
                raise InputError("the film keeps other passes", str(path), "Start the picture anew")
            for name, values in parts.items():
                getattr(film, name)[:] = values
            film.samples = int(kept["samples"])
            known = {*parts, "samples", "groups"}
            return {name: int(kept[name]) for name in kept.files if name not in known}
    except (ValueError, KeyError, OSError, EOFError) as error:
        raise InputError(f"the saved film cannot be read ({error})", str(path), "Start the picture anew") from error
