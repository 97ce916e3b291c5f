"""The noise of patches over a whole plan at once."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.jit.compiled import kernel
from valleylight.core.trace.textures.pattern import turbulence


@kernel
def _turbulence(x, y, octaves, out):
    for k in range(x.shape[0]):
        out[k] = turbulence(x[k], y[k], 0.0, octaves)


def turbulence_at(x: NDArray[np.float64], y: NDArray[np.float64], octaves: int) -> NDArray[np.float64]:
    """`pattern.turbulence` at places (N,) of the plane z = 0."""
    out = np.empty(len(x))
    _turbulence(np.ascontiguousarray(x, np.float64), np.ascontiguousarray(y, np.float64), octaves, out)
    return out
