"""Pictures of a profile, made by the tracer, so that a fixture is chosen by eye: light on a wall, and light on a floor.

The wall picture shows a room 2.7 m high in two bays: the fixture 0.5 m from the wall on the left and 1 m on the right, with a
figure 1.70 m tall. The floor picture shows 6 m of floor under the fixture at 2.7 m with contours of the direct illuminance,
E = I cos3(g) / h2 (inverse-square cosine law, CIE 018).
"""

from __future__ import annotations

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont
from scipy.ndimage import binary_erosion

from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.film.denoise import clean_picture
from valleylight.core.finish.exposure import metered_ev100, saturation_luminance
from valleylight.core.finish.look import apply
from valleylight.core.photometry.figures import zone_flux_lm
from valleylight.core.photometry.model import Photometry
from valleylight.core.preview.studio import in_surround, quad, studio
from valleylight.core.project.description import Fixture, FixtureKind, Lens, Look, View
from valleylight.core.stage.model import Material, Mesh, MeshInstance, StageData
from valleylight.core.trace.render import new_film, trace
from valleylight.core.trace.scene.quality import Quality
from valleylight.core.treatments.white_balance import WhiteBalance

Array = NDArray[np.float64]
ROOM_M, HUNG_M, FIGURE_M = 2.7, 1.9, 1.70
#: Distances of the fixture from the wall in the two bays, and the width of a bay.
OFF_WALL_M, BAY_M = (0.5, 1.0), 1.7
WALL_SIZE, WALL_SAMPLES = (240, 160), 5
FLOOR_SIZE, FLOOR_SAMPLES, FLOOR_M = (200, 160), 4, 6.0
#: Contours drawn on the floor, in lx.
LEVELS_LX = (5, 10, 20, 50, 100, 200, 300, 500, 1000, 2000, 5000)
#: Share of upward light from which a fixture is shown hung instead of on the ceiling.
HUNG_SHARE = 0.1
_QUALITY = Quality("portrait", 0, 0, max_bounces=4, clamp_stops=3.0, soften=0.3, sky_rows=32)
_SHA = "0" * 64
#: Pictures are a little over the meter, for most of what is seen is dark.
_BIAS_STOPS = -0.4


@dataclass(frozen=True)
class Portrait:
    """A picture (H, W, 3) uint8 and the exposure value it was developed at."""

    picture: NDArray[np.uint8]
    ev100: float


def wall_portrait(profile: Photometry, kelvin: float, ev100: float | None = None) -> Portrait:
    """Light on a wall from 0.5 m and from 1 m; `ev100` sets the exposure, else it is metered."""
    hung = zone_flux_lm(profile, 90, 180) > HUNG_SHARE * profile.lumens
    z = HUNG_M if hung else ROOM_M - 0.02
    turn = 90.0 - _lean_deg(profile)
    places = [((k - 0.5) * BAY_M, -off, z) for k, off in enumerate(OFF_WALL_M)]
    view = View(key="v", name="v", position=(0, -6.4, 1.45), target=(0, 0, 1.36), focal_mm=58.0)
    linear, _ = _traced(profile, kelvin, places, turn, view, WALL_SIZE, WALL_SAMPLES, _wall_room())
    return _developed(linear, kelvin, ev100)


def floor_portrait(profile: Photometry, kelvin: float, ev100: float | None = None) -> Portrait:
    """Light on a floor under the fixture, with contours of lux."""
    view = View(key="v", name="v", position=(0, -4.6, 5.4), target=(0, -0.25, 0), focal_mm=38.0, keep_verticals=False)
    linear, position = _traced(
        profile, kelvin, [(0.0, 0.0, ROOM_M)], 0.0, view, FLOOR_SIZE, FLOOR_SAMPLES, _floor_room()
    )
    made = _developed(linear, kelvin, ev100)
    return Portrait(_with_contours(made.picture, position, profile), made.ev100)


def floor_lux(profile: Photometry, x: Array, y: Array, height_m: float = ROOM_M) -> Array:
    """Direct illuminance in lx on a floor at x, y in metres from below the fixture."""
    far = np.sqrt(x**2 + y**2 + height_m**2)
    gamma = np.degrees(np.arccos(height_m / far))
    return profile.intensity(np.degrees(np.arctan2(y, x)), gamma) * height_m / far**3


