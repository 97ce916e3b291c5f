"""Heights of true land from files: GeoTIFF (GeoTIFF 1.1, OGC 19-008) and 16-bit PNG, laid about a site as `Land`.

A GeoTIFF tells where it lies, in degrees or on a UTM grid of WGS 84 or a datum like it; a PNG tells nothing, and is told.
"""

from __future__ import annotations

import contextlib
import io
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image, UnidentifiedImageError
from scipy.ndimage import distance_transform_edt, map_coordinates

from valleylight.core.errors import InputError
from valleylight.core.nature.land import Land
from valleylight.core.nature.mapping import metres_to_a_degree, utm

Array = NDArray[np.float64]
#: Heights along a side of a file at most, and along a side of what is made of it.
MOST_SIDE, MOST_CELLS = 8192, 4096
#: Land that comes from a file about a site reaches so far at least and at most, in m.
NEAREST_M, FARTHEST_M = 100.0, 12_000.0
#: Land of the earth lies between these, in m; what lies beyond is not a height.
LOWEST_M, HIGHEST_M = -11_500.0, 9_500.0
_SCALE, _TIEPOINT, _KEYS, _NODATA = 33550, 33922, 34735, 42113
_MODEL, _GEOGRAPHIC, _PROJECTED, _UNIT = 1024, 2048, 3072, 3076
_FEET = {9002: 0.3048, 9003: 1200 / 3937}
REMEDY = "Bring in a GeoTIFF of heights (.tif) in degrees or on a UTM grid, or a PNG of 16 bits in grey"


@dataclass(frozen=True)
class Place:
    """Where the middle of the first height lies, and the step to the next column and the next row, in the file's own coordinates: degrees
    (`degrees`), else metres on the UTM grid of a zone."""

    x: float
    y: float
    dx: float
    dy: float
    degrees: bool
    zone: int = 0
    south: bool = False


def read_geotiff(
    data: bytes, latitude_deg: float, longitude_deg: float, reach_m: float | None, name: str = "heights.tif"
) -> Land:
    """Land within `reach_m` of a site (None: as far as the file reaches on every side, at most `FARTHEST_M`), heights over that of the site, which lies at zero. X is east and Y is north.

    Raises InputError, naming the file, where it is no GeoTIFF of heights, tells no place, does not hold the site, or holds no heights there.
    """
    if not (-90 <= latitude_deg <= 90 and -180 <= longitude_deg <= 180 and 50 <= (reach_m or 50.0) <= 100_000):
        raise InputError(
            "a site or reach out of its limits", "reach_m", "Choose 50 m to 100 km about a place on the earth"
        )
    picture, heights = _opened(data, name, ("TIFF",))
    place = _place(picture, name)
    missing = _missing(picture, heights)
    if place.degrees:
        east_m, north_m = metres_to_a_degree(latitude_deg)
        x, y = longitude_deg, latitude_deg
    else:
        east_m = north_m = 1.0
        x, y = utm(latitude_deg, longitude_deg, place.zone, place.south)
    column, row = (x - place.x) / place.dx, (y - place.y) / place.dy
    rows, columns = heights.shape
    if not (0 <= column <= columns - 1 and 0 <= row <= rows - 1):
        raise InputError("the site lies outside the file", name, "Choose the file that holds the project's place")
    if reach_m is None:
        sides = (column * place.dx * east_m, (columns - 1 - column) * place.dx * east_m)
        ends = (row * -place.dy * north_m, (rows - 1 - row) * -place.dy * north_m)
        reach_m = min(*sides, *ends, FARTHEST_M)
        if reach_m < NEAREST_M:
            raise InputError(
                f"the site lies {reach_m:.0f} m from the file's edge",
                name,
                "Choose a file that reaches further about the place",
            )
    step = min(abs(place.dx) * east_m, abs(place.dy) * north_m)
    cells = int(np.clip(np.ceil(2 * reach_m / step), 16, MOST_CELLS))
    cell = 2 * reach_m / cells
    axis = (np.arange(cells) + 0.5) * cell - reach_m
    at_rows = row + axis / north_m / place.dy
    at_columns = column + axis / east_m / place.dx
    i0, i1 = sorted((int(np.floor(at_rows.min())) - 2, int(np.ceil(at_rows.max())) + 3))
    j0, j1 = sorted((int(np.floor(at_columns.min())) - 2, int(np.ceil(at_columns.max())) + 3))
    i0, j0 = max(i0, 0), max(j0, 0)
    part, gaps = heights[i0:i1, j0:j1], missing[i0:i1, j0:j1]
    filled = _filled(part.astype(float), gaps, name)
    grid = np.stack(np.meshgrid(at_rows - i0, at_columns - j0, indexing="ij"))
    made = map_coordinates(filled, grid, order=1, mode="nearest")
    here = float(map_coordinates(filled, [[row - i0], [column - j0]], order=1, mode="nearest")[0])
    return Land(made - here, float(axis[0]), float(axis[0]), cell)


