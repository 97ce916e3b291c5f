"""Heights of true land from files: where they lie, by other means; gaps, and files that are none."""

from __future__ import annotations

import contextlib
import io
import zipfile

import numpy as np
import pytest
from PIL import Image

from tests.geotiff import DEGREES, UTM32, geotiff, plain_geotiff
from valleylight.core.errors import InputError
from valleylight.core.nature.heights import read_geotiff, read_png
from valleylight.core.nature.mapping import metres_to_a_degree, utm
from valleylight.core.stage.arrival import arrive
from valleylight.core.stage.arrival.terrain import Where


def hill(x, y):
    """Heights in m at metres east and north of the site."""
    return 500 + 0.2 * x - 0.1 * y + 80 * np.exp(-((x - 300) ** 2 + (y + 200) ** 2) / 2e5)


def test_a_degree_is_as_long_as_tables_say():
    """From memory, WGS 84: 110.574 km of latitude and 111.320 km of longitude at the equator; 111.132 and 78.847 at 45 degrees; 111.694 at a
    pole."""
    for latitude, across, along in ((0, 111_320, 110_574), (45, 78_847, 111_132), (90, 0, 111_694)):
        got = metres_to_a_degree(latitude)
        assert got[0] == pytest.approx(across, abs=1) and got[1] == pytest.approx(along, abs=1)


def test_the_grid_on_its_meridian_is_the_length_of_the_meridian():
    """Quarter meridian of WGS 84: 10 001 965.729 m; to 45 degrees 4 984 944.378 m (from memory, geodetic tables)."""
    for latitude, metres in ((0.0, 0.0), (45.0, 4_984_944.378), (90.0, 10_001_965.729)):
        east, north = utm(latitude, 9.0, 32, False)
        assert east == pytest.approx(500_000.0, abs=1e-3) and north == pytest.approx(0.9996 * metres, abs=2e-3)
    assert utm(-45.0, 9.0, 32, True)[1] == pytest.approx(10_000_000 - 0.9996 * 4_984_944.378, abs=2e-3)


def test_the_grid_off_its_meridian_keeps_angles_and_lengths():
    """Conformal: a small step north and one east are as long and square; the scale is k0 (1 + E^2 / 2R^2) to the second order."""
    for latitude, longitude in ((46.6, 9.84), (10.0, 11.9), (60.0, 6.2)):
        x, y = np.array(utm(latitude, longitude, 32, False))
        across, along = metres_to_a_degree(latitude)
        d = 1e-4
        east = (np.array(utm(latitude, longitude + d, 32, False)) - [x, y]) / (across * d)
        north = (np.array(utm(latitude + d, longitude, 32, False)) - [x, y]) / (along * d)
        scale = 0.9996 * (1 + ((x - 5e5) / 0.9996) ** 2 / 2 / 6_378_000**2)
        assert np.linalg.norm(east) == pytest.approx(scale, abs=2e-5) and np.linalg.norm(north) == pytest.approx(
            scale, abs=2e-5
        )
        assert east @ north == pytest.approx(0.0, abs=2e-5)


def test_land_in_degrees_lies_about_its_site():
    latitude, longitude = 46.6, 9.84
    across, along = metres_to_a_degree(latitude)
    step = 1 / 3600
    rows, columns = 160, 200
    west, top = longitude - 90 * step, latitude + 70 * step
    x = (west + (np.arange(columns) + 0.5) * step - longitude) * across
    y = (top - (np.arange(rows) + 0.5) * step - latitude) * along
    data = geotiff(hill(x[None], y[:, None]).astype(np.float32), (step, step), (west, top), DEGREES)
    land = read_geotiff(data, latitude, longitude, 1500.0)
    for px, py in ((0.0, 0.0), (400.0, -300.0), (-900.0, 700.0), (1200.0, 1200.0)):
        assert float(land.at(px, py)) == pytest.approx(hill(px, py) - hill(0, 0), abs=1.2)


