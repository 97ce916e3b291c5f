"""Drawn treatments: lines where surfaces end, washes by the published model, strokes that follow walls, one flat tone."""

from __future__ import annotations

import colorsys

import numpy as np
import pytest

from valleylight.core.colour.rgb import srgb_encode
from valleylight.core.treatments.flat_tone import FlatTone
from valleylight.core.treatments.gouache import Gouache
from valleylight.core.treatments.hatching import Hatching
from valleylight.core.treatments.ink_lines import InkLines
from valleylight.core.treatments.run import treated
from valleylight.core.treatments.seen import LensSeen, Seen
from valleylight.core.treatments.unrest import noise, paper, unsteady
from valleylight.core.treatments.watercolour import WHITE, Watercolour

SIZE = (180, 320)
AXES = ((0.0, 1.0, 0.0), (1.0, 0.0, 0.0), (0.0, 0.0, 1.0))  # ahead, to the right, up


def seen_of_plane(normal, distance: float, box: bool = False) -> Seen:
    """A plane through (0, distance, 0) seen by a lens that looks along +Y, with a box's face before its middle."""
    lens = LensSeen()
    across, up = lens.tangents(SIZE)
    ways = np.stack(np.broadcast_arrays(across[None], np.ones(1), up[:, None]), -1)
    t = distance * normal[1] / (ways @ np.array(normal))
    depth = (t * np.linalg.norm(ways, axis=-1)).astype(np.float32)
    normals = np.broadcast_to(np.array(normal, np.float32), (*SIZE, 3)).copy()
    depth[t <= 0] = np.inf
    normals[t <= 0] = 0
    if box:
        depth[60:120, 120:200] *= 0.5
    return Seen(
        lens=lens, passes={"depth": depth, "normal": normals, "position": np.zeros((*SIZE, 3), np.float32)}, axes=AXES
    )


def grey(value: float = 0.4) -> np.ndarray:
    return np.full((*SIZE, 3), value, np.float32)


@pytest.mark.parametrize("normal", [(0.0, -1.0, 0.0), (0.6, -0.8, 0.0), (0.0, -0.7, 0.7)])
def test_a_plane_has_no_lines_however_it_slants(normal):
    """Inverse distance is linear over the picture of a plane (Saito and Takahashi 1990)."""
    seen = seen_of_plane(normal, 8.0)
    far = seen.passes["depth"]
    open_ = np.isfinite(far).all()
    made = treated(grey(), (InkLines(unrest=0),), 1.0, seen)
    inside = made[20:-20, 20:-20] if open_ else made[-30:-5, 20:-20]
    assert np.allclose(inside, 0.4, atol=0.01)


def test_lines_lie_where_a_box_ends_and_nowhere_else():
    seen = seen_of_plane((0.0, -1.0, 0.0), 6.0, box=True)
    made = treated(grey(), (InkLines(unrest=0, ink=1.0, width=4.0),), 1.0, seen)[..., 0]
    assert made[90, 118:123].min() < 0.2 and made[58:63, 160].min() < 0.2
    assert np.allclose(made[75:105, 135:185], 0.4, atol=0.01) and np.allclose(made[20:40, 20:100], 0.4, atol=0.01)
    drawn = (made < 0.25).mean()
    thick = treated(grey(), (InkLines(unrest=0, ink=1.0, width=12.0),), 1.0, seen)[..., 0]
    assert 0.003 < drawn < 0.05 and (thick < 0.25).mean() > 1.5 * drawn
    on_paper = treated(grey(), (InkLines(unrest=0, paper=1.0),), 1.0, seen)
    assert np.allclose(on_paper[75:105, 135:185], 0.93, atol=0.01)
    assert (treated(grey(), (InkLines(ink=0.0),), 1.0, seen) == grey()).all()
    edged = seen_of_plane((0.0, -1.0, 0.0), 6.0)
    edged.passes["depth"][90:] *= 0.5  # a line right across
    framed = treated(grey(), (InkLines(unrest=0, ink=1.0, width=4.0, margin=12.0),), 1.0, edged)[..., 0]
    assert framed[88:92, 160].min() < 0.2 and np.allclose(framed[:, :4], 0.4) and np.allclose(framed[:, -4:], 0.4)


def test_what_knows_no_distances_is_left_without_lines():
    assert (treated(grey(), (InkLines(),), 1.0) == grey()).all()


@pytest.mark.parametrize("value", [0.1, 0.4, 0.8])
def test_a_wash_of_density_one_is_its_own_colour(value):
    """C' = C (1 - (1 - C)(d - 1)) (Bousseau et al. 2006) leaves C where d is 1: plain paper, no edges, no flow."""
    plain = Watercolour(abstraction=0, thinned=0, edges=0, granulation=0, flow=0, backruns=0, sky=0, margin=0)
    made = treated(grey(value), (plain,), 1.0)
    assert np.allclose(made, value * WHITE, rtol=0.02)


