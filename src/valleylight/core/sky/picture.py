"""Equirectangular pictures of surroundings: reading and writing .hdr and .exr, their light, and the sun in them."""

from __future__ import annotations

import tempfile
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import OpenImageIO as oiio  # noqa: N813
from numpy.typing import NDArray

from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.errors import InputError
from valleylight.core.sky.dome import Dome, cell_angles, solid_angles

WIDEST, KEPT_WIDTH = 16_384, 8192
#: A spot counts as the sun when it gives so much of the light that faces it, and stands so far above what surrounds it.
SUN_SHARE, SUN_CONTRAST = 0.04, 12.0
SUN_REACH_DEG = 3.0
_EXR, _HDR = b"\x76\x2f\x31\x01", (b"#?RADIANCE", b"#?RGBE")


@dataclass(frozen=True)
class Spot:
    """The brightest spot of a picture: azimuth in degrees clockwise from its left edge, altitude, apparent diameter in
    degrees, luminance-scaled RGB illuminance in lx on a plane facing it (3,), and its share of all light on that plane.
    `is_sun` tells whether it is distinct enough to cast a shadow."""

    azimuth_deg: float
    altitude_deg: float
    size_deg: float
    rgb_lx: NDArray[np.float64]
    share: float
    is_sun: bool


@dataclass(frozen=True)
class Surroundings:
    """A picture all round in cd/m2 (before calibration), rows from straight down to straight up; the same without its sun;
    and the spot."""

    rgb: NDArray[np.float32]
    without_sun: NDArray[np.float32]
    spot: Spot
    size: tuple[int, int]


def check(data: bytes, name: str) -> str:
    """The suffix of a picture by its content. Raises InputError for anything but .exr and .hdr."""
    if data[:4] == _EXR:
        return ".exr"
    if data.startswith(_HDR):
        return ".hdr"
    raise InputError(
        "the file is neither an OpenEXR nor a Radiance picture", name, "Choose an equirectangular .exr or .hdr file"
    )


def read_picture(data: bytes, name: str = "picture") -> Surroundings:
    """Read a picture, up to 16384 x 8192; one wider than 8192 is reduced to half as it is read.

    Raises InputError for another kind of file, one cut short, one that is not twice as wide as high, or one without light.
    """
    suffix = check(data, name)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder, "picture" + suffix)
        path.write_bytes(data)
        source = oiio.ImageInput.open(str(path))
        if source is None:
            raise InputError(f"the picture cannot be read: {oiio.geterror()}", name, "Save it anew as .exr or .hdr")
        try:
            rgb = _rows(source, name)
            size = (source.spec().width, source.spec().height)
        finally:
            source.close()
    rgb = rgb[::-1]
    if not np.isfinite(rgb).all() or float(rgb.max()) <= 0:
        rgb = np.nan_to_num(rgb, nan=0.0, posinf=0.0, neginf=0.0)
        if float(rgb.max()) <= 0:
            raise InputError("the picture holds no light", name, "Choose a picture with values above zero")
    rgb = np.ascontiguousarray(np.maximum(rgb, 0))
    spot, without = find_sun(rgb)
    return Surroundings(rgb, without, spot, size)


