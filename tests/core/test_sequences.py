"""Sequences: the path and pace of a lens, sun, season and lamps on the way, frames held steady, blur of the shutter, films and their codes."""

from __future__ import annotations

import math
import zipfile
from concurrent.futures import ThreadPoolExecutor
from datetime import date, datetime
from fractions import Fraction

import numpy as np
import pytest
from PIL import Image
from pydantic import ValidationError

from tests import small
from tests.small import quad
from valleylight.core.compose.composer import Composer
from valleylight.core.compose.sprites import Sprites
from valleylight.core.errors import InputError, NotFoundError
from valleylight.core.film.film import Film
from valleylight.core.finish.between import Side
from valleylight.core.preview.studio import studio
from valleylight.core.project import Exposure, Look, Sky, Sun, ToneCurve, View
from valleylight.core.project.description import Scene
from valleylight.core.project.sequence import LightCue, Sequence, Station
from valleylight.core.project.sky import CloudLayer, Clouds
from valleylight.core.sequence import film_file, of_plates
from valleylight.core.sequence.course import Course, daylight_lx
from valleylight.core.sequence.frame import FrameMaker, made_one_by_one
from valleylight.core.sequence.frame_file import read_frame, write_frame
from valleylight.core.sequence.path import Path, eased, uneased
from valleylight.core.sequence.push import furthest_way, pushed
from valleylight.core.sequence.steady import Remembered, noise_share, steadied
from valleylight.core.sequence.walk import met_on_the_way
from valleylight.core.stage import Material, MeshInstance, StageData
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.camera import camera_array, project_point
from valleylight.core.trace.render import render
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.quality import SKETCH

LEFT = Station(position=(0, -6, 1.6), target=(0, 4, 1.2), focal_mm=28)
RIGHT = Station(position=(2, -6, 1.6), target=(2, 4, 1.2), focal_mm=28)


def sequence(**more) -> Sequence:
    return Sequence(**{"key": "s", "name": "s", "view": "inside", "occasion": "noon", "seconds": 4.0, **more})


def course(**more) -> Course:
    return Course(small.project().description, sequence(**more))


# --- the path ---------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("ramp", [0.0, 0.1, 0.25, 0.5])
def test_speed_follows_a_raised_cosine(ramp):
    t = np.linspace(0, 1, 2001)
    way = np.array([eased(x, ramp) for x in t])
    assert way[0] == 0 and way[-1] == pytest.approx(1, abs=1e-12)
    speed, middle = np.diff(way) / np.diff(t), (t[1:] + t[:-1]) / 2
    full = 1 / (1 - ramp)
    near = np.minimum(middle, 1 - middle)
    want = full * np.where(near < ramp, (1 - np.cos(np.pi * near / max(ramp, 1e-9))) / 2, 1.0)
    assert np.abs(speed - want).max() < 2e-3 * full
    for x in (0.0, 0.03, 0.31, 0.5, 0.92, 1.0):
        assert eased(uneased(eased(x, ramp), ramp), ramp) == pytest.approx(eased(x, ramp), abs=1e-9)
    assert eased(-3, ramp) == 0 and eased(7, ramp) == 1


def test_a_path_goes_through_its_points_and_is_walked_by_its_length():
    straight = Path(np.array([[0.0, 0], [1, 0], [7, 0], [8, 0]]))
    assert straight.length == pytest.approx(8)
    assert straight.at(3.3) == pytest.approx([3.3, 0], abs=1e-9)
    around = np.array([[math.cos(a), math.sin(a)] for a in np.radians(np.arange(0, 181, 20))])
    arc = Path(around)
    for point, reached in zip(around, arc.reached, strict=True):
        assert arc.at(float(reached)) == pytest.approx(point, abs=1e-6)
    assert arc.length == pytest.approx(math.pi, rel=0.01)
    places = np.array([arc.at(s) for s in np.linspace(0, arc.length, 200)])
    steps = np.linalg.norm(np.diff(places, axis=0), axis=1)
    assert steps.std() / steps.mean() < 0.01
    assert np.abs(np.linalg.norm(places, axis=1) - 1).max() < 0.03


def test_points_that_coincide_are_one():
    path = Path(np.array([[0.0, 0], [0, 0], [3, 4], [3, 4]]))
    assert path.length == pytest.approx(5) and list(path.reached) == pytest.approx([0, 0, 5, 5])
    still = Path(np.array([[1.0, 2], [1, 2]]))
    assert still.length == 0 and still.at(4.0) == pytest.approx([1, 2])


