"""GeoTIFF files for tests."""

from __future__ import annotations

import io

import numpy as np
from PIL import Image, TiffImagePlugin

DEGREES, UTM32 = [1024, 2, 2048, 4326], [1024, 1, 3072, 32632]


def geotiff(
    heights: np.ndarray,
    scale: tuple[float, float],
    corner: tuple[float, float],
    keys: list[int],
    nodata: str | None = None,
) -> bytes:
    """A GeoTIFF whose upper left corner lies at `corner`; keys as (key, value) pairs in a row."""
    info = TiffImagePlugin.ImageFileDirectory_v2()
    info[33550] = (*scale, 0.0)
    info.tagtype[33550] = 12
    info[33922] = (0.0, 0.0, 0.0, *corner, 0.0)
    info.tagtype[33922] = 12
    pairs = list(zip(keys[::2], keys[1::2], strict=True))
    info[34735] = (1, 1, 0, len(pairs), *(v for key, value in pairs for v in (key, 0, 1, value)))
    info.tagtype[34735] = 3
    if nodata is not None:
        info[42113] = nodata
    out = io.BytesIO()
    Image.fromarray(heights).save(
        out, "TIFF", tiffinfo=info, compression="tiff_lzw" if heights.dtype == np.float32 else None
    )
    return out.getvalue()