def _rows(source: oiio.ImageInput, name: str) -> NDArray[np.float32]:
    spec = source.spec()
    width, height = spec.width, spec.height
    if width != 2 * height:
        raise InputError(
            f"the picture is {width} x {height}, not twice as wide as high", name, "Choose an equirectangular picture"
        )
    if not 32 <= width <= WIDEST:
        raise InputError(f"the picture is {width} wide", name, f"Choose one of 32 to {WIDEST} pixels")
    step = 2 if width > KEPT_WIDTH else 1
    out = np.empty((height // step, width // step, 3), np.float32)
    band = 64
    for y in range(0, height, band):
        rows = source.read_scanlines(y, min(y + band, height), 0, 0, min(spec.nchannels, 3), "float")
        if rows is None:
            raise InputError(
                f"the picture breaks off at line {y}: {source.geterror()}", name, "Copy or save the file anew"
            )
        rows = np.asarray(rows, np.float32).reshape(-1, width, min(spec.nchannels, 3))
        if rows.shape[2] < 3:
            rows = np.repeat(rows[..., :1], 3, 2)
        if step == 2:
            rows = rows.reshape(len(rows) // 2, 2, width // 2, 2, 3).mean((1, 3))
        out[y // step : y // step + len(rows)] = rows
    return out


def find_sun(rgb: NDArray[np.float32]) -> tuple[Spot, NDArray[np.float32]]:
    """The brightest spot, and the picture with it taken out.

    The spot is the brightest cell of the picture; around it everything within 3 degrees that stands far above the ring beyond
    belongs to it. It is replaced by the mean of that ring.
    """
    rows, columns = rgb.shape[:2]
    luminance = rgb @ LUMINANCE.astype(np.float32)
    upper = luminance.copy()
    upper[: rows // 2] *= 0.2  # a glint below the horizon is seldom the sun
    peak = int(upper.argmax())
    row, column = divmod(peak, columns)
    altitude, azimuth = cell_angles(rows)
    omega = solid_angles(rows)
    h0, a0 = altitude[row], azimuth[column]
    near_rows = np.abs(altitude - h0) < np.radians(2.2 * SUN_REACH_DEG)
    h, a = np.meshgrid(altitude[near_rows], azimuth, indexing="ij")
    apart = np.degrees(np.arccos(np.clip(np.sin(h) * np.sin(h0) + np.cos(h) * np.cos(h0) * np.cos(a - a0), -1, 1)))
    part = rgb[near_rows]
    lum = luminance[near_rows]
    ring = (apart > SUN_REACH_DEG) & (apart < 2 * SUN_REACH_DEG)
    around = part[ring].mean(0) if ring.any() else np.zeros(3, np.float32)
    base = float(around @ LUMINANCE)
    inside = (apart <= SUN_REACH_DEG) & (lum > max(4 * base, 0.02 * float(lum.max())))
    weight = np.where(inside, omega[near_rows][:, None], 0.0)
    extra = np.maximum(part - around, 0) * weight[..., None]
    rgb_lx = extra.sum((0, 1), dtype=float)
    total = max(float(rgb_lx @ LUMINANCE), 1e-12)
    middle = [
        float((x * (extra @ LUMINANCE)).sum() / total)
        for x in (np.cos(h) * np.sin(a), np.cos(h) * np.cos(a), np.sin(h))
    ]
    bright = float(weight[lum > 0.5 * float(lum.max())].sum())
    facing = np.sin(altitude)[:, None] * np.sin(h0) + np.cos(altitude)[:, None] * np.cos(h0) * np.cos(azimuth - a0)
    all_light = float((luminance * np.maximum(facing, 0) * omega[:, None]).sum())
    share = total / max(all_light, 1e-12)
    mean = all_light / np.pi
    is_sun = share > SUN_SHARE and float(lum.max()) > SUN_CONTRAST * max(base, 0.05 * mean)
    spot = Spot(
        float(np.degrees(np.arctan2(middle[0], middle[1])) % 360), float(np.degrees(np.arcsin(np.clip(middle[2], -1, 1)))),
        float(np.degrees(2 * np.sqrt(bright / np.pi))), rgb_lx, share, is_sun,
    )  # fmt: skip
    if not is_sun:
        return spot, rgb
    without = rgb.copy()
    patch = without[near_rows]
    patch[inside] = around
    without[near_rows] = patch
    return spot, without


def turned(rgb: NDArray[np.float32], degrees: float) -> NDArray[np.float32]:
    """The picture turned clockwise by whole columns: its left edge then stands at that azimuth."""
    return np.roll(rgb, round(degrees / 360 * rgb.shape[1]), axis=1)


def horizontal_lx(picture: Surroundings) -> float:
    """Illuminance in lx of level ground by the whole picture, as it came."""
    return Dome(picture.rgb).reduced(64).horizontal_illuminance_lx


def write_picture(rgb: NDArray[np.float32], path: Path) -> None:
    """Write a sky (rows from straight down to straight up, cd/m2) as equirectangular .exr or .hdr, by the path's suffix."""
    out = oiio.ImageOutput.create(str(path))
    if out is None:
        raise InputError(
            f"the suffix {path.suffix!r} is not that of a picture of light", str(path), "Choose .exr or .hdr"
        )
    spec = oiio.ImageSpec(rgb.shape[1], rgb.shape[0], 3, "half" if path.suffix == ".exr" else "float")
    out.open(str(path), spec)
    # Half floats end at 65504: a sky with its glow stays far below, a sun disc is not part of it.
    out.write_image(np.ascontiguousarray(np.minimum(rgb[::-1], 6.0e4), np.float32))
    out.close()
