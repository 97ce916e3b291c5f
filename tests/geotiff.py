"""GeoTIFF files for tests."""

from __future__ import annotations

import io
import struct

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


def plain_geotiff(heights: np.ndarray, scale: tuple[float, float], corner: tuple[float, float]) -> bytes:
    """The same in degrees for any kind of number, written by hand as one strip of little-endian TIFF 6.0: kinds that Pillow does not write."""
    form = {"i": 2, "u": 1, "f": 3}[heights.dtype.kind]
    raw = np.ascontiguousarray(heights).astype(heights.dtype.newbyteorder("<")).tobytes()
    doubles = np.array([*scale, 0.0, 0.0, 0.0, 0.0, *corner, 0.0], "<f8").tobytes()
    keys = np.array([1, 1, 0, 2, 1024, 0, 1, 2, 2048, 0, 1, 4326], "<u2").tobytes()
    start = 8
    first, second, third = start + len(raw), start + len(raw) + 24, start + len(raw) + len(doubles)
    entries = [
        (256, 4, 1, heights.shape[1]), (257, 4, 1, heights.shape[0]), (258, 3, 1, 8 * heights.dtype.itemsize), (259, 3, 1, 1),
        (262, 3, 1, 1), (273, 4, 1, start), (277, 3, 1, 1), (278, 4, 1, heights.shape[0]), (279, 4, 1, len(raw)), (339, 3, 1, form),
        (33550, 12, 3, first), (33922, 12, 6, second), (34735, 3, 12, third),
    ]  # fmt: skip
    directory = (
        struct.pack("<H", len(entries)) + b"".join(struct.pack("<HHII", *e) for e in entries) + struct.pack("<I", 0)
    )
    return struct.pack("<2sHI", b"II", 42, third + len(keys)) + raw + doubles + keys + directory
