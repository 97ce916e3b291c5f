"""JPEG files of pictures for looking at."""

from __future__ import annotations

import io

import numpy as np
from numpy.typing import NDArray
from PIL import Image


def jpeg(picture: NDArray[np.uint8], quality: int) -> bytes:
    """A picture (H, W, 3) of sRGB codes, its colours as fine as its light."""
    out = io.BytesIO()
    Image.fromarray(picture).save(out, "JPEG", quality=quality, subsampling=0)
    return out.getvalue()
