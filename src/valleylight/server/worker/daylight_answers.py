"""Questions about daylight that the worker answers: skies, pictures of surroundings, which hour, shadow."""

from __future__ import annotations

import base64
import io
import tempfile
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from valleylight.core.colour.temperature import rgb_to_kelvin
from valleylight.core.errors import InputError, NotFoundError
from valleylight.core.film.denoise import clean_picture
from valleylight.core.finish.balance import balance_of
from valleylight.core.finish.exposure import saturation_luminance
from valleylight.core.finish.look import apply
from valleylight.core.finish.seen import seen_of
from valleylight.core.measure import sunhours
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.description import Occasion
from valleylight.core.project.sky import Clouds
from valleylight.core.sky import picture as pictures
from valleylight.core.sky.build import CelestialBody, sky_light
from valleylight.core.sky.catalogue import find
from valleylight.core.sky.dome import Dome, cell_angles
from valleylight.core.sky.view import dome_picture, illuminances
from valleylight.core.sun.sunlight import clear_sunlight, direction
from valleylight.core.trace.render import new_film, trace
from valleylight.core.trace.scene.compiler import Compiler, RenderScene
from valleylight.core.trace.scene.lighting import daylight_of
from valleylight.core.trace.scene.quality import PROOF, SKETCH
from valleylight.server.found import data_url
from valleylight.server.messages import questions as q
from valleylight.server.worker.desk import Desk

#: Width, height and samples of a glimpse: a picture of an hour.
GLIMPSE_WIDTH, GLIMPSE_SAMPLES = 320, 4
#: Grid of the horizon seen from a view's point: azimuths and altitudes.
HORIZON_AZIMUTHS, HORIZON_ALTITUDES = 120, 30
METER_ROWS = 16
#: Rows of a sky that is taken out finely as a file: sharp at 3840 across.
FILE_ROWS = 1920


def _catalogue_sky(asked: q.SkyOfCatalogue, _: Desk) -> dict[str, Any]:
    """A sky of the catalogue under a sun: its round picture and its illuminances."""
    entry = find(asked.key)
    if entry is None:
        raise NotFoundError(f"there is no sky {asked.key!r}", "sky", "Choose one of the catalogue")
    azimuth, altitude = asked.azimuth_deg, asked.altitude_deg
    sun_lx = clear_sunlight(altitude, entry.sky.turbidity).normal_illuminance_lx
    level = sun_lx * max(np.sin(np.radians(altitude)), 0.0)
    made = sky_light(entry.sky, CelestialBody(azimuth, altitude), None, round(float(level), 1), 0.0, 256)
    level_lx, upright_lx = illuminances(made.dome)
    return {
        "key": entry.key, "name": entry.name, "picture": data_url(dome_picture(made.backdrop)), "horizontal_lx": level_lx,
        "vertical_lx": upright_lx, "sun_share": made.sun_share, "sun_horizontal_lx": float(level) * made.sun_share,
    }  # fmt: skip


def _scene(project: LoadedProject, compiler: Compiler, occasion: Occasion) -> RenderScene:
    if not project.description.views:
        raise InputError("there is no view yet", "views", "Add a view first")
    return compiler.scene(project, project.description.views[0], occasion, 16, 9, 1, SKETCH)


def _faces(asked: q.FindHours | q.SunHours) -> list[sunhours.Face]:
    return [sunhours.Face(f.point, f.normal, f.reach_m) for f in asked.faces]


def _find_hours(asked: q.FindHours, desk: Desk) -> dict[str, Any]:
    project, compiler = desk.project(asked), desk.compiler
    occasion = project.description.occasion(asked.occasion)
    scene = _scene(project, compiler, occasion)
    year = sunhours.over_year(scene, project.description.site, _faces(asked), asked.year)
    lit = [k for k, f in enumerate(asked.faces) if f.lit]
    shaded = [k for k, f in enumerate(asked.faces) if not f.lit]
    scores = sunhours.score(year, lit, shaded)
    found = sunhours.windows(year, scores)
    levels = np.where(year.altitude_deg > 0, np.round(scores * 254), 255).astype(np.uint8)
    return {
        "year": year.year, "days": levels.shape[0], "slots": levels.shape[1], "best": float(scores.max()),
        "levels": base64.b64encode(levels.tobytes()).decode(), "windows": [asdict(w) for w in found],
    }  # fmt: skip


def _sun_hours(asked: q.SunHours, desk: Desk) -> list[dict[str, Any]]:
    project, compiler = desk.project(asked), desk.compiler
    scene = _scene(project, compiler, project.description.occasion(asked.occasion))
    faces = _faces(asked)
    return [asdict(sunhours.hours_of_sun(scene, project.description.site, faces, day)) for day in asked.days]