def test_pigment_gathers_at_edges_and_in_the_tooth_of_the_paper():
    picture = grey(0.5)
    picture[:, 160:] = 0.2
    quiet = {
        "abstraction": 0.0,
        "thinned": 0.0,
        "granulation": 0.0,
        "flow": 0.0,
        "backruns": 0.0,
        "sky": 0.0,
        "margin": 0.0,
    }
    sharp = treated(picture, (Watercolour(**quiet, edges=2.0),), 1.0)[90, :, 0]
    assert sharp[155:165].min() < 0.97 * min(sharp[20:100].mean(), sharp[220:300].mean())
    grained = treated(grey(0.4), (Watercolour(**{**quiet, "granulation": 1.0}, edges=0.0),), 1.0)[..., 0]
    assert grained.std() > 0.01
    # Where the paper is low more pigment lies: darker.
    assert np.corrcoef(grained.ravel(), paper(SIZE).ravel())[0, 1] > 0.9


def test_backruns_move_pigment_and_lose_none():
    """Pools are lighter, their rims darker, and as much pigment lies on the paper as before."""
    flat = {"edges": 0, "granulation": 0, "flow": 0, "sky": 0, "margin": 0, "thinned": 0}
    still = treated(grey(0.3), (Watercolour(backruns=0, **flat),), 1.0)[..., 1] / WHITE[1]
    run = treated(grey(0.3), (Watercolour(backruns=1, **flat),), 1.0)[..., 1] / WHITE[1]
    assert np.ptp(still) < 1e-3 and run.max() > still.mean() * 1.2 and run.min() < still.mean() * 0.8
    density = 1 + (1 - (run / still) ** (1 / 2.2)) / (1 - 0.3 ** (1 / 2.2))  # C' = C (1 - (1 - C)(d - 1)), undone
    assert density.mean() == pytest.approx(1.0, abs=0.02)
    half = treated(grey(0.3), (Watercolour(backruns=0.5, **flat),), 1.0)[..., 1] / WHITE[1]
    assert np.abs(half - still).mean() < np.abs(run - still).mean()


@pytest.mark.parametrize("tones", [2, 4, 7])
def test_gouache_has_so_many_tones_evenly_apart_in_lightness(tones):
    """A ramp becomes steps of L* (CIE 15:2018) from the darkest to white."""
    ramp = np.repeat(np.linspace(0, 1, SIZE[1], dtype=np.float32)[None], SIZE[0], 0)
    picture = np.repeat(ramp[..., None], 3, -1)
    made = treated(picture, (Gouache(tones=tones, flat=0, soft=0, chalk=0, brush=0, margin=0),), 1.0)[90, :, 1]
    lightness = np.where(made > (6 / 29) ** 3, 1.16 * np.cbrt(made) - 0.16, made * (29 / 3) ** 3 / 100)
    values, counts = np.unique(np.round(lightness, 3), return_counts=True)
    steps = values[counts >= 3]
    assert len(steps) == tones
    assert steps == pytest.approx(np.linspace(0.12, 1, tones), abs=0.01)


def test_gouache_keeps_hue_lies_within_its_margin_and_has_brushed_edges():
    picture = np.broadcast_to(np.array([0.5, 0.25, 0.1], np.float32), (*SIZE, 3)).copy()
    made = treated(picture, (Gouache(flat=0, chalk=0, brush=0, margin=0),), 1.0)[90, 160]
    assert made / made.sum() == pytest.approx(np.array([0.5, 0.25, 0.1]) / 0.85, abs=1e-3)
    chalky = treated(picture, (Gouache(flat=0, chalk=0.5, brush=0, margin=0),), 1.0)[90, 160]
    assert np.ptp(chalky) < np.ptp(made)
    framed = treated(picture, (Gouache(margin=8.0),), 1.0)
    assert framed[2, 2].min() > 0.9 and framed[90, 160].max() < 0.8
    ramp = np.repeat(np.linspace(0, 1, SIZE[1], dtype=np.float32)[None], SIZE[0], 0)[..., None].repeat(3, -1)
    hard, soft = (
        treated(ramp, (Gouache(flat=0, soft=s, chalk=0, brush=0, margin=0),), 1.0)[90, :, 1] for s in (0.0, 1.0)
    )
    assert np.abs(np.diff(soft)).max() < 0.6 * np.abs(np.diff(hard)).max()
    streaks = treated(grey(0.3), (Gouache(brush=1.0, margin=0),), 1.0)[..., 1]
    along, across = np.abs(np.diff(streaks, axis=1)).mean(), np.abs(np.diff(streaks, axis=0)).mean()
    assert 0 < along < 0.5 * across  # a brush goes to the side


def test_the_sky_fades_upwards_and_the_margin_is_paper():
    depth = np.full(SIZE, 5.0, np.float32)
    depth[:120] = np.inf
    seen = Seen(passes={"depth": depth})
    quiet = {"abstraction": 0.0, "thinned": 0.0, "granulation": 0.0, "flow": 0.0, "backruns": 0.0, "edges": 0.0}
    rows = treated(grey(0.2), (Watercolour(**quiet, sky=1.0, margin=0),), 1.0, seen)[..., 0].mean(1)
    assert rows[3] > rows[60] > rows[110] - 1e-6 and rows[3] > 0.75
    assert np.allclose(rows[130:170], 0.2 * WHITE[0], rtol=0.03)
    framed = treated(grey(0.2), (Watercolour(**quiet, sky=0, margin=10),), 1.0, seen)
    assert np.allclose(framed[0], WHITE, atol=0.05) and framed[90, 160, 0] < 0.25


