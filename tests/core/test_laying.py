"""Pictures and units as they lie on surfaces: at true scale, upright, about the model's zero; their relief, and what they cut out."""

from __future__ import annotations

import hashlib
import io
from dataclasses import replace

import numpy as np
import pytest
from PIL import Image

from valleylight.core.project import Stage, View
from valleylight.core.project.description import Sun
from valleylight.core.project.surface import Courses, Laying, Pictures, Surface
from valleylight.core.stage import Material
from valleylight.core.stage.dressing import uv_metres
from valleylight.core.stage.model import MeshInstance, StageData
from valleylight.core.trace.arrays.records import Light, Unit, Vertex
from valleylight.core.trace.bsdf import paint
from valleylight.core.trace.render import render
from valleylight.core.trace.textures import laying
from valleylight.validation.stages import project_of, quad, scene_of, sphere

FILES: dict[str, bytes] = {}


def kept(pixels: np.ndarray) -> str:
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG")
    sha = hashlib.sha256(out.getvalue()).hexdigest()
    FILES[sha] = out.getvalue()
    return sha


def halves(across: bool = True) -> str:
    """A picture that is red on its left and blue on its right, or red above and blue below."""
    pixels = np.zeros((64, 64, 3), np.uint8)
    pixels[...] = (255, 0, 0)
    if across:
        pixels[:, 32:] = (0, 0, 255)
    else:
        pixels[32:] = (0, 0, 255)
    return kept(pixels)


def passes(meshes, surface: Surface, view: View, width=160, height=160, samples=4, base=Material(name="wall"), **more):
    # Without gloss, which the pass of colours holds as well.
    stage = Stage(surfaces={"wall": surface.model_copy(update={"gloss": 0.0})}, find_openings=False)
    project, compiler = project_of(meshes, [base], view, settings=stage, **more)
    project = replace(project, asset=FILES.__getitem__)
    film = render(project, "v", "o", width, height, samples, compiler=compiler)
    return film.passes


def facing(direction: str, distance: float = 10.0, width_m: float = 4.0) -> tuple[list, View]:
    """A wall 40 m across through the zero that faces a direction, and a view that shows `width_m` of it, upright."""
    s = 20.0
    corners = {
        "south": [(-s, 0, -s), (s, 0, -s), (s, 0, s), (-s, 0, s)], "north": [(s, 0, -s), (-s, 0, -s), (-s, 0, s), (s, 0, s)],
        "east": [(0, -s, -s), (0, s, -s), (0, s, s), (0, -s, s)], "west": [(0, s, -s), (0, -s, -s), (0, -s, s), (0, s, s)],
        "up": [(-s, -s, 0), (s, -s, 0), (s, s, 0), (-s, s, 0)],
    }[direction]  # fmt: skip
    away = {"south": (0, -1, 0), "north": (0, 1, 0), "east": (1, 0, 0), "west": (-1, 0, 0), "up": (0, -1e-4, 1)}[
        direction
    ]
    view = View(
        key="v", name="v", position=tuple(distance * v for v in away), target=(0, 0, 0), format=(1, 1), keep_verticals=False,
        focal_mm=36 * distance / width_m, film_width_mm=36,
    )  # fmt: skip
    wall = quad(corners, 0)
    return [replace(wall, uv=wall.uv * np.array([1, -1], np.float32))], view  # v runs downwards in a picture


@pytest.mark.parametrize("by", ["box", "sides"])
@pytest.mark.parametrize("direction", ["south", "north", "east", "west", "up"])
def test_a_picture_stands_upright_and_reads_from_the_left(direction, by):
    meshes, view = facing(direction)
    across = passes(
        meshes, Surface(base=(1, 1, 1), pictures=Pictures(colour=halves()), laying=Laying(by=by, tile_m=4)), view
    )
    colour = across["surface_colour"]
    # The tile begins at the zero: to its right it is red first, and blue in the second half, which lies left of the zero too.
    assert colour[80, 90:150] == pytest.approx(np.tile([1.0, 0, 0], (60, 1)), abs=0.05)
    assert colour[80, 10:70] == pytest.approx(np.tile([0, 0, 1.0], (60, 1)), abs=0.05)
    upright = passes(
        meshes, Surface(base=(1, 1, 1), pictures=Pictures(colour=halves(False)), laying=Laying(by=by, tile_m=4)), view
    )
    colour = upright["surface_colour"]
    # And its lower edge lies at the zero: blue above it, and below it red of the tile underneath.
    assert colour[90:150, 80] == pytest.approx(np.tile([1.0, 0, 0], (60, 1)), abs=0.05)
    assert colour[10:70, 80] == pytest.approx(np.tile([0, 0, 1.0], (60, 1)), abs=0.05)


