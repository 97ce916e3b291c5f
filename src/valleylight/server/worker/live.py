"""The bench's live picture: rough at once, better while nothing changes."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from typing import Any

from valleylight.core.compose.composer import Composer
from valleylight.core.compose.sprites import Sprites
from valleylight.core.errors import InputError, StoppedError
from valleylight.core.film.denoise import remove_noise
from valleylight.core.film.film import Film, Level
from valleylight.core.film.jpeg import jpeg
from valleylight.core.finish.balance import balance_of
from valleylight.core.finish.exposure import ev100
from valleylight.core.finish.scopes import scopes
from valleylight.core.finish.seen import needs_masks
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.description import Lens, Occasion, Project, View
from valleylight.core.trace.render import new_film, trace
from valleylight.core.trace.scene.compiler import Compiler, RenderScene
from valleylight.core.trace.scene.quality import DRAFT, PROOF, SKETCH
from valleylight.server import logs
from valleylight.server.messages.events import Event, LiveShown
from valleylight.server.messages.picture import LiveFault, LiveHeader
from valleylight.server.messages.questions import KeepLive, LiveScopes, MarkLimit, Meter, TryLooks
from valleylight.server.messages.wishes import ShowLive
from valleylight.server.store.files import FileStore
from valleylight.server.store.storage import keep_settings
from valleylight.server.store.tables import PlateRow, ProjectRow
from valleylight.server.worker import choosing, measured
from valleylight.server.worker.cleaned import CleanedFilm, Picture
from valleylight.server.worker.dependence import blur_of, scene_key, traced_for, traced_sharp
from valleylight.server.worker.modes import made
from valleylight.server.worker.pace import FIRST_WIDTH, Pace
from valleylight.server.worker.plates import keep_picture
from valleylight.server.worker.reading import Reading
from valleylight.server.worker.told import lights_of, told_of

log = logs.log()

#: The first step of refinement (width of a picture of 16 to 9, others have as many pixels; samples; noise removal), and the samples of
#: those after it.
FIRST_STEP, FINER = (FIRST_WIDTH, 1, "fast"), (2, 3, 5, 10, 20)
#: After so long at rest a picture whose levels were changed is cleaned again.
REST_S = 0.6
#: A film traced for one exposure holds for others so many stops away.
HELD_STOPS = 0.7
#: While something is dragged nothing is refined before the hand has rested for so long.
DRAG_REST_S = 0.4
#: Height of the sky as it is seen in the finer live picture.
LIVE_SKY_ROWS = 512
#: Pixels to a cell of the clouds before the lens in the live picture: a new hour must not keep a hand waiting for finer ones.
LIVE_SKY_PIXELS = 4.0
#: Paths to each card by which the light about a cut-out is measured while a hand moves, and at rest.
CARD_PATHS_DRAGGED, CARD_PATHS = 8, 48
#: The last steps of refinement wait while a plate is in the making.
PATIENT_STEPS = 3


@dataclass(frozen=True)
class _Wanted:
    """What is to be shown: the wish, and what it names."""

    wish: ShowLive
    project: LoadedProject
    view: View
    occasion: Occasion

    @property
    def shows(self) -> tuple[str, str, str]:
        return self.wish.slug, self.view.key, self.occasion.key


class LivePicture:
    """Keeps one picture going. `show` sets what is wanted, `step` does the next piece of work.

    The first picture of what is wanted is never left midway, or a drag would never be seen to move: it is made small
    enough to be done at once, and the newest wish waits for it. Refinement is left for anything newer. A film that must be traced
    anew for another exposure or tint answers looks and levels until the new one has its first pass.
    """

    def __init__(
        self, compiler: Compiler, files: FileStore, pool: ThreadPoolExecutor, send: Callable[[Event], None],
        interrupt: threading.Event, reading: Reading | None = None, width: int = 848, samples: int = 40,
        sprites: Sprites | None = None,
    ) -> None:  # fmt: skip
        self._composer = Composer(sprites or Sprites(files.read))
        self._reading = reading or Reading(compiler)
        #: Width, samples and quality of noise removal of each step of refinement.
        self._steps = [FIRST_STEP, *((max(width, FIRST_STEP[0] + 1), n, "balanced") for n in passes(samples))]
        self._compiler, self._files, self._pool = compiler, files, pool
        self._send, self._interrupt = send, interrupt
        self._wanted: _Wanted | None = None
        self._key = ""
        self._plan: list[tuple[int, int, str]] = []
        self._film: Film | None = None
        self._width = 0  # of the film, as the steps count it
        self._scene: RenderScene | None = None
        self._finish_only = self._begin_again = self._renewing = False
        self._traced: tuple[float, dict[str, float]] = (0.0, {})
        self._pace, self._setting_up_s = Pace(), 0.0
        self._asked = 0.0
        self._cleaned: CleanedFilm | None = None
        #: The finished picture last shown, and whose it is.
        self._display: tuple[tuple[str, str, str], Any] | None = None
        #: The film last shown, with its project, view and occasion, scene, lens and levels.
        self._shown: tuple[tuple[str, str, str], Film, RenderScene, Lens, dict[str, Level]] | None = None
        #: The film and its balanced sum as they were finished last, with the cut-outs in them.
        self._composed: tuple[Film, Picture] | None = None

    @property
    def has_work(self) -> bool:
        return self._wanted is not None and (
            bool(self._plan) or self._finish_only or self._owes or self._foresees or bool(self._composer.missing)
        )  # fmt: skip

    @property
    def is_new(self) -> bool:
        """Nothing has been shown yet of what is wanted."""
        return self._wanted is not None and (
            self._finish_only or (bool(self._plan) and (self._film is None or self._film.samples == 0))
        )

    @property
    def is_reading(self) -> bool:
        """The models of what is wanted are still being read: there is time for others."""
        return self._wanted is not None and not self._compiler.has_read(self._wanted.project)

    @property
    def _owes(self) -> bool:
        """What is shown was worked out from another balance, or from fewer samples: at rest it is cleaned again."""
        if self._plan or self._cleaned is None or not self._cleaned.began_as(self._film):
            return False
        return not (self._cleaned.is_exact and self._cleaned.is_of(self._film))

    @property
    def _foresees(self) -> bool:
        """All is shown as it should be, and there is time to make ready what the next level asks for."""
        return (
            not self._plan
            and self._cleaned is not None
            and self._cleaned.is_of(self._film)
            and bool(self._cleaned.not_ready)
        )

    @property
    def is_rough(self) -> bool:
        """The picture is not good enough yet to let a plate go first."""
        return self._wanted is not None and (self._finish_only or len(self._plan) > PATIENT_STEPS)

    def off(self) -> None:
        self._wanted = None
        self._film = self._scene = self._shown = self._cleaned = self._display = self._composed = None
        self._composer.missing = []
        self._key = ""

    def show(self, wish: ShowLive) -> None:
        """Change what is shown. A new look or level keeps the film; anything else starts it anew."""
        try:
            project = LoadedProject(wish.project, self._files.read)
            view, occasion = (
                project.description.view(wish.view),
                project.description.occasion(wish.occasion),
            )
        except InputError as error:
            self._fail(wish, str(error))
            return
        self._asked = time.monotonic()
        alone = wish.alone
        if alone and occasion.levels.get(alone, 100.0) <= 0:  # to be seen alone it must be on
            occasion = occasion.model_copy(update={"levels": {**occasion.levels, alone: 100.0}})
        key = scene_key(project.description, view, occasion)
        same = key == self._key and self._film is not None and self._film.samples > 0
        self._wanted = _Wanted(wish, project, view, occasion)
        now = traced_for(project.description, view, occasion)
        if same:
            self._finish_only = True
            # Firefly limit and tint follow lens and dimmers: the film at hand is shown at once, then traced anew at rest.
            far = abs(now[0] - self._traced[0]) > HELD_STOPS or now[1] != self._traced[1]
            self._begin_again = far and not wish.dragging
        else:
            self._key = key
            self._plan = list(self._steps)
            width = self._pace.width(wish.dragging)
            if width < FIRST_WIDTH:
                self._plan.insert(0, (width, 1, "fast"))
            self._film = self._scene = None
            self._finish_only = self._begin_again = self._renewing = False
            self._traced = now

    def step(self) -> None:
        """One pass, then show it; left early when something newer has come in."""
        assert self._wanted is not None
        try:
            if self._finish_only:
                self._finish_only = False
                assert self._film is not None
                self._show_film("fast", at_once=True)
                if self._begin_again:
                    self._begin_again = False
                    self._plan = list(self._steps)
                    self._renewing = True
                    wanted = self._wanted
                    self._traced = traced_for(wanted.project.description, wanted.view, wanted.occasion)
                return
            if self._composer.missing and self._film is not None and self._film.samples:
                self._make_missing()
                return
            if not self._plan:
                if self._owes:
                    self._pay()
                else:
                    self._foresee()
                return
            width, count, quality = self._plan[0]
            first_of_all = self.is_new
            if not first_of_all and self._wanted.wish.dragging and time.monotonic() - self._asked < DRAG_REST_S:
                time.sleep(0.005)  # the hand is still moving: the next wish is on its way
                return
            began = time.monotonic()
            before = (self._film, self._scene) if self._renewing else (None, None)
            if self._film is None or self._width != width or self._renewing:
                if not self._reading.is_done(self._wanted.project):
                    return
                self._start(width)
                self._setting_up_s = time.monotonic() - began
            assert self._film is not None and self._scene is not None
            film = self._film
            stop = None if first_of_all else self._interrupt.is_set
            kept = film.sums() if film.samples else None
            first = film.samples
            done = trace(self._scene, film, first, first + count, self._pool, stop)
            if done is None:  # something newer is waiting: put the film back as it was
                if kept is None:
                    self._film, self._scene = before
                else:
                    film.take_back(kept)
                self._interrupt.clear()
                return
            self._plan.pop(0)
            self._renewing = False
            self._show_film(quality, None if first_of_all else self._interrupt.is_set)
            if first_of_all:
                self._pace.learn(width, self._setting_up_s, time.monotonic() - began - self._setting_up_s)
        except StoppedError:
            self._interrupt.clear()
            self._finish_only = True  # the pass is in the film: shown when what came between is done
        except InputError as error:
            self._fail(self._wanted.wish, str(error))
        except Exception as error:
            log.exception("the live picture failed")
            self._fail(self._wanted.wish, f"The picture could not be computed ({type(error).__name__}: {error}).")

    def _make_missing(self) -> None:
        """Trace the next cut-out that is not there yet; with the last of them the picture is shown anew."""
        try:
            self._composer.make_missing(self._interrupt.is_set)
        except InputError:
            self._composer.missing.clear()
            raise
        self._finish_only = not self._composer.missing

    def _pay(self) -> None:
        """Clean the whole sum at the levels now shown, once the hand has been at rest for a while."""
        if time.monotonic() - self._asked < REST_S:
            time.sleep(0.02)
            return
        kept, self._cleaned = self._cleaned, None
        try:
            self._show_film("balanced", self._interrupt.is_set)
        except StoppedError:
            self._interrupt.clear()
            self._cleaned = kept

    def _foresee(self) -> None:
        assert self._cleaned is not None
        try:
            self._cleaned.make_ready(self._cleaned.not_ready[0], self._interrupt.is_set)
        except StoppedError:
            self._interrupt.clear()

    def meter(self, asked: Meter) -> dict[str, Any]:
        """Luminance, colour temperature and place on the scale of grey of a spot or an area of the picture shown, and all
        the light that falls on the surface there. Raises InputError where nothing is shown yet."""
        if self._shown is None or self._shown[0] != (asked.slug, asked.view, asked.occasion):
            raise InputError("the picture is not there yet", "picture", "Wait for the live picture and point again")
        _, film, scene, lens, levels = self._shown
        return measured.spot(film, scene, lens, levels, asked.x, asked.y, asked.radius)

    def choose(self, asked: TryLooks | MarkLimit) -> Any:
        """The picture shown under other looks, or where a limit holds in it. Raises InputError where nothing is shown yet."""
        film, lens, linear = self._on_show(asked)
        if isinstance(asked, TryLooks):
            return choosing.tried(asked, film, linear, lens, self._files.read)
        return choosing.marked(asked, film, linear, lens, self._files.read)

    def scopes(self, asked: LiveScopes) -> dict[str, Any]:
        """What instruments read of the finished picture shown. Raises InputError where nothing is shown yet."""
        if self._display is None or self._display[0] != (asked.slug, asked.view, asked.occasion):
            raise InputError("the picture is not there yet", "picture", "Wait for the live picture and ask again")
        return vars(scopes(self._display[1]))

    def _on_show(self, asked: TryLooks | MarkLimit) -> tuple[Film, Lens, Picture]:
        here = self._shown is not None and self._shown[0] == (asked.slug, asked.view, asked.occasion)
        if self._shown is None or not here or self._cleaned is None or not self._cleaned.began_as(self._shown[1]):
            raise InputError("the picture is not there yet", "picture", "Wait for the live picture and ask again")
        film, linear = self._composed or (self._shown[1], self._cleaned.picture)
        return film, self._shown[3], linear

    def keep(self, asked: KeepLive) -> int:
        """Keep the picture shown as a plate with its settings; returns the plate's number. Raises InputError where another
        view, a single group or false colour is shown, or nothing yet."""
        wanted = self._wanted
        here = wanted is not None and wanted.shows == (asked.slug, asked.view, asked.occasion)
        if wanted is not None and here:
            # What was just edited must be in the picture that is kept with it.
            if wanted.wish.project != asked.project:
                self.show(wanted.wish.model_copy(update={"project": asked.project}))
            while self.is_new:
                self.step()
            wanted = self._wanted
        if wanted is None or self._shown is None or not here or self._shown[1] is not self._film:
            raise InputError("the picture is not there yet", "picture", "Wait for the live picture, then keep it")
        if wanted.project.description.stage.boxed:
            raise InputError(
                "layers stand as boxes in the picture",
                "layers",
                "Show them in their own shape, or make a plate instead",
            )
        if wanted.wish.alone or wanted.wish.mode != "picture":
            raise InputError(
                "the picture shows one group alone, or false colour", "picture",
                "Show the whole picture again, then keep it",
            )  # fmt: skip
        _, film, _, lens, _ = self._shown
        project: Project = wanted.project.description
        view, occasion = wanted.view, wanted.occasion
        still = replace(film, clean={})
        remove_noise(still, "balanced")
        assert self._scene is not None
        still = self._composer.composed(project, self._scene, still, view, occasion)
        width, height = film.size
        plate = PlateRow(
            project=ProjectRow.get(ProjectRow.slug == asked.slug), view_key=view.key, occasion_key=occasion.key,
            quality="live", width=width, height=height, samples=film.samples, settings=keep_settings(project), ev100=ev100(lens),
            true_to_place=occasion.sun.true_to_place,
        )  # fmt: skip
        keep_picture(self._files, plate, still, occasion)
        plate.save()
        return int(plate.id)

    def _start(self, width: int) -> None:
        wanted = self._wanted
        assert wanted is not None
        size = wanted.view.pixels(width)
        quality = DRAFT if width < FIRST_WIDTH else SKETCH if width == FIRST_WIDTH else PROOF
        # One limit for all steps: a picture must not grow brighter as it grows finer.
        quality = replace(
            quality, boxes=True, clamp_stops=PROOF.clamp_stops, max_bounces=SKETCH.max_bounces, sky_rows=min(quality.sky_rows, LIVE_SKY_ROWS),
            sky_pixels=LIVE_SKY_PIXELS if quality.sky_pixels else 0.0,
        )  # fmt: skip
        view = traced_sharp(wanted.view)
        self._scene = self._compiler.scene(wanted.project, view, wanted.occasion, *size, 1, quality)
        look = wanted.project.description.look_for(wanted.view, wanted.occasion)
        self._film = new_film(self._scene, view, wanted.occasion, *size, masks=needs_masks(look))
        self._width = width

    def _show_film(self, quality: str, stop: Callable[[], bool] | None = None, at_once: bool = False) -> None:
        """Finish the film and send it; `at_once` what was cleaned of it will do, though a pass was added since."""
        wanted, film, scene = self._wanted, self._film, self._scene
        assert wanted is not None and film is not None and scene is not None
        view = wanted.view
        occasion = wanted.occasion
        project: Project = wanted.project.description
        lens = view.lens_for(occasion.key)
        levels = balance_of(occasion).gains(film)
        self._shown = (wanted.shows, film, scene, lens, levels)
        film.settings["blur"] = blur_of(view, occasion)
        if wanted.wish.alone:
            levels = {g: levels.get(g, 1.0) if g == wanted.wish.alone else 0.0 for g in film.group_names}
        will_do = self._cleaned is not None and (
            self._cleaned.is_of(film) or (at_once and self._cleaned.began_as(film))
        )  # fmt: skip
        if self._cleaned is None or not will_do:
            self._cleaned = CleanedFilm(film, levels, quality, stop)
        linear = self._cleaned.at(levels)
        film, linear = self._compose(film, linear, levels, scene)
        self._composed = film, linear
        look = project.look_for(view, occasion)
        shown = made(wanted.wish.mode, film, linear, look, lens, self._files.read)
        if shown.finished is not None:
            self._display = (wanted.shows, shown.finished)
        told = told_of(film, linear, lens, occasion, scene.daylight)
        header = LiveHeader.model_validate({
            "serial": wanted.wish.serial, "last": not self._plan, "shares": self._cleaned.shares(), "mode": wanted.wish.mode,
            "lights": lights_of(film, levels), "legend": shown.legend, **told,
        })  # fmt: skip
        self._send(LiveShown(slug=wanted.wish.slug, header=header, image=jpeg(shown.picture, 92)))

    def _compose(
        self, film: Film, linear: Picture, levels: dict[str, Level], scene: RenderScene
    ) -> tuple[Film, Picture]:
        """The film and its sum with the cut-outs that are at hand; the others are made when there is time."""
        assert self._wanted is not None
        wanted = self._wanted
        paths = CARD_PATHS_DRAGGED if wanted.wish.dragging or film.samples < 2 else CARD_PATHS
        laid = self._composer.laid(
            wanted.project.description,
            scene,
            film,
            wanted.view,
            wanted.occasion,
            paths,
            waits=False,
            hold=wanted.wish.dragging,
        )
        return (film, linear) if laid is None else (laid.on_passes(film), laid.on_sum(linear, film, levels))

    def _fail(self, wish: ShowLive, text: str) -> None:
        self._plan, self._finish_only = [], False
        self._send(LiveShown(slug=wish.slug, header=LiveFault(serial=wish.serial, error=text), image=b""))


def passes(samples: int) -> list[int]:
    """Samples of each pass of the finest picture: few first, then as many as are left at a time."""
    left, counts = samples, list[int]()
    while left > 0:
        counts.append(min(FINER[min(len(counts), len(FINER) - 1)], left))
        left -= counts[-1]
    return counts