@pytest.mark.parametrize("value", [0.02, 0.1, 0.3, 0.9])
def test_darker_tones_have_more_strokes(value):
    made = treated(grey(value), (Hatching(unrest=0, colour=0),), 1.0, seen_of_plane((0.0, -1.0, 0.0), 6.0))
    lighter = treated(
        grey(min(value * 2.5, 1.0)), (Hatching(unrest=0, colour=0),), 1.0, seen_of_plane((0.0, -1.0, 0.0), 6.0)
    )
    assert made.mean() <= lighter.mean() + 1e-6
    if value >= 0.9:
        assert made.std() < 0.02  # light is paper


def test_strokes_follow_the_level_lines_of_walls():
    """A wall that faces the lens has level lines across the picture; one seen aslant, those of its perspective."""
    facing = seen_of_plane((0.0, -1.0, 0.0), 6.0)
    lines = facing.level_lines(SIZE)
    assert np.allclose(np.abs(lines[..., 0]), 1, atol=1e-6) and np.allclose(lines[..., 1], 0, atol=1e-6)
    slant = seen_of_plane((0.6, -0.8, 0.0), 6.0).level_lines(SIZE)
    across, up = LensSeen().tangents(SIZE)
    # Two places of one level line of the wall, projected: the same direction.
    t = np.array([0.8, 0.6, 0.0])
    for y, x in ((30, 40), (150, 250), (90, 160)):
        p = np.array([across[x], 1.0, up[y]]) * 5.0
        q = p + 1e-3 * t
        step = np.array([q[0] / q[1] - p[0] / p[1], q[2] / q[1] - p[2] / p[1]])
        step /= np.linalg.norm(step)
        assert abs(float(step @ slant[y, x])) == pytest.approx(1, abs=1e-4)
    made = treated(grey(0.12), (Hatching(unrest=0, colour=0),), 1.0, facing)[..., 0]
    change = np.abs(np.diff(made, axis=0)).mean(), np.abs(np.diff(made, axis=1)).mean()
    assert change[0] > 2 * change[1]
    assert facing.level_lines(SIZE) is not None and Seen().level_lines(SIZE) is None


@pytest.mark.parametrize(("hue", "saturation", "lightness"), [(35, 0.2, 0.8), (210, 0.5, 0.4), (0, 0.0, 0.6)])
def test_a_flat_tone_is_the_colour_it_names(hue, saturation, lightness):
    """Against the hue, lightness and saturation of Python's colorsys."""
    made = treated(grey(0.3), (FlatTone(hue_deg=hue, saturation=saturation, lightness=lightness, shade=0),), 1.0)
    assert srgb_encode(made[0, 0].astype(float)) == pytest.approx(
        colorsys.hls_to_rgb(hue / 360, lightness, saturation), abs=2e-3
    )
    half = treated(
        grey(0.3), (FlatTone(hue_deg=hue, saturation=saturation, lightness=lightness, shade=0, strength=0.25),), 1.0
    )
    assert half[0, 0] == pytest.approx(0.75 * 0.3 + 0.25 * made[0, 0], abs=1e-4)


def test_noise_is_the_same_on_every_run_and_moves_what_is_drawn_by_its_amount():
    a = noise(SIZE, 20.0, 3)
    noise.cache_clear()
    b = noise(SIZE, 20.0, 3)
    assert (a == b).all() and a.std() == pytest.approx(1, abs=1e-3) and a.mean() == pytest.approx(0, abs=1e-3)
    assert (noise(SIZE, 20.0, 4) != a).mean() > 0.9
    line = np.zeros(SIZE, np.float32)
    line[:, 160] = 1
    moved = unsteady(line, 3.0, 40, 1)
    place = (moved * np.arange(320)).sum(1) / np.maximum(moved.sum(1), 1e-6)
    met = moved.sum(1) > 0.2
    assert 1.0 < np.std(place[met]) < 8.0
    assert unsteady(line, 0.0, 40, 1) is line


@pytest.mark.parametrize("kind", [InkLines, Watercolour, Hatching, FlatTone, Gouache])
@pytest.mark.parametrize("size", [(1, 1), (2, 3), (9, 16), (3, 400)])
def test_small_and_narrow_pictures_come_through(kind, size):
    picture = np.full((*size, 3), 0.3, np.float32)
    seen = Seen(
        passes={"depth": np.full(size, 3.0, np.float32), "normal": np.full((*size, 3), [0, -1, 0], np.float32)},
        axes=AXES,
    )
    made = treated(picture, (kind(),), 1.0, seen)
    assert made.shape == picture.shape and np.isfinite(made).all() and made.min() >= 0
