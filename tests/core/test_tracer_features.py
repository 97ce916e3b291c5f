"""Flags, masks, lens, film and regions of the tracer, on stages of a few faces."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from tests import small
from valleylight.core.errors import InputError
from valleylight.core.film.cryptomatte import id_bits, layers, mask_of
from valleylight.core.film.exr import read_channels
from valleylight.core.film.store import load_film, save_film
from valleylight.core.project import Sky, Stage, Sun, View
from valleylight.core.project.surface import ObjectFlags
from valleylight.core.stage import Material, Texture
from valleylight.core.trace.arrays.camera import camera_array
from valleylight.core.trace.bands import render_to_exr
from valleylight.core.trace.integrator import path
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.intersect.vertex import camera_ray, iris
from valleylight.core.trace.render import new_film, render
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.openings import find_openings
from valleylight.core.trace.scene.quality import PROOF, TRUE
from valleylight.validation import stages

SUNNY = {"sun": Sun(true_to_place=False, azimuth_deg=180, altitude_deg=90), "sky": Sky(cie_type=12)}
FLOOR = stages.quad(stages.FLOOR_CORNERS, 0)
LID = stages.quad([(-1, -1, 1.5), (-1, 1, 1.5), (1, 1, 1.5), (1, -1, 1.5)], 0)
UNDER = View(key="v", name="v", position=(0, -2.5, 0.8), target=(0, 0, 0), focal_mm=700, keep_verticals=False)
ABOVE = View(key="v", name="v", position=(0, -2.0, 6.0), target=(0, 0, 0), focal_mm=400, keep_verticals=False)


def picture(flag: ObjectFlags | None, view: View, meshes=(FLOOR, LID), materials=(stages.MATT,), samples=32, **more):
    settings = Stage(objects={"lid": flag} if flag else {})
    project, compiler = stages.project_of(
        meshes, materials, view, settings=settings, names=("floor", "lid"), **SUNNY, **more
    )
    return render(project, "v", "o", 12, 12, samples, 1, TRUE, compiler=compiler)


def sun(film) -> float:
    return float(stages.luminance(film, "sun").mean())


def test_an_object_may_cast_no_shadow():
    assert sun(picture(None, UNDER)) < 0.15 * sun(picture(ObjectFlags(casts_shadow=False), UNDER))


def test_an_object_may_be_hidden_from_the_lens_and_still_cast_its_shadow():
    seen, hidden = picture(None, ABOVE), picture(ObjectFlags(seen=False), ABOVE)
    assert seen.passes["position"][..., 2].mean() == pytest.approx(1.5, abs=0.01)
    assert hidden.passes["position"][..., 2].mean() == pytest.approx(0.0, abs=0.01)
    assert sun(hidden) < 0.15 * sun(seen)


def test_an_object_may_send_no_bounced_light():
    """A sunlit white wall beside a shaded floor: without its bounce the floor gets less."""
    wall = stages.quad([(-3, 0.6, 0), (3, 0.6, 0), (3, 0.6, 3), (-3, 0.6, 3)], 0)
    low = {"sun": Sun(true_to_place=False, azimuth_deg=180, altitude_deg=20)}
    white = Material(base=(0.9, 0.9, 0.9), specular=0.0)
    bright = [
        sun(render(project, "v", "o", 12, 12, 128, 1, TRUE, compiler=compiler))
        for flag in (ObjectFlags(), ObjectFlags(sends=False))
        for project, compiler in [
            stages.project_of(
                (FLOOR, wall), (white,), UNDER, names=("floor", "lid"), settings=Stage(objects={"lid": flag}), **low
            )
        ]
    ]
    assert bright[1] < 0.97 * bright[0]


def test_an_object_may_take_no_bounced_light():
    project, compiler = stages.project_of(
        (FLOOR, LID), (stages.MATT,), UNDER, names=("floor", "lid"),
        settings=Stage(objects={"floor": ObjectFlags(receives=False)}), **SUNNY,
    )  # fmt: skip
    assert sun(render(project, "v", "o", 12, 12, 32, 1, TRUE, compiler=compiler)) == 0.0


def test_a_shadow_only_floor_shows_what_lies_behind_darkened_by_the_light_it_misses():
    """In the open it is not seen; under a lid that takes the sun, the picture behind keeps the sky's share of the light."""
    behind = stages.quad([(-40, -40, -1), (40, -40, -1), (40, 40, -1), (-40, 40, -1)], 1)
    glow = Material(base=(0, 0, 0), specular=0.0, emission=(100.0,) * 3)

    def seen(meshes, names):
        project, compiler = stages.project_of(
            meshes, (stages.MATT, glow), UNDER, names=names, settings=Stage(objects={"floor": ObjectFlags(shadow_only=True)}),
            sun=SUNNY["sun"], sky=Sky(cie_type=5),
        )  # fmt: skip
        film = render(project, "v", "o", 12, 12, 256, 1, TRUE, compiler=compiler)
        return float(stages.luminance(film, "surfaces").mean()), stages.scene_of(project, compiler).daylight

    clear, day = seen((FLOOR, behind), ("floor", "behind"))
    assert clear == pytest.approx(100.0, rel=0.01)
    high = stages.quad([(-1, -1, 5), (-1, 1, 5), (1, 1, 5), (1, -1, 5)], 0)
    shaded, _ = seen((FLOOR, behind, high), ("floor", "behind", "lid"))
    sky = day.dome.horizontal_illuminance_lx
    # Configuration factor of the lid: four rectangles of 1 m seen from under a corner, 5 m high (J. R. Howell, B-3).
    lid = 4 * 2 * 0.2 / np.hypot(1, 0.2) * np.arctan(0.2 / np.hypot(1, 0.2)) / (2 * np.pi)
    expected = 100 * sky * (1 - lid) / (sky + day.sun_horizontal_lx)
    assert shaded == pytest.approx(expected, rel=0.06)


