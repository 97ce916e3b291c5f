"""Noise removal by Open Image Denoise, guided by surface colour and normal.

Each light group is cleaned by itself, so that changing its level afterwards changes only that light and a relit picture
shows no trace of the balance it was cleaned at.
"""

from __future__ import annotations

import threading
from functools import lru_cache

import numpy as np
import pyoidn
from numpy.typing import NDArray

from valleylight.core.film.film import Film

_QUALITIES = {
    "fast": pyoidn.OIDN_QUALITY_FAST,
    "balanced": pyoidn.OIDN_QUALITY_BALANCED,
    "high": pyoidn.OIDN_QUALITY_HIGH,
}
#: Scratch memory of the filter.
MOST_MEMORY_MB = 1200
_lock = threading.Lock()


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
    scaled = np.ascontiguousarray(picture / np.float32(level), np.float32)
    result = np.empty_like(scaled)
    images = {
        pyoidn.OIDN_IMAGE_COLOR: scaled,
        pyoidn.OIDN_IMAGE_ALBEDO: np.ascontiguousarray(colour, np.float32),
        pyoidn.OIDN_IMAGE_NORMAL: np.ascontiguousarray(normal, np.float32),
        pyoidn.OIDN_IMAGE_OUTPUT: result,
    }
    with _lock, pyoidn.Filter(_device(), pyoidn.OIDN_FILTER_TYPE_RT) as denoiser:
        for name, image in images.items():
            denoiser.set_image(name, image, pyoidn.OIDN_FORMAT_FLOAT3)
        denoiser.set_bool("hdr", True)
        denoiser.set_int("maxMemoryMB", MOST_MEMORY_MB)  # larger pictures are cleaned in overlapping tiles
        denoiser.set_quality(_QUALITIES[quality])
        denoiser.commit()
        denoiser.execute()
        error = _device().get_error()
        if error:
            raise RuntimeError(f"noise removal failed: {error}")
    return np.asarray(np.maximum(result, 0.0) * np.float32(level))


@lru_cache(maxsize=1)
def _device() -> pyoidn.Device:
    """One device for the process. Its threads are not pinned to cores, which they share with the tracer's."""
    device = pyoidn.Device()
    device.set_bool("setAffinity", False)
    device.commit()
    return device
