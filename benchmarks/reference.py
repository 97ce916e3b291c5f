"""The long reference that proofs of the reading room are held against: `python -m benchmarks.reference` makes it anew.

640 x 360, half floats, cd/m2. A proof of 1280 x 720 is averaged two by two before it is compared.
"""

from __future__ import annotations

import sys
from dataclasses import replace
from pathlib import Path

import numpy as np
import OpenEXR
from numpy.typing import NDArray

from valleylight.core.film.exr import read_channels
from valleylight.core.trace.render import render
from valleylight.core.trace.scene.quality import PRESS
from valleylight.demo import tarn_mill

FILE = Path(__file__).parent / "reference" / "reading-room.exr"
VIEW, OCCASION, WIDTH, HEIGHT, SAMPLES, SEED = "long-view", "june-morning", 640, 360, 512, 77


def make() -> None:
    """Trace and store the reference; takes some minutes."""

    def tell(done: int, film: object) -> bool:
        print(f"\r  {done} of {SAMPLES} samples", end="", file=sys.stderr, flush=True)
        return True

    quality = replace(PRESS, masks=False, clamp_stops=5.0, soften=0.05)
    film = render(tarn_mill.create(), VIEW, OCCASION, WIDTH, HEIGHT, SAMPLES, SEED, quality, progress=tell)
    picture = film.balanced().astype(np.float16)
    FILE.parent.mkdir(exist_ok=True)
    channels = {letter: np.ascontiguousarray(picture[..., k]) for k, letter in enumerate("RGB")}
    header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
    with OpenEXR.File(header, channels) as file:
        file.write(str(FILE))


def load() -> NDArray[np.float32]:
    """The reference, (360, 640, 3) in cd/m2."""
    _, channels = read_channels(FILE)
    return np.stack([np.asarray(channels[c], np.float32) for c in "RGB"], -1)


def error(picture: NDArray[np.float32], white_cd_m2: float) -> float:
    """Root mean square difference of a 1280 x 720 picture to the reference, in units of the lens's white, highlights
    cut at twice that white."""
    halved = picture.reshape(HEIGHT, 2, WIDTH, 2, 3).mean((1, 3))
    cut = 2 * white_cd_m2
    gap = np.minimum(halved, cut) - np.minimum(load(), cut)
    return float(np.sqrt((gap**2).mean()) / white_cd_m2)


if __name__ == "__main__":
    make()
