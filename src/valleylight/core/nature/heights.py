"""Heights of true land from files: GeoTIFF (GeoTIFF 1.1, OGC 19-008) and 16-bit PNG, laid about a site as `Land`.

A GeoTIFF tells where it lies, in degrees or on a UTM grid of WGS 84 or a datum like it; a PNG tells nothing, and is told.
"""

from __future__ import annotations

import contextlib
import io
import struct
import tempfile
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import OpenImageIO as oiio  # noqa: N813
from numpy.typing import NDArray
from PIL import Image
from PIL.TiffImagePlugin import ImageFileDirectory_v2
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
EIGHT_BITS = "the picture has 8 bits, steps of which would show as terraces"
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
    """Land within `reach_m` of a site (None: as far as the file reaches on every side, at most `FARTHEST_M`),
    heights over that of the site, which lies at zero. X is true east and Y true north.

    Raises InputError, naming the file, where it is no GeoTIFF of heights, tells no place, does not hold the site, or holds no heights there.
    """
    if not (-85 <= latitude_deg <= 85 and -180 <= longitude_deg <= 180 and 50 <= (reach_m or 50.0) <= 100_000):
        raise InputError(
            "a site or reach out of its limits",
            "reach_m",
            "Choose 50 m to 100 km about a place between 85° south and north",
        )
    tags, heights = _tags(data, name), _pixels(data, name)
    place, missing = _place(tags, name), _missing(tags, heights)
    x, y = _on_map(place, latitude_deg, longitude_deg)
    column, row = (x - place.x) / place.dx, (y - place.y) / place.dy
    rows, columns = heights.shape
    if not (0 <= column <= columns - 1 and 0 <= row <= rows - 1):
        raise InputError("the site lies outside the file", name, "Choose the file that holds the project's place")
    # Cells to the metre of true east and north: a grid's north is not the true one but on its middle meridian.
    to_cells = _steps(place, latitude_deg, longitude_deg) / [[place.dx], [place.dy]]
    metres = 1 / np.linalg.norm(to_cells, axis=1)  # of a column and a row
    if reach_m is None:
        sides = min(column, columns - 1 - column) * metres[0], min(row, rows - 1 - row) * metres[1]
        reach_m = min(*map(float, sides), FARTHEST_M)
        if reach_m < NEAREST_M:
            raise InputError(
                f"the site lies {reach_m:.0f} m from the file's edge",
                name,
                "Choose a file that reaches further about the place",
            )
    cells = int(np.clip(np.ceil(2 * reach_m / metres.min()), 16, MOST_CELLS))
    cell = 2 * reach_m / cells
    axis = (np.arange(cells) + 0.5) * cell - reach_m
    east, north = np.meshgrid(axis, axis)
    at = np.stack(
        [row + to_cells[1, 0] * east + to_cells[1, 1] * north, column + to_cells[0, 0] * east + to_cells[0, 1] * north]
    )
    (i0, j0), (i1, j1) = np.maximum(at.min((1, 2)).astype(int) - 2, 0), at.max((1, 2)).astype(int) + 3
    filled = _filled(heights[i0:i1, j0:j1].astype(float), missing[i0:i1, j0:j1], name)
    at -= np.array([i0, j0])[:, None, None]
    made = map_coordinates(filled, at, order=1, mode="nearest")
    here = float(map_coordinates(filled, [[row - i0], [column - j0]], order=1, mode="nearest")[0])
    return Land(made - here, float(axis[0]), float(axis[0]), cell)


def _on_map(place: Place, latitude_deg: float, longitude_deg: float) -> tuple[float, float]:
    """A place of the earth in a file's own coordinates."""
    if place.degrees:  # files about the date line may count on beyond 180 degrees, or from below -180
        return place.x + (longitude_deg - place.x) % 360.0, latitude_deg
    return utm(latitude_deg, longitude_deg, place.zone, place.south)


def _steps(place: Place, latitude_deg: float, longitude_deg: float) -> Array:
    """What a metre east and a metre north of a place are in a file's own coordinates (2, 2): x, y by east, north."""
    across, along = metres_to_a_degree(latitude_deg)
    if place.degrees:
        return np.diag([1 / across, 1 / along])
    d = 1e-5
    ends = [
        np.subtract(utm(latitude_deg + j * d, longitude_deg + i * d, place.zone, place.south),
                    utm(latitude_deg - j * d, longitude_deg - i * d, place.zone, place.south)) / (2 * d * metres)
        for i, j, metres in ((1, 0, across), (0, 1, along))
    ]  # fmt: skip
    return np.stack(ends, 1)


def read_png(data: bytes, metres_a_pixel: float, low_m: float, high_m: float, name: str = "heights.png") -> Land:
    """Land from a grey PNG of 16 bits: black lies at `low_m`, white at `high_m`, its middle at zero, its upper edge north."""
    if not (0.01 <= metres_a_pixel <= 1000 and LOWEST_M <= low_m < high_m <= HIGHEST_M):
        raise InputError(
            "a scale out of its limits", "metres_a_pixel", "Choose 0.01 to 1000 m to a pixel, and white above black"
        )
    heights = _grey(data, name)
    z = low_m + (high_m - low_m) * heights[::-1].astype(float) / 65535
    rows, columns = z.shape
    side = min(rows, columns)
    top, left = (rows - side) // 2, (columns - side) // 2
    start = -(side - 1) / 2 * metres_a_pixel
    return Land(np.ascontiguousarray(z[top : top + side, left : left + side]), start, start, metres_a_pixel)


