"""Pictures of cut-outs: colour, alpha and, where it is known, which way each spot faces; from files, and made ready for a lens.

A sprite's first row is its top; its feet stand on its last row, in the middle unless it says otherwise.
"""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image, UnidentifiedImageError

from valleylight.core.colour.rgb import srgb_decode
from valleylight.core.errors import InputError

Array = NDArray[np.floating[Any]]
#: Columns of a texel: colour times alpha, alpha, normal times alpha (to the right, up, towards the lens).
RED, ALPHA, RIGHT, TEXEL = 0, 3, 4, 7
#: What is taken in as a cut-out, by Pillow's names.
FORMATS = ("PNG", "WEBP", "TIFF")
MOST_PIXELS, KEPT_ROWS = 100_000_000, 1600
#: Alpha below this is nothing: the edge of a picture is where more begins.
SEEN = 0.04


@dataclass(frozen=True)
class Sprite:
    """`texels` (H, W, TEXEL): surface colour (linear RGB, 0 to 1) times alpha, alpha, normal times alpha. `middle` is the column of
    the feet, in columns from the left; `modelled` tells whether the normals are known."""

    texels: Array
    middle: float
    modelled: bool

    @property
    def size(self) -> tuple[int, int]:
        """Rows and columns."""
        return self.texels.shape[0], self.texels.shape[1]

    @property
    def alpha(self) -> Array:
        return self.texels[..., ALPHA]

    @cached_property
    def levels(self) -> tuple[Array, NDArray[np.int64]]:
        """The picture at halved sizes, one after the other: texels (N, TEXEL), and for each level (L, 3) its first texel, rows and
        columns."""
        made, table, first = [], [], 0
        level = self.texels
        while True:
            rows, columns = level.shape[:2]
            made.append(level.reshape(-1, TEXEL))
            table.append((first, rows, columns))
            first += rows * columns
            if max(rows, columns) <= 2:
                return np.ascontiguousarray(np.concatenate(made), np.float32), np.array(table, np.int64)
            level = _halved(level)

    @cached_property
    def feet(self) -> NDArray[np.float64]:
        """Where it touches the ground: (N, 2) from and to, in shares of its height from the middle; at most six pieces."""
        rows, _ = self.size
        low = self.alpha[-max(rows // 40, 1) :].max(0) > 0.3
        edges = np.flatnonzero(np.diff(np.concatenate([[False], low, [False]]).astype(np.int8)))
        pieces = edges.reshape(-1, 2).astype(float)
        pieces = pieces[np.argsort(pieces[:, 0] - pieces[:, 1])][:6]
        return (pieces - self.middle) / rows

    @cached_property
    def half_width(self) -> float:
        """Half the width of its mass over its height: that of a rectangle as high with as much alpha."""
        rows, _ = self.size
        return float(self.alpha.sum()) / rows / rows / 2


def _halved(level: Array) -> Array:
    rows, columns = level.shape[:2]
    padded = np.pad(level, ((0, rows % 2 if rows > 1 else 1), (0, columns % 2 if columns > 1 else 1), (0, 0)))
    return (padded[::2, ::2] + padded[1::2, ::2] + padded[::2, 1::2] + padded[1::2, 1::2]) / 4


def sprite(colour: Array, alpha: Array, normal: Array | None = None) -> Sprite:
    """A sprite of surface colour (H, W, 3), alpha (H, W) and normals (H, W, 3), cut to what is seen of it. Without normals it is
    rounded like a column. Raises InputError where nothing is seen."""
    seen = alpha > SEEN
    if not seen.any():
        raise InputError("nothing of the picture is opaque", "alpha", "Save it with what is to stand opaque")
    rows, columns = np.flatnonzero(seen.any(1)), np.flatnonzero(seen.any(0))
    part = (slice(rows[0], rows[-1] + 1), slice(columns[0], columns[-1] + 1))
    colour, alpha = colour[part], alpha[part]
    if normal is None:
        facing = rounded(alpha)
    else:
        facing = normal[part]
    texels = np.concatenate([colour * alpha[..., None], alpha[..., None], facing * alpha[..., None]], -1)
    low = alpha[-max(len(alpha) // 25, 1) :].sum(0)
    middle = float((low * (np.arange(len(low)) + 0.5)).sum() / low.sum())
    return Sprite(np.ascontiguousarray(texels, np.float32), middle, normal is not None)


def rounded(alpha: Array) -> Array:
    """Normals (H, W, 3) of a body as round as the picture is wide at each row: x over half the width, up to 0.9."""
    total = np.maximum(alpha.sum(1, keepdims=True), 1e-6)
    place = np.arange(alpha.shape[1], dtype=np.float32)[None]
    middle = (alpha * place).sum(1, keepdims=True) / total
    half = np.maximum(np.sqrt((alpha * (place - middle) ** 2).sum(1, keepdims=True) / total) * 1.9, 1)
    x = np.clip((place - middle) / half, -1, 1) * 0.9
    return np.stack([x, np.zeros_like(x), np.sqrt(1 - x * x)], -1).astype(np.float32)


def sprite_of_picture(data: bytes, name: str = "picture", ground: str | None = None) -> Sprite:
    """A sprite of a PNG, WebP or TIFF with alpha. `ground` (#rrggbb) takes out a plain ground instead, see `keyed`.

    Raises InputError for another format, one without alpha, an animated, damaged or too large one.
    """
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=FORMATS) as image:
                if getattr(image, "n_frames", 1) > 1:
                    raise InputError("the picture is animated or has pages", name, "Save one of them by itself")
                if image.width * image.height > MOST_PIXELS:
                    raise InputError(
                        f"the picture has {image.width * image.height / 1e6:.0f} megapixels", name,
                        f"Make it smaller: at most {MOST_PIXELS // 1_000_000} megapixels",
                    )  # fmt: skip
                clear = "A" in image.getbands() or "transparency" in image.info
                if not clear and ground is None:
                    raise InputError(
                        "the picture has no alpha: all of it would stand as a board", name,
                        "Save it with alpha, or tell the colour of its plain ground",
                    )  # fmt: skip
                image.thumbnail((4 * KEPT_ROWS, KEPT_ROWS), Image.Resampling.LANCZOS)
                pixels = np.asarray(image.convert("RGBA"), np.float32) / 255
    except (Image.DecompressionBombError, Image.DecompressionBombWarning):
        raise InputError("the picture is larger than 100 megapixels", name, "Make it smaller") from None
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, EOFError) as error:
        if isinstance(error, InputError):
            raise
        raise InputError("the picture cannot be read", name, "Save it as PNG, WebP or TIFF with alpha") from None
    colour: Array = srgb_decode(pixels[..., :3]).astype(np.float32)
    alpha: Array = pixels[..., 3]
    if ground is not None:
        colour, alpha = keyed(colour, alpha, ground)
    try:
        return sprite(colour, alpha)
    except InputError as error:
        raise InputError(error.what, name, error.remedy) from None


def keyed(colour: Array, alpha: Array, ground: str) -> tuple[Array, Array]:
    """Colour (H, W, 3) and alpha (H, W) of a picture whose plain ground is taken out.

    A pixel is c = a F + (1 - a) B with the ground B known (the matting equation of T. Porter and T. Duff, Compositing Digital Images,
    SIGGRAPH 1984). Of what differs most from B, F is taken to be far: a grows from 0 where the pixel is B to 1 where it is as far
    as a third of the way from B to the farthest colour there is; F follows by solving for it, within 0 to 1.
    """
    b = srgb_decode(np.array([int(ground[k : k + 2], 16) for k in (1, 3, 5)]) / 255.0).astype(np.float32)
    # Distances as the eye has them: roots stand for lightness.
    far = np.linalg.norm(np.sqrt(colour) - np.sqrt(b), axis=-1)
    edge = max(float(np.percentile(far, 99)) / 3, 1e-3)
    a = np.clip((far - 0.08 * edge) / edge, 0, 1).astype(np.float32) * alpha
    front = np.clip((colour - (1 - a[..., None]) * b) / np.maximum(a[..., None], 1e-3), 0, 1)
    return np.where(a[..., None] > 0, front, 0).astype(np.float32), a


def png_of(made: Sprite) -> bytes:
    """The sprite as PNG with alpha: what is kept of a picture that was handed in."""
    from valleylight.core.colour.rgb import srgb_encode

    alpha = made.alpha[..., None]
    colour = np.where(alpha > 0, made.texels[..., :3] / np.maximum(alpha, 1e-4), 0)
    pixels = np.concatenate([srgb_encode(np.clip(colour, 0, 1)), alpha], -1)
    out = io.BytesIO()
    Image.fromarray(np.round(pixels * 255).astype(np.uint8), "RGBA").save(out, "PNG")
    return out.getvalue()
