"""Pictures of what shines: seen as they are, and their light falls on others as closed forms have it; objects that send none only look lit."""

from __future__ import annotations

import numpy as np
import pytest

from valleylight.core.measure.incident import incident
from valleylight.core.preview.studio import studio
from valleylight.core.project.description import Stage
from valleylight.core.project.surface import ObjectFlags
from valleylight.core.stage import Material, MeshInstance, StageData, Texture
from valleylight.core.stage.assembly import extended
from valleylight.core.trace.render import render
from valleylight.core.trace.scene.quality import TRUE
from valleylight.validation import stages

LEVEL, HIGH = 1000.0, 1.5
#: A panel of 2 x 2 m that faces down, seen from its middle below: its picture's left half shines white, a quarter of it red besides.
PANEL = stages.quad([(-1, -1, HIGH), (-1, 1, HIGH), (1, 1, HIGH), (1, -1, HIGH)], 1)
FLOOR = stages.quad([(-6, -6, 0), (6, -6, 0), (6, 6, 0), (-6, 6, 0)], 0)
UP = stages.looking_at((0, 0, HIGH), (0.001, 0, -HIGH), 18.0 / (1.0 / HIGH))


def halves() -> Texture:
    """The first rows of the picture lie along y = -1 on the panel: its uv goes along y and then along x."""
    pixels = np.zeros((256, 256, 3), np.uint8)
    pixels[:128] = 255
    return Texture(pixels)


def stage(flags: dict | None = None, textured: bool = True, emission=(LEVEL,) * 3):
    glow = Material(
        name="glow", base=(0, 0, 0), specular=0.0, emission=emission, emission_texture=0 if textured else -1
    )
    data = StageData(
        (FLOOR, PANEL), (MeshInstance(0, np.eye(4), name="floor"), MeshInstance(1, np.eye(4), name="panel")),
        (stages.BLACK, glow), (halves(),),
    )  # fmt: skip
    return studio(data, UP, settings=Stage(objects=flags or {}, find_openings=False))


def lux(project, compiler, points):
    scene = stages.scene_of(project, compiler)
    found = incident(scene, np.array(points, float), np.tile([0.0, 0.0, 1.0], (len(points), 1)), 4096)
    return found.lux({})


def corner_factor(a: float, b: float, h: float) -> float:
    """Configuration factor of a rectangle a x b parallel to a small face, h above it, whose corner is on the face's normal
    (J. R. Howell, A catalog of radiation configuration factors, B-3)."""
    x, y = a / h, b / h
    return (x / np.hypot(1, x) * np.arctan(y / np.hypot(1, x)) + y / np.hypot(1, y) * np.arctan(x / np.hypot(1, y))) / (
        2 * np.pi
    )


def test_the_lit_half_of_a_picture_lights_as_a_panel_of_half_the_size():
    middle = np.pi * LEVEL * 2 * corner_factor(1, 1, HIGH)
    # Beside the middle, under the edges of the panel: of the lit half, and of the dark one.
    near = np.pi * LEVEL * 2 * corner_factor(1, 1, HIGH)
    far = np.pi * LEVEL * 2 * (corner_factor(2, 1, HIGH) - corner_factor(1, 1, HIGH))
    found = lux(*stage(), [(0, 0, 0), (-1, 0, 0), (1, 0, 0)])
    assert found == pytest.approx([middle, near, far], rel=0.02)
    assert lux(*stage(textured=False), [(0, 0, 0)]) == pytest.approx([2 * middle], rel=0.02)


def test_it_is_seen_as_it_is():
    film = render(stage()[0], "v", "o", 32, 32, 16, 1, TRUE, compiler=stage()[1])
    seen = stages.luminance(film, "surfaces")
    halves_seen = [seen[:, 2:14], seen[:, 18:30], seen[2:14], seen[18:30]]
    means = sorted(float(half.mean()) for half in halves_seen)
    assert means[0] == pytest.approx(0.0, abs=0.01) and means[3] == pytest.approx(LEVEL, rel=1e-3)


def test_one_that_casts_no_shadow_shines_on_others_all_the_same():
    flags = {"panel": ObjectFlags(casts_shadow=False)}
    assert lux(*stage(flags), [(0, 0, 0)]) == pytest.approx(lux(*stage(), [(0, 0, 0)]), rel=0.02)


@pytest.mark.parametrize("textured", [True, False])
def test_one_that_sends_nothing_is_seen_and_lights_nothing(textured):
    project, compiler = stage({"panel": ObjectFlags(sends=False)}, textured)
    assert lux(project, compiler, [(0, 0, 0), (-1, 0, 0)]).max() < 0.01  # the night sky's own
    film = render(project, "v", "o", 16, 16, 8, 1, TRUE, compiler=compiler)
    assert stages.luminance(film, "surfaces").max() == pytest.approx(LEVEL, rel=1e-3)


def test_colour_of_the_picture_multiplies_that_of_the_light():
    project, compiler = stage(emission=(LEVEL, 0.0, 0.0))
    film = render(project, "v", "o", 16, 16, 8, 1, TRUE, compiler=compiler)
    rgb = film.groups["surfaces"].reshape(-1, 3)
    assert rgb[:, 0].max() == pytest.approx(LEVEL, rel=1e-3) and rgb[:, 1:].max() == 0.0


def test_behind_another_stage_it_keeps_its_picture():
    """Numbers of pictures move with the stage they are of."""
    other = StageData(
        (FLOOR,), (MeshInstance(0, np.eye(4), name="x"),), (stages.MATT,), (Texture(np.zeros((4, 4, 3), np.uint8)),)
    )
    glow = Material(name="glow", emission=(1.0,) * 3, emission_texture=0)
    more = StageData((PANEL,), (MeshInstance(0, np.eye(4), name="p"),), (stages.BLACK, glow), (halves(),))
    both = extended(other, more)
    assert both.materials[2].emission_texture == 1 and both.textures[1] is more.textures[0]
