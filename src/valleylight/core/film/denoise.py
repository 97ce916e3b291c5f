"""Noise removal by Open Image Denoise, guided by surface colour and normal.

Each light group is cleaned by itself, so that changing its level afterwards changes only that light and a relit picture
shows no trace of the balance it was cleaned at.
"""

from __future__ import annotations

import numpy as np
import pyoidn
from numpy.typing import NDArray

from valleylight.core.film.film import Film


def remove_noise(film: Film, quality: str = "high") -> Film:
    """Fill `film.clean` for every group that holds light; returns the film."""
    passes = film.passes
    colour = np.ascontiguousarray(passes["surface_colour"], np.float32)
    normal = np.ascontiguousarray(passes["normal"], np.float32)
    film.clean = {}
    for name, picture in film.groups.items():
        if picture.any():
            film.clean[name] = clean_picture(picture, colour, normal, quality)
    return film


def clean_picture(
    picture: NDArray[np.float32], colour: NDArray[np.float32], normal: NDArray[np.float32], quality: str = "high"
) -> NDArray[np.float32]:
    """One linear picture (H, W, 3) without noise; colour and normal are the guiding passes of the same shape."""
    # The filter expects values around 1; luminance in cd/m2 spans nine decades between night and noon.
    level = float(picture.mean()) or 1.0
    result = pyoidn.denoise(
        np.ascontiguousarray(picture / np.float32(level), np.float32), colour, normal, hdr=True, quality=quality
    )
    return np.maximum(result, 0.0) * np.float32(level)
