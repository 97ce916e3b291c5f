"""A finished picture read otherwise: without colour, as others see it, by exposure zones, as it prints."""

from __future__ import annotations

import io
from collections.abc import Callable
from functools import lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageCms

from valleylight.core.colour.rgb import LUMINANCE, srgb_decode, srgb_encode
from valleylight.core.errors import InputError

Codes = NDArray[np.uint8]
Reading = Literal["grey", "zones", "protan", "deutan", "tritan"]
#: Middle grey, the fifth of eleven zones that lie a stop apart (A. Adams, The Negative, 1981).
MIDDLE_GREY, ZONES = 0.18, 11
#: Linear RGB as it is seen without the long, middle or short cones (G. M. Machado et al., A Physiologically-based Model for Simulation of
#: Color Vision Deficiency, IEEE TVCG 15, 2009: severity 1).
WITHOUT_CONES: dict[str, NDArray[np.float64]] = {
    "protan": np.array([[0.152286, 1.052583, -0.204868], [0.114503, 0.786281, 0.099216], [-0.003882, -0.048116, 1.051998]]),
    "deutan": np.array([[0.367322, 0.860646, -0.227968], [0.280085, 0.672501, 0.047413], [-0.011820, 0.042940, 0.968881]]),
    "tritan": np.array([[1.255528, -0.076749, -0.178779], [-0.078411, 0.930809, 0.147602], [0.004733, 0.691367, 0.303900]]),
}  # fmt: skip


def read_as(picture: Codes, reading: Reading) -> Codes:
    """A display picture (H, W, 3) of sRGB codes, read otherwise."""
    return _READ[reading](picture)


def _grey(picture: Codes) -> Codes:
    """Equal luminance (ITU-R BT.709 weights on linear light) as grey."""
    return _encoded(np.repeat((_linear(picture) @ LUMINANCE.astype(np.float32))[..., None], 3, axis=-1))


def zones_of(picture: Codes) -> NDArray[np.int64]:
    """Zone (H, W) of each pixel, 0 to 10: 5 is middle grey, the others whole stops from it."""
    luminance = _linear(picture) @ LUMINANCE.astype(np.float32)
    return np.clip(np.round(5 + np.log2(np.maximum(luminance, 1e-6) / MIDDLE_GREY)), 0, ZONES - 1).astype(np.int64)


def _zones(picture: Codes) -> Codes:
    tones = srgb_encode(np.clip(MIDDLE_GREY * 2.0 ** (np.arange(ZONES) - 5.0), 0, 1))
    tones[0], tones[-1] = 0.0, 1.0
    return np.repeat(np.round(tones * 255).astype(np.uint8)[zones_of(picture)][..., None], 3, axis=-1)


def _without(kind: str) -> Callable[[Codes], Codes]:
    def seen(picture: Codes) -> Codes:
        return _encoded(_linear(picture) @ WITHOUT_CONES[kind].T.astype(np.float32))

    return seen


_READ: dict[Reading, Callable[[Codes], Codes]] = {
    "grey": _grey, "zones": _zones, "protan": _without("protan"), "deutan": _without("deutan"), "tritan": _without("tritan"),
}  # fmt: skip


@lru_cache(maxsize=1)
def _decoding() -> NDArray[np.float32]:
    return np.asarray(srgb_decode(np.arange(256) / 255.0), np.float32)


def _linear(picture: Codes) -> NDArray[np.float32]:
    return _decoding()[picture]


@lru_cache(maxsize=1)
def _encoding() -> NDArray[np.uint8]:
    return np.asarray(np.round(srgb_encode((np.arange(4096) / 4095.0) ** 2) * 255), np.uint8)


def _encoded(linear: NDArray[np.floating]) -> Codes:
    return _encoding()[np.round(np.sqrt(np.clip(linear, 0, 1)) * 4095).astype(np.int32)]


def check_profile(data: bytes) -> str:
    """The name of an ICC profile of a printer or a press. Raises InputError for another file, or a profile that is not for output."""
    try:
        profile = ImageCms.ImageCmsProfile(io.BytesIO(data))
        kind = profile.profile.device_class.strip()
        name = ImageCms.getProfileDescription(profile).strip()
        if kind not in ("prtr", "mntr", "spac"):
            raise InputError(f"the profile is of class {kind!r}", "file", "Give the profile of a printer and its paper")
        proofed(np.zeros((1, 1, 3), np.uint8), data)
    except (ImageCms.PyCMSError, OSError, ValueError, TypeError, AttributeError) as error:
        raise InputError("this is no ICC profile that can be used", "file", "Give an .icc or .icm file") from error
    return name


@lru_cache(maxsize=4)
def _transform(profile: bytes, paper_white: bool) -> ImageCms.ImageCmsTransform:
    srgb = ImageCms.createProfile("sRGB")
    intent = ImageCms.Intent.ABSOLUTE_COLORIMETRIC if paper_white else ImageCms.Intent.RELATIVE_COLORIMETRIC
    return ImageCms.buildProofTransform(
        srgb, srgb, ImageCms.ImageCmsProfile(io.BytesIO(profile)), "RGB", "RGB",
        renderingIntent=intent, proofRenderingIntent=ImageCms.Intent.RELATIVE_COLORIMETRIC,
        flags=ImageCms.Flags.SOFTPROOFING | ImageCms.Flags.BLACKPOINTCOMPENSATION,
    )  # fmt: skip


def proofed(picture: Codes, profile: bytes, paper_white: bool = False) -> Codes:
    """A picture as a printer by its ICC profile shows it (ISO 15076-1, by littleCMS): what it cannot print becomes what comes nearest;
    with `paper_white` white is that of the paper."""
    image = ImageCms.applyTransform(Image.fromarray(picture), _transform(profile, paper_white))
    assert image is not None
    return np.asarray(image)