@pytest.mark.parametrize(("tile", "turn"), [(1.0, 0.0), (0.5, 0.0), (2.0, 90.0), (0.8, 0.0)])
def test_textures_are_at_true_scale(tile, turn):
    """Edges of the picture, measured in the picture of a wall of which 4 m are seen."""
    meshes, view = facing("south")
    surface = Surface(base=(1, 1, 1), pictures=Pictures(colour=halves()), laying=Laying(tile_m=tile, turn_deg=turn))
    colour = passes(meshes, surface, view, 800, 800, 1)["surface_colour"]
    line = colour[:, 400, 0] if turn else colour[400, :, 0]
    edges = np.flatnonzero(np.abs(np.diff(line > 0.5))) * 4 / 800
    assert len(edges) == pytest.approx(4 / (tile / 2), abs=1)
    assert np.diff(edges) == pytest.approx(tile / 2, abs=0.012)


def test_a_shift_moves_the_picture_by_so_many_metres():
    meshes, view = facing("east")
    picture = Pictures(colour=halves())
    lines = []
    for shift in (0.0, 0.25):
        surface = Surface(base=(1, 1, 1), pictures=picture, laying=Laying(tile_m=1, shift_m=(shift, 0)))
        lines.append(passes(meshes, surface, view, 400, 8, 1)["surface_colour"][4, :, 0] > 0.5)
    assert np.array_equal(lines[0][25:], lines[1][:-25])


def test_its_own_uv_is_laid_in_metres():
    """A square of 2 m whose uv goes once round has two metres to the turn; a tile of half a metre lies on it sixteen times."""
    mesh = quad([(-1, 0, -1), (1, 0, -1), (1, 0, 1), (-1, 0, 1)], 0)
    stage = StageData((mesh,), (MeshInstance(0, np.diag([3.0, 3.0, 3.0, 1.0]), name="w"),), (Material(name="wall"),))
    assert uv_metres(stage) == {0: pytest.approx(6.0)}
    assert uv_metres(replace(stage, instances=())) == {}
    flat = replace(mesh, uv=np.zeros_like(mesh.uv))
    assert uv_metres(replace(stage, meshes=(flat,))) == {0: 1.0}
    _, view = facing("south", width_m=2.0)
    surface = Surface(base=(1, 1, 1), pictures=Pictures(colour=halves()), laying=Laying(by="uv", tile_m=0.5))
    colour = passes([mesh], surface, view, 400, 40, 1)["surface_colour"]
    assert np.abs(np.diff(colour[20, :, 0] > 0.5)).sum() == 7


def test_units_lie_at_the_model_s_zero_wherever_the_tracer_has_its_own():
    """A wall with its corner 5 km off shows the bricks it shows at the zero, if 5 km are a whole number of them."""
    brick = Surface(
        base=(0.4, 0.1, 0.05), courses=Courses(length_m=0.24, height_m=0.115, joint_m=0.01, shade=0.5), laying=Laying()
    )
    meshes, view = facing("south")
    near = passes(meshes, brick, view)["surface_colour"]
    far_off = 20_000 * 0.25  # whole units: their shades are drawn by their number, joints alone are compared
    moved = [quad([(far_off + x, 0, z) for x, z in ((-20, -20), (20, -20), (20, 20), (-20, 20))], 0)]
    there = view.model_copy(update={"position": (far_off, -10, 0), "target": (far_off, 0, 0)})
    far = passes(moved, brick, there)["surface_colour"]
    joint = np.array([0.55, 0.52, 0.47])
    alike = (np.abs(near - joint).max(-1) < 0.02) == (np.abs(far - joint).max(-1) < 0.02)
    assert alike.mean() > 0.97