# --- the course -------------------------------------------------------------------------------------------------------


def test_a_lens_comes_to_its_stations_rests_and_ends_at_the_last():
    middle = Station(position=(1, -6, 1.6), target=(1, 4, 1.2), focal_mm=28, rest_s=1.0)
    c = course(stations=(LEFT, middle, RIGHT), seconds=5.0)
    assert c.moves and not c.light_changes
    assert c.arrives == pytest.approx([0, 2, 5], abs=1e-6)
    assert c.view(0).position == pytest.approx(LEFT.position) and c.view(5).position == pytest.approx(RIGHT.position)
    for second in (2.0, 2.5, 2.99):
        assert c.view(second).position == pytest.approx(middle.position, abs=1e-6)
    assert c.view(1.0).position[0] == pytest.approx(0.5, abs=1e-6)  # half the first way in half its time
    assert c.view(99).position == pytest.approx(RIGHT.position) and c.view(-1).position == pytest.approx(LEFT.position)
    early, late = c.view(0.1).position[0], c.view(1.9).position[0]
    assert early == pytest.approx(1 - late, abs=1e-6) and early < 0.02


def test_the_speed_is_the_way_gone_in_time():
    """A raised cosine over a quarter of the time each: the full speed is 4 / 3 of the mean, at half a ramp half of that."""
    c = course(stations=(LEFT, RIGHT), seconds=4.0, ease=0.25)
    mean = 2.0 / 4.0
    assert [c.speed_m_s(s) for s in (0.5, 2.0, 3.5)] == pytest.approx(
        [mean * 2 / 3, mean * 4 / 3, mean * 2 / 3], rel=1e-3
    )
    assert c.speed_m_s(0) < 0.01 and c.speed_m_s(4) < 0.01
    assert course(hours=(6, 18)).speed_m_s(1.0) == 0


def test_focal_length_and_target_go_along_and_verticals_stay():
    c = course(stations=(LEFT, LEFT.model_copy(update={"focal_mm": 56.0, "target": (3.0, 4.0, 1.2)})), ease=0.0)
    assert c.moves
    middle = c.view(2.0)
    assert middle.focal_mm == pytest.approx(28 * math.sqrt(2), rel=1e-3)
    assert middle.target[0] == pytest.approx(1.5, abs=0.01) and middle.position == pytest.approx(LEFT.position)
    assert middle.keep_verticals


def test_frames_lie_evenly_from_the_first_to_the_last():
    c = course(seconds=2.0, rate=24, stations=(LEFT, RIGHT))
    assert len(c.frames()) == 48 and c.second_of(0) == 0 and c.second_of(47) == 2.0
    assert c.frames(2) == list(range(0, 48, 2))
    assert c.shutter_s() == pytest.approx(0.5 * 2.0 / 47)
    assert c.shutter_s(2) == pytest.approx(2.0 / 47)


def test_sun_and_season_move_and_the_rest_stays():
    c = course(hours=(6.0, 18.0))
    assert [c.occasion(s).when for s in (0, 2, 4)] == [datetime(2026, 6, 21, h) for h in (6, 12, 18)]
    assert course(hours=(0.0, 24.0)).occasion(4).when == datetime(2026, 6, 21, 23, 59, 59)
    year = course(days=(date(2026, 3, 1), date(2026, 3, 31)))
    assert [year.occasion(s).when for s in (0, 2, 4)] == [datetime(2026, 3, d, 13, 20) for d in (1, 16, 31)]
    by_hand = small.project().description
    occasion = by_hand.occasion("noon").model_copy(update={"sun": Sun(true_to_place=False)})
    moved = Course(by_hand.model_copy(update={"occasions": (occasion,)}), sequence(hours=(6, 8)))
    assert moved.occasion(1).sun.true_to_place  # a sun set by hand would stand still


def test_clouds_drift_over_the_whole_of_it():
    c = course(drift_m=(1200.0, -300.0), hours=(10, 11))
    before = small.project().description.occasion("noon").sky.clouds
    at = [c.occasion(s).sky.clouds for s in (0, 1, 4)]
    assert [(k.east_m - before.east_m, k.north_m - before.north_m) for k in at] == [(0, 0), (300, -75), (1200, -300)]
    assert not course(drift_m=(1200.0, 0.0)).light_changes  # there are no clouds
    p = small.project().description
    cloudy = p.occasion("noon").model_copy(update={"sky": Sky(clouds=Clouds(layers=(CloudLayer(),), east_m=99_000))})
    drifting = Course(p.model_copy(update={"occasions": (cloudy,)}), sequence(drift_m=(5000.0, 0.0)))
    assert drifting.light_changes and drifting.daylight_changes
    assert drifting.occasion(4).sky.clouds.east_m == 100_000  # no further than a field may go


