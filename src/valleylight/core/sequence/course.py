"""What a sequence shows at each of its moments: a view and an occasion, as the description would have them then."""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import datetime, time, timedelta

import numpy as np

from valleylight.core.errors import InputError
from valleylight.core.project.description import Occasion, Project, Scene, View, find
from valleylight.core.project.sequence import Sequence
from valleylight.core.project.sky import Sky
from valleylight.core.sequence.path import Floats, Path, eased, uneased
from valleylight.core.sky.illuminance import SOLAR_LX, sky_horizontal_lx
from valleylight.core.sun.position import position
from valleylight.core.sun.sunlight import air_mass

#: What a metre of the point looked at, and a doubling of the focal length, count for on the way of a lens, in metres of its own.
TARGET_WEIGHT, FOCAL_WEIGHT_M = 0.25, 2.0
#: Seconds to either side over which a speed is taken.
SPEED_STEP_S = 0.01
#: CIE type of the sky by which daylight is followed, and the extinction of its air.
CLEAR_SKY, CLEAR_EXTINCTION = 12, 0.21


@dataclass(frozen=True)
class _Leg:
    """A stretch of time in which the lens goes from one length of its path to another, or rests."""

    begins_s: float
    lasts_s: float
    start: float
    end: float


class Course:
    """The moments of a sequence. Raises NotFoundError for a view, an occasion or a scene that is not there, InputError where a station cannot
    be looked from."""

    def __init__(self, project: Project, sequence: Sequence) -> None:
        self.project, self.sequence = project, sequence
        self._view, self._occasion = project.view(sequence.view), project.occasion(sequence.occasion)
        self._scenes = [(cue.at, find(project.scenes, cue.scene, "scene")) for cue in sequence.cues]
        stations = sequence.stations
        self._path = Path(np.array([
            [*s.position, *(TARGET_WEIGHT * v for v in s.target), FOCAL_WEIGHT_M * np.log2(s.focal_mm)] for s in stations
        ])) if stations else None  # fmt: skip
        #: When the lens comes to each station, in s.
        self._legs, self.arrives = self._laid_out()
        for k in range(len(stations)):
            assert self._path is not None
            self._looking(self._path.at(float(self._path.reached[k])), f"stations.{k}")

    @property
    def moves(self) -> bool:
        """Whether the lens moves at all."""
        return self._path is not None and self._path.length > 0

    @property
    def light_changes(self) -> bool:
        """Whether sun, clouds, season or lamps change."""
        return self.daylight_changes or bool(self.sequence.cues)

    @property
    def daylight_changes(self) -> bool:
        """Whether the sun moves, the day goes on, or clouds drift."""
        drifts = any(self.sequence.drift_m) and bool(self._occasion.sky.clouds.layers)
        return self.sequence.hours is not None or self.sequence.days is not None or drifts

    def second_of(self, frame: int) -> float:
        """When a frame stands, in s: the first at 0, the last at the end."""
        return self.sequence.seconds * frame / (self.sequence.frames - 1)

    def frames(self, every: int = 1) -> list[int]:
        """The numbers of the frames that are made where only every second, or third, is."""
        return list(range(0, self.sequence.frames, every))

    def shutter_s(self, every: int = 1) -> float:
        """How long the shutter is open for a frame, in s."""
        return self.sequence.shutter_deg / 360 * every * self.sequence.seconds / (self.sequence.frames - 1)

    def view(self, second: float) -> View:
        """The lens at a second. Raises InputError where it would look straight up or down while its verticals are kept."""
        view = (
            self._view
            if self._path is None
            else self._looking(self._path.at(self._length(second)), f"at {second:.2f} s")
        )
        return self._exposed(view, second) if self.sequence.follows > 0 else view

    def occasion(self, second: float) -> Occasion:
        """Sun, season and lamps at a second."""
        share = min(max(second / self.sequence.seconds, 0.0), 1.0)
        when = self._when(share)
        occasion = self._occasion
        if when != occasion.when:
            # A sun set by hand would stand still.
            occasion = occasion.model_copy(
                update={"when": when, "sun": occasion.sun.model_copy(update={"true_to_place": True})}
            )
        if any(self.sequence.drift_m):
            occasion = occasion.model_copy(update={"sky": _drifted(occasion.sky, self.sequence.drift_m, share)})
        return self._lit(occasion, share) if self._scenes else occasion

    def project_at(self, second: float) -> Project:
        """The description at a second: its view and its occasion under their own keys."""
        return self.project_with(self.view(second), self.occasion(second))

    def project_with(self, view: View, occasion: Occasion) -> Project:
        """The description with a view and an occasion in the place of those of their keys."""
        views = tuple(view if v.key == view.key else v for v in self.project.views)
        occasions = tuple(occasion if o.key == occasion.key else o for o in self.project.occasions)
        return self.project.model_copy(update={"views": views, "occasions": occasions})

    def speed_m_s(self, second: float) -> float:
        """How fast the lens goes."""
        ends = [min(max(second + by, 0.0), self.sequence.seconds) for by in (-SPEED_STEP_S, SPEED_STEP_S)]
        a, b = (np.array(self.view(end).position) for end in ends)
        return float(np.linalg.norm(b - a)) / (ends[1] - ends[0])

    def check_that_it_changes(self) -> None:
        """Raises InputError where every frame would be the same."""
        if not self.moves and not self.light_changes:
            raise InputError(
                "nothing changes in this sequence", "sequence",
                "Add a second station, hours, days, drifting clouds or scenes of light to it",
            )  # fmt: skip

    def _laid_out(self) -> tuple[list[_Leg], list[float]]:
        """Rests and ways by turns, each way taking time by its length; and when the lens comes to each station, in s."""
        stations, path = self.sequence.stations, self._path
        if path is None:
            return [], []
        moving = self.sequence.seconds - sum(s.rest_s for s in stations)
        legs, arrives, clock, start, passed = list[_Leg](), list[float](), 0.0, 0.0, list[float]()
        for k, (station, reached) in enumerate(zip(stations, map(float, path.reached), strict=True)):
            passed.append(reached)
            if station.rest_s <= 0 and k < len(stations) - 1:
                continue
            lasts = moving * (reached - start) / path.length if reached > start else 0.0
            way = reached - start
            arrives += [
                clock + lasts * (uneased((p - start) / way, self.sequence.ease) if way > 0 else 0.0) for p in passed
            ]
            legs += [_Leg(clock, lasts, start, reached), _Leg(clock + lasts, station.rest_s, reached, reached)]
            clock, start, passed = clock + lasts + station.rest_s, reached, []
        return legs, arrives

    def _length(self, second: float) -> float:
        """How far the lens has come on its path at a second."""
        if not self._legs:
            return 0.0
        leg = next((leg for leg in self._legs if second < leg.begins_s + leg.lasts_s), self._legs[-1])
        share = 1.0 if leg.lasts_s <= 0 else (second - leg.begins_s) / leg.lasts_s
        return leg.start + (leg.end - leg.start) * eased(share, self.sequence.ease)

    def _looking(self, place: Floats, where: str) -> View:
        target = place[3:6] / TARGET_WEIGHT
        focal = float(np.clip(2 ** (place[6] / FOCAL_WEIGHT_M), 4, 1200))
        flat, gap = float(np.hypot(*(target - place[:3])[:2])), float(np.linalg.norm(target - place[:3]))
        if gap < 1e-3 or (self._view.keep_verticals and flat < 0.02 * gap):
            raise InputError(
                f"the lens comes to look straight up or down ({where})", "stations",
                "Move the target of the stations about, or let the view's verticals go",
            )  # fmt: skip
        return self._view.model_copy(update={
            "position": tuple(float(v) for v in place[:3]), "target": tuple(float(v) for v in target), "focal_mm": focal,
        })  # fmt: skip

    def _exposed(self, view: View, second: float) -> View:
        """The lens with its shutter open for as much longer as daylight on level ground has become less since the occasion's own hour."""
        lens = view.lens_for(self._occasion.key)
        then, now = (daylight_lx(self._altitude(o)) for o in (self._occasion, self.occasion(second)))
        shutter = float(np.clip(lens.shutter_s * (then / now) ** self.sequence.follows, 1 / 64_000, 3600))
        held = {**view.lens_at, self._occasion.key: lens.model_copy(update={"shutter_s": shutter})}
        return view.model_copy(update={"lens_at": held})

    def _altitude(self, occasion: Occasion) -> float:
        if not occasion.sun.true_to_place:
            return occasion.sun.altitude_deg
        site = self.project.site
        return position(site.latitude_deg, site.longitude_deg, occasion.moment(site)).altitude_deg

    def _when(self, share: float) -> datetime:
        when, s = self._occasion.when, self.sequence
        if s.days is not None:
            first, last = s.days
            when = datetime.combine(first + timedelta(days=round((last - first).days * share)), when.time())
        if s.hours is not None:
            seconds = (s.hours[0] + (s.hours[1] - s.hours[0]) * share) * 3600
            when = datetime.combine(when.date(), time()) + timedelta(seconds=min(round(seconds), 86399))
        return when

    def _lit(self, occasion: Occasion, share: float) -> Occasion:
        """The lamps between the scenes before and after: levels go evenly, as a fader is moved."""
        before = [(at, scene) for at, scene in self._scenes if at <= share]
        after = [(at, scene) for at, scene in self._scenes if at > share]
        if not before:
            return _recalled(self.project, occasion, after[0][1])
        if not after:
            return _recalled(self.project, occasion, before[-1][1])
        (a, first), (b, second) = before[-1], after[0]
        t = (share - a) / (b - a)
        one, other = _recalled(self.project, occasion, first), _recalled(self.project, occasion, second)

        def mixed(x: float, y: float) -> float:
            return x * (1 - t) + y * t

        groups = {*one.levels, *other.levels}
        return occasion.model_copy(update={
            "levels": {g: mixed(one.levels.get(g, 100.0), other.levels.get(g, 100.0)) for g in sorted(groups)},
            "surfaces_stops": mixed(one.surfaces_stops, other.surfaces_stops),
            "sun": occasion.sun.model_copy(update={"level_stops": mixed(one.sun.level_stops, other.sun.level_stops)}),
            "sky": occasion.sky.model_copy(update={"level_stops": mixed(one.sky.level_stops, other.sky.level_stops)}),
            "colours": one.colours if t < 0.5 else other.colours,
        })  # fmt: skip


