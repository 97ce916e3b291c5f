"""The bench's live picture: rough at once, better while nothing changes."""

from __future__ import annotations

import io
import threading
import traceback
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from typing import Any

import numpy as np
from PIL import Image

from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.colour.temperature import rgb_to_kelvin
from valleylight.core.errors import InputError
from valleylight.core.film.denoise import clean_picture
from valleylight.core.film.film import Film
from valleylight.core.finish.exposure import ev100, metered_ev100, saturation_luminance
from valleylight.core.finish.look import apply
from valleylight.core.lamps.compile import tinting_levels
from valleylight.core.measure import falsecolour
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.description import Lens, Occasion, Project, View
from valleylight.core.trace.lighting import Daylight
from valleylight.core.trace.render import PROOF, SKETCH, Compiler, Scene, digest, new_film, trace
from valleylight.server import measured
from valleylight.server.files import FileStore

#: Width, samples of each pass and noise-removal quality of the steps of refinement.
STEPS = ((480, (1,), "fast"), (848, (2, 3, 5, 10, 20), "balanced"))
ASPECT = 9 / 16
#: Height of the sky as it is seen in the finer live picture.
LIVE_SKY_ROWS = 512
#: The last steps of refinement wait while a plate is in the making.
PATIENT_STEPS = 3
#: From so many stops off, a picture counts as black or burnt; below so much light no lens in use takes it.
NOTICED_STOPS, DARKEST_EV = 3.0, -4.0


