"""Pictures of surfaces by what they say: checked as they arrive, kept as PNG, and read as textures.

Colour is sRGB (IEC 61966-2-1), all else is data. Heights keep 16 bits; they become normals of slopes (glTF 2.0, green up).
"""

from __future__ import annotations

import io
import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal, get_args

import numpy as np
import OpenImageIO as oiio  # noqa: N813
from numpy.typing import NDArray
from PIL import Image

from valleylight.core.colour.rgb import LUMINANCE, srgb_encode
from valleylight.core.errors import InputError
from valleylight.core.stage.model import Texture

Channel = Literal["colour", "roughness", "metal", "normal", "height", "opacity", "light"]
CHANNELS: tuple[Channel, ...] = get_args(Channel)
#: What a picture may hold, in pixels on a side and in all, and what is kept of one on a side.
MOST_SIDE, MOST_PIXELS, KEPT_SIDE = 16384, 268_000_000, 4096
#: File types by their first bytes; others are refused.
KINDS = (
    (b"\x89PNG\r\n\x1a\n", ".png"),
    (b"\xff\xd8\xff", ".jpg"),
    (b"II*\0", ".tif"),
    (b"MM\0*", ".tif"),
    (b"\x76\x2f\x31\x01", ".exr"),
)


@dataclass(frozen=True)
class Kept:
    """A picture as it is kept: PNG, its size, and words about what was changed."""

    png: bytes
    width: int
    height: int
    words: tuple[str, ...]


@dataclass(frozen=True)
class Laid:
    """A picture ready to be laid: its texture, its height over its width in texels, and how steep a height of one tile would be where
    the texture holds a slope of one."""

    texture: Texture
    aspect: float
    steep: float = 1.0


def suffix_of(data: bytes, name: str) -> str:
    """The suffix of a picture by its first bytes. Raises InputError for what is none of them."""
    for magic, suffix in KINDS:
        if data.startswith(magic):
            return suffix
    raise InputError("it is no PNG, JPEG, TIFF or EXR picture", name, "Save it as one of these")


def kept_picture(data: bytes, name: str, channel: Channel) -> Kept:
    """A picture of a channel as it is to be kept. Raises InputError that names the file where it cannot be read, is too large, or says
    nothing (no pixels)."""
    suffix = suffix_of(data, name)
    pixels, floating = _pixels(data, suffix, name)
    words: list[str] = []
    if floating:
        odd = int((~np.isfinite(pixels)).any(-1).sum())
        if odd:
            words.append(f"{odd} pixels were no numbers and are 0 now")
            pixels = np.nan_to_num(pixels, nan=0.0, posinf=0.0, neginf=0.0)
        beyond = int(((pixels < 0) | (pixels > 1)).any(-1).sum())
        if beyond:
            words.append(f"{beyond} pixels lay outside 0 to 1 and were cut there")
        pixels = np.clip(pixels, 0, 1)
    made = _of_channel(pixels, channel, floating, words)
    height, width = made.shape[:2]
    if max(height, width) > KEPT_SIDE:
        made = _smaller(made)
        words.append(f"it was {width} x {height}; {made.shape[1]} x {made.shape[0]} are kept")
        height, width = made.shape[:2]
    out = io.BytesIO()
    image = Image.fromarray(made.astype(np.uint16)) if channel == "height" else Image.fromarray(made.astype(np.uint8))
    image.save(out, "PNG", compress_level=4)
    return Kept(out.getvalue(), width, height, tuple(words))


def laid_picture(png: bytes, channel: Channel, stretch: float = 1.0, metal: bytes | None = None) -> Laid:
    """A kept picture as a texture. `stretch` says how much higher a tile lies than its picture's shape would have it: the slopes of a
    height fall with it. Roughness and `metal` share a texture, as large as that of the roughness."""
    pixels = _kept_pixels(png, channel)
    height, width = pixels.shape[:2]
    aspect = height / width
    if channel == "height":
        normals, steep = _normals(pixels.astype(float) / (65535.0 if pixels.dtype != np.uint8 else 255.0), stretch)
        return Laid(Texture(normals), aspect, steep)
    if pixels.ndim == 2:
        pixels = np.repeat(pixels[..., None], 3, axis=2)
    if channel in ("roughness", "metal"):
        # As in glTF: green is roughness, blue is metal; what has no picture stays as it is.
        own, whole = pixels[..., 0], np.full_like(pixels[..., 0], 255)
        if channel == "metal":
            pixels = np.stack([whole, whole, own], -1)
        else:
            pixels = np.stack([own, own, whole if metal is None else _as_large(metal, (width, height))], -1)
    return Laid(Texture(np.ascontiguousarray(pixels)), aspect)


def _as_large(metal: bytes, size: tuple[int, int]) -> NDArray[np.uint8]:
    image = Image.fromarray(np.asarray(_kept_pixels(metal, "metal")))
    return np.asarray(image if image.size == size else image.resize(size, Image.Resampling.BILINEAR))


def small(png: bytes, side: int = 96) -> bytes:
    """A kept picture, at most so many pixels on a side, as PNG of 8 bits."""
    with Image.open(io.BytesIO(png), formats=("PNG",)) as image:
        made = Image.fromarray((np.asarray(image) >> 8).astype(np.uint8)) if image.mode.startswith("I") else image
        made.thumbnail((side, side))
        out = io.BytesIO()
        made.save(out, "PNG")
    return out.getvalue()


