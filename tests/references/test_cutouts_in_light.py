"""Cut-outs against the tracer: a board laid in as a cut-out looks, and casts its shadow, as the same board standing on the stage does."""

from __future__ import annotations

import io
import math
import tempfile
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from tests.small import quad
from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.compose.ground import seen_of_film
from valleylight.core.compose.lay import CLEAR, laid
from valleylight.core.compose.light import Lights, Veil, sunlight_of, veil_of
from valleylight.core.compose.sprite import sprite, sprite_of_picture
from valleylight.core.film.denoise import remove_noise
from valleylight.core.film.exr import read_exr, write_exr
from valleylight.core.finish.seen import seen_of
from valleylight.core.measure import illuminance
from valleylight.core.preview.studio import studio
from valleylight.core.project import Sky, Sun, View
from valleylight.core.project.air import Air
from valleylight.core.project.cutout import CutOut
from valleylight.core.stage import Material, MeshInstance, StageData
from valleylight.core.trace.render import render
from valleylight.core.trace.scene.quality import TRUE

HEIGHT, HALF = 1.7, 0.3
GROUND = Material(name="ground", base=(0.4, 0.4, 0.4), specular=0.0)
BOARD = Material(name="board", base=(0.5, 0.5, 0.5), specular=0.0)
VIEW = View(key="v", name="v", position=(0, -7, 3.5), target=(0, 0, 0.3), focal_mm=26, keep_verticals=False)
SIZE = (320, 180)


def opaque(rows: int = 340, columns: int = 120):
    """A picture that is opaque all over, as wide to its height as the board."""
    out = io.BytesIO()
    Image.fromarray(np.full((rows, columns, 4), 255, np.uint8)).save(out, "PNG")
    return sprite_of_picture(out.getvalue())


def flat():
    """The same, facing straight out of its plane, in the board's colour."""
    normal = np.zeros((340, 120, 3), np.float32)
    normal[..., 2] = 1
    return sprite(np.full((340, 120, 3), 0.5, np.float32), np.ones((340, 120), np.float32), normal)


def stage(board_faces: tuple[float, float] | None, colour: Material = BOARD, more=()) -> StageData:
    """Level ground, and a board on it that faces a direction in plan."""
    meshes = [quad([(-40, -40, 0), (40, -40, 0), (40, 40, 0), (-40, 40, 0)], 0), *more]
    if board_faces is not None:
        x, y = np.array(board_faces) / np.hypot(*board_faces)
        corners = [(-y * s * HALF, x * s * HALF, z) for s, z in ((-1, 0), (1, 0), (1, HEIGHT), (-1, HEIGHT))]
        meshes.append(quad([tuple(map(float, c)) for c in corners], 1))
    instances = tuple(MeshInstance(k, np.eye(4), name=f"m{k}") for k in range(len(meshes)))
    return StageData(tuple(meshes), instances, (GROUND, colour), ())


def shown(board_faces, samples: int = 64, view: View = VIEW, more=(), **occasion):
    """Film, scene and project of the stage."""
    project, compiler = studio(stage(board_faces, more=more), view, **occasion)
    film = render(project, "v", "o", *SIZE, samples, compiler=compiler)
    remove_noise(film, "balanced")
    return film, compiler.scene(project, view, project.description.occasions[0], *SIZE, 1, TRUE), project


def lay(film, scene, looks, veil: Veil = CLEAR, **more):
    sun = sunlight_of(scene)
    who = CutOut(
        **{
            "key": "a",
            "name": "a",
            "view": "v",
            "picture": "0" * 64,
            "place": (0, 0, 0),
            "height_m": HEIGHT,
            "contact": 0.0,
            **more,
        }
    )
    seen = seen_of_film(film, scene.camera, scene.origin, sun)
    return laid(seen, [who], Lights().at(scene, (who,), 256), lambda c, towards: looks, sun, veil)[0]


def luminance(film, levels=None) -> np.ndarray:
    return film.balanced(levels or {}) @ LUMINANCE.astype(np.float32)


def ground_beside(film, *patches) -> np.ndarray:
    """Pixels of the ground that no board and no card covers."""
    free = film.passes["normal"][..., 2] > 0.99
    for p in patches:
        free[p.top : p.top + p.alpha.shape[0], p.left : p.left + p.alpha.shape[1]] = False
    return free


SUNNY = {"sky": Sky(model="cie", cie_type=12)}