def test_bricks_measured_in_a_picture():
    meshes, view = facing("south", width_m=2.0)
    surface = Surface(
        base=(0.4, 0.1, 0.05), courses=Courses(bond="stack", length_m=0.24, height_m=0.09, joint_m=0.01, shade=0.0)
    )
    colour = passes(meshes, surface, view, 800, 800, 1)["surface_colour"]
    joints = np.abs(colour - [0.55, 0.52, 0.47]).max(-1) < 0.05
    # 0.25 m along and 0.1 m up, to a pixel of 2.5 mm.
    row, column = joints[joints.mean(1).argmin()], joints[:, joints.mean(0).argmin()]
    for line, pitch in ((row, 0.25), (column, 0.1)):
        starts = np.flatnonzero(np.diff(line.astype(int)) == 1) * 2 / 800
        assert np.diff(starts) == pytest.approx(pitch, abs=0.006)
    assert joints.mean() == pytest.approx(1 - 0.24 * 0.09 / (0.25 * 0.1), abs=0.02)


def slope() -> str:
    """A height that rises evenly from left to right, 16 bits."""
    return kept(np.tile(np.linspace(0, 65535, 128).astype(np.uint16), (8, 1)))


@pytest.mark.parametrize("by", ["box", "sides", "uv"])
@pytest.mark.parametrize("height_m", [0.05, 0.2])
def test_a_height_tilts_normals_by_its_slope(by, height_m):
    """A ramp of h on a tile of 1 m leans atan(h) against its rise (128 texels make 127 steps)."""
    meshes, view = facing("south")
    pictures = Pictures(height=slope(), height_m=height_m)
    normal = passes(meshes, Surface(pictures=pictures, laying=Laying(by=by, tile_m=1)), view, samples=1)["normal"]
    lean = np.degrees(np.arctan2(normal[..., 0], -normal[..., 1]))
    assert np.median(lean) == pytest.approx(-np.degrees(np.arctan(height_m * 128 / 127)), abs=0.4)
    turned = Laying(by=by, tile_m=1, turn_deg=90)
    normal = passes(meshes, Surface(pictures=pictures, laying=turned), view, samples=1)["normal"]
    # Turned anticlockwise by a quarter, what rose to the right rises upwards.
    lean = np.degrees(np.arctan2(normal[..., 2], -normal[..., 1]))
    assert np.median(lean) == pytest.approx(-np.degrees(np.arctan(height_m * 128 / 127)), abs=0.4)


def test_joints_lie_back():
    """On both sides of a joint normals lean towards it, and in the midst of units hardly."""
    meshes, view = facing("south", width_m=1.0)
    courses = Courses(bond="stack", length_m=0.24, height_m=5.0, joint_m=0.01, recess_m=0.004, uneven=0.0)
    normal = passes(meshes, Surface(courses=courses, laying=Laying(shift_m=(0.0, 1.0))), view, 800, 16, 1)["normal"]
    lean = normal[8, :, 0]
    x = (np.arange(800) + 0.5) / 800 - 0.5
    within = x - np.round(x / 0.25) * 0.25
    assert (lean[(within > 0.003) & (within < 0.007)] < -0.1).all()
    assert (lean[(within < -0.003) & (within > -0.007)] > 0.1).all()
    assert np.abs(lean[np.abs(within) > 0.02]).max() < 1e-3


@pytest.mark.parametrize("by", ["plan", "box", "uv"])
def test_what_is_cut_out_lets_the_sun_by_in_the_same_place(by):
    """A screen of strips half a metre wide 3 m above a floor, the sun straight above: strips of sun lie below the gaps."""
    pixels = np.zeros((8, 64), np.uint8)
    pixels[:, :32] = 255  # stands where it is white
    screen = quad([(-6, -6, 3), (6, -6, 3), (6, 6, 3), (-6, 6, 3)], 0)
    screen = replace(screen, uv=(screen.points[:, :2] / 12).astype(np.float32) * [1, -1])
    floor = quad([(-20, -20, 0), (20, -20, 0), (20, 20, 0), (-20, 20, 0)], 1)
    surface = Surface(base=(0, 0, 0), gloss=0, pictures=Pictures(opacity=kept(pixels)), laying=Laying(by=by, tile_m=1))
    view = View(
        key="v",
        name="v",
        position=(0, -1e-3, 2.5),
        target=(0, 0, 0),
        format=(1, 1),
        keep_verticals=False,
        focal_mm=36 * 2.5 / 4,
    )
    stage = Stage(surfaces={"wall": surface}, find_openings=False)
    materials = [
        Material(name="wall", base=(0, 0, 0), specular=0),
        Material(name="floor", base=(0.5, 0.5, 0.5), specular=0),
    ]
    project, compiler = project_of(
        [screen, floor], materials, view, settings=stage, sun=Sun(true_to_place=False, altitude_deg=90)
    )
    project = replace(project, asset=FILES.__getitem__)
    film = render(project, "v", "o", 160, 8, 16, compiler=compiler)
    lit = film.groups["sun"][4].sum(-1)
    x = ((np.arange(160) + 0.5) / 160 - 0.5) * 4
    in_sun = np.mod(x, 1) > 0.5
    clear = np.abs(np.mod(x, 0.5) - 0.25) < 0.2
    assert lit[in_sun & clear].min() > 0.6 * lit[in_sun & clear].mean() > 10_000
    assert lit[~in_sun & clear].mean() < 0.01 * lit[in_sun & clear].mean()