def test_a_fixture_with_a_list_lights_only_what_is_on_it():
    fixtures, kinds = stages.lamp((0, 0, 2.5), (0, 0, 0), lights_only=("lid",))
    low = stages.quad([(-1, -1, 0.4), (1, -1, 0.4), (1, 1, 0.4), (-1, 1, 0.4)], 0)
    view = View(key="v", name="v", position=(0, -3, 2.5), target=(0, 0, 0), focal_mm=30, keep_verticals=False)
    project, compiler = stages.project_of(
        (FLOOR, low), (stages.MATT,), view, fixtures, kinds, stages.even(), names=("floor", "lid")
    )
    film = render(project, "v", "o", 24, 24, 16, 1, replace(TRUE, max_bounces=0), compiler=compiler)
    height = film.passes["position"][..., 2]
    light = stages.luminance(film, "G")
    assert light[height > 0.39].min() > 0
    assert light[height < 0.01].max() == 0


def test_alpha_cuts_holes_for_lens_and_light():
    """A screen whose picture is open on one half lets half of the sun on the floor, and the lens through."""
    alpha = np.zeros((8, 8, 3), np.uint8)
    alpha[:, 4:] = 255
    screen = Material(base=(0.5,) * 3, specular=0.0, alpha_texture=0)
    lid = stages.quad([(-1, -1, 1.5), (1, -1, 1.5), (1, 1, 1.5), (-1, 1, 1.5)], 1)
    project, compiler = stages.project_of((FLOOR, lid), (stages.MATT, screen), ABOVE, **SUNNY)
    compiler = Compiler(replace(compiler.stage(project), textures=(Texture(alpha),)))
    film = render(project, "v", "o", 16, 16, 16, 1, TRUE, compiler=compiler)
    height = film.passes["position"][..., 2]
    open_half = height < 0.01
    assert 0.3 < open_half.mean() < 0.7
    light = stages.luminance(film, "sun")
    assert light[open_half].mean() > 0.8 * light[~open_half].mean()  # the sun came through the same holes


