"""A still picture turned into a slow move of the lens: every pixel is moved by its distance. No light is traced, and what the lens of the still
did not see is drawn out from its edge, so it is told as made from a still.

Each pixel of the moved lens asks the still where its place is seen: the place lies on its sight at the distance that the still has there, which
is found by taking turns (image warping by fixed-point iteration, J. Shade et al., Layered depth images, SIGGRAPH 1998, give the warp). It
begins nearer than anything there, so that what is in front wins.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.errors import InputError
from valleylight.core.sequence.kernels import pushed_rows
from valleylight.core.trace.arrays import layout
from valleylight.core.treatments.run import in_bands

#: The way of a push, over how far the nearest twentieth of the picture is, at most: beyond, near things come apart.
MOST_WAY = 0.35


def pushed(
    picture: NDArray[np.float32], depth: NDArray[np.float32], camera: NDArray[np.float64], way_m: tuple[float, float, float]
) -> NDArray[np.float32]:  # fmt: skip
    """The picture (H, W, 3) as a lens would see it that has moved by `way_m` (to the right, up, ahead; in m) from `camera` (26,); `depth`
    (H, W) in m along the sight."""
    moved = np.array(camera, float)
    for axis, first in enumerate((layout.CAMERA_RIGHT, layout.CAMERA_UP, layout.CAMERA_FORWARD)):
        moved[layout.three(layout.CAMERA_PLACE)] += way_m[axis] * camera[layout.three(first)]
    source = np.ascontiguousarray(picture, np.float32)
    out = np.empty_like(source)
    in_bands(
        pushed_rows,
        len(source),
        source,
        np.ascontiguousarray(depth, np.float32),
        moved,
        np.asarray(camera, float),
        out,
        np.empty((len(source), 3)),
    )
    return out


def furthest_way(depth: NDArray[np.float32]) -> float:
    """How far a push of a picture may go, in m. Raises InputError where nothing is seen but sky."""
    near = depth[np.isfinite(depth)]
    if near.size < depth.size / 100:
        raise InputError("nothing but sky is seen in this plate", "plate", "Choose a plate with things at a distance")
    return MOST_WAY * float(np.percentile(near, 5))