def test_three_sides_blend_over_a_ball_without_a_seam():
    ball = sphere(1.0, 0)
    view = View(
        key="v", name="v", position=(5, -4, 3), target=(0, 0, 0), format=(1, 1), focal_mm=90, keep_verticals=False
    )
    rng = np.random.default_rng(2)
    noise = kept(rng.integers(90, 160, (64, 64, 3), dtype=np.uint8))
    surface = Surface(base=(1, 1, 1), pictures=Pictures(colour=noise), laying=Laying(by="sides", tile_m=40))
    smooth = passes([ball], surface, view, 200, 200, 4)["surface_colour"][..., 1]
    # 64 texels over 40 m: over the ball the picture hardly changes, and what little it does must be gradual.
    inner = smooth[70:130, 70:130]
    assert np.abs(np.diff(inner, axis=1)).max() < 0.05


@pytest.mark.parametrize("by", ["box", "sides"])
def test_roughness_is_laid_with_the_rest(by):
    """Its left half is a mirror by its picture: where a tile of 4 m begins, and two metres on, the wall has the roughness said there."""
    pixels = np.full((8, 64), 255, np.uint8)
    pixels[:, :32] = 0
    meshes, view = facing("south")
    pictures = Pictures(roughness=kept(pixels))
    surface = Surface(base=(0.9, 0.9, 0.9), metal=1.0, roughness=1.0, pictures=pictures, laying=Laying(by=by, tile_m=4))
    settings = Stage(surfaces={"wall": surface}, find_openings=False)
    project, compiler = project_of(meshes, [Material(name="wall")], view, settings=settings)
    arrays = scene_of(replace(project, asset=FILES.__getitem__), compiler).arrays

    def alpha_at(x: float) -> float:
        u, v = laying.lay(arrays.materials, 0, 0.0, 0.0, x, 0.0, 1.0, 0.0, -1.0, 0.0)
        vertex = Vertex(x, 0.0, 1.0, 0.0, -1.0, 0.0, 0.0, -1.0, 0.0, 0.0, -1.0, 0.0, 0.0)
        unit = Unit(0, 0, 0.0, 0.0, 0.0, 0.0)
        return paint.detailed(arrays, 0, 0, u, v, unit, Light(0.9, 0.9, 0.9), 1.0, 1.0, vertex, 1e9, 0.0)[3]

    zero = scene_of(replace(project, asset=FILES.__getitem__), compiler).origin[0]
    assert [alpha_at(x - zero) for x in (0.5, 1.5, 4.5, -3.5)] == [0.0] * 4
    assert [alpha_at(x - zero) for x in (2.5, 3.5, -1.5, 6.5)] == [1.0] * 4


def test_other_numbers_of_a_surface_keep_what_was_laid_out():
    """Pictures of surfaces are laid out once; another turn or colour reads none anew."""
    meshes, view = facing("south")
    read: list[str] = []

    def asset(sha: str) -> bytes:
        read.append(sha)
        return FILES[sha]

    surface = Surface(pictures=Pictures(colour=halves()), laying=Laying())
    project, compiler = project_of(meshes, [Material(name="wall")], view, settings=Stage(surfaces={"wall": surface}))
    first = None
    for turn in (0.0, 30.0, 60.0):
        other = surface.model_copy(update={"laying": Laying(turn_deg=turn)})
        told = project.description.model_copy(update={"stage": Stage(surfaces={"wall": other})})
        scene = scene_of(replace(project, description=told, asset=asset), compiler)
        first = scene.arrays.pixels if first is None else first
        assert scene.arrays.pixels is first
    assert len(read) == 1