def _horizon(asked: q.Horizon, desk: Desk) -> dict[str, Any]:
    """What of the sky the stage hides from a view's point."""
    project, compiler = desk.project(asked), desk.compiler
    description = project.description
    scene = _scene(project, compiler, description.occasion(asked.occasion))
    azimuths = (np.arange(HORIZON_AZIMUTHS) + 0.5) * 360 / HORIZON_AZIMUTHS
    altitudes = (np.arange(HORIZON_ALTITUDES) + 0.5) * 90 / HORIZON_ALTITUDES
    towards = np.stack(
        [direction(float(a) - description.site.north_deg, float(h)) for h in altitudes for a in azimuths]
    )
    point = description.view(asked.view).position
    free = sunhours.open_sky(scene, point, towards).reshape(HORIZON_ALTITUDES, HORIZON_AZIMUTHS)
    return {
        "azimuths": HORIZON_AZIMUTHS, "altitudes": HORIZON_ALTITUDES,
        "hidden": "".join("1" if v < 0.35 else "0" for v in free.ravel()),
    }  # fmt: skip


def _sky_meter(asked: q.SkyMeter, desk: Desk) -> dict[str, Any]:
    """Illuminances on open ground, colour temperatures, moon, and the luminance of the sky over a coarse grid."""
    project, compiler = desk.project(asked), desk.compiler
    description = project.description
    occasion = description.occasion(asked.occasion)
    day = daylight_of(description.site, occasion, picture=lambda p: compiler.picture(project, p))
    small = np.maximum(Dome(day.sky.backdrop).reduced(2 * METER_ROWS).luminance[METER_ROWS:], 0)
    azimuth = cell_angles(2 * METER_ROWS)[1]
    # True azimuths: the grid of the model turned by its north.
    turned = np.stack([
        np.interp((azimuth - np.radians(description.site.north_deg)) % (2 * np.pi), azimuth, row, period=2 * np.pi) for row in small
    ])  # fmt: skip
    level, upright = illuminances(day.dome)
    moon = day.moon
    sky_kelvin, sun_kelvin = rgb_to_kelvin(day.dome.horizontal_rgb_lx), rgb_to_kelvin(day.sun_rgb_lx)
    return {
        "direct_lx": day.sun_horizontal_lx * 2.0**occasion.sun.level_stops, "diffuse_lx": level * 2.0**occasion.sky.level_stops,
        "direct_normal_lx": day.sun_normal_lx * 2.0**occasion.sun.level_stops, "vertical_lx": upright,
        "sky_kelvin": _kelvin(sky_kelvin), "sun_kelvin": _kelvin(sun_kelvin), "sun_share": day.sky.sun_share,
        "by_moon": day.by_moon, "rows": small.shape[0], "columns": small.shape[1],
        "luminance": [float(f"{v:.3g}") for v in turned.ravel()],
        "moon": None if moon is None else {
            "azimuth_deg": moon.azimuth_deg, "altitude_deg": moon.altitude_deg, "lit": moon.lit, "waxing": moon.waxing,
            "normal_lx": moon.normal_lx,
        },
    }  # fmt: skip


def _kelvin(value: float) -> float | None:
    return round(value) if np.isfinite(value) and 1000 < value < 60_000 else None


def _glimpse(asked: q.Glimpse, desk: Desk) -> bytes:
    """A small quick picture of a view at another hour."""
    project, compiler = desk.project(asked), desk.compiler
    description = project.description
    view, occasion = description.view(asked.view), description.occasion(asked.occasion)
    moved = occasion.model_copy(update={"when": asked.when})
    if asked.cloudless:
        moved = moved.model_copy(update={"sky": moved.sky.model_copy(update={"clouds": Clouds()})})
    size = view.pixels(GLIMPSE_WIDTH)
    scene = compiler.scene(project, view, moved, *size, 1, replace(SKETCH, width=GLIMPSE_WIDTH))
    film = new_film(scene, view, moved, *size)
    with ThreadPoolExecutor(2) as pool:
        trace(scene, film, 0, GLIMPSE_SAMPLES, pool)
    linear = clean_picture(film.balanced(balance_of(moved).gains(film)), *film.guides, "fast")
    white = saturation_luminance(view.lens_for(occasion.key))
    out = io.BytesIO()
    look = description.look_for(view, moved)
    picture = apply(linear, look, saturation_cd_m2=white, seen=seen_of(film, look, project.asset))
    Image.fromarray(picture).save(out, "JPEG", quality=88)
    return out.getvalue()


def _sky_file(asked: q.SkyFile, desk: Desk) -> bytes:
    """An occasion's sky as .exr or .hdr, in true azimuths."""
    project, compiler = desk.project(asked), desk.compiler
    description = project.description
    occasion = description.occasion(asked.occasion)
    day = daylight_of(description.site, occasion, FILE_ROWS if asked.fine else PROOF.sky_rows,
                      lambda p: compiler.picture(project, p))  # fmt: skip
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder, f"sky.{asked.suffix}")
        pictures.write_picture(pictures.turned(day.sky.backdrop, description.site.north_deg), path)
        return path.read_bytes()


ANSWERS: dict[type[q.Question], Any] = {
    q.SkyOfCatalogue: _catalogue_sky, q.FindHours: _find_hours, q.SunHours: _sun_hours, q.Horizon: _horizon,
    q.SkyMeter: _sky_meter, q.Glimpse: _glimpse, q.SkyFile: _sky_file,
}  # fmt: skip