def grid_of(latitude: float, longitude: float, east: np.ndarray, north: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """True metres east and north of a site for metres of the UTM grid 32 about it, by the closed forms of convergence and scale
    (tan of the angle between grid north and true north = tan(dL) sin(B), Snyder, Map Projections, USGS PP 1395, eq. 8-21 on the sphere)."""
    angle = np.arctan(np.tan(np.radians(longitude - 9.0)) * np.sin(np.radians(latitude)))
    off = np.radians(longitude - 9.0) * np.cos(np.radians(latitude))
    scale = 0.9996 * (1 + off**2 / 2)
    c, s = np.cos(angle), np.sin(angle)
    return (east * c + north * s) / scale, (north * c - east * s) / scale


@pytest.mark.parametrize(("latitude", "longitude"), [(46.6, 9.84), (-33.2, 9.84), (60.0, 6.3), (10.0, 9.0)])
def test_land_on_a_grid_lies_about_its_site_by_true_north(latitude, longitude):
    """A ramp that rises along the grid's axes is turned by the grid's convergence, up to 2.3 degrees here."""
    south = latitude < 0
    east, north = utm(latitude, longitude, 32, south)
    rows, columns, step = 260, 240, 10.0
    left, top = east - 1180.0, north + 1310.0
    x, y = np.meshgrid(left + (np.arange(columns) + 0.5) * step - east, top - (np.arange(rows) + 0.5) * step - north)
    keys = [1024, 1, 3072, 32732 if south else 25832]
    true = grid_of(latitude, longitude, x, y)
    whole = np.round(4 * hill(*true)).astype(np.uint16) / np.float32(4)
    land = read_geotiff(geotiff(whole.astype(np.float32), (step, step), (left, top), keys), latitude, longitude, 1000.0)
    for px, py in ((0.0, 0.0), (500.0, 0.0), (0.0, 500.0), (-700.0, -800.0), (900.0, 900.0)):
        assert float(land.at(px, py)) == pytest.approx(hill(px, py) - hill(0, 0), abs=0.7)


@pytest.mark.parametrize(("west", "longitude"), [(179.9, -179.96), (-180.1, 179.94), (179.9, 179.95), (-0.1, 0.02)])
def test_the_date_line_is_no_edge(west, longitude):
    step, size = 0.001, 200
    heights = np.tile(np.arange(size, dtype=np.float32), (size, 1))
    land = read_geotiff(geotiff(heights, (step, step), (west, 0.1), DEGREES), 0.0, longitude, 1000.0)
    slope = 1 / (step * metres_to_a_degree(0.0)[0])
    assert float(land.at(500.0, 0.0)) == pytest.approx(500 * slope, rel=0.02)


@pytest.mark.parametrize("kind", [np.int16, np.uint16, np.int32, np.float32, np.float64])
def test_heights_of_every_usual_kind_are_read(kind):
    """Survey files hold whole metres, below zero too where the sea is, or fractions."""
    z = np.linspace(-40, 60, 80)[None] + np.zeros((80, 1)) + (100 if kind is np.uint16 else 0)
    data = plain_geotiff(z.astype(kind), (0.001, 0.001), (9.0, 46.5))
    land = read_geotiff(data, 46.46, 9.04, 2000.0)
    slope = 100 / 79 / (0.001 * metres_to_a_degree(46.46)[0])
    assert float(land.at(1000.0, 0.0)) == pytest.approx(1000 * slope, rel=0.05, abs=1.1)


def test_damaged_bytes_never_do_more_than_be_refused():
    good = geotiff(
        np.random.default_rng(1).uniform(400, 900, (60, 60)).astype(np.float32), (0.002, 0.002), (9.0, 46.7), DEGREES
    )
    rng = np.random.default_rng(7)
    read = 0
    for _ in range(300):
        data = bytearray(good)
        for _ in range(int(rng.integers(1, 6))):
            # Most of a TIFF is its pixels; what can do harm lies in its directory.
            place = (
                int(rng.integers(len(data)))
                if rng.random() < 0.4
                else int(rng.integers(max(len(data) - 420, 0), len(data)))
            )
            data[place] = int(rng.integers(256))
        if rng.random() < 0.3:
            data = data[: int(rng.integers(8, len(data)))]
        with contextlib.suppress(InputError):
            made = read_geotiff(bytes(data), 46.64, 9.06, None, "valley.tif")
            read += 1
            assert np.isfinite(made.height).all() and made.height.shape[0] <= 4096
    assert 0 < read < 300


def test_a_raster_of_points_lies_half_a_cell_off():
    heights = np.tile(np.arange(100, dtype=np.float32) * 10, (100, 1))
    corner = (9.0, 46.5)
    area, points = (
        read_geotiff(geotiff(heights, (0.001, 0.001), corner, [*DEGREES, 1025, kind]), 46.45, 9.05, 500.0)
        for kind in (1, 2)
    )
    slope = 10 / (0.001 * metres_to_a_degree(46.45)[0])
    for land in (area, points):
        assert float(land.at(200.0, 0.0)) == pytest.approx(200 * slope, rel=0.02)
    # The heights stand half a cell further east, so the site reads half a step lower; both are taken off.
    assert float(area.at(0.0, 0.0)) == pytest.approx(float(points.at(0.0, 0.0)), abs=0.05)


def test_gaps_take_the_nearest_height():
    heights = np.full((80, 80), 700.0, np.float32)
    heights[:, 40:] = 720.0
    heights[10:30, 50:70] = -9999.0
    heights[50, 50], heights[51, 51] = np.nan, 1e30
    land = read_geotiff(geotiff(heights, (0.001, 0.001), (9.0, 46.5), DEGREES, "-9999"), 46.46, 9.03, 2000.0)
    assert np.isfinite(land.height).all()
    assert land.height.min() == pytest.approx(0.0, abs=1e-6) and land.height.max() == pytest.approx(20.0, abs=1e-6)


def png(values: np.ndarray) -> bytes:
    out = io.BytesIO()
    Image.fromarray(values).save(out, "PNG")
    return out.getvalue()


def test_a_picture_of_heights_is_laid_as_it_is_told():
    values = np.zeros((64, 96), np.uint16)
    values[0], values[-1] = 65535, 13107  # north edge white, south edge a fifth
    land = read_png(png(values), 5.0, 100.0, 600.0)
    assert land.cell_m == 5.0 and land.height.shape == (64, 64)
    assert float(land.at(0.0, 157.5)) == pytest.approx(600.0) and float(land.at(0.0, -157.5)) == pytest.approx(200.0)
    assert float(land.at(0.0, 0.0)) == pytest.approx(100.0)


GOOD = geotiff(np.full((50, 50), 5.0, np.float32), (0.01, 0.01), (9.0, 47.0), DEGREES)


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "cannot be read"),
        (b"II*\x00" + b"\x00" * 40, "cannot be read"),
        (GOOD[:-60], "where it lies|breaks off|cannot be read|damaged"),
        (png(np.zeros((9, 9), np.uint16)), "cannot be read"),
        (geotiff(np.zeros((3, 3), np.float32), (1, 1), (0, 0), DEGREES), "3 x 3"),
        (geotiff(np.zeros((9, 9, 3), np.uint8), (1, 1), (0, 0), DEGREES), "colours"),
        (geotiff(np.zeros((9, 9), np.uint8), (1, 1), (0, 0), DEGREES), "8 bits"),
        (geotiff(np.zeros((9, 9), np.float32), (1, 1), (9, 47), [1024, 1, 3072, 2056]), "EPSG 2056"),
        (geotiff(np.zeros((9, 9), np.float32), (1, 1), (9, 47), [*UTM32, 3076, 9002]), "not in metres"),
        (geotiff(np.zeros((9, 9), np.float32), (0.1, 0.1), (20, 47), DEGREES), "outside"),
        (geotiff(np.full((90, 90), np.nan, np.float32), (0.01, 0.01), (9, 47), DEGREES), "no heights"),
    ],
)
def test_what_is_no_land_is_refused_by_name(data, says):
    with pytest.raises(InputError, match=says) as error:
        read_geotiff(data, 46.6, 9.3, 500.0, "valley.tif")
    assert "valley.tif" in str(error.value)