def test_the_exposure_follows_daylight_by_a_share_of_its_stops():
    held, half, whole = (course(hours=(13.0 + 1 / 3, 21.0), follows=f) for f in (0.0, 0.5, 1.0))
    assert held.view(4).lens_for("noon") == small.project().description.view("inside").lens
    first = held.view(0).lens_for("noon").shutter_s
    assert whole.view(0).lens_for("noon").shutter_s == pytest.approx(first, rel=1e-6)
    longer = whole.view(4).lens_for("noon").shutter_s / first
    assert half.view(4).lens_for("noon").shutter_s / first == pytest.approx(math.sqrt(longer), rel=1e-6)
    assert longer > 8
    # IES RP-21-84, clear sky with its sun at 60 degrees: about 0.8 + 15.5 sin^0.5 klx and 133.8 exp(-0.21 m) sin klx.
    sin = math.sin(math.radians(60))
    assert daylight_lx(60) == pytest.approx(
        1000 * (0.8 + 15.5 * sin**0.5) + 133_800 * math.exp(-0.21 / sin) * sin, rel=0.005
    )
    levels = [daylight_lx(a) for a in np.arange(-20, 91, 1.0)]
    assert all(b >= a for a, b in zip(levels, levels[1:], strict=False))


def test_lamps_go_evenly_from_scene_to_scene():
    p = small.project().description.model_copy(update={"scenes": (
        Scene(key="dim", name="Dim", levels={"Ceiling": 10.0, "Pendants": 0.0}, sky_stops=-2.0),
        Scene(key="full", name="Full", levels={"Ceiling": 90.0}),
    )})  # fmt: skip
    c = Course(p, sequence(occasion="night", cues=(LightCue(at=0.75, scene="full"), LightCue(at=0.25, scene="dim"))))
    assert [cue.scene for cue in c.sequence.cues] == ["dim", "full"]  # put in order
    at = {s: c.occasion(s).levels for s in (0.0, 1.0, 2.0, 3.0, 4.0)}
    assert at[0.0] == at[1.0] == {"Ceiling": 10.0, "Pendants": 0.0}
    assert at[2.0] == {"Ceiling": 50.0, "Pendants": 50.0} and at[3.0] == at[4.0] == {"Ceiling": 90.0, "Pendants": 100.0}
    assert c.occasion(2.0).sky.level_stops == -1.0


def test_the_description_at_a_moment_is_whole_and_keeps_its_keys():
    c = course(stations=(LEFT, RIGHT), hours=(6, 18))
    now = c.project_at(2.0)
    assert [v.key for v in now.views] == ["inside", "outside"] and now.view("inside").position[0] == pytest.approx(1.0)
    assert now.occasion("noon").when.hour == 12 and now.occasion("night") == small.project().description.occasion(
        "night"
    )


@pytest.mark.parametrize(
    ("more", "said"),
    [
        ({"seconds": 600, "rate": 60}, "more than 3000"), ({"seconds": 0.1}, "seconds"), ({"rate": 0}, "rate"),
        ({"stations": (LEFT.model_copy(update={"rest_s": 5.0}), RIGHT)}, "rests for 5 s"), ({"hours": (7, 7)}, "same"), ({"hours": (7, 25)}, "hours"),
        ({"days": (date(2026, 1, 1),) * 2}, "same"), ({"days": (date(1, 1, 1), date(2026, 1, 1))}, "range"), ({"shutter_deg": 400}, "shutter"), ({"follows": 1.2}, "follows"), ({"ease": 0.6}, "ease"),
    ],
)  # fmt: skip
def test_impossible_sequences_are_refused(more, said):
    with pytest.raises(ValidationError, match=said):
        sequence(**more)


def test_what_a_sequence_names_must_be_there():
    for wrong in ({"view": "nowhere"}, {"occasion": "never"}, {"cues": (LightCue(at=0.5, scene="none"),)}):
        with pytest.raises(NotFoundError):
            course(**wrong)
    with pytest.raises(ValidationError, match="same point"):
        Station(position=(1, 1, 1), target=(1, 1, 1))
    straight_down = Station(position=(0, 0, 5), target=(0, 0, 0), focal_mm=28)
    with pytest.raises(InputError, match="straight up or down"):
        course(stations=(LEFT, straight_down))