@pytest.mark.parametrize(
    ("azimuth", "altitude", "size"), [(230, 35, 1.0), (150, 50, 1.0), (255, 18, 1.0), (215, 30, 12.0)]
)
def test_the_cast_shadow_is_that_of_a_board_turned_to_the_sun(azimuth, altitude, size):
    sun = Sun(true_to_place=False, azimuth_deg=azimuth, altitude_deg=altitude, size=size)
    bare, scene, _ = shown(None, sun=sun, **SUNNY)
    towards = sunlight_of(scene).towards
    stood, _, _ = shown((towards[0], towards[1]), sun=sun, **SUNNY)
    made = lay(bare, scene, opaque())
    composed = made.on_film(bare)
    free = ground_beside(bare, *made.patches) & ground_beside(stood)
    want, got = luminance(stood)[free], luminance(composed)[free]
    open_ground = float(np.median(luminance(bare)[free]))
    shaded = want < 0.6 * open_ground
    assert shaded.sum() > 60
    # Deep in the shadow and in the open the same light; between them the same edge to a pixel.
    assert got[shaded].mean() == pytest.approx(want[shaded].mean(), rel=0.12)
    assert np.abs(got - want).mean() < 0.02 * open_ground
    assert (np.abs(got - want) > 0.25 * open_ground).mean() < 0.012


def kept_along(made, film, scene, origin, way, reach):
    """What is left of the sun along a line of the ground."""
    from valleylight.core.trace.arrays.camera import project_point

    values = []
    for t in reach:
        x, y = project_point(scene.camera, np.array([*(np.array(origin) + t * np.array(way)), 0.0]))
        values.append(
            made.kept[film.group_names.index("sun")][
                min(int(y * SIZE[1]), SIZE[1] - 1), min(int(x * SIZE[0]), SIZE[0] - 1)
            ]
        )
    return np.array(values)


@pytest.mark.parametrize("altitude", [20, 40, 60])
def test_length_and_penumbra_follow_the_closed_forms(altitude):
    """The tip lies h / tan(a) from the feet; the edge there is blurred over the sun's disc: 2 h tan(r) / sin(a)^2 along the ground."""
    sun = Sun(true_to_place=False, azimuth_deg=240, altitude_deg=altitude, size=8.0)
    film, scene, _ = shown(
        None, 16, VIEW.model_copy(update={"position": (0, -2, 12), "target": (0, 0.1, 0)}), sun=sun, **SUNNY
    )
    made = lay(film, scene, opaque(), cast=1.0)
    s = sunlight_of(scene)
    way = -s.towards[:2] / np.hypot(*s.towards[:2])
    length = HEIGHT / math.tan(math.radians(altitude))
    blur = 2 * HEIGHT * math.tan(s.radius) / math.sin(math.radians(altitude)) ** 2
    at = np.linspace(0.2 * length, length + blur, 300)
    kept = kept_along(made, film, scene, (0, 0), way, at)
    deep, free = kept[at < length - blur].min(), kept[-1]
    half = at[np.argmax(kept > (deep + free) / 2)]
    assert half == pytest.approx(length, abs=0.12 * length + 0.05)
    rising = at[(kept > deep + 0.15 * (free - deep)) & (kept < deep + 0.85 * (free - deep))]
    # Of the share of a disc behind an edge the middle seventy percent lie within 0.52 of its width.
    assert np.ptp(rising) == pytest.approx(0.52 * blur, abs=0.25 * blur + 0.1)


@pytest.mark.parametrize("share", [0.0, 0.3, 1.0])
def test_the_strength_of_the_cast_shadow_is_a_share_of_what_its_light_says(share):
    sun = Sun(true_to_place=False, azimuth_deg=240, altitude_deg=40)
    film, scene, _ = shown(None, 16, sun=sun, **SUNNY)
    full, made = (lay(film, scene, opaque(), cast=c).kept[film.group_names.index("sun")] for c in (1.0, share))
    there = full < 0.3
    assert there.sum() > 50
    assert (1 - made[there]).mean() == pytest.approx(share * (1 - full[there]).mean(), abs=0.03)