def test_numbers_out_of_their_limits_are_refused():
    with pytest.raises(InputError):
        read_geotiff(GOOD, 46.6, 9.3, 1.0)
    with pytest.raises(InputError):
        read_geotiff(GOOD, float("nan"), 9.3, 500.0)
    with pytest.raises(InputError):
        read_geotiff(GOOD, 90.0, 9.3, 500.0)
    for scale in ((0.0, 0, 100), (5.0, 100, 100), (5.0, -20_000, 100), (float("nan"), 0, 1)):
        with pytest.raises(InputError):
            read_png(png(np.zeros((9, 9), np.uint16)), *scale)
    with pytest.raises(InputError, match="8 bits"):
        read_png(png(np.zeros((9, 9), np.uint8)), 5.0, 0, 100)


def alpine(latitude: float, longitude: float) -> bytes:
    """Heights on the UTM grid about a site that falls to the east and has a steep flank in the north."""
    east, north = utm(latitude, longitude, 32, False)
    step = 12.5
    left, top = east - 1500.0, north + 1500.0
    x, y = left + (np.arange(240) + 0.5) * step - east, top - (np.arange(240) + 0.5) * step - north
    z = 1400 - 0.15 * x[None] + 1.6 * np.clip(y[:, None] - 500, 0, None)
    return geotiff(z.astype(np.float32), (step, step), (left, top), UTM32)