# --- frames held steady -----------------------------------------------------------------------------------------------

VIEW = View(key="inside", name="v", position=(0, -7, 1.6), target=(0, 0, 1.2), focal_mm=26)


def lens(x: float = 0.0, y: float = -7.0, turn: float = 0.0) -> np.ndarray:
    view = VIEW.model_copy(
        update={"position": (x, y, 1.6), "target": (x + 7 * math.sin(turn), y + 7 * math.cos(turn), 1.6)}
    )
    return camera_array(view, 8.0, 96 / 54)


def sights(camera: np.ndarray, w: int = 96, h: int = 54) -> np.ndarray:
    """Directions of length 1 (h, w, 3) through the middles of the pixels."""
    x, y = np.meshgrid((np.arange(w) + 0.5) / w * 2 - 1, 1 - (np.arange(h) + 0.5) / h * 2)
    d = (
        camera[layout.three(layout.CAMERA_FORWARD)]
        + (x * camera[layout.CAMERA_HALF_WIDTH])[..., None] * camera[layout.three(layout.CAMERA_RIGHT)]
        + (y * camera[layout.CAMERA_HALF_HEIGHT])[..., None] * camera[layout.three(layout.CAMERA_UP)]
    )
    return d / np.linalg.norm(d, axis=-1, keepdims=True)


def wall(camera: np.ndarray, at_y: float = 0.0) -> tuple[np.ndarray, np.ndarray]:
    """A wall across the view, painted in a smooth pattern: its picture (h, w, 3) and its distances (h, w)."""
    d = sights(camera)
    place = camera[layout.three(layout.CAMERA_PLACE)]
    far = (at_y - place[1]) / d[..., 1]
    p = place + far[..., None] * d
    shade = 2 + np.sin(1.1 * p[..., 0]) + 0.5 * np.cos(1.7 * p[..., 2])
    return np.repeat(shade[..., None], 3, -1).astype(np.float32), far.astype(np.float32)


def test_the_flicker_of_a_still_scene_falls_below_the_noise_of_a_frame():
    rng, sigma = np.random.default_rng(3), 0.3
    true, far = wall(lens())
    noise = np.full(far.shape, sigma / 2, np.float32)
    before, shown = None, []
    for _ in range(24):
        before = steadied(true + rng.normal(0, sigma, (*far.shape, 1)).astype(np.float32), far, noise, lens(), before)
        shown.append(before.picture[..., 0])
    flicker = np.std(np.diff(np.array(shown[10:]), axis=0)) / math.sqrt(2)
    assert flicker < 0.3 * sigma
    # An average of so many: sigma / sqrt(n) is the best that there is.
    assert np.std(shown[-1] - true[..., 0]) < 0.6 * sigma
    assert before.frames.mean() > 5 and before.frames.max() <= 10


@pytest.mark.parametrize("then", [lens(x=-0.2), lens(y=-7.4), lens(turn=0.03), lens(x=0.1, y=-6.8, turn=-0.02)])
def test_what_was_seen_is_found_again_where_it_is_seen_now(then):
    """A wall painted by place: what comes from another lens is what this one sees."""
    now = lens()
    old, far_then = wall(then)
    new, far = wall(now)
    nothing_here = np.zeros_like(new) + new.mean()  # what is seen now says nothing
    kept = steadied(
        nothing_here,
        far,
        np.full(far.shape, 1.0, np.float32),
        now,
        Remembered(old, far_then, np.full(far.shape, 9.0, np.float32), then),
    )
    both = kept.frames > 5
    assert both.mean() > 0.85
    found = (kept.picture - 0.1 * nothing_here) / 0.9  # nine parts of ten are remembered
    inside = np.s_[3:-3, 5:-5]  # half a pixel beyond the edge of what was seen is drawn out
    assert np.abs(found - new)[inside][both[inside]].max() < 0.02


def test_where_something_else_stood_before_nothing_is_remembered():
    new, far = wall(lens())
    other, near = wall(lens(), at_y=-3.0)
    kept = steadied(
        new,
        far,
        np.ones(far.shape, np.float32),
        lens(),
        Remembered(other + 5, near, np.full(far.shape, 9.0, np.float32), lens()),
    )
    assert (kept.picture == new).all() and (kept.frames == 1).all()
    sky = np.full(far.shape, np.inf, np.float32)
    turned = steadied(
        new,
        sky,
        np.ones(far.shape, np.float32),
        lens(turn=0.02),
        Remembered(new, sky, np.full(far.shape, 4.0, np.float32), lens()),
    )
    assert (turned.frames > 1).mean() > 0.9  # the sky goes by its direction
    behind = steadied(
        new,
        far,
        np.ones(far.shape, np.float32),
        lens(),
        Remembered(new, far, np.full(far.shape, 9.0, np.float32), lens(turn=math.pi)),
    )
    assert (behind.frames == 1).all()


