"""Noise removal by Open Image Denoise, guided by surface colour and normal.

Each light group is cleaned by itself, so that changing its level afterwards changes only that light and a relit picture
shows no trace of the balance it was cleaned at.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from functools import lru_cache
from typing import Any

import numpy as np
import pyoidn
from numpy.typing import NDArray
from pyoidn.capi import oidn_Capi, oidn_ffi

from valleylight.core.errors import StoppedError
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
    colour, normal = (np.ascontiguousarray(guide, np.float32) for guide in film.guides)
    led = quality != "fast"
    if led:
        colour, normal = clean_guides(colour, normal, quality)
    film.clean = {}
    for name, picture in film.groups.items():
        if picture.any():
            film.clean[name] = clean_picture(picture, colour, normal, quality, trusted=led)
    return film


def clean_guides(
    colour: NDArray[np.float32], normal: NDArray[np.float32], quality: str = "high"
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """The guiding passes (H, W, 3) without their own noise, so that they may be followed to the letter: grass and leaves, of which a pixel
    holds many, keep their grain (Open Image Denoise documentation, prefiltering of auxiliary features)."""
    cleaned = []
    for kind, guide in ((pyoidn.OIDN_IMAGE_ALBEDO, colour), (pyoidn.OIDN_IMAGE_NORMAL, normal)):
        source, result = np.ascontiguousarray(guide, np.float32), np.empty_like(guide, np.float32)
        with _lock, pyoidn.Filter(_device(), pyoidn.OIDN_FILTER_TYPE_RT) as denoiser:
            denoiser.set_image(kind, source, pyoidn.OIDN_FORMAT_FLOAT3)
            denoiser.set_image(pyoidn.OIDN_IMAGE_OUTPUT, result, pyoidn.OIDN_FORMAT_FLOAT3)
            denoiser.set_int("maxMemoryMB", MOST_MEMORY_MB)
            denoiser.set_quality(_QUALITIES[quality])
            denoiser.commit()
            denoiser.execute()
            error = _device().get_error()
        if error:
            raise RuntimeError(f"noise removal failed: {error}")
        cleaned.append(result)
    return cleaned[0], cleaned[1]


def clean_picture(
    picture: NDArray[np.float32], colour: NDArray[np.float32], normal: NDArray[np.float32], quality: str = "high",
    stop: Callable[[], bool] | None = None, trusted: bool = False,
) -> NDArray[np.float32]:  # fmt: skip
    """One linear picture (H, W, 3) without noise; colour and normal are the guiding passes of the same shape, `trusted` where they hold no
    noise of their own.

    Raises StoppedError once `stop` says so, which is asked some dozens of times on the way.
    """
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
        denoiser.set_bool("cleanAux", trusted)
        denoiser.set_int("maxMemoryMB", MOST_MEMORY_MB)  # larger pictures are cleaned in overlapping tiles
        denoiser.set_quality(_QUALITIES[quality])
        monitor = None if stop is None else _Monitor(denoiser, stop)
        denoiser.commit()
        denoiser.execute()
        error = _device().get_error()
    # Outside: the filter's context swallows what is raised within.
    if monitor is not None and monitor.stopped:
        raise StoppedError
    if error:
        raise RuntimeError(f"noise removal failed: {error}")
    return np.asarray(np.maximum(result, 0.0) * np.float32(level))


class _Monitor:
    """Lets a filter ask whether to go on; to be kept alive while it runs.

    Source: Open Image Denoise API, oidnSetFilterProgressMonitorFunction, which the binding does not declare.
    """

    def __init__(self, denoiser: pyoidn.Filter, stop: Callable[[], bool]) -> None:
        self._stop, self.stopped = stop, False
        self._function = oidn_ffi.callback("bool(void*, double)", self._goes_on)
        _with_monitors().oidnSetFilterProgressMonitorFunction(denoiser._filter, self._function, oidn_ffi.NULL)

    def _goes_on(self, _: object, share: float) -> bool:
        self.stopped = self.stopped or self._stop()
        return not self.stopped


@lru_cache(maxsize=1)
def _with_monitors() -> Any:
    oidn_ffi.cdef(
        "void oidnSetFilterProgressMonitorFunction(OIDNFilter filter, OIDNProgressMonitorFunction func, void* userPtr);"
    )
    return oidn_Capi


@lru_cache(maxsize=1)
def _device() -> pyoidn.Device:
    """One device for the process. Its threads are not pinned to cores, which they share with the tracer's."""
    device = pyoidn.Device()
    device.set_bool("setAffinity", False)
    device.commit()
    return device
