"""Linear RGB with Rec. 709 primaries and white D65, and its display encoding.

Source: ITU-R BT.709-6 (primaries), IEC 61966-2-1 (sRGB transfer function).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

#: Luminance of linear Rec. 709 RGB: Y = LUMINANCE . rgb (BT.709-6, item 3.2).
LUMINANCE = np.array([0.2126390, 0.7151687, 0.0721923])

#: CIE XYZ (2 degree observer) to linear Rec. 709 RGB, white D65 (IEC 61966-2-1).
XYZ_TO_RGB = np.array(
    [
        [3.2409699, -1.5373832, -0.4986108],
        [-0.9692436, 1.8759675, 0.0415551],
        [0.0556301, -0.2039770, 1.0569715],
    ]
)
RGB_TO_XYZ = np.linalg.inv(XYZ_TO_RGB)


def xy_to_unit_rgb(x: ArrayLike, y: ArrayLike) -> NDArray[np.float64]:
    """Linear RGB of chromaticity (x, y) at luminance 1; shape (..., 3). Out-of-gamut parts are clipped, then rescaled."""
    x, y = np.asarray(x, float), np.asarray(y, float)
    return xyz_to_unit_rgb(np.stack([x / y, np.ones_like(y), (1 - x - y) / y], -1))


def xyz_to_unit_rgb(xyz: NDArray[np.float64]) -> NDArray[np.float64]:
    """Linear RGB with the chromaticity of XYZ (..., 3) and luminance 1, clipped into the gamut."""
    rgb = np.maximum(xyz @ XYZ_TO_RGB.T, 0.0)
    return np.asarray(rgb / np.maximum(rgb @ LUMINANCE, 1e-30)[..., None])


def srgb_encode(linear: NDArray[np.floating]) -> NDArray[np.floating]:
    """Display code values 0 to 1 of linear values 0 to 1 (IEC 61966-2-1)."""
    v = np.clip(linear, 0.0, 1.0)
    return np.where(v <= 0.0031308, 12.92 * v, 1.055 * np.power(v, 1 / 2.4) - 0.055)


def srgb_decode(code: NDArray[np.floating]) -> NDArray[np.floating]:
    """Linear values 0 to 1 of display code values 0 to 1 (IEC 61966-2-1)."""
    return np.where(code <= 0.04045, code / 12.92, np.power((code + 0.055) / 1.055, 2.4))