def test_a_light_that_goes_out_does_not_linger():
    true, far = wall(lens())
    before = Remembered(true * 100, far, np.full(far.shape, 10.0, np.float32), lens())
    kept = steadied(true, far, np.full(far.shape, 0.02, np.float32), lens(), before)
    assert np.abs(kept.picture / true - 1).max() < 0.15
    assert kept.frames.max() <= 3


def test_noise_is_told_over_the_pixels_about():
    film = Film.empty(32, 18, ("sun",))
    assert (noise_share(film) == 1).all()  # nothing traced: nothing known


# --- frames traced ----------------------------------------------------------------------------------------------------


def striped(period_m: float = 2.0) -> StageData:
    """Black and white boards side by side across the view, lit by the sky."""
    materials = (
        Material(name="white", base=(0.9, 0.9, 0.9), specular=0.0),
        Material(name="black", base=(0.0, 0.0, 0.0), specular=0.0),
    )
    xs = np.arange(-12, 12, period_m / 2)
    meshes = [
        quad([(x, 4, -8), (x + period_m / 2, 4, -8), (x + period_m / 2, 4, 10), (x, 4, 10)], k % 2)
        for k, x in enumerate(xs.tolist())
    ]
    return StageData(
        meshes=tuple(meshes), materials=materials, textures=(),
        instances=tuple(MeshInstance(mesh=k, matrix=np.eye(4), name=f"board {k}") for k in range(len(meshes))),
    )  # fmt: skip


@pytest.fixture(scope="module")
def pool():
    with ThreadPoolExecutor(2) as made:
        yield made


def maker(
    wanted: Sequence,
    pool: ThreadPoolExecutor,
    stage: StageData | None = None,
    size=(160, 90),
    every: int = 1,
    **occasion,
) -> FrameMaker:
    view = View(key="inside", name="v", position=(0, -6, 1.6), target=(0, 4, 1.6), focal_mm=28)
    light = {"sun": Sun(true_to_place=False, azimuth_deg=180, altitude_deg=50), "sky": Sky(cie_type=5), **occasion}
    project, compiler = studio(stage or striped(), view, **light)
    return FrameMaker(
        compiler,
        Composer(Sprites(lambda sha: b"")),
        pool,
        project,
        wanted.model_copy(update={"occasion": "o"}),
        size,
        "sketch",
        every,
    )


def test_the_blur_of_the_shutter_is_as_long_as_the_lens_goes_while_it_is_open(pool):
    """A lens that goes aside by v t before a wall z off smears an edge over f v t / z (similar triangles)."""
    size, speed = (320, 180), 8.0
    stations = (
        LEFT.model_copy(update={"position": (-4, -6, 1.6), "target": (-4, 4, 1.6)}),
        LEFT.model_copy(update={"position": (4, -6, 1.6), "target": (4, 4, 1.6)}),
    )
    widths = {}
    for opened in (0.0, 360.0):
        m = maker(
            sequence(stations=stations, seconds=8.0 / speed, rate=24, ease=0.0, shutter_deg=opened),
            pool,
            striped(6.0),
            size,
        )
        row = m.make(12).kept.picture[60:120, :, 1].mean(0)
        share = (row - row.min()) / (row.max() - row.min())
        edges = np.flatnonzero(np.diff((share > 0.5).astype(int)) != 0)
        edge = edges[np.abs(edges - 160).argmin()]
        part = share[edge - 30 : edge + 30]
        rises = part[-1] > part[0]
        widths[opened] = float(
            np.interp(0.9, part if rises else part[::-1], np.arange(60))
            - np.interp(0.1, part if rises else part[::-1], np.arange(60))
        )
    gone = speed * m.course.shutter_s()
    pixels = 28 / 36 * gone / 10 * size[0]
    assert widths[0.0] < 2.5
    assert widths[360.0] == pytest.approx(0.8 * pixels, rel=0.2)


