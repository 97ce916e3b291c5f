"""The core as others use it: projects put together in memory, and illuminance asked for by points."""

from __future__ import annotations

import numpy as np
import pytest

from tests import glb, small
from valleylight.core import measure, project, render
from valleylight.core.errors import InputError, NotFoundError
from valleylight.core.sky.picture import turned
from valleylight.demo.profiles import CATALOGUE, profile_file
from valleylight.validation import stages

NIGHT = {"sun": project.Sun(true_to_place=False, altitude_deg=-30.0)}


def night(**more) -> project.Occasion:
    return project.Occasion(key="night", name="Night", when="2026-01-12T22:00:00", **NIGHT, **more)


@pytest.fixture
def built(tmp_path):
    (tmp_path / "square.glb").write_bytes(glb.packed(*glb.square()))
    fixture = project.Fixture(key="a", kind="spot", group="Spots", position=(0.5, -1.5, 0.5), aim=(0.5, 0.0, 0.5))
    # The square lies in x and y of the file, whose y is up: here it is a wall.
    view = project.View(key="v", name="Wall", position=(0.5, -3, 0.5), target=(0.5, 0, 0.5))
    return project.build(
        [tmp_path / "square.glb"], {"spot": profile_file(CATALOGUE[0])}, name="Built", views=(view,), occasions=(night(),),
        fixtures=(fixture,),
    )  # fmt: skip


def test_a_project_is_put_together_and_traced(built):
    assert [m.name for m in built.description.placements] == ["square.glb"]
    assert built.description.kinds[0].profile == project.name_of(profile_file(CATALOGUE[0]))
    film = render(built, "v", "night", 16, 16, samples=4)
    assert film.groups["Spots"].mean() > 0


def test_it_is_saved_and_loaded_like_any_other(built, tmp_path):
    project.save(built, tmp_path / "built.zip")
    again = project.load(tmp_path / "built.zip")
    assert again.description == built.description
    assert again.asset(built.description.kinds[0].profile) == profile_file(CATALOGUE[0])


@pytest.mark.parametrize(("what", "words"), [
    ({"models": ["/nowhere/at/all.glb"]}, "all.glb"), ({"views": ({"key": "Not a key"},)}, "key"),
    ({"occasions": (night(sky=project.Sky(model="picture", picture=project.PictureSky(asset="ab" * 32))),)}, "abababababab"),
])  # fmt: skip
def test_what_does_not_fit_is_told(what, words):
    with pytest.raises((InputError, NotFoundError), match=words):
        project.build(**what)


def test_further_files_are_held():
    picture = b"the bytes of a picture"
    sky = project.Sky(model="picture", picture=project.PictureSky(asset=project.name_of(picture)))
    made = project.build(files=[picture], occasions=(night(sky=sky),))
    assert made.asset(project.name_of(picture)) == picture


@pytest.mark.parametrize("height", [0.0, 0.5, 2.0])
def test_illuminance_below_a_fixture_by_the_inverse_square_law(height):
    """E = I / d^2 at the very point, on a surface or in the air (CIE 018, section 4)."""
    fixtures, kinds = stages.lamp((0, 0, 3.0), (0, 0, 0))
    floor = small.quad(stages.FLOOR_CORNERS, 0)
    made, compiler = stages.project_of(
        [floor], [stages.BLACK], stages.looking_at((0, 0, 0), (1, 0, 1)), fixtures, kinds, stages.even(90.0)
    )
    lux = measure.illuminance(made, "o", [(0, 0, height)], [(0, 0, 2.0)], samples=64, compiler=compiler)
    assert lux == pytest.approx([90.0 / (3.0 - height) ** 2], rel=0.005)


def test_illuminance_of_a_whole_project():
    """Levels of the occasion count; what faces away from all light gets only what comes by way of others."""
    room = small.project()
    points, normals = [(1.5, 2.0, 0.01), (1.5, 2.0, 0.01)], [(0, 0, 1), (0, 0, -1)]
    night_lx = measure.illuminance(room, "night", points, normals)
    assert night_lx[0] > 50 and night_lx[0] > night_lx[1] > 0
    half = room.description.occasions[1].model_copy(update={"levels": {"Ceiling": 50.0, "Pendants": 50.0}})
    assert measure.illuminance(room, half, points[:1], normals[:1]) == pytest.approx(night_lx[:1] / 2, rel=0.03)


@pytest.mark.parametrize(("points", "normals"), [
    ([(0, 0)], [(0, 1)]), ([(0, 0, 0)], [(0, 0, 0)]), ([(0, 0, np.nan)], [(0, 0, 1)]), ([(0, 0, 0)], [(0, 0, 1), (0, 0, 1)]),
])  # fmt: skip
def test_points_that_are_none_are_refused(points, normals):
    with pytest.raises(InputError):
        measure.illuminance(small.project(), "noon", points, normals)


def test_a_sky_pictures_turn_is_the_azimuth_of_its_left_edge():
    """Clockwise from north, as all azimuths: turned by 90 degrees, its first column stands in the east."""
    rgb = np.arange(360, dtype=np.float32)[None, :, None].repeat(3, 2)
    assert turned(rgb, 90.0)[0, 90, 0] == 0.0
    assert turned(rgb, -30.0)[0, 330, 0] == 0.0