def test_windows_are_found_by_their_glass():
    """The pane of the small room, found where the model marks it; glass that stands in the open is no window."""
    project = small.project()
    compiler = Compiler(replace(Compiler().stage(project), openings=()))
    view, occasion = project.description.views[0], project.description.occasions[0]
    scene = compiler.scene(project, view, occasion, 16, 9, 1, TRUE)
    assert scene.arrays.openings.shape[0] == 1
    found = scene.arrays.openings[0]
    assert found[0:3] == pytest.approx([3, -0.1, 1.6], abs=0.01)
    assert found[9:12] == pytest.approx([0, 1, 0], abs=0.01)
    assert found[12] == pytest.approx(2 * 1.6, rel=0.01)
    alone, c = stages.project_of([FLOOR], [stages.MATT], UNDER)
    pane = scene.arrays.triangles[:2].copy()
    pane[:, 0:3] += [0, 0, 1]
    assert find_openings(stages.scene_of(alone, c).arrays.handle, pane) == ()


def test_noise_target_stops_quiet_tiles_and_does_not_depend_on_threads():
    project = small.project()
    films = [
        render(project, "inside", "noon", 96, 64, 64, 3, PROOF, threads=n, noise=0.5) for n in (1, 3)
    ]  # fmt: skip
    counts = films[0].counts
    assert counts.min() < 64
    assert len(np.unique(counts)) > 1
    assert np.array_equal(films[0].light, films[1].light)
    assert np.isfinite(films[0].noise).all()


def test_region_of_interest():
    project = small.project()
    film = render(project, "inside", "noon", 96, 64, 2, 3, TRUE, region=(0.0, 0.0, 0.3, 0.4))
    assert film.counts[:32, :32].min() == 2
    assert film.counts[40:].max() == 0
    with pytest.raises(InputError, match="region"):
        render(project, "inside", "noon", 96, 64, 2, region=(0.5, 0, 0.2, 1))


def test_paths_do_not_depend_on_those_they_go_on_with():
    """Pixels traced one by one, a wave of few paths each, hold what they hold when all are traced together."""
    project = small.project()
    compiler, view, occasion = Compiler(), *_parts(project)
    scene = compiler.scene(project, view, occasion, 24, 16, 3, PROOF)
    whole, single = new_film(scene, view, occasion, 24, 16), new_film(scene, view, occasion, 24, 16)
    work = [rays.new_work(scene.settings, scene.camera, f.light, f.auxiliary, f.masks) for f in (whole, single)]
    together = path.render_tile(scene.arrays, work[0], 0, 0, 24, 16, 0, 4)
    places = [(x, y) for x in range(3, 24, 5) for y in range(2, 16, 5)]
    for x, y in places:
        path.render_tile(scene.arrays, work[1], x, y, x + 1, y + 1, 0, 4)
    assert together > 24 * 16 * 4
    at = tuple(np.array([(y, x) for x, y in places]).T)
    assert single.light[at].max() > 0
    np.testing.assert_allclose(single.light[at], whole.light[at], rtol=1e-5, atol=1e-6)
    np.testing.assert_allclose(single.auxiliary[at], whole.auxiliary[at], rtol=1e-5, atol=1e-5)


def test_a_saved_film_is_gone_on_from(tmp_path):
    """Eight samples at once, or four, saved, and four more: the same film."""
    project = small.project()
    whole = render(project, "inside", "noon", 40, 24, 8, 3, TRUE)
    half = render(project, "inside", "noon", 40, 24, 4, 3, TRUE)
    save_film(half, tmp_path / "film.npz", row=7)
    again = new_film(
        Compiler().scene(project, *_parts(project), 40, 24, 3, TRUE), *_parts(project), 40, 24
    )  # fmt: skip
    assert load_film(tmp_path / "film.npz", again) == {"row": 7}
    render(project, "inside", "noon", 40, 24, 8, 3, TRUE, film=again)
    assert np.array_equal(again.light, whole.light)
    (tmp_path / "bad.npz").write_bytes(b"PK nonsense")
    with pytest.raises(InputError, match=r"bad\.npz"):
        load_film(tmp_path / "bad.npz", again)