@pytest.mark.parametrize("north_deg", [0.0, 90.0, -35.0])
def test_land_arrives_as_a_model_about_the_site(north_deg):
    """True east and north in the model's own frame, whatever its north; ground looks up, steep ground is bare, and the unit is stated."""
    made = arrive(alpine(46.6, 9.84), "alp.tif", where=Where(46.6, 9.84, north_deg))
    assert made.metres == 1.0 and "Heights reach" in made.stage.notes[0]
    c, s = np.cos(np.radians(north_deg)), np.sin(np.radians(north_deg))
    turned = np.asarray(made.stage.instances[0].matrix, float)
    points = np.concatenate([m.points @ turned[:3, :3].T + turned[:3, 3] for m in made.stage.meshes])
    east, north = points[:, 0] * c + points[:, 1] * s, points[:, 1] * c - points[:, 0] * s
    angle = np.arctan(np.tan(np.radians(0.84)) * np.sin(np.radians(46.6)))  # grid north is that far from true north
    expected = -0.15 * (east * np.cos(angle) - north * np.sin(angle)) + 1.6 * np.clip(
        north * np.cos(angle) + east * np.sin(angle) - 500, 0, None
    )
    off = np.abs(points[:, 2] - expected)
    assert np.percentile(off, 95) < 4.0 and off[np.hypot(east, north) < 300].max() < 1.0
    low, high = made.stage.bounds()
    assert 1400 < high[0] < 1500 and low[0] == pytest.approx(-high[0], abs=1)
    names = {m.name for m in made.stage.materials}
    assert {"Land, green", "Land, bare"} <= names
    number = [m.name for m in made.stage.materials].index("Land, bare")
    bare = (
        np.concatenate([m.points[m.triangles[m.material == number]].mean(1) for m in made.stage.meshes])
        @ turned[:3, :3].T
    )
    toward_north = bare[:, 1] * c - bare[:, 0] * s
    assert (toward_north > 450).mean() > 0.9


def test_land_needs_a_site_and_room_about_it():
    with pytest.raises(InputError, match="none is told"):
        arrive(alpine(46.6, 9.84), "alp.tif")
    with pytest.raises(InputError, match="from the file's edge"):
        arrive(alpine(46.6, 9.84), "alp.tif", where=Where(46.6 + 1450 / 111_160, 9.84))
    out = io.BytesIO()
    Image.fromarray(np.zeros((20, 20), np.uint16)).save(out, "TIFF")
    with pytest.raises(InputError, match="where it lies"):
        arrive(out.getvalue(), "photo.tif", where=Where(46.6, 9.84))


def test_a_tiff_beside_a_model_is_its_picture():
    out = io.BytesIO()
    Image.fromarray(np.zeros((8, 8, 3), np.uint8)).save(out, "TIFF")
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as archive:
        archive.writestr("thing.obj", "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n")
        archive.writestr("wood.tif", out.getvalue())
    assert arrive(packed.getvalue(), "thing.zip").stage.meshes