@pytest.mark.parametrize("distance", [0.3, 0.8, 2.0])
def test_the_sky_that_someone_hides_is_the_configuration_factor(distance):
    """Before the middle of a black board under a sky of even luminance: E / E0 = 1 - F (Howell, element to a rectangle at right angles),
    by the tracer and as it is laid."""
    sky = {"sky": Sky(model="cie", cie_type=5), "sun": Sun(true_to_place=False, altitude_deg=-1.0)}
    black = Material(name="board", base=(0, 0, 0), specular=0.0)
    lux = []
    for faces in (None, (0.0, -1.0)):
        project, compiler = studio(stage(faces, black), VIEW, **sky)
        lux.append(float(illuminance(project, "o", [(0, -distance, 0)], [(0, 0, 1)], 4096, compiler)[0]))
    c, b, h = distance, HALF, HEIGHT
    factor = (math.atan(b / c) - c / math.hypot(h, c) * math.atan(b / math.hypot(h, c))) / math.pi
    assert 1 - lux[1] / lux[0] == pytest.approx(factor, abs=0.02)
    film, scene, _ = shown(None, 4, VIEW.model_copy(update={"position": (0, -2, 14), "target": (0, 0.1, 0)}), **sky)
    kept = lay(film, scene, opaque()).kept[film.group_names.index("sky")]
    from valleylight.core.trace.arrays.camera import project_point

    x, y = project_point(scene.camera, np.array([0.0, -distance, 0.0]))
    assert 1 - kept[int(y * SIZE[1]), int(x * SIZE[0])] == pytest.approx(factor, abs=0.03)


def test_under_a_covered_sky_the_ground_about_the_feet_is_a_third_darker():
    """Thirty to forty percent close to the feet, nothing a few paces off (common practice)."""
    c, b, h = 0.12, 0.22, 1.7
    factor = (math.atan(b / c) - c / math.hypot(h, c) * math.atan(b / math.hypot(h, c))) / math.pi
    assert 0.3 < factor < 0.4


@pytest.mark.parametrize("azimuth", [150.0, 180.0, 300.0])
def test_a_card_is_as_bright_as_the_same_board_on_the_stage(azimuth):
    sun = Sun(true_to_place=False, azimuth_deg=azimuth, altitude_deg=35)
    bare, scene, _ = shown(None, 32, sun=sun, **SUNNY)
    stood, _, _ = shown((0.0, -1.0), 64, sun=sun, **SUNNY)
    made = lay(bare, scene, flat())
    composed = made.on_film(bare)
    [patch] = [p for p in made.patches if p.depth is not None]
    inside = np.zeros(SIZE[::-1], bool)
    inside[patch.top : patch.top + patch.alpha.shape[0], patch.left : patch.left + patch.alpha.shape[1]] = (
        patch.alpha > 0.999
    )
    inside &= stood.passes["normal"][..., 1] < -0.99
    assert inside.sum() > 300
    want, got = luminance(stood)[inside], luminance(composed)[inside]
    assert got.mean() == pytest.approx(want.mean(), rel=0.08)
    depth = composed.passes["depth"][inside]
    assert np.abs(depth - stood.passes["depth"][inside]).max() < 0.03


def test_what_stands_nearer_hides_it_and_masks_tell_where_it_is():
    post = quad([(-1.0, -1.5, 0), (0.0, -1.5, 0), (0.0, -1.5, 1.2), (-1.0, -1.5, 1.2)], 0)
    sun = Sun(true_to_place=False, azimuth_deg=200, altitude_deg=45)
    film, scene, _ = shown(None, 16, more=(post,), sun=sun, **SUNNY)
    made = lay(film, scene, flat())
    [patch] = [p for p in made.patches if p.depth is not None]
    near = film.passes["depth"][
        patch.top : patch.top + patch.alpha.shape[0], patch.left : patch.left + patch.alpha.shape[1]
    ]
    wall = (
        film.passes["normal"][
            patch.top : patch.top + patch.alpha.shape[0], patch.left : patch.left + patch.alpha.shape[1], 1
        ]
        < -0.9
    )
    assert wall.sum() > 40
    assert patch.alpha[wall].max() == 0
    assert patch.alpha.max() == pytest.approx(1, abs=1e-3)
    assert np.isfinite(near[patch.alpha > 0.5]).all()


