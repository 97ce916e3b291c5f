"""Finished pictures as files for others: 8 and 16 bits, with colour profile and caption, at a size of paper or screen.

Sources: sizes of paper ISO 216; sRGB as an ICC profile (ICC.1, made by littleCMS); PNG, TIFF 6.0, JPEG (JFIF, Exif 2.32) written by
OpenImageIO. Nothing is said of people or machines.
"""

from __future__ import annotations

import mmap
import struct
from collections.abc import Sequence
from functools import lru_cache
from pathlib import Path
from typing import Literal

import numpy as np
import OpenImageIO as oiio  # noqa: N813
from numpy.typing import NDArray
from PIL import ImageCms

from valleylight.core.errors import InputError
from valleylight.core.film.caption import Caption

Form = Literal["png", "png16", "jpeg", "tiff16", "layers", "exr"]
Fit = Literal["made", "uhd", "a4", "a3", "a2", "a1"]
#: Suffix of each form, and the type of its values.
SUFFIXES: dict[Form, str] = {
    "png": ".png", "png16": ".png", "jpeg": ".jpg", "tiff16": ".tif", "layers": ".tif", "exr": ".exr",
}  # fmt: skip
_BITS = {"png": 8, "jpeg": 8, "png16": 16, "tiff16": 16, "layers": 16}
#: Short and long side of paper in mm (ISO 216), and the screen called ultra high definition (ITU-R BT.2020).
PAPER_MM = {"a4": (210, 297), "a3": (297, 420), "a2": (420, 594), "a1": (594, 841)}
UHD = (3840, 2160)
MM_PER_INCH, JPEG_QUALITY = 25.4, 95
LARGEST_PIXELS = 120_000_000


def size_of(made: tuple[int, int], fit: Fit, dpi: float) -> tuple[int, int]:
    """Width and height in pixels of a picture of so many pixels once it is made to fit: the whole of it on the paper, lying or
    upright as it is itself. Raises InputError for more pixels than are written."""
    width, height = made
    if fit == "made":
        return made
    if fit == "uhd":
        room = UHD if width >= height else UHD[::-1]
    else:
        short, long = (round(side / MM_PER_INCH * dpi) for side in PAPER_MM[fit])
        room = (long, short) if width >= height else (short, long)
    scale = min(room[0] / width, room[1] / height)
    size = max(round(width * scale), 1), max(round(height * scale), 1)
    if size[0] * size[1] > LARGEST_PIXELS:
        raise InputError(
            f"a picture of {size[0]} x {size[1]} is too large to be written", "dpi", "Choose fewer dots to the inch"
        )
    return size


def write_picture(
    codes: NDArray[np.floating], path: Path, form: Form, caption: Caption, size: tuple[int, int] | None = None, dpi: float = 300.0
) -> None:  # fmt: skip
    """Write sRGB code values (H, W, 3), 0 to 1, as a file. They are resampled as codes, where ringing is least seen."""
    write_pages([("", codes)], path, form, caption, size, dpi)


def write_pages(
    pages: Sequence[tuple[str, NDArray[np.floating]]], path: Path, form: Form, caption: Caption,
    size: tuple[int, int] | None = None, dpi: float = 300.0,
) -> None:  # fmt: skip
    """Write pictures (H, W, 3) as one file, a page each under its name; only TIFF has more than one. The file is whole or not there."""
    kind = SUFFIXES[form]
    partial = path.with_name(f"{path.name}.part{kind}")
    specs = [_spec(size or (codes.shape[1], codes.shape[0]), form, caption, name, dpi) for name, codes in pages]
    out = oiio.ImageOutput.create(str(partial))
    if out is None:
        raise RuntimeError(f"no writer for {kind}: {oiio.geterror()}")
    try:
        done = out.open(str(partial), specs if len(specs) > 1 else specs[0])
        for k, (_, codes) in enumerate(pages):
            if k and done:
                done = out.open(str(partial), specs[k], "AppendSubimage")
            done = done and out.write_image(_sized(codes, size, _BITS[form]))
        said = out.geterror()
        out.close()
        if not done:
            raise RuntimeError(f"writing {kind} failed: {said}")
        _name_the_writer(partial)
        partial.replace(path)
    finally:
        partial.unlink(missing_ok=True)


def _sized(codes: NDArray[np.floating], size: tuple[int, int] | None, bits: int) -> NDArray[np.unsignedinteger]:
    kind = np.uint8 if bits == 8 else np.uint16
    whole = np.clip(codes, 0, 1) * np.float32(2**bits - 1)
    exact = np.asarray(np.round(whole), kind)
    if size is None or size == (codes.shape[1], codes.shape[0]):
        return np.ascontiguousarray(exact)
    source = oiio.ImageBuf(np.ascontiguousarray(exact))
    spec = oiio.ImageSpec(size[0], size[1], 3, source.spec().format)
    made = oiio.ImageBuf(spec)
    if not oiio.ImageBufAlgo.resize(made, source, filtername="lanczos3"):
        raise RuntimeError(f"resampling failed: {made.geterror()}")
    return np.ascontiguousarray(made.get_pixels(source.spec().format))


def _spec(size: tuple[int, int], form: Form, caption: Caption, page: str, dpi: float) -> oiio.ImageSpec:
    spec = oiio.ImageSpec(*size, 3, oiio.UINT8 if _BITS[form] == 8 else oiio.UINT16)
    profile = np.frombuffer(srgb_profile(), np.uint8)
    spec.attribute("ICCProfile", oiio.TypeDesc(f"uint8[{len(profile)}]"), profile)
    spec.attribute("oiio:ColorSpace", "srgb_rec709_scene")
    spec.attribute("DocumentName", caption.title)
    spec.attribute("ImageDescription", f"{page}: {caption.text}" if page else caption.text)
    spec.attribute("Software", "Valleylight")
    spec.attribute("XResolution", float(dpi))
    spec.attribute("YResolution", float(dpi))
    spec.attribute("ResolutionUnit", "in")
    spec.attribute("DateTime", caption.when_exif)
    if page:
        spec.attribute("oiio:subimagename", page)
    if form == "jpeg":
        spec.attribute("Compression", f"jpeg:{JPEG_QUALITY}")
        spec.attribute("jpeg:subsampling", "4:4:4")
    elif form in ("tiff16", "layers"):
        spec.attribute("Compression", "zip")
    return spec


def _name_the_writer(path: Path) -> None:
    """The packet of XMP (ISO 16684) in a file names the toolkit of somebody else as its writer: put our name there, in the same bytes."""
    with open(path, "r+b") as file, mmap.mmap(file.fileno(), 0) as held:
        at = held.find(b'x:xmptk="')
        while at >= 0:
            start = at + len(b'x:xmptk="')
            end = held.find(b'"', start, start + 200)
            if end > start:
                held[start:end] = b"Valleylight".ljust(end - start)[: end - start]
            at = held.find(b'x:xmptk="', start)


@lru_cache(maxsize=1)
def srgb_profile() -> bytes:
    """The ICC profile of sRGB, the same on every run: littleCMS writes the day it is made, here a fixed one (ICC.1, 7.2.8)."""
    made = bytearray(ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes())
    made[24:36] = struct.pack(">6H", 2000, 1, 1, 0, 0, 0)
    return bytes(made)