class LivePicture:
    """Keeps one picture going. `show` sets what is wanted, `step` does the next piece of work."""

    def __init__(
        self, compiler: Compiler, files: FileStore, pool: ThreadPoolExecutor, send: Callable[[dict[str, Any]], None],
        interrupt: threading.Event,
    ) -> None:  # fmt: skip
        self._compiler, self._files, self._pool = compiler, files, pool
        self._send, self._interrupt = send, interrupt
        self._wanted: dict[str, Any] | None = None
        self._key = ""
        self._plan: list[tuple[int, int, str]] = []
        self._film: Film | None = None
        self._scene: Scene | None = None
        self._finish_only = False
        #: The film last shown, with its view and occasion, scene, lens and levels.
        self._shown: tuple[tuple[str, str], Film, Scene, Lens, dict[str, float]] | None = None

    @property
    def has_work(self) -> bool:
        return self._wanted is not None and (bool(self._plan) or self._finish_only)

    @property
    def is_new(self) -> bool:
        """Nothing has been shown yet of what is wanted."""
        return self.has_work and (self._finish_only or self._film is None or self._film.samples == 0)

    @property
    def is_rough(self) -> bool:
        """The picture is not good enough yet to let a plate go first."""
        return self.has_work and (self._finish_only or len(self._plan) > PATIENT_STEPS)

    def off(self) -> None:
        self._wanted = None
        self._film = self._scene = self._shown = None
        self._key = ""

    def show(self, message: dict[str, Any]) -> None:
        """Change what is shown. A new look or level keeps the film; anything else starts it anew."""
        try:
            project = LoadedProject(Project.model_validate(message["description"]), self._files.read)
            view, occasion = (
                project.description.view(message["view"]),
                project.description.occasion(message["occasion"]),
            )
        except InputError as error:
            self._fail(message, str(error))
            return
        alone = message.get("alone")
        if alone and occasion.levels.get(alone, 100.0) <= 0:  # to be seen alone it must be on
            occasion = occasion.model_copy(update={"levels": {**occasion.levels, alone: 100.0}})
        key = scene_key(project.description, view, occasion)
        same = key == self._key and self._film is not None and self._film.samples > 0
        self._wanted = {**message, "project": project, "view": view, "occasion": occasion}
        if same:
            self._finish_only = True
        else:
            self._key = key
            self._plan = [(width, count, quality) for width, counts, quality in STEPS for count in counts]
            self._film = self._scene = None
            self._finish_only = False

    def step(self) -> None:
        """One pass, then show it; left early when something newer has come in."""
        assert self._wanted is not None
        try:
            if self._finish_only:
                self._finish_only = False
                assert self._film is not None
                self._show_film("fast")
                return
            width, count, quality = self._plan[0]
            if self._film is None or self._film.size[0] != width:
                self._start(width)
            assert self._film is not None and self._scene is not None
            film = self._film
            kept = (film.light.copy(), film.auxiliary.copy(), film.counts.copy()) if film.samples else None
            first = film.samples
            done = trace(self._scene, film, first, first + count, self._pool, self._interrupt.is_set)
            if done is None:  # something newer is waiting: put the film back as it was
                if kept is None:
                    self._film = None
                else:
                    film.light[:], film.auxiliary[:], film.counts[:] = kept
                self._interrupt.clear()
                return
            self._plan.pop(0)
            self._show_film(quality)
        except InputError as error:
            self._fail(self._wanted, str(error))
        except Exception as error:
            traceback.print_exc()
            self._fail(self._wanted, f"The picture could not be computed ({type(error).__name__}: {error}).")

    def meter(self, message: dict[str, Any]) -> dict[str, Any]:
        """Luminance, colour temperature and place on the scale of grey of a spot or an area of the picture shown, and all
        the light that falls on the surface there. Raises InputError where nothing is shown yet."""
        if self._shown is None or self._shown[0] != (message["view"], message["occasion"]):
            raise InputError("the picture is not there yet", "picture", "Wait for the live picture and point again")
        _, film, scene, lens, levels = self._shown
        return measured.spot(film, scene, lens, levels, message["x"], message["y"], message["radius"])

    def _start(self, width: int) -> None:
        wanted = self._wanted
        assert wanted is not None
        height = round(width * ASPECT)
        quality = replace(PROOF, sky_rows=LIVE_SKY_ROWS) if width > SKETCH.width else SKETCH
        self._scene = self._compiler.scene(
            wanted["project"], wanted["view"], wanted["occasion"], width, height, 1, quality
        )
        self._film = new_film(self._scene, wanted["view"], wanted["occasion"], width, height)

    def _show_film(self, quality: str) -> None:
        wanted, film, scene = self._wanted, self._film, self._scene
        assert wanted is not None and film is not None and scene is not None
        view: View = wanted["view"]
        occasion: Occasion = wanted["occasion"]
        project: Project = wanted["project"].description
        lens = view.lens_for(occasion.key)
        self._shown = ((view.key, occasion.key), film, scene, lens, occasion.light_levels())
        passes = film.passes
        levels = occasion.light_levels()
        if wanted.get("alone"):
            levels = {g: levels.get(g, 1.0) if g == wanted["alone"] else 0.0 for g in film.group_names}
        linear = clean_picture(film.balanced(levels), passes["surface_colour"], passes["normal"], quality)
        look = project.look_for(view, occasion)
        mode = wanted.get("mode", "picture")
        legend: falsecolour.FalseColour | None = None
        if mode == "luminance":
            legend = falsecolour.luminance(linear)
        elif mode == "illuminance":
            legend = falsecolour.illuminance(linear, passes["surface_colour"], passes["depth"])
        if legend is not None:
            picture = legend.picture
        else:
            picture = apply(linear, look, saturation_cd_m2=saturation_luminance(lens))
            picture = falsecolour.clipped(picture) if mode == "clipped" else picture
        day = scene.daylight
        mean = float((linear @ LUMINANCE.astype(np.float32)).mean())
        sky_rgb = day.dome.rgb[len(day.dome.rgb) // 2 :].mean((0, 1))
        self._send({
            "event": "live",
            "project": wanted["slug"],
            "header": {
                "serial": wanted["serial"], "width": film.size[0], "height": film.size[1], "samples": film.samples,
                "last": not self._plan, "ev100": ev100(lens), "metered_ev100": metered_ev100(mean) if mean > 0 else None,
                "azimuth_deg": day.azimuth_deg, "altitude_deg": day.altitude_deg,
                "sun_lx": day.sun_horizontal_lx * 2.0**occasion.sun.level_stops,
                "sky_lx": day.dome.horizontal_illuminance_lx * 2.0**occasion.sky.level_stops,
                "sun_kelvin": _whole(rgb_to_kelvin(day.sun_rgb_lx)) if day.sun_up else None,
                "sky_kelvin": _whole(rgb_to_kelvin(sky_rgb)),
                "by_moon": day.by_moon, "sun_share": day.sky.sun_share, "advice": advice(linear, lens, day, mean),
                "true_to_place": occasion.sun.true_to_place, "groups": list(film.group_names),
                "shares": _shares(film, occasion), "mode": mode,
                "legend": None if legend is None else {"unit": legend.unit, "steps": legend.legend},
            },
            "image": jpeg(picture, 92),
        })  # fmt: skip

    def _fail(self, message: dict[str, Any], text: str) -> None:
        self._plan, self._finish_only = [], False
        self._send({
            "event": "live", "project": message["slug"], "header": {"serial": message["serial"], "error": text}, "image": b"",
        })  # fmt: skip


def _shares(film: Film, occasion: Occasion) -> dict[str, float]:
    """Share of the picture's light that each group gives, 0 to 1."""
    levels = occasion.light_levels()
    means = {
        name: levels.get(name, 1.0) * float(picture.mean((0, 1)) @ LUMINANCE) for name, picture in film.groups.items()
    }
    total = sum(means.values())
    return {name: round(value / total, 6) if total > 0 else 0.0 for name, value in means.items()}


def advice(linear: np.ndarray[Any, Any], lens: Lens, day: Daylight, mean: float) -> dict[str, Any] | None:
    """What is wrong with a black or burnt picture, and the exposure value that would mend it (None where the lens cannot)."""
    if mean <= 0:
        return {"text": "No source is on: the picture is black. Raise the sun, or switch fixtures on.", "ev100": None}
    wanted = metered_ev100(mean)
    over = wanted - ev100(lens)
    if day.altitude_deg < -6 and wanted < DARKEST_EV:
        lit = "The moon and the sky alone give" if day.by_moon else "The night sky alone gives"
        return {"text": f"{lit} light: a picture of a night needs lamps.", "ev100": None}
    if abs(over) < NOTICED_STOPS:
        return None
    side = "over" if over > 0 else "under"
    return {"text": f"{abs(over):.0f} stops {side}: set the lens to EV {wanted:.1f}.", "ev100": round(wanted, 1)}


def _whole(kelvin: float) -> int | None:
    return round(kelvin) if np.isfinite(kelvin) and 1000 < kelvin < 50_000 else None


def scene_key(project: Project, view: View, occasion: Occasion) -> str:
    """Hash of what a trace depends on: not the look, nor levels above zero, nor the exposure of a lens without blur."""
    lens = view.lens_for(occasion.key)
    sky = occasion.sky.model_copy(update={"level_stops": 0.0})
    if sky.picture is not None:
        sky = sky.model_copy(update={"picture": sky.picture.model_copy(update={"background_stops": 0.0})})
    shut = sorted(g for g in project.groups() if occasion.levels.get(g, 100.0) <= 0)
    return digest(
        project.site, project.stage, project.kinds, project.fixtures,
        view.model_copy(update={"lens_at": {}, "look_at": {}, "lens": Lens(), "name": "", "key": "x"}),
        lens.f_number if view.focus_m is not None else 0,
        occasion.model_copy(update={"levels": {}, "name": "", "key": "x", "sun": occasion.sun.model_copy(update={"level_stops": 0.0}),
                                    "sky": sky}),
        shut, tinting_levels(project, occasion),
    )  # fmt: skip


def jpeg(picture: np.ndarray[Any, Any], quality: int) -> bytes:
    out = io.BytesIO()
    Image.fromarray(picture).save(out, "JPEG", quality=quality, subsampling=0)
    return out.getvalue()
