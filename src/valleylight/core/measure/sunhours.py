"""Which hour? The sunlit share of faces over a year, the windows in which some are lit and others in shade, hours of sun.

Shadow rays go from points spread over each face towards the sun. Its places over a year at quarter hours fall on few
directions when they are rounded to half a degree, less than the disc's own width, so each is asked once only.
"""

from __future__ import annotations

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from valleylight.core.errors import InputError
from valleylight.core.measure.pick import Point, along
from valleylight.core.measure.shadow import sunlit
from valleylight.core.project.description import Site
from valleylight.core.sun.position import positions_at
from valleylight.core.sun.sunlight import direction
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.scene.compiler import RenderScene

SLOTS = 96
STEP_DEG = 0.5
POINTS = 24
MOST_FACES = 12
#: A window is where the score is above this share of the best.
WINDOW_SHARE = 0.8
LEAST_QUARTERS = 8
#: The sun is asked for only above this altitude: below it, it is too weak to throw a shadow (common practice).
LOWEST_DEG = 2.0


@dataclass(frozen=True)
class Face:
    """A patch of the stage: a point on it, the normal on the side that is meant, and how far it reaches in m."""

    point: Point
    normal: Point
    reach_m: float = 1.0


@dataclass(frozen=True)
class Window:
    """A stretch of the year: the best moment with its score and the sun there, and the days and hours it spans."""

    best: datetime
    score: float
    azimuth_deg: float
    altitude_deg: float
    first_day: date
    last_day: date
    first_hour: float
    last_hour: float
    shares: tuple[float, ...]


def spread(scene: RenderScene, face: Face) -> NDArray[np.float64]:
    """Points over a face (N, 3): a sunflower of spots around its point, each laid onto the surface that stands there. Spots
    that meet another surface (an edge, an opening, something in front) are left out.

    Raises InputError for a face without surface.
    """
    n = np.array(face.normal, float)
    n /= np.linalg.norm(n) or 1.0
    side = np.cross(n, [0, 0, 1.0] if abs(n[2]) < 0.9 else [1.0, 0, 0])
    side /= np.linalg.norm(side)
    up = np.cross(n, side)
    made = []
    for k in range(POINTS):
        r, a = face.reach_m * np.sqrt((k + 0.5) / POINTS), k * 2.399963
        start = np.array(face.point) + r * (np.cos(a) * side + np.sin(a) * up) + 0.3 * n
        met = along(
            scene, (float(start[0]), float(start[1]), float(start[2])), (float(-n[0]), float(-n[1]), float(-n[2]))
        )
        if met is not None and met.distance_m < 0.6 and float(np.dot(met.normal, n)) > 0.7:
            made.append(met.point)
    if not made:
        raise InputError("there is no surface where the face was picked", "faces", "Pick the face anew in the picture")
    return np.array(made)


def shares(scene: RenderScene, faces: list[Face], directions: NDArray[np.float64]) -> NDArray[np.float64]:
    """Sunlit share 0 to 1 of each face for each direction of the model's frame (D, 3); shape (F, D)."""
    if not 1 <= len(faces) <= MOST_FACES:
        raise InputError(f"{len(faces)} faces were given", "faces", f"Pick 1 to {MOST_FACES} faces")
    spots = [spread(scene, face) for face in faces]
    points = np.concatenate(spots)
    which = np.repeat(np.arange(len(faces)), [len(s) for s in spots])
    normals = np.array([np.array(f.normal) / (np.linalg.norm(f.normal) or 1.0) for f in faces])[which]
    out = np.zeros((len(faces), len(directions)))
    _ask(scene, points, normals, which, directions, out)
    return out / np.array([len(s) for s in spots])[:, None]


def open_sky(scene: RenderScene, point: Point, directions: NDArray[np.float64]) -> NDArray[np.float64]:
    """Share of light that reaches a point in space from each direction (D, 3); shape (D,)."""
    return reaches(scene, np.array([point], float), directions)[0]


def reaches(scene: RenderScene, points: NDArray[np.float64], directions: NDArray[np.float64]) -> NDArray[np.float64]:
    """Share of light that reaches points in space (N, 3) from each direction (D, 3); shape (N, D)."""
    out = np.zeros((len(points), len(directions)))
    _ask(scene, points, np.zeros((len(points), 3)), np.arange(len(points)), directions, out)
    return out


def _ask(
    scene: RenderScene, points: NDArray[np.float64], normals: NDArray[np.float64], which: NDArray[np.int64],
    directions: NDArray[np.float64], out: NDArray[np.float64],
) -> None:  # fmt: skip
    batch, places = 512, points - scene.origin

    def part(first: int) -> None:
        work = rays.new_work(scene.settings, scene.camera)
        sunlit(scene.arrays, work, places, normals, which, directions, first, min(first + batch, len(directions)), out)

    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        list(pool.map(part, range(0, len(directions), batch)))


@dataclass(frozen=True)
class Year:
    """Sun and sunlit shares over a year: (days, SLOTS) azimuth and altitude in degrees, (F, days, SLOTS) shares."""

    year: int
    azimuth_deg: NDArray[np.float64]
    altitude_deg: NDArray[np.float64]
    shares: NDArray[np.float64]


