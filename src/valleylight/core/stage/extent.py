"""Is a model of a size that can be lit? From 1 cm to 100 km, and in one place."""

from __future__ import annotations

import numpy as np

from valleylight.core.errors import InputError
from valleylight.core.stage.model import Mesh, MeshInstance, boxes_of, heart_of

#: The size of a stage, and how far its parts may lie apart: within these limits its light is right, wherever it stands (see
#: tests/references/test_scales.py).
LEAST_M, GREATEST_M = 0.01, 1e5


class SizeError(InputError):
    """A model that is too small or too large for its light to be right."""

    def __init__(self, what: str, where: str, remedy: str, too_large: bool) -> None:
        super().__init__(what, where, remedy)
        self.too_large = too_large


def together_of(
    instances: list[MeshInstance], meshes: list[Mesh], file: str, metres: float = 1.0
) -> tuple[list[MeshInstance], list[str]]:
    """The instances without those that stray farther from the rest than a stage may be large, and a word for each of those; `metres`
    are those of the file's unit. Raises SizeError for a model that is too small or too large for its light to be right."""
    if not instances:
        return instances, []
    low, high = boxes_of(instances, meshes)
    heart = heart_of(instances, meshes)
    strays = np.maximum(np.maximum(low - heart, heart - high), 0).max(1) * metres > GREATEST_M
    size = float((high[~strays].max(0) - low[~strays].min(0)).max()) * metres
    if size > GREATEST_M:
        widest = instances[int(np.argmax(np.where(strays, 0, (high - low).max(1))))].name
        raise SizeError(
            f"the model measures {size / 1000:.3g} km, its largest object is {widest!r}; {GREATEST_M / 1000:g} km is the most",
            file, "Export it in metres, without what lies far off", True,
        )  # fmt: skip
    if size < LEAST_M:
        raise SizeError(
            f"the model measures {size * 1000:.3g} mm; {LEAST_M * 1000:g} mm is the least", file,
            "Export it in metres: its unit may be wrong", False,
        )  # fmt: skip
    words = [
        f"Object {instances[k].name!r} stands more than {GREATEST_M / 1000:g} km from the rest and was left out."
        for k in np.flatnonzero(strays)
    ]
    return [p for p, strays_far in zip(instances, strays, strict=True) if not strays_far], words