def _drifted(sky: Sky, drift_m: tuple[float, float], share: float) -> Sky:
    """A sky whose clouds have gone a share of their way."""
    field = sky.clouds
    east, north = (
        float(np.clip(at + share * by, -100_000, 100_000))
        for at, by in zip((field.east_m, field.north_m), drift_m, strict=True)
    )
    return sky.model_copy(update={"clouds": field.model_copy(update={"east_m": east, "north_m": north})})


def daylight_lx(altitude_deg: float) -> float:
    """Illuminance of level ground under a clear sky, in lx: the sky's, and the sun's through its air mass (IES RP-21-84, extinction 0.21)."""
    height = math.sin(math.radians(max(altitude_deg, 0.0)))
    return (
        sky_horizontal_lx(altitude_deg, CLEAR_SKY)
        + SOLAR_LX * math.exp(-CLEAR_EXTINCTION * air_mass(altitude_deg)) * height
    )


def _recalled(project: Project, occasion: Occasion, scene: Scene) -> Occasion:
    """An occasion at which a scene has been recalled: groups that it does not name are at 100 percent."""
    update: dict[str, object] = {
        "levels": {group: scene.levels.get(group, 100.0) for group in project.groups()} | dict(scene.levels)
    }
    if scene.surfaces_stops is not None:
        update["surfaces_stops"] = scene.surfaces_stops
    if scene.sun_stops is not None:
        update["sun"] = occasion.sun.model_copy(update={"level_stops": scene.sun_stops})
    if scene.sky_stops is not None:
        update["sky"] = occasion.sky.model_copy(update={"level_stops": scene.sky_stops})
    if scene.colours is not None:
        update["colours"] = scene.colours
    return occasion.model_copy(update=update)