def _kept_pixels(png: bytes, channel: Channel) -> NDArray[Any]:
    """Pixels of a kept picture: (H, W) of 8 or 16 bits for a height, 8 bits and one or three channels for the rest. Raises InputError for
    a file that is none, which an archive may name."""
    try:
        with Image.open(io.BytesIO(png), formats=("PNG",)) as image:
            if image.width * image.height > KEPT_SIDE * KEPT_SIDE:
                raise InputError("the picture of a surface is too large", channel, "Bring it in again")
            grey = image.mode in ("L", "I", "I;16")
            made = (
                image
                if channel == "height" and grey
                else image.convert("L" if grey or channel in ("height", "opacity", "roughness", "metal") else "RGB")
            )
            return np.asarray(made)
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise InputError("the picture of a surface cannot be read", channel, "Bring it in again") from None


def _pixels(data: bytes, suffix: str, name: str) -> tuple[NDArray[np.float32], bool]:
    """Pixels (H, W, C) from 0 to 1, of floating pictures as they are, and whether it is one."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder, "picture" + suffix)
        path.write_bytes(data)
        source = oiio.ImageInput.open(str(path))
        if source is None:
            raise InputError(f"it cannot be read: {_said(oiio.geterror())}", name, "Save it anew")
        return _read(source, name)


def _read(source: oiio.ImageInput, name: str) -> tuple[NDArray[np.float32], bool]:
    try:
        spec = source.spec()
        if not (
            0 < spec.width <= MOST_SIDE and 0 < spec.height <= MOST_SIDE and spec.width * spec.height <= MOST_PIXELS
        ):
            raise InputError(
                f"it is {spec.width} x {spec.height} pixels; at most {MOST_SIDE} on a side and {MOST_PIXELS // 1_000_000} million are taken",
                name, "Make it smaller",
            )  # fmt: skip
        floating = spec.format.basetype in (oiio.HALF, oiio.FLOAT, oiio.DOUBLE)
        read: Any = source.read_image(0, 0, 0, min(spec.nchannels, 4), oiio.FLOAT)
        if read is None:
            raise InputError(f"it breaks off: {_said(source.geterror())}", name, "Save it anew")
    finally:
        source.close()
    return np.asarray(read, np.float32).reshape(spec.height, spec.width, -1), floating


def _said(words: str) -> str:
    return words.strip().splitlines()[0][:120] if words.strip() else "it is damaged"


def _of_channel(pixels: NDArray[np.float32], channel: Channel, floating: bool, words: list[str]) -> NDArray[Any]:
    """Codes of a channel: (H, W, 3) for colours and normals, (H, W) for the rest; heights 0 to 65535, all else 0 to 255."""
    channels = pixels.shape[2]
    colours = pixels[..., :3] if channels >= 3 else np.repeat(pixels[..., :1], 3, axis=2)
    if channel in ("colour", "light"):
        if channel == "colour" and channels in (2, 4) and float(pixels[..., -1].min()) < 1:
            words.append("its alpha was left out; bring it in as opacity as well")
        return np.round(255 * (srgb_encode(colours) if floating else colours))
    if channel == "normal":
        if channels < 3:
            raise InputError("a normal map has three channels", "normal", "Bring a grey picture in as height")
        return np.round(255 * colours)
    if channel == "opacity" and channels in (2, 4):
        grey = pixels[..., -1]
    else:
        grey = pixels[..., 0] if channels < 3 else colours @ LUMINANCE.astype(np.float32)
    return np.round((65535 if channel == "height" else 255) * grey)


def _smaller(codes: NDArray[Any]) -> NDArray[Any]:
    """Codes at most KEPT_SIDE on a side: means of whole blocks of texels."""
    step = -(-max(codes.shape[:2]) // KEPT_SIDE)
    planes = codes.astype(np.float32).reshape(*codes.shape[:2], -1)
    means = [np.asarray(Image.fromarray(planes[..., k]).reduce(step)) for k in range(planes.shape[2])]
    return np.round(np.stack(means, -1)).reshape(*means[0].shape, *codes.shape[2:])


def _normals(height: NDArray[np.float64], stretch: float) -> tuple[NDArray[np.uint8], float]:
    """Normal map (H, W, 3) of a repeating height 0 to 1, and the height over the tile's width at which it holds: so that most of its
    slopes are below one. Central differences."""
    columns = height.shape[1]
    across = (np.roll(height, -1, 1) - np.roll(height, 1, 1)) / 2 * columns
    up = (np.roll(height, 1, 0) - np.roll(height, -1, 0)) / 2 * columns / stretch
    slope = np.hypot(across, up)
    # Most slopes are held finely, few steep edges coarsely: where nine tenths are flat, the steeper ones count.
    most = next((q for q in np.quantile(slope, (0.9, 0.97, 0.995, 1.0)) if q > 0), 1.0)
    steep = 1.0 / float(most)
    x, y = -across * steep, -up * steep
    long = np.sqrt(x * x + y * y + 1)
    normal = np.stack([x / long, y / long, 1 / long], -1)
    return np.round(127.5 * (normal + 1)).astype(np.uint8), steep