def _parts(project):
    return project.description.views[0], project.description.occasions[0]


def test_bands_hold_the_same_pixels(tmp_path):
    project = small.project()
    quality = replace(TRUE, masks=True)
    film = render(project, "inside", "noon", 64, 100, 4, 3, quality)
    assert render_to_exr(project, "inside", "noon", 64, 100, 4, tmp_path / "p.exr", 3, quality, None, band=33)
    header, channels = read_channels(tmp_path / "p.exr")
    assert channels["G"] == pytest.approx(
        film.balanced(project.description.occasions[0].light_levels())[..., 1], rel=1e-5
    )
    assert channels["depth.Z"].shape == (100, 64)
    assert any(key.endswith("/manifest") for key in header)
    assert not render_to_exr(
        project, "inside", "noon", 64, 100, 1, tmp_path / "q.exr", band=33, clean=None, progress=lambda share: False
    )
    assert not (tmp_path / "q.exr").exists()


def test_masks_follow_the_open_specification(tmp_path):
    """MurmurHash3 of "hello" is 0x248bfa47 (published test value); coverage of all objects sums to what was met."""
    assert id_bits("hello") == 0x248BFA47
    project = small.project()
    film = render(project, "inside", "noon", 40, 24, 8, 3, replace(TRUE, masks=True))
    channels, header = layers(film)
    room, ground = mask_of(channels, "CryptoObject", "room"), mask_of(channels, "CryptoObject", "ground")
    assert 0.5 < room.mean() < 1
    whole = sum(mask_of(channels, "CryptoMaterial", m) for m in film.mask_names[1])
    met = film.auxiliary[..., 7] / film.counts
    assert whole == pytest.approx(met, abs=1e-5)
    assert (room + ground).max() <= 1 + 1e-5
    assert any("room" in v for k, v in header.items() if k.endswith("manifest"))


def test_shadow_and_reflection_passes():
    """A lid keeps away from the floor under it the part of a uniform sky that it covers: the configuration factor of a parallel
    rectangle, J. R. Howell, A Catalog of Radiation Heat Transfer Configuration Factors, B-4."""
    project, compiler = stages.project_of((FLOOR, LID), (stages.MATT,), UNDER, sun=SUNNY["sun"], sky=Sky(cie_type=5))
    film = render(project, "v", "o", 8, 8, 256, 1, TRUE, compiler=compiler)
    side = 1 / 1.5
    root = np.sqrt(1 + side * side)
    corner = 2 * side / root * np.arctan(side / root) / (2 * np.pi)
    assert film.passes["shadow"].mean() == pytest.approx(4 * corner, abs=0.01)
    assert film.passes["reflection"].max() == 0
    mirror, c = stages.project_of([FLOOR], [Material(metal=1.0, base=(0.9,) * 3, roughness=0.02)], UNDER, **SUNNY)
    shiny = render(mirror, "v", "o", 8, 8, 32, 1, TRUE, compiler=c)
    assert shiny.passes["reflection"].mean() > 0.5 * shiny.balanced().mean()


def _alpha(meshes, material, view) -> np.ndarray:
    project, compiler = stages.project_of(meshes, (material,), view, **SUNNY)
    return render(project, "v", "o", 16, 16, 64, 1, TRUE, compiler=compiler).passes["alpha"]