def over_year(scene: RenderScene, site: Site, faces: list[Face], year: int) -> Year:
    """Sunlit shares at every civil quarter hour of a year."""
    days = (date(year + 1, 1, 1) - date(year, 1, 1)).days
    zone = ZoneInfo(site.time_zone)
    midnights = [datetime(year, 1, 1, tzinfo=zone) + timedelta(days=k) for k in range(days)]
    starts = np.array([m.timestamp() for m in midnights])
    unix = (starts[:, None] + np.arange(SLOTS) * 900.0).ravel()
    azimuth, altitude = positions_at(site.latitude_deg, site.longitude_deg, unix, year)
    up = altitude > LOWEST_DEG
    # One direction for all moments whose sun stands within the same half degree.
    keys = np.round(
        np.stack([azimuth[up] * np.cos(np.radians(altitude[up])), altitude[up], azimuth[up] // 180], -1) / STEP_DEG
    )
    _, first, back = np.unique(keys, axis=0, return_index=True, return_inverse=True)
    local = azimuth[up][first] - site.north_deg
    wanted = np.stack([direction(float(a), float(h)) for a, h in zip(local, altitude[up][first], strict=True)])
    got = shares(scene, faces, wanted)
    full = np.zeros((len(faces), len(unix)))
    full[:, up] = got[:, back.ravel()]
    shape = (days, SLOTS)
    return Year(year, azimuth.reshape(shape), altitude.reshape(shape), full.reshape(len(faces), *shape))


def score(year: Year, lit: list[int], shaded: list[int]) -> NDArray[np.float64]:
    """How well a moment fits, 0 to 1, (days, SLOTS): the least lit of the faces meant to be lit, times the share of shade on
    the least shaded of the others. Nothing fits without sun."""
    best = year.shares[lit].min(0) if lit else np.ones(year.altitude_deg.shape)
    if shaded:
        best = best * (1 - year.shares[shaded].max(0))
    return np.where(year.altitude_deg > LOWEST_DEG, best, 0.0)


def windows(year: Year, scores: NDArray[np.float64], most: int = 8) -> list[Window]:
    """The stretches of the year that fit best, by score and then by size."""
    peak = float(scores.max())
    if peak < 0.05:
        return []
    labels, count = ndimage.label(scores >= WINDOW_SHARE * peak, np.ones((3, 3)))
    found = []
    for number, where in enumerate(ndimage.find_objects(labels), 1):
        assert where is not None and count
        inside = np.where(labels[where] == number, scores[where], 0.0)
        # The middle of the best moments, not the first of them, is the safest to choose.
        top = inside >= inside.max() - 1e-9
        distance = ndimage.distance_transform_edt(np.pad(top, 1))[1:-1, 1:-1]
        d, s = np.unravel_index(int(distance.argmax()), distance.shape)
        day, slot = where[0].start + int(d), where[1].start + int(s)
        found.append((float(inside.max()), int((inside > 0).sum()), day, slot, where))
    # A gleam between two branches is no window where there are longer ones.
    long = [f for f in found if f[1] >= LEAST_QUARTERS]
    found = long or found
    found.sort(key=lambda f: (-round(f[0], 2), -f[1]))
    start = date(year.year, 1, 1)
    return [
        Window(
            datetime(year.year, 1, 1) + timedelta(days=day, minutes=15 * slot), best, float(year.azimuth_deg[day, slot]),
            float(year.altitude_deg[day, slot]), start + timedelta(days=where[0].start), start + timedelta(days=where[0].stop - 1),
            where[1].start / 4, where[1].stop / 4, tuple(float(v) for v in year.shares[:, day, slot]),
        )
        for best, _, day, slot, where in found[:most]
    ]  # fmt: skip


@dataclass(frozen=True)
class SunHours:
    """Hours of sun on each face on a date, and its stretches in civil hours."""

    day: date
    hours: tuple[float, ...]
    stretches: tuple[tuple[tuple[float, float], ...], ...]


def hours_of_sun(scene: RenderScene, site: Site, faces: list[Face], day: date, minutes: int = 5) -> SunHours:
    """Hours of sun on faces on a civil day: the sum of sunlit shares. A stretch is where at least half of a face is lit."""
    midnight = datetime(day.year, day.month, day.day, tzinfo=ZoneInfo(site.time_zone)).timestamp()
    moments = np.asarray(midnight + (np.arange(24 * 60 // minutes) + 0.5) * 60 * minutes, np.float64)
    azimuth, altitude = positions_at(site.latitude_deg, site.longitude_deg, moments, day.year)
    up = np.flatnonzero(altitude > 0)
    share = np.zeros((len(faces), len(moments)))
    if len(up):
        towards = np.stack([direction(float(azimuth[k]) - site.north_deg, float(altitude[k])) for k in up])
        share[:, up] = shares(scene, faces, towards)
    stretches = []
    for row in share:
        labels, count = ndimage.label(row >= 0.5)
        stretches.append(tuple(
            (where[0].start * minutes / 60, where[0].stop * minutes / 60) for where in ndimage.find_objects(labels) if where and count
        ))  # fmt: skip
    return SunHours(day, tuple(float(v) for v in share.sum(1) * minutes / 60), tuple(stretches))
