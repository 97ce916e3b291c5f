"""Pictures that stand in for the sky: read, understood, calibrated, turned, written."""

from __future__ import annotations

from datetime import datetime

import numpy as np
import pytest

from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.errors import InputError
from valleylight.core.project.description import Occasion, Site, Sun
from valleylight.core.project.sky import PictureSky, Sky
from valleylight.core.sky.dome import Dome, cell_angles
from valleylight.core.sky.picture import read_picture, write_picture
from valleylight.core.trace.scene.lighting import daylight_of


def painted(sun_at: tuple[float, float] | None, rows: int = 180, sky: float = 1000.0) -> np.ndarray:
    """An even sky over dark ground, with a sun disc of 100 klx at (azimuth, altitude) in degrees."""
    rgb = np.full((rows, 2 * rows, 3), sky, np.float32)
    altitude, azimuth = cell_angles(rows)
    rgb[altitude < 0] = 100.0
    if sun_at is not None:
        a, h = np.radians(sun_at)
        ah, aa = np.meshgrid(altitude, azimuth, indexing="ij")
        apart = np.arccos(np.clip(np.sin(ah) * np.sin(h) + np.cos(ah) * np.cos(h) * np.cos(aa - a), -1, 1))
        disc = apart < np.radians(1.0)
        omega = (np.cos(ah) * (np.pi / rows) ** 2)[disc].sum()
        rgb[disc] = sky + 100_000 / omega
    return rgb


@pytest.fixture
def keep(tmp_path):
    def write(rgb: np.ndarray, suffix: str = ".exr") -> bytes:
        path = tmp_path / f"sky{suffix}"
        if suffix == ".exr":  # a sun is beyond half floats
            import OpenEXR

            header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
            OpenEXR.File(header, {"RGB": np.ascontiguousarray(rgb[::-1])}).write(str(path))
        else:
            write_picture(rgb, path)
        return path.read_bytes()

    return write


def occasion(**picture) -> Occasion:
    sky = Sky(model="picture", picture=PictureSky(asset="0" * 64, **picture))
    return Occasion(key="o", name="o", when=datetime(2026, 6, 21, 12), sky=sky)


def test_the_sun_is_found_measured_and_taken_out(keep):
    made = read_picture(keep(painted((120, 35))))
    assert made.spot.is_sun
    assert made.spot.azimuth_deg == pytest.approx(120, abs=0.5)
    assert made.spot.altitude_deg == pytest.approx(35, abs=0.5)
    assert made.spot.size_deg == pytest.approx(2.0, rel=0.15)
    assert made.spot.rgb_lx @ LUMINANCE == pytest.approx(100_000, rel=0.02)
    assert 0.9 < made.spot.share < 1
    assert made.without_sun.max() < 1100
    assert made.rgb.max() > 1e7


def test_an_overcast_picture_has_no_sun(keep):
    made = read_picture(keep(painted(None), ".hdr"), "dull.hdr")
    assert not made.spot.is_sun
    assert (made.without_sun == made.rgb).all()


@pytest.mark.parametrize("suffix", [".exr", ".hdr"])
def test_skies_written_are_read_back(tmp_path, suffix):
    rgb = painted(None) * np.array([0.8, 1.0, 1.3], np.float32)
    path = tmp_path / f"own{suffix}"
    write_picture(rgb, path)
    assert read_picture(path.read_bytes()).rgb == pytest.approx(rgb, rel=0.01)


def test_calibration_turn_and_sun(keep):
    picture = read_picture(keep(painted((120, 35))))
    day = daylight_of(Site(), occasion(horizontal_lx=50_000, turn_deg=40), picture=lambda _: picture)
    assert day.sun_horizontal_lx + day.dome.horizontal_illuminance_lx == pytest.approx(50_000, rel=0.02)
    assert day.azimuth_deg == pytest.approx(160, abs=0.6)
    assert day.direction[2] == pytest.approx(np.sin(np.radians(35)), abs=0.01)
    as_it_came = daylight_of(Site(), occasion(), picture=lambda _: picture)
    assert as_it_came.sun_normal_lx == pytest.approx(100_000, rel=0.02)
    kept_in = daylight_of(Site(), occasion(sun_from_picture=False), picture=lambda _: picture)
    assert not kept_in.sun_up
    total = Dome(picture.rgb).horizontal_illuminance_lx
    assert kept_in.dome.horizontal_illuminance_lx == pytest.approx(total, rel=0.02)


def test_the_background_has_a_level_of_its_own():
    levels = occasion(background_stops=1.5).model_copy(update={"sun": Sun(level_stops=-1)}).light_levels()
    assert levels["backdrop"] == pytest.approx(2**1.5 * levels["sky picture"])
    assert occasion().daylight_groups() == ("sun", "sky picture", "backdrop")


@pytest.mark.parametrize(("data", "word"), [(b"nothing of the kind", "neither"), (b"#?RADIANCE\ncut", "read")])
def test_what_is_no_picture_is_refused(data, word):
    with pytest.raises(InputError, match=word):
        read_picture(data, "surroundings.hdr")


def test_a_picture_of_another_shape_is_refused(keep):
    with pytest.raises(InputError, match="twice as wide"):
        read_picture(keep(np.ones((100, 120, 3), np.float32), ".hdr"))


def test_a_picture_cut_short_is_refused(keep):
    data = keep(painted(None, 256))
    with pytest.raises(InputError):
        read_picture(data[: len(data) // 2], "half.exr")
    with pytest.raises(ValueError, match="needs a picture"):
        Sky(model="picture")