def read_png(data: bytes, metres_a_pixel: float, low_m: float, high_m: float, name: str = "heights.png") -> Land:
    """Land from a grey PNG of 16 bits: black lies at `low_m`, white at `high_m`, its middle at zero, its upper edge north."""
    if not (0.01 <= metres_a_pixel <= 1000 and LOWEST_M <= low_m < high_m <= HIGHEST_M):
        raise InputError(
            "a scale out of its limits", "metres_a_pixel", "Choose 0.01 to 1000 m to a pixel, and white above black"
        )
    picture, heights = _opened(data, name, ("PNG",))
    if not picture.mode.startswith("I"):
        raise InputError("the picture has 8 bits, steps of which would show as terraces", name, REMEDY)
    z = low_m + (high_m - low_m) * heights[::-1].astype(float) / 65535
    rows, columns = z.shape
    side = min(rows, columns)
    top, left = (rows - side) // 2, (columns - side) // 2
    start = -(side - 1) / 2 * metres_a_pixel
    return Land(np.ascontiguousarray(z[top : top + side, left : left + side]), start, start, metres_a_pixel)


def _opened(data: bytes, name: str, formats: tuple[str, ...]) -> tuple[Image.Image, NDArray[np.floating]]:
    """A picture of one channel, and its values (rows from the top)."""
    try:
        picture = Image.open(io.BytesIO(data), formats=formats)
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        raise InputError("the file cannot be read as heights", name, REMEDY) from error
    if max(picture.size) > MOST_SIDE or min(picture.size) < 4:
        raise InputError(
            f"{picture.size[0]} x {picture.size[1]} heights", name, f"Cut it to 4 to {MOST_SIDE} along each side"
        )
    if picture.mode not in ("I;16", "I;16B", "I;16L", "I", "F", "L"):
        raise InputError(f"the picture has colours ({picture.mode}), not heights", name, REMEDY)
    if getattr(picture, "n_frames", 1) > 8:
        raise InputError("the file holds many pictures", name, "Save the heights alone")
    try:
        values = np.asarray(picture)
    except (OSError, ValueError, SyntaxError, MemoryError) as error:
        raise InputError("the file breaks off or is damaged", name, "Save or download it again") from error
    return picture, values


def _place(picture: Image.Image, name: str) -> Place:
    """Where a GeoTIFF lies, by its keys."""
    tags = picture.tag_v2  # type: ignore[attr-defined]
    scale, tie = tags.get(_SCALE), tags.get(_TIEPOINT)
    if scale is None or tie is None or len(scale) < 2 or len(tie) < 6:
        raise InputError(
            "the file does not say where it lies", name, "Export it as GeoTIFF with its georeference, north upwards"
        )
    directory = [int(v) for v in tags.get(_KEYS, ())]
    keys = {directory[k]: directory[k + 3] for k in range(4, len(directory) - 3, 4) if directory[k + 1] == 0}
    dx, dy = float(scale[0]), -float(scale[1])
    if not (np.isfinite([dx, dy, *tie[:6]]).all() and dx > 0 and dy < 0):
        raise InputError("the steps of the file are not numbers above 0", name, "Export it again, north upwards")
    # A place is that of the corner of a pixel, unless the raster is one of points (key 1025).
    half = 0.0 if keys.get(1025) == 2 else 0.5
    x = float(tie[3]) + (half - float(tie[0])) * dx
    y = float(tie[4]) + (half - float(tie[1])) * dy
    if keys.get(_MODEL) == 2 or (_MODEL not in keys and _GEOGRAPHIC in keys and _PROJECTED not in keys):
        return Place(x, y, dx, dy, True)
    code, unit = keys.get(_PROJECTED, 0), keys.get(_UNIT, 9001)
    if unit in _FEET or unit != 9001:
        raise InputError("the grid of the file is not in metres", name, "Project it to UTM in metres")
    for first, south in ((32600, False), (32700, True), (25800, False)):
        if 1 <= code - first <= 60:
            return Place(x, y, dx, dy, False, code - first, south)
    raise InputError(
        f"the grid of the file (EPSG {code or 'not told'}) is not known here",
        name,
        "Project it to UTM, or to degrees (EPSG 4326)",
    )


def _missing(picture: Image.Image, heights: NDArray[np.floating]) -> NDArray[np.bool_]:
    """Where a file holds no height: by its own word for that, not a number, or beyond what the earth has."""
    told = str(picture.tag_v2.get(_NODATA, "")).strip(" \x00\n")  # type: ignore[attr-defined]
    with np.errstate(invalid="ignore"):
        gaps = ~np.isfinite(heights) | (heights < LOWEST_M) | (heights > HIGHEST_M)
        with contextlib.suppress(ValueError):
            gaps |= heights == float(told)
    return np.asarray(gaps)


def _filled(heights: Array, gaps: NDArray[np.bool_], name: str) -> Array:
    """Gaps closed by the nearest height."""
    if gaps.all():
        raise InputError("there are no heights about the site", name, "Choose the file that holds the project's place")
    if not gaps.any():
        return heights
    nearest = distance_transform_edt(gaps, return_distances=False, return_indices=True)
    return np.asarray(heights[tuple(nearest)])
