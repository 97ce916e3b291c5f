"""A frame on disk: its linear picture, its distances and what the next frame is held steady by, as an OpenEXR file that others read too.

Channels: R, G, B (half, scene-linear Rec. 709 in cd/m2), depth.Z (float, m along the sight, infinite where nothing is), steady.Y (half,
how many frames a pixel holds).
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from valleylight.core.errors import InputError
from valleylight.core.film.exr import BandWriter, read_channels
from valleylight.core.sequence.steady import Remembered

HALF_MOST = 65000.0


def write_frame(kept: Remembered, path: Path, title: str = "") -> None:
    """Write a frame; whole or not at all."""
    height, width = kept.depth.shape
    partial = path.with_suffix(".part")
    bright = np.minimum(kept.picture, HALF_MOST).astype(np.float16)
    channels = {letter: np.ascontiguousarray(bright[..., k]) for k, letter in enumerate("RGB")}
    channels["depth.Z"] = np.ascontiguousarray(kept.depth, np.float32)  # type: ignore[assignment]
    channels["steady.Y"] = kept.frames.astype(np.float16)
    with BandWriter(partial, width, height) as file:
        file.add(channels, {"title": title, "comments": "Rec. 709 linear, cd/m2"})
    partial.replace(path)


def read_frame(path: Path, camera: NDArray[np.float64]) -> Remembered:
    """Read a frame that the lens `camera` (26,) saw. Raises InputError for a file that is damaged, or is no frame."""
    _, channels = read_channels(path)
    try:
        picture = np.stack([np.asarray(channels[letter], np.float32) for letter in "RGB"], -1)
        depth, frames = np.asarray(channels["depth.Z"], np.float32), np.asarray(channels["steady.Y"], np.float32)
    except KeyError as error:
        raise InputError(f"the frame lacks {error}", str(path), "Make the frame again") from None
    return Remembered(picture, depth, frames, camera)