def test_frames_that_follow_each_other_hold_many_and_flicker_less(pool):
    wanted = sequence(
        stations=(LEFT, LEFT.model_copy(update={"position": (0.2, -6, 1.6), "target": (0.2, 4, 1.2)})), seconds=0.5
    )
    held, alone = list[np.ndarray](), list[np.ndarray]()
    m = maker(wanted, pool)
    made_one_by_one(m, lambda n, frame: held.append(frame.kept.picture))
    for n in range(12):
        alone.append(m.make(n, None).kept.picture)
    last = np.s_[30:60, 60:100]
    change = [np.abs(np.diff(np.array([p[last] for p in pictures[6:]]), axis=0)).mean() for pictures in (held, alone)]
    assert change[0] < change[1]
    assert np.abs(np.mean(held[-1]) / np.mean(alone[-1]) - 1) < 0.03
    frames = []
    made_one_by_one(maker(wanted, pool), lambda n, frame: frames.append(frame), every=3)
    assert len(frames) == 4 and frames[-1].kept.frames.mean() > 2


def test_a_frame_made_again_is_the_frame_it_was(pool):
    wanted = sequence(stations=(LEFT, RIGHT), seconds=0.25)
    once, again = maker(wanted, pool).make(3), maker(wanted, pool).make(3)
    assert (once.picture == again.picture).all()


def test_lamps_alone_are_a_balance_of_one_film(pool):
    """Every frame is what a render with its levels would be."""
    loaded = small.project()
    scenes = (
        Scene(key="a", name="A", levels={"Ceiling": 100.0, "Pendants": 0.0}),
        Scene(key="b", name="B", levels={"Ceiling": 0.0, "Pendants": 200.0}),
    )
    loaded = type(loaded)(loaded.description.model_copy(update={"scenes": scenes}), loaded.asset)
    wanted = sequence(occasion="night", seconds=1.0, cues=(LightCue(at=0, scene="a"), LightCue(at=1, scene="b")))
    m = FrameMaker(Compiler(), Composer(Sprites(loaded.asset)), pool, loaded, wanted, (96, 54), "sketch")
    first, middle, last = (m.make(n).kept.picture for n in (0, 12, 23))
    assert m._balanced_only
    t = 12 / 23
    assert np.allclose(middle, (1 - t) * first + t * last, rtol=1e-3, atol=1e-3)
    occasion = m.course.occasion(m.course.second_of(12))
    film = render(loaded, "inside", occasion, 96, 54, samples=24, quality=SKETCH)
    assert middle.mean() == pytest.approx(film.balanced(occasion.light_levels()).mean(), rel=0.08)


def test_a_sequence_in_which_nothing_changes_is_refused(pool):
    with pytest.raises(InputError, match="nothing changes"):
        maker(sequence(stations=(LEFT,)), pool)


def test_a_path_that_passes_through_a_wall_is_told():
    loaded = small.project()

    def met(*places):
        stations = tuple(Station(position=p, target=(p[0] + 0.1, p[1] + 5, 1.5), focal_mm=24) for p in places)
        c = Course(loaded.description, sequence(stations=stations))
        return met_on_the_way(Compiler().scene(loaded, c.view(0), c.occasion(0), 64, 36, 1, SKETCH), c)

    assert met((1, 1, 1.5), (5, 1, 1.5)) == []
    [hit] = met((5, 2, 1.5), (5, 6, 1.5))
    assert hit.object == "room" and hit.material == "plaster" and 1.5 < hit.second < 2.5
    assert [h.material for h in met((3, 3.5, 1.6), (3, -4, 1.6))] == ["glass"]


# --- files ------------------------------------------------------------------------------------------------------------


def test_a_frame_is_read_as_it_was_written(tmp_path):
    picture, far = wall(lens())
    far = far.copy()
    far[0] = np.inf
    kept = Remembered(picture, far, np.full(far.shape, 7.0, np.float32), lens())
    path = tmp_path / "00003.exr"
    write_frame(kept, path, "A frame")
    back = read_frame(path, lens())
    assert np.allclose(back.picture, picture, rtol=1e-3) and (back.depth == far).all() and (back.frames == 7).all()
    assert [p.name for p in tmp_path.iterdir()] == ["00003.exr"]
    path.write_bytes(b"nothing of the kind")
    with pytest.raises(InputError):
        read_frame(path, lens())


