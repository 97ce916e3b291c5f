"""What instruments read of a finished picture: histogram, waveform, vectorscope, zones, and whether its mean is grey.

Luma and colour difference by ITU-R BT.709: Y' = 0.2126 R' + 0.7152 G' + 0.0722 B', Cb = (B' - Y') / 1.8556, Cr = (R' - Y') / 1.5748.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.rgb import LUMINANCE, srgb_decode
from valleylight.core.colour.temperature import rgb_to_kelvin
from valleylight.core.finish.readings import ZONES, Codes, zones_of

#: Bins of the histogram; columns and levels of the waveform; cells across the vectorscope, which spans Cb and Cr from -0.5 to 0.5.
BINS, COLUMNS, LEVELS, CELLS = 64, 160, 96, 96
#: A picture of more pixels is read by every so many of them.
MOST_PIXELS = 400_000
#: A mean within so many stops of grey, channel by channel, is called neutral.
NEUTRAL_STOPS = 0.12
_BT709 = LUMINANCE.astype(np.float32)


@dataclass(frozen=True)
class Scopes:
    """Shares of the pixels: `red`, `green`, `blue`, `luma` (BINS,) from black to white; `waveform` (LEVELS, COLUMNS), white at the top,
    share of each column; `vectors` (CELLS, CELLS), Cr upwards over Cb to the right; `zones` (11,). `black` and `white` are the shares
    that are cut off. Of the mean of linear RGB: stops of red and blue over green, and its colour temperature in K where it has one."""

    red: NDArray[np.float64]
    green: NDArray[np.float64]
    blue: NDArray[np.float64]
    luma: NDArray[np.float64]
    waveform: NDArray[np.float64]
    vectors: NDArray[np.float64]
    zones: NDArray[np.float64]
    black: float
    white: float
    red_stops: float
    blue_stops: float
    mean_kelvin: float | None

    @property
    def cast(self) -> str:
        """What a grey-world check says of the mean."""
        warm, green = (self.red_stops - self.blue_stops) / 2, -(self.red_stops + self.blue_stops) / 2
        words = []
        if abs(warm) > NEUTRAL_STOPS:
            words.append("warm" if warm > 0 else "cold")
        if abs(green) > NEUTRAL_STOPS:
            words.append("green" if green > 0 else "magenta")
        return " and ".join(words) or "neutral"


def scopes(picture: Codes) -> Scopes:
    """What is read of a display picture (H, W, 3) of sRGB codes."""
    height, width = picture.shape[:2]
    step = max(1, int(np.ceil(np.sqrt(height * width / MOST_PIXELS))))
    seen = picture[::step, ::step]
    height, width = seen.shape[:2]
    code = seen.astype(np.float32) / 255
    luma = code @ _BT709
    count = luma.size

    def shares(values: NDArray[np.floating]) -> NDArray[np.float64]:
        place = np.minimum((values * BINS).astype(np.int32), BINS - 1)
        return np.bincount(place.ravel(), minlength=BINS) / count

    columns = np.arange(width) * min(COLUMNS, width) // width
    level = np.minimum(((1 - luma) * LEVELS).astype(np.int64), LEVELS - 1)
    wave = np.bincount((level * COLUMNS + columns[None, :]).ravel(), minlength=LEVELS * COLUMNS)
    per_column = np.bincount(columns, minlength=COLUMNS) * height
    cb, cr = (code[..., 2] - luma) / 1.8556, (code[..., 0] - luma) / 1.5748
    across = np.clip(((cb + 0.5) * CELLS).astype(np.int64), 0, CELLS - 1)
    down = np.clip(((0.5 - cr) * CELLS).astype(np.int64), 0, CELLS - 1)
    vectors = np.bincount((down * CELLS + across).ravel(), minlength=CELLS * CELLS)
    mean = srgb_decode(code.reshape(-1, 3).astype(np.float64)).mean(0)
    r, g, b = np.maximum(mean, 1e-9)
    kelvin = rgb_to_kelvin(mean)
    return Scopes(
        red=shares(code[..., 0]), green=shares(code[..., 1]), blue=shares(code[..., 2]), luma=shares(luma),
        waveform=wave.reshape(LEVELS, COLUMNS) / np.maximum(per_column, 1), vectors=vectors.reshape(CELLS, CELLS) / count,
        zones=np.bincount(zones_of(seen).ravel(), minlength=ZONES) / count,
        black=float((seen.max(-1) == 0).mean()), white=float((seen.min(-1) == 255).mean()),
        red_stops=float(np.log2(r / g)), blue_stops=float(np.log2(b / g)),
        mean_kelvin=float(round(kelvin)) if np.isfinite(kelvin) and 1000 < kelvin < 40_000 else None,
    )  # fmt: skip