def _tags(data: bytes, name: str) -> Mapping[int, Any]:
    """The first directory of a TIFF."""
    file = io.BytesIO(data)
    head = file.read(8)
    if head[:2] not in (b"II", b"MM"):
        raise InputError("the file cannot be read as heights", name, REMEDY)
    try:
        directory = ImageFileDirectory_v2(head + (file.read(8) if 43 in head[2:4] else b""))
        file.seek(directory.next)
        directory.load(file)
        return {number: directory[number] for number in (_SCALE, _TIEPOINT, _KEYS, _NODATA) if number in directory}
    except (KeyError, TypeError, ValueError, OSError, OverflowError, SyntaxError, struct.error) as error:
        raise InputError("the file breaks off or is damaged", name, "Save or download it again") from error


def _pixels(data: bytes, name: str) -> NDArray[Any]:
    """The numbers of a TIFF of one channel (rows from the top), of whatever kind it holds them."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder, "heights.tif")
        path.write_bytes(data)
        source = oiio.ImageInput.open(str(path))
        if source is None:
            oiio.geterror()  # else it is told of the next file
            raise InputError("the file cannot be read as heights", name, REMEDY)
        try:
            spec = source.spec()
            _check_size(spec.width, spec.height, name)
            if spec.nchannels != 1:
                raise InputError(f"the picture has {spec.nchannels} channels: colours, not heights", name, REMEDY)
            if spec.format.basesize() == 1:
                raise InputError(EIGHT_BITS, name, REMEDY)
            values = source.read_image(0, 0, 0, 1, spec.format)
            if values is None or source.geterror():
                raise InputError("the file breaks off or is damaged", name, "Save or download it again")
        finally:
            source.close()
    return np.asarray(values)[..., 0]


def _grey(data: bytes, name: str) -> NDArray[Any]:
    """The numbers of a PNG of 16 bits in grey."""
    try:
        picture = Image.open(io.BytesIO(data), formats=("PNG",))
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        raise InputError("the file cannot be read as heights", name, REMEDY) from error
    _check_size(*picture.size, name)
    if picture.mode == "L":
        raise InputError(EIGHT_BITS, name, REMEDY)
    if not picture.mode.startswith("I"):
        raise InputError("the picture has colours, not heights", name, REMEDY)
    try:
        return np.asarray(picture)
    except (OSError, ValueError, SyntaxError) as error:
        raise InputError("the file breaks off or is damaged", name, "Save it again") from error


def _check_size(width: int, height: int, name: str) -> None:
    if max(width, height) > MOST_SIDE or min(width, height) < 4:
        raise InputError(f"{width} x {height} heights", name, f"Cut it to 4 to {MOST_SIDE} along each side")


def _place(tags: Mapping[int, Any], name: str) -> Place:
    """Where a GeoTIFF lies, by its keys."""
    try:
        scale, tie = ([float(v) for v in tags.get(number, ())] for number in (_SCALE, _TIEPOINT))
        directory = [int(v) for v in tags.get(_KEYS, ())]
    except (TypeError, ValueError) as error:
        raise InputError("what the file says of its place is damaged", name, "Save or download it again") from error
    if len(scale) < 2 or len(tie) < 6:
        raise InputError(
            "the file does not say where it lies", name, "Export it as GeoTIFF with its georeference, north upwards"
        )
    keys = {directory[k]: directory[k + 3] for k in range(4, len(directory) - 3, 4) if directory[k + 1] == 0}
    dx, dy = scale[0], -scale[1]
    if not (np.isfinite([dx, dy, *tie[:6]]).all() and dx > 0 and dy < 0):
        raise InputError("the steps of the file are not numbers above 0", name, "Export it again, north upwards")
    # A place is that of the corner of a pixel, unless the raster is one of points (key 1025).
    half = 0.0 if keys.get(1025) == 2 else 0.5
    x, y = tie[3] + (half - tie[0]) * dx, tie[4] + (half - tie[1]) * dy
    if keys.get(_MODEL) == 2 or (_MODEL not in keys and _GEOGRAPHIC in keys and _PROJECTED not in keys):
        return Place(x, y, dx, dy, True)
    code, unit = keys.get(_PROJECTED, 0), keys.get(_UNIT, 9001)
    if unit != 9001:
        raise InputError("the grid of the file is not in metres", name, "Project it to UTM in metres")
    for first, south in ((32600, False), (32700, True), (25800, False)):
        if 1 <= code - first <= 60:
            return Place(x, y, dx, dy, False, code - first, south)
    raise InputError(
        f"the grid of the file (EPSG {code or 'not told'}) is not known here",
        name,
        "Project it to UTM, or to degrees (EPSG 4326)",
    )


def _missing(tags: Mapping[int, Any], heights: NDArray[Any]) -> NDArray[np.bool_]:
    """Where a file holds no height: by its own word for that, not a number, or beyond what the earth has."""
    told = str(tags.get(_NODATA, "")).strip(" \x00\n")
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
