"""A finished picture as PNG that says its colour space, title, view and hour.

Source: W3C PNG Specification, third edition: sRGB chunk with gAMA and cHRM for readers that do not know it (11.3.2), iTXt
for text and its registered keywords (11.3.3).
"""

from __future__ import annotations

import io
import struct

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from PIL.PngImagePlugin import PngInfo

from valleylight.core.film.caption import Caption

_PERCEPTUAL = b"\0"
_GAMMA = 45455
#: White, red, green and blue of Rec. 709 in hundred-thousandths.
_CHROMATICITIES = (31270, 32900, 64000, 33000, 30000, 60000, 15000, 6000)


def png(picture: NDArray[np.uint8], caption: Caption | None = None, effort: int = 6) -> bytes:
    """A picture (H, W, 3) in sRGB as PNG; `effort` 0 to 9 spent on making it small."""
    info = PngInfo()
    info.add(b"sRGB", _PERCEPTUAL)
    info.add(b"gAMA", struct.pack(">I", _GAMMA))
    info.add(b"cHRM", struct.pack(">8I", *_CHROMATICITIES))
    if caption is not None:
        said = {
            "Title": caption.title, "Description": caption.text, "Creation Time": f"{caption.when:%Y-%m-%dT%H:%M:%S}",
            "View": caption.view, "Occasion": caption.occasion, "Software": "Valleylight",
        }  # fmt: skip
        for name, text in said.items():
            info.add_itxt(name, text)
    out = io.BytesIO()
    Image.fromarray(picture).save(out, "PNG", pnginfo=info, compress_level=effort)
    return out.getvalue()
