"""What is known of a picture beside its light: the lens it was taken with, how far and how high things are, what they are."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from valleylight.core.treatments.cube import Cube

Array = NDArray[np.float32]
Size = tuple[int, int]
#: A lens of this angle is taken where nothing is known of the real one (36 mm of film, 24 mm of focal length).
USUAL_HALF_WIDTH = 0.75
_LUMA = np.array([0.2126, 0.7152, 0.0722], np.float32)


@dataclass(frozen=True)
class LensSeen:
    """`half_width` and `half_height`: tangents of half the angle of view along the axis; `off_axis`: where the axis meets the picture,
    as tangents from its middle (right, up); focal length and width of the film in mm; distance in focus in m (None: all)."""

    half_width: float = USUAL_HALF_WIDTH
    half_height: float = USUAL_HALF_WIDTH * 9 / 16
    off_axis: tuple[float, float] = (0.0, 0.0)
    focal_mm: float = 24.0
    film_width_mm: float = 36.0
    focus_m: float | None = None

    def tangents(self, size: Size) -> tuple[Array, Array]:
        """Tangents across (W,) and up (H,) of the directions of pixels from the lens's axis."""
        height, width = size
        across = ((np.arange(width) + 0.5) / width * 2 - 1) * self.half_width + self.off_axis[0]
        up = (1 - (np.arange(height) + 0.5) / height * 2) * self.half_height + self.off_axis[1]
        return across.astype(np.float32), up.astype(np.float32)

    def axis_at(self, size: Size) -> tuple[float, float]:
        """Where the axis meets a picture, in pixels from its first one: a shifted lens has it off the middle."""
        height, width = size
        right, up = self.off_axis
        return (width - 1) / 2 - right / self.half_width * width / 2, (
            height - 1
        ) / 2 + up / self.half_height * height / 2


@dataclass(frozen=True)
class Seen:
    """`passes` and `groups` are pictures of any one size, which are laid on that of the picture by the nearest pixel; `shares` give
    for a name the share of pixels (H, W) that objects and surfaces have; `tables` are lookup tables by the SHA-256 of their files. All may
    be missing."""

    lens: LensSeen = LensSeen()
    sun_at: tuple[float, float] | None = None
    passes: dict[str, Array] = field(default_factory=dict)
    groups: dict[str, Array] = field(default_factory=dict)
    objects: dict[str, Array] = field(default_factory=dict)
    surfaces: dict[str, Array] = field(default_factory=dict)
    tables: Mapping[str, Cube] = field(default_factory=dict)
    seed: int = 1
    #: Axes of the lens in the model's coordinates: ahead, to the right, up.
    axes: tuple[Sequence[float], Sequence[float], Sequence[float]] | None = None
    #: Distance in focus in m and f-number of a lens whose blur the picture does not hold yet.
    blur: tuple[float, float] | None = None

    def depth_m(self, size: Size) -> Array | None:
        """Distance along the sight in metres, infinite where nothing is met."""
        depth = self.passes.get("depth")
        return None if depth is None else _as(depth, size)

    def axial_m(self, size: Size) -> Array | None:
        """Distance along the lens's axis in metres, infinite where nothing is met."""
        depth = self.depth_m(size)
        if depth is None:
            return None
        across, up = self.lens.tangents(size)
        return np.asarray(depth / np.sqrt(1 + across[None, :] ** 2 + up[:, None] ** 2), np.float32)

    def height_m(self, size: Size) -> Array | None:
        """Height of what is seen in the model's coordinates; infinite where nothing is met."""
        position, depth = self.passes.get("position"), self.passes.get("depth")
        if position is None or depth is None:
            return None
        return _as(np.where(np.isfinite(depth), position[..., 2], np.inf).astype(np.float32), size)

    def normals(self, size: Size) -> Array | None:
        """Normals of what is seen (H, W, 3) in the model's coordinates, none where nothing is met."""
        normal = self.passes.get("normal")
        return None if normal is None else _as(normal, size)

    def level_lines(self, size: Size) -> Array | None:
        """Direction in the picture (H, W, 2: to the right, up) of the level line of what is seen at each pixel, of length 1.

        A place P is seen at x = (P - C) r / (P - C) f; moved along its level line t its picture moves by (t r - x t f, t u - y t f)
        over its distance, with the lens's axes f, r, u.
        """
        normal, depth = self.passes.get("normal"), self.passes.get("depth")
        if normal is None or depth is None or self.axes is None:
            return None
        n = _as(normal, size)
        t = np.stack([-n[..., 1], n[..., 0], np.zeros_like(n[..., 0])], -1)
        across, up = self.lens.tangents(size)
        f, r, u = (np.asarray(axis, np.float32) for axis in self.axes)
        ahead = t @ f
        line = np.stack([t @ r - across[None] * ahead, t @ u - up[:, None] * ahead], -1)
        return np.asarray(line / np.maximum(np.linalg.norm(line, axis=-1, keepdims=True), 1e-9), np.float32)

    def share_of_objects(self, names: Sequence[str], size: Size) -> Array:
        return _shares(self.objects, names, size)

    def share_of_surfaces(self, names: Sequence[str], size: Size) -> Array:
        return _shares(self.surfaces, names, size)

    def share_of_groups(self, names: Sequence[str], size: Size) -> Array:
        """Share of these lights in the luminance of each pixel."""
        if not self.groups:
            return np.zeros(size, np.float32)
        every = {name: picture @ _LUMA for name, picture in self.groups.items()}
        whole = np.maximum(np.asarray(sum(every.values())), 1e-9)
        mine = [every[name] for name in names if name in every]
        return _as(np.asarray(sum(mine) / whole if mine else np.zeros_like(whole), np.float32), size)


def _shares(known: dict[str, Array], names: Sequence[str], size: Size) -> Array:
    mine = [known[name] for name in names if name in known]
    if not mine:
        return np.zeros(size, np.float32)
    return _as(np.clip(np.asarray(sum(mine)), 0, 1).astype(np.float32), size)


def _as(picture: Array, size: Size) -> Array:
    """A picture at another size, by the nearest pixel: edges of things stay edges."""
    if picture.shape[:2] == size:
        return np.asarray(picture, np.float32)
    rows, columns = (((np.arange(n) + 0.5) * m / n).astype(int) for n, m in zip(size, picture.shape[:2], strict=True))
    return np.asarray(picture[rows][:, columns], np.float32)


NOTHING_SEEN = Seen()