def _lean_deg(profile: Photometry) -> float:
    """The C angle towards which a distribution leans; 90 where it leans nowhere."""
    c, g = np.arange(0.0, 360.0, 10.0), np.arange(0.0, 180.5, 5.0)
    light = profile.intensity(c[:, None], g[None, :]) * np.sin(np.radians(g)) ** 2
    x, y = (light * np.cos(np.radians(c))[:, None]).sum(), (light * np.sin(np.radians(c))[:, None]).sum()
    return float(np.degrees(np.arctan2(y, x))) if np.hypot(x, y) > 0.05 * light.sum() else 90.0


def _traced(
    profile: Photometry, kelvin: float, places: list[tuple[float, float, float]], turn_deg: float, view: View,
    size: tuple[int, int], samples: int, stage: StageData,
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:  # fmt: skip
    """Linear picture in cd/m2 without noise, and the position each pixel sees."""
    fixtures = tuple(
        Fixture(key=f"f{k}", kind="k", position=p, aim=(p[0], p[1], p[2] - 1), turn_deg=turn_deg)
        for k, p in enumerate(places)
    )
    kind = FixtureKind(key="k", name="k", profile=_SHA, kelvin=kelvin)
    project, compiler = studio(stage, view, fixtures, (kind,), profile)
    night = project.description.occasions[0]
    scene = in_surround(compiler.scene(project, view, night, *size, 1, _QUALITY), 0.0)
    film = new_film(scene, view, night, *size)
    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        trace(scene, film, 0, samples, pool)
    passes = film.passes
    linear = clean_picture(film.balanced(), passes["surface_colour"], passes["normal"], "balanced")
    return linear, passes["position"]


def _developed(linear: NDArray[np.float32], kelvin: float, ev100: float | None) -> Portrait:
    luminance = linear @ LUMINANCE.astype(np.float32)
    ev = metered_ev100(max(float(luminance.mean()), 1e-6)) + _BIAS_STOPS if ev100 is None else ev100
    lens = Lens(f_number=4.0, shutter_s=1 / 60, iso=100)
    base = saturation_luminance(lens) * 2.0 ** (ev - np.log2(16 * 60))
    # Mostly adapted to the lamp: warm light looks warm, but not orange.
    white = WhiteBalance(kelvin=float(np.clip(0.65 * kelvin + 0.35 * 5000, 1500, 12000)))
    treatments = tuple(white if isinstance(t, WhiteBalance) else t for t in Look().treatments)
    return Portrait(apply(linear, Look(treatments=treatments), saturation_cd_m2=base), float(ev))


def _with_contours(picture: NDArray[np.uint8], position: NDArray[np.float32], profile: Photometry) -> NDArray[np.uint8]:
    """Ink lines where the floor passes a level, each named once where its line comes nearest to the lens."""
    scale = 2
    position = np.where((position != 0).any(-1, keepdims=True), position, np.float32(np.nan))
    image = Image.fromarray(picture).resize(
        (picture.shape[1] * scale, picture.shape[0] * scale), Image.Resampling.LANCZOS
    )
    place = np.stack([
        np.asarray(Image.fromarray(np.ascontiguousarray(position[..., k])).resize(image.size, Image.Resampling.BILINEAR))
        for k in range(3)
    ], -1)  # fmt: skip
    on_floor = (np.abs(place[..., 2]) < 1e-3) & (np.abs(place[..., :2]).max(-1) < FLOOR_M / 2)
    on_floor = binary_erosion(on_floor, iterations=2 * scale)
    lux = np.where(on_floor, floor_lux(profile, place[..., 0], place[..., 1]), np.nan)
    out = np.asarray(image).copy()
    draw_at = []
    for level in LEVELS_LX:
        above = lux >= level
        edge = np.zeros(lux.shape, bool)
        edge[:, 1:] |= (above[:, 1:] != above[:, :-1]) & ~np.isnan(lux[:, 1:]) & ~np.isnan(lux[:, :-1])
        edge[1:] |= (above[1:] != above[:-1]) & ~np.isnan(lux[1:]) & ~np.isnan(lux[:-1])
        if not edge.any():
            continue
        shown = out[edge].astype(int)
        out[edge] = np.where(shown.mean(1, keepdims=True) > 110, shown - 90, shown + 90).clip(0, 255).astype(np.uint8)
        rows, columns = np.nonzero(edge)
        free = (columns > 24) & (columns < lux.shape[1] - 24) & (rows < lux.shape[0] - 4)
        if free.any():
            lowest = int(np.where(free, rows, -1).argmax())
            draw_at.append((level, int(columns[lowest]), int(rows[lowest])))
    labelled = Image.fromarray(out)
    pen = ImageDraw.Draw(labelled)
    font = ImageFont.load_default(size=15)
    taken: list[int] = []
    for level, x, y in reversed(draw_at):
        if any(abs(y - other) < 17 for other in taken):
            continue
        taken.append(y)
        pen.text((x, y - 1), f"{level} lx" if level == draw_at[0][0] else f"{level}", fill=(255, 255, 255), font=font, anchor="mb",
                 stroke_width=2, stroke_fill=(40, 40, 40))  # fmt: skip
    return np.asarray(labelled)


_WALL = Material(name="wall", base=(0.68, 0.67, 0.65), roughness=0.9, specular=0.1)
_CEILING = Material(name="ceiling", base=(0.78, 0.78, 0.77), roughness=0.9, specular=0.1)
_FLOOR = Material(name="floor", base=(0.22, 0.20, 0.18), roughness=0.6, specular=0.3)
_FIGURE = Material(name="figure", base=(0.24, 0.24, 0.25), roughness=0.8, specular=0.2)


@lru_cache(maxsize=1)
def _wall_room() -> StageData:
    w, front, h = BAY_M, -7.0, ROOM_M
    faces = [
        quad([(-w, 0, 0), (w, 0, 0), (w, 0, h), (-w, 0, h)], 0),
        quad([(-w, front, 0), (w, front, 0), (w, 0, 0), (-w, 0, 0)], 2),
        quad([(-w, 0, h), (w, 0, h), (w, -2.2, h), (-w, -2.2, h)], 1),
        quad([(-w, -2.2, 0), (-w, 0, 0), (-w, 0, h), (-w, -2.2, h)], 0),
        quad([(w, 0, 0), (w, -2.2, 0), (w, -2.2, h), (w, 0, h)], 0),
        # A fin between the bays.
        quad([(-0.04, -1.7, 0), (-0.04, -1.7, h), (-0.04, 0, h), (-0.04, 0, 0)], 0),
        quad([(0.04, 0, 0), (0.04, 0, h), (0.04, -1.7, h), (0.04, -1.7, 0)], 0),
        quad([(-0.04, -1.7, 0), (0.04, -1.7, 0), (0.04, -1.7, h), (-0.04, -1.7, h)], 0),
        _figure((0.42, -0.62), 3),
    ]
    return _stage(faces)


@lru_cache(maxsize=1)
def _floor_room() -> StageData:
    half = FLOOR_M / 2
    light = replace(_FLOOR, base=(0.42, 0.41, 0.40))
    return _stage(
        [quad([(-half, -half, 0), (half, -half, 0), (half, half, 0), (-half, half, 0)], 2), _figure((-2.3, 1.6), 3)],
        light,
    )


def _stage(meshes: list[Mesh], floor: Material = _FLOOR) -> StageData:
    instances = tuple(MeshInstance(k, np.eye(4), name=f"part {k}") for k in range(len(meshes)))
    return StageData(tuple(meshes), instances, (_WALL, _CEILING, floor, _FIGURE), ())


def _figure(at: tuple[float, float], material: int) -> Mesh:
    """A plain standing figure, turned on a lathe and flattened."""
    outline = np.array([
        (0.0, 0.09), (0.05, 0.12), (0.45, 0.12), (0.85, 0.165), (1.05, 0.155), (1.30, 0.20), (1.40, 0.19), (1.45, 0.07),
        (1.49, 0.06), (1.52, 0.085), (1.60, 0.10), (1.66, 0.08), (FIGURE_M, 0.0),
    ])  # fmt: skip
    turn = np.linspace(0, 2 * np.pi, 25)
    x = outline[:, 1:2] * np.cos(turn)
    y = outline[:, 1:2] * np.sin(turn) * 0.6
    p = np.stack([x + at[0], y + at[1], np.repeat(outline[:, :1], len(turn), 1)], -1).reshape(-1, 3)
    n = np.stack([np.cos(turn) * 0.6, np.sin(turn), 0 * turn], -1)
    n = np.tile(n / np.linalg.norm(n, axis=1, keepdims=True), (len(outline), 1))
    i, j = np.meshgrid(np.arange(len(outline) - 1), np.arange(len(turn) - 1), indexing="ij")
    k = (i * len(turn) + j).ravel()
    t = np.concatenate([
        np.column_stack([k, k + 1, k + len(turn) + 1]), np.column_stack([k, k + len(turn) + 1, k + len(turn)])
    ])  # fmt: skip
    return Mesh(
        p.astype(np.float32), n.astype(np.float32), np.zeros((len(p), 2), np.float32), t.astype(np.uint32),
        np.full(len(t), material, np.int32),
    )  # fmt: skip