def test_alpha_is_the_share_of_the_sky_that_the_scene_hides():
    """A wall that ends at the height of the lens hides the lower half. A clear pane seen straight on hides what it reflects:
    2 R / (1 + R) of all its inner reflections, R = ((n - 1) / (n + 1))^2 (Fresnel; E. Hecht, Optics, section 4.6 and 9.6). A mirror
    hides all, though it shows the sky."""
    level = View(key="v", name="v", position=(0, -4, 1), target=(0, 0, 1), focal_mm=36)
    half = _alpha([stages.quad([(-50, 0, -50), (50, 0, -50), (50, 0, 1), (-50, 0, 1)], 0)], stages.MATT, level)
    assert half[:8].max() < 0.02
    assert half[8:].min() > 0.98
    assert half.mean() == pytest.approx(0.5, abs=0.01)
    whole = [stages.quad([(-9, 0, -9), (9, 0, -9), (9, 0, 9), (-9, 0, 9)], 0)]
    straight = level.model_copy(update={"focal_mm": 900.0})
    for index in (1.3, 1.5, 1.8):
        clear = Material(base=(1.0,) * 3, roughness=0.0, thin_glass=True, index=index)
        reflected = ((index - 1) / (index + 1)) ** 2
        assert _alpha(whole, clear, straight).mean() == pytest.approx(2 * reflected / (1 + reflected), abs=0.02)
    mirror = Material(base=(0.9,) * 3, roughness=0.0, metal=1.0)
    assert _alpha(whole, mirror, straight).min() == 1.0
    assert (
        _alpha([stages.quad([(-9, -9, -9), (9, -9, -9), (9, 9, -9), (-9, 9, -9)], 0)], stages.MATT, straight).max()
        == 0.0
    )


def test_diaphragm_is_a_polygon():
    points = np.array([iris(6, 0.3, u, v) for u in np.linspace(0.005, 0.995, 60) for v in np.linspace(0, 1, 40)])
    radius = np.linalg.norm(points, axis=1)
    assert radius.max() == pytest.approx(1.0, abs=0.02)
    angle = (np.arctan2(points[:, 1], points[:, 0]) - 0.3) % (np.pi / 3) - np.pi / 6
    assert (radius * np.cos(angle)).max() <= np.cos(np.pi / 6) + 1e-6


def test_a_tilted_lens_leans_the_plane_of_focus():
    """All rays of a film position meet in one point of the leaning plane, which passes the hinge line at f / sin(tilt)
    below the lens (Scheimpflug, hinge rule; R. Kingslake, Optics in Photography, 1992)."""
    view = View(key="v", name="v", position=(0, 0, 2), target=(0, 5, 2), focal_mm=50, focus_m=5.0, tilt_deg=6.0)
    record = camera_array(view, 2.0, 1.5)
    hinge = 0.05 / np.sin(np.radians(6.0))
    for y in (300.0, 700.0):
        rows = [
            np.array(camera_ray(record, 640.0, y, 1280, 853, u, v, 0.0))
            for u, v in ((0.5, 0.5), (0.1, 0.9), (0.9, 0.2))
        ]
        (o1, d1), (o2, d2) = (rows[0][:3], rows[0][3:]), (rows[1][:3], rows[1][3:])
        a, b = np.linalg.lstsq(np.stack([d1, -d2], 1), o2 - o1, rcond=None)[0]
        meeting = o1 + a * d1
        assert meeting == pytest.approx(o2 + b * d2, abs=1e-6)
        # On the plane through the focus point (0, 5, 2) and the hinge line (y 0, z 2 - hinge).
        assert (meeting[2] - (2 - hinge)) * 5 == pytest.approx(hinge * meeting[1], rel=1e-4)


def test_a_moving_lens_blurs():
    sharp = View(key="v", name="v", position=(0, -5, 0), target=(0, 0, 0), focal_mm=50)
    bar = stages.quad([(-0.2, 0, -3), (0.2, 0, -3), (0.2, 0, 3), (-0.2, 0, 3)], 0)
    glow = Material(base=(0, 0, 0), specular=0.0, emission=(100.0,) * 3)
    edges = []
    for view in (sharp, sharp.model_copy(update={"moves_to": (0.5, -5, 0)})):
        project, compiler = stages.project_of([bar], [glow], view)
        light = stages.luminance(render(project, "v", "o", 64, 8, 32, 1, TRUE, compiler=compiler), "surfaces")[4]
        edges.append(((light > 5) & (light < 95)).sum())
    assert edges[1] > edges[0] + 3


def test_ray_kinds_are_told_apart():
    assert rays.SEEN == rays.BY_LENS | rays.BY_MIRROR | rays.BY_BOUNCE
    assert not rays.SEEN & (rays.OPAQUE | rays.BODY | rays.PASSES)