def test_a_level_mirror_shows_it_as_it_shows_a_board():
    """Still water between lens and board: the reflection lies where the tracer has it, as bright."""
    water = Material(name="water", base=(0.01, 0.01, 0.01), roughness=0.0, index=1.33)
    pond = quad([(-3, -4, 0.005), (3, -4, 0.005), (3, -0.4, 0.005), (-3, -0.4, 0.005)], 2)
    low = View(key="v", name="v", position=(0, -7, 1.2), target=(0, 0, 0.2), focal_mm=30, keep_verticals=False)
    sun = Sun(true_to_place=False, azimuth_deg=170, altitude_deg=40)
    films, scene = [], None
    for faces in (None, (0.0, -1.0)):
        made = stage(faces, more=(pond,))
        project, compiler = studio(replace(made, materials=(*made.materials, water)), low, sun=sun, **SUNNY)
        film = render(project, "v", "o", *SIZE, 64, compiler=compiler)
        remove_noise(film, "balanced")
        films.append(film)
        scene = scene or compiler.scene(project, low, project.description.occasions[0], *SIZE, 1, TRUE)
    bare, stood = films
    laid_ = lay(bare, scene, flat())
    [mirrored] = [p for p in laid_.patches if p.depth is None]
    assert (mirrored.alpha > 0.9).sum() > 100
    there = np.zeros(SIZE[::-1], bool)
    there[
        mirrored.top : mirrored.top + mirrored.alpha.shape[0], mirrored.left : mirrored.left + mirrored.alpha.shape[1]
    ] = mirrored.alpha > 0.99
    want, got, before = (luminance(f)[there].mean() for f in (stood, laid_.on_film(bare), bare))
    assert abs(want - before) > 0.1 * before  # it is seen in the water
    assert got == pytest.approx(want, rel=0.12)


def test_one_that_reaches_behind_the_lens_is_seen_as_far_as_it_lies_before_it():
    """Wide and aslant: its near edge lies behind the lens, its far one fills a side of the picture."""
    sun = Sun(true_to_place=False, azimuth_deg=200, altitude_deg=45)
    film, scene, _ = shown(None, 4, sun=sun, **SUNNY)
    wide = lay(film, scene, opaque(340, 3400), place=(3.0, -6.6, 0.0), height_m=3.0)
    behind = lay(film, scene, opaque(), place=(0.0, -9.0, 0.0))
    assert behind.patches == ()
    [patch] = [p for p in wide.patches if p.depth is not None]
    assert patch.alpha.shape == SIZE[::-1] and 0.02 < (patch.alpha > 0.9).mean() < 1
    assert np.isfinite(patch.light).all() and np.isfinite(wide.on_film(film).balanced()).all()


def test_limits_find_cut_outs_by_their_name():
    sun = Sun(true_to_place=False, azimuth_deg=200, altitude_deg=45)
    project, compiler = studio(stage(None), VIEW, sun=sun, **SUNNY)
    film = render(project, "v", "o", *SIZE, 4, compiler=compiler, quality=replace(TRUE, masks=True))
    scene = compiler.scene(project, VIEW, project.description.occasions[0], *SIZE, 1, TRUE)
    made = lay(film, scene, flat())
    [patch] = [p for p in made.patches if p.depth is not None]
    composed = made.on_film(film)
    share = seen_of(composed).share_of_objects(["Cut-outs"], SIZE[::-1])
    covered = np.zeros(SIZE[::-1], np.float32)
    covered[patch.top : patch.top + patch.alpha.shape[0], patch.left : patch.left + patch.alpha.shape[1]] = patch.alpha
    assert (share[covered > 0.6] == 1).all() and (share[covered < 0.4] == 0).all() and (covered > 0.6).sum() > 300
    assert "Cut-outs" not in film.mask_names[0] and seen_of(film).share_of_objects(["Cut-outs"], SIZE[::-1]).max() == 0
    with tempfile.TemporaryDirectory() as folder:
        write_exr(composed, Path(folder, "film.exr"))
        back = read_exr(Path(folder, "film.exr"))
    assert np.abs(seen_of(back).share_of_objects(["Cut-outs"], SIZE[::-1]) - share).max() < 0.01
    assert back.settings["camera"] == pytest.approx(scene.camera.tolist())


def test_levels_reach_cut_outs_and_a_sum_is_what_the_groups_make():
    sun = Sun(true_to_place=False, azimuth_deg=220, altitude_deg=40)
    film, scene, _ = shown(None, 48, sun=sun, **SUNNY)
    made = lay(film, scene, opaque(), contact=0.7)
    composed = made.on_film(film)
    for levels in ({}, {"sun": 0.25}, {"sun": 0.0, "sky": 2.0}, {"sun": (1.0, 0.5, 0.2)}):
        want = composed.balanced(levels)
        got = made.on_sum(film.balanced(levels), film, levels)
        assert np.abs(got - want).max() < 0.04 * want.max()
    assert (
        film.balanced() == shown(None, 48, sun=sun, **SUNNY)[0].balanced()
    ).mean() > 0.99  # the film itself is left alone


