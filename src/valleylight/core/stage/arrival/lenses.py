"""Cameras that a model's file offers, as views."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.project.description import View
from valleylight.core.stage.offers import CameraOffer, Point

#: Film across which focal lengths are told, and how far ahead the target is put.
FILM_MM, TARGET_M = 36.0, 5.0
#: Formats that are taken as such when a camera's is near to one.
_FORMATS = ((16, 9), (3, 2), (4, 3), (1, 1), (5, 4), (2, 1), (9, 16), (2, 3), (3, 4), (4, 5))


def as_view(camera: CameraOffer, key: str, name: str, matrix: NDArray[np.float64] | None) -> View:
    """The view that shows what the camera does: f = (film / aspect) / (2 tan(height / 2)). Its picture stands upright."""
    at, ahead = np.array(camera.position), np.array(camera.ahead)
    if matrix is not None:
        at, ahead = matrix[:3, :3] @ at + matrix[:3, 3], matrix[:3, :3] @ ahead
    ahead = ahead / np.linalg.norm(ahead)
    shape = min(_FORMATS, key=lambda f: abs(np.log(f[0] / f[1] / (camera.aspect or 16 / 9))))
    if camera.aspect and abs(np.log(shape[0] / shape[1] / camera.aspect)) > 0.02:
        shape = (round(1000 * camera.aspect), 1000)
    focal = FILM_MM * shape[1] / shape[0] / (2 * np.tan(np.radians(camera.height_deg) / 2))
    return View(
        key=key, name=name, position=_point(at), target=_point(at + TARGET_M * ahead), format=shape,
        focal_mm=round(float(np.clip(focal, 4, 1200)), 2), film_width_mm=FILM_MM, keep_verticals=False,
    )  # fmt: skip


def _point(values: NDArray[np.float64]) -> Point:
    x, y, z = np.round(values, 4).tolist()
    return x, y, z
