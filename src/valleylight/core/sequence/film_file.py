"""Films of frames: H.264 in MP4, AV1 in WebM, animated WebP for mail; frames one by one in a zip.

Video codes are Y'CbCr of the pictures' sRGB codes by ITU-R BT.709 in the narrow range, tagged so (ISO/IEC 23091-2: primaries 1, transfer 13,
matrix 1), so that players show the colours that the pictures have.
"""

from __future__ import annotations

import math
import zipfile
from collections.abc import Iterable, Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any, Literal

import av
import numpy as np
from av.video.reformatter import ColorRange, Colorspace
from numpy.typing import NDArray
from PIL import Image

from valleylight.core.errors import InputError

Picture = NDArray[np.uint8]
Form = Literal["mp4", "webm", "webp"]
#: Encoder, and its settings: near to what the eye cannot tell from the pictures.
CODECS: dict[str, tuple[str, str, dict[str, str]]] = {
    "mp4": (
        "mp4",
        "libx264",
        {"crf": "15", "preset": "medium", "x264-params": "colorprim=bt709:transfer=iec61966-2-1:colormatrix=bt709"},
    ),
    "webm": ("webm", "libsvtav1", {"crf": "20", "preset": "7"}),
}
#: For mail: pixels across and frames in a second at most.
MAIL_WIDTH, MAIL_RATE = 640, 15
_BT709_PRIMARIES, _SRGB_TRANSFER, _BT709_MATRIX = 1, 13, 1


def write_film(pictures: Iterable[Picture], path: Path, rate: int | Fraction, form: Form) -> int:
    """Write pictures (H, W, 3) of sRGB codes, all of one size, as a film of `rate` pictures in a second; returns how many. Raises InputError for none,
    or for pictures of several sizes. Sides are made even by repeating the last row or column."""
    if form == "webp":
        return _write_webp(pictures, path, rate)
    container, encoder, options = CODECS[form]
    count, size = 0, None
    with av.open(str(path), "w", format=container, options={"movflags": "faststart"} if form == "mp4" else {}) as film:
        stream: Any = None
        for picture in pictures:
            even = _even(picture)
            if stream is None:
                size = even.shape
                stream = film.add_stream(encoder, rate=Fraction(rate), options=options)
                stream.height, stream.width = size[:2]
                stream.pix_fmt = "yuv420p"
                context = stream.codec_context
                context.color_primaries, context.color_trc = _BT709_PRIMARIES, _SRGB_TRANSFER
                context.colorspace, context.color_range = _BT709_MATRIX, int(ColorRange.MPEG)
            elif even.shape != size:
                raise InputError("the pictures are of several sizes", "frames", "Make all frames again")
            frame = av.VideoFrame.from_ndarray(even, format="rgb24").reformat(
                format="yuv420p",
                dst_colorspace=Colorspace.ITU709,
                src_color_range=ColorRange.JPEG,
                dst_color_range=ColorRange.MPEG,
            )
            frame.pts = count
            frame.time_base = 1 / Fraction(rate)
            film.mux(stream.encode(frame))
            count += 1
        if stream is None:
            raise InputError("there are no frames yet", "frames", "Make the sequence first")
        film.mux(stream.encode(None))
    return count


def read_film(path: Path) -> tuple[list[Picture], Fraction]:
    """The pictures of a film and how many there are in a second. Raises InputError for a file that is none."""
    try:
        with av.open(str(path)) as film:
            stream = film.streams.video[0]
            rate = Fraction(stream.average_rate or 0)
            pictures = [
                frame.reformat(
                    format="rgb24", src_colorspace=Colorspace.ITU709, src_color_range=ColorRange.MPEG, dst_color_range=ColorRange.JPEG
                ).to_ndarray().astype(np.uint8) for frame in film.decode(stream)
            ]  # fmt: skip
    except (av.FFmpegError, IndexError) as error:
        raise InputError("the file is no film", str(path), "Choose an MP4 or a WebM file") from error
    return pictures, rate


def thinned(rate: int | Fraction) -> tuple[int, Fraction]:
    """For mail: every how many-th picture is kept, and how many there are in a second then."""
    every = max(math.ceil(Fraction(rate) / MAIL_RATE), 1)
    return every, Fraction(rate) / every


def zipped_frames(files: Sequence[tuple[Path, str]], target: Path) -> None:
    """Files of frames under names in one zip, not packed again. Raises InputError for none."""
    if not files:
        raise InputError("there are no frames yet", "frames", "Make the sequence first")
    with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as archive:
        for path, name in files:
            archive.write(path, name)


def _write_webp(pictures: Iterable[Picture], path: Path, rate: int | Fraction) -> int:
    every, slower = thinned(rate)
    small: list[Image.Image] = []
    for k, picture in enumerate(pictures):
        if k % every == 0:
            image = Image.fromarray(picture)
            if image.width > MAIL_WIDTH:
                image = image.resize(
                    (MAIL_WIDTH, max(round(image.height * MAIL_WIDTH / image.width), 1)), Image.Resampling.LANCZOS
                )
            small.append(image)
    if not small:
        raise InputError("there are no frames yet", "frames", "Make the sequence first")
    small[0].save(
        path,
        "WEBP",
        save_all=True,
        append_images=small[1:],
        duration=round(float(1000 / slower)),
        loop=0,
        quality=76,
        method=4,
    )
    return len(small)


def _even(picture: Picture) -> Picture:
    h, w = picture.shape[:2]
    return picture if h % 2 == 0 and w % 2 == 0 else np.pad(picture, ((0, h % 2), (0, w % 2), (0, 0)), mode="edge")