def drawn(count: int, size=(64, 48)) -> list[np.ndarray]:
    """Even fields of known codes, with a bar that moves."""
    made = []
    for k in range(count):
        p = np.empty((size[1], size[0], 3), np.uint8)
        p[: size[1] // 2], p[size[1] // 2 :] = (200, 60, 40), (40, 110, 190)
        p[:, 4 * k : 4 * k + 4] = 235
        made.append(p)
    return made


@pytest.mark.parametrize("form", ["mp4", "webm"])
def test_a_film_holds_the_frames_in_their_order_and_colours(form, tmp_path):
    """Decoded by FFmpeg's own decoders: as many, at the rate, within some codes of what went in."""
    pictures = drawn(12)
    assert film_file.write_film(pictures, tmp_path / f"f.{form}", 24, form) == 12
    back, rate = film_file.read_film(tmp_path / f"f.{form}")
    assert len(back) == 12 and float(rate) == pytest.approx(24)
    for k, (was, now) in enumerate(zip(pictures, back, strict=True)):
        fields = np.s_[8:16, 52:60], np.s_[34:42, 52:60]
        for field in fields:
            assert np.abs(was[field].astype(int).mean((0, 1)) - now[field].astype(int).mean((0, 1))).max() < 5
        bar = now[:, :, 1].astype(int).mean(0)
        assert bar.argmax() // 4 == k


def test_a_rate_may_be_a_fraction(tmp_path):
    """Every second of 25 frames: as long as all of them."""
    film_file.write_film(drawn(8), tmp_path / "f.mp4", Fraction(25, 2), "mp4")
    assert film_file.read_film(tmp_path / "f.mp4")[1] == Fraction(25, 2)


def test_sides_are_made_even_and_sizes_must_agree(tmp_path):
    film_file.write_film(drawn(3, (65, 47)), tmp_path / "odd.mp4", 10, "mp4")
    back, _ = film_file.read_film(tmp_path / "odd.mp4")
    assert back[0].shape == (48, 66, 3)
    with pytest.raises(InputError, match="several sizes"):
        film_file.write_film([*drawn(1), *drawn(1, (32, 32))], tmp_path / "two.mp4", 10, "mp4")
    for form in ("mp4", "webm", "webp"):
        with pytest.raises(InputError, match="no frames"):
            film_file.write_film([], tmp_path / f"none.{form}", 10, form)
    (tmp_path / "words").write_text("no film at all")
    with pytest.raises(InputError, match="no film"):
        film_file.read_film(tmp_path / "words")


def test_a_film_for_mail_is_small_and_slow(tmp_path):
    assert film_file.thinned(24) == (2, 12) and film_file.thinned(60) == (4, 15) and film_file.thinned(10) == (1, 10)
    assert film_file.thinned(Fraction(25, 2)) == (1, 12.5)
    wide = [np.full((540, 960, 3), 20 * k, np.uint8) for k in range(9)]
    assert film_file.write_film(wide, tmp_path / "m.webp", 24, "webp") == 5
    with Image.open(tmp_path / "m.webp") as image:
        assert (image.n_frames, image.size) == (5, (640, 360))
        image.seek(4)
        assert abs(np.asarray(image.convert("RGB"))[100, 100, 0] - 160) < 4


def test_frames_go_into_a_zip_under_their_names(tmp_path):
    (tmp_path / "a").write_bytes(b"one")
    film_file.zipped_frames([(tmp_path / "a", "Walk 00000.png")], tmp_path / "z.zip")
    with zipfile.ZipFile(tmp_path / "z.zip") as archive:
        assert archive.namelist() == ["Walk 00000.png"] and archive.read("Walk 00000.png") == b"one"
    with pytest.raises(InputError, match="no frames"):
        film_file.zipped_frames([], tmp_path / "none.zip")


# --- films of plates --------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("ahead", "right"), [(1.0, 0.0), (0.0, 0.5), (-1.0, 0.2)])
def test_a_push_shows_a_wall_as_the_moved_lens_sees_it(ahead, right):
    """Against the pattern itself: a wall painted by place, seen by the lens where it has gone."""
    still, far = wall(lens())
    moved = pushed(still, far, lens(), (right, 0.0, ahead))
    want, _ = wall(lens(x=right, y=-7.0 + ahead))
    inside = np.s_[8:-8, 14:-14]
    assert np.abs(moved - want)[inside].max() < 0.03
    assert np.abs(pushed(still, far, lens(), (0.0, 0.0, 0.0)) - still).max() < 1e-4


def test_near_things_go_further_than_far_ones():
    """A post 2 m off before a wall 7 m off: moved aside by d it goes f d / 2, the wall f d / 7 (in widths of the film)."""
    camera = lens()
    still, far = wall(camera)
    still[:], post = 1.0, np.s_[:, 44:52]
    still[post], far[post] = 9.0, (2.0 / sights(camera)[..., 1].astype(np.float32))[post]
    moved = pushed(still, far, camera, (0.1, 0.0, 0.0))[27, :, 0]
    bright = np.flatnonzero(moved > 5)
    shift = 26 / 36 * 0.1 / 2 * 96
    assert bright.mean() == pytest.approx(47.5 - shift, abs=1.0)
    assert len(bright) == pytest.approx(8, abs=2)


def test_a_push_needs_something_at_a_distance():
    with pytest.raises(InputError, match="nothing but sky"):
        furthest_way(np.full((4, 4), np.inf, np.float32))
    assert furthest_way(np.full((4, 4), 10.0, np.float32)) == pytest.approx(3.5)


def plate(level: float, size=(64, 36)) -> of_plates.Shown:
    film = Film.empty(*size, ("sky",))
    film.light[:], film.counts[:], film.samples = level, 1, 1
    far = np.full((size[1], size[0]), 5.0, np.float32)
    film.auxiliary[..., 6], film.auxiliary[..., 7] = far, 1
    film.settings = {"camera": lens().tolist(), "saturation_cd_m2": 100.0}
    return of_plates.Shown(Side(film, {"sky": 1.0}, 100.0), Look())


def test_an_edge_goes_over_two_plates():
    wipe = of_plates.Wipe(plate(2.0), plate(60.0), lambda sha: b"")
    dark, bright = wipe.at(0.0), wipe.at(1.0)
    assert (dark == dark[0, 0]).all() and (bright == bright[0, 0]).all() and bright[0, 0, 0] > dark[0, 0, 0] + 60
    half = wipe.at(0.5)
    assert (half[:, :32] == bright[0, 0]).all() and (half[:, 32:] == dark[0, 0]).all()
    smaller = of_plates.Wipe(plate(2.0), plate(60.0, (128, 72)), lambda sha: b"")
    assert smaller.at(1.0).shape == (36, 64, 3) and (smaller.at(1.0) == bright).all()
    with pytest.raises(InputError, match="no common shape"):
        of_plates.Wipe(plate(2.0), plate(2.0, (64, 64)), lambda sha: b"")


def test_a_fade_begins_and_ends_as_its_plates():
    first, second = plate(2.0), plate(60.0)
    ends = [of_plates.faded(first, second, share, lambda sha: b"")[0, 0, 0] for share in (0.0, 0.25, 0.5, 0.75, 1.0)]
    wipe = of_plates.Wipe(first, second, lambda sha: b"")
    assert [ends[0], ends[-1]] == [wipe.at(0)[0, 0, 0], wipe.at(1)[0, 0, 0]]
    assert all(b >= a for a, b in zip(ends, ends[1:], strict=False))
    bright = of_plates.Shown(second.side, Look(key="other", treatments=(Exposure(stops=2.0), ToneCurve())))
    two = [of_plates.faded(first, bright, share, lambda sha: b"")[0, 0, 0] for share in (0.0, 0.3, 0.5, 1.0)]
    assert two[:2] == [of_plates.faded(first, second, share, lambda sha: b"")[0, 0, 0] for share in (0.0, 0.3)]
    assert two[3] > ends[-1] and two[2] > ends[2]  # the second look has come in by the middle


def test_a_push_is_told_where_its_lens_stood():
    shown = plate(20.0)
    push = of_plates.Push(shown, 1.0, 0.0, 0.0, lambda sha: b"")
    assert push.at(0.0).shape == (36, 64, 3) and (push.at(1.0) == push.at(0.0)).all()  # an even wall looks the same
    del shown.side.film.settings["camera"]
    with pytest.raises(InputError, match="where their lens stood"):
        of_plates.Push(shown, 1.0, 0.0, 0.0, lambda sha: b"")


def test_film_places_agree_with_the_tracers_own():
    """The reprojection of a pixel is the projection of its place."""
    from valleylight.core.sequence.kernels import seen_before

    now, then, at = lens(), lens(x=0.4, y=-6.5, turn=0.1), np.zeros(3)
    for x, y, far in ((10, 5, 4.0), (80, 50, 9.0), (47, 27, 30.0)):
        seen_before(now, then, x, y, 96, 54, far, at)
        place = now[layout.three(layout.CAMERA_PLACE)] + far * sights(now)[y, x]
        u, v = project_point(then, place)
        assert at[:2] == pytest.approx([u * 96 - 0.5, v * 54 - 0.5], abs=1e-6)
        assert at[2] == pytest.approx(np.linalg.norm(place - then[layout.three(layout.CAMERA_PLACE)]))