def test_fog_before_a_card_takes_of_it_what_bouguer_says():
    sun = Sun(true_to_place=False, azimuth_deg=220, altitude_deg=40)
    film, scene, _ = shown(None, 8, sun=sun, **SUNNY)
    clear, fogged = (lay(film, scene, flat(), veil).patches[-1] for veil in (CLEAR, Veil(fog_path_m=10)))
    whole = clear.alpha > 0.999
    assert (fogged.alpha / clear.alpha)[whole] == pytest.approx(np.exp(-clear.depth[whole] / 10), rel=1e-3)
    assert (fogged.light[whole] / clear.light[whole]).mean() == pytest.approx(
        float(np.exp(-clear.depth[whole] / 10).mean()), rel=1e-3
    )


@pytest.mark.parametrize("distance", [400.0, 3000.0])
def test_far_cards_fade_into_the_horizon_as_far_boards_do(distance):
    """L = L0 e^(-b d) + L_horizon (1 - e^(-b d)) (Koschmieder 1924), by the tracer's own air."""
    view = View(key="v", name="v", position=(0, -distance, 1.0), target=(0, 0, 1.0), focal_mm=1200, film_width_mm=4)
    sun = Sun(true_to_place=False, azimuth_deg=160, altitude_deg=40)
    lit, through = [], []
    for hazy in (False, True):
        project, compiler = studio(stage((0.0, -1.0)), view, sun=sun, **SUNNY)
        sky = project.description.occasions[0].sky.model_copy(update={"haze": hazy})
        o = project.description.occasions[0].model_copy(update={"sky": sky})
        scene = compiler.scene(project, view, o, *SIZE, 1, TRUE)
        film = render(project, view, o, *SIZE, 16, compiler=compiler)
        veil = veil_of(scene, Air())
        assert (veil.haze is not None) == hazy
        middle = (slice(87, 93), slice(156, 164))
        lit.append(film.balanced()[middle].mean((0, 1)))
        through.append(veil.clear_air(np.array([0.0, distance, 0.0])))
    share, added = through[1]
    assert (share < 1).all() and (share > 0).all() and (added > 0).all()
    assert lit[1] == pytest.approx(lit[0] * share + added, rel=0.02)
    assert veil_of(scene, Air(on=True, free_path_m=30)).fog_path_m == 30
    assert veil_of(scene, Air(on=True, extent="box")).fog_path_m is None


def test_what_is_laid_with_a_memory_is_what_is_laid_anew():
    """Carried, changed, taken away, added, and in another order of standing: as if all were laid from nothing."""
    film, scene, _ = shown(None, 8, sun=Sun(true_to_place=False, azimuth_deg=230, altitude_deg=35), **SUNNY)
    sun = sunlight_of(scene)
    seen = seen_of_film(film, scene.camera, scene.origin, sun)

    def who(key: str, x: float, **more) -> CutOut:
        return CutOut(
            **{
                "key": key,
                "name": key,
                "view": "v",
                "picture": "0" * 64,
                "place": (x, 0.2 * x, 0),
                "height_m": HEIGHT,
                **more,
            }
        )

    a, b, c = who("a", -1.0), who("b", 0.1), who("c", 1.2)
    steps = [
        (a, b, c), (who("a", -0.6), b, c), (who("a", -0.2), b, c), (a, who("b", 0.1, contact=0.1), c), (c, a), (c, a, who("d", 0.4, cast=0.3)), (b,),
    ]  # fmt: skip
    lights, memory, gains = Lights(), None, {"sun": 0.7, "sky": 1.3}
    linear = film.balanced(gains)
    for step in steps:
        there = lights.at(scene, step, 32)
        quick, memory = laid(seen, step, there, lambda who, towards: opaque_sprite, sun, CLEAR, memory)
        anew, _ = laid(seen, step, there, lambda who, towards: opaque_sprite, sun, CLEAR)
        for one, other in zip(quick.kept, anew.kept, strict=True):
            assert np.abs(one - other).max() < 1e-5
        assert [(p.left, p.top) for p in quick.patches] == [(p.left, p.top) for p in anew.patches]
        assert np.allclose(quick.on_sum(linear, film, gains), anew.on_sum(linear, film, gains), rtol=1e-4)
    assert (
        np.abs(quick.on_sum(linear, film, {"sun": 0.0}) - anew.on_sum(linear, film, {"sun": 0.0})).max() < 1e-3
    )  # other levels, other shares
    another = seen_of_film(shown(None, 4)[0], scene.camera, scene.origin, None)
    assert memory.of(another).patches == {} and memory.of(seen) is memory


opaque_sprite = opaque()
