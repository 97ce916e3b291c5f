"""Plates in the making: chunks of work, progress in the database, a film saved now and then to go on from."""

from __future__ import annotations

import io
import tempfile
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

import numpy as np
from peewee import PeeweeException
from PIL import Image

from valleylight.core.compose.composer import Composer
from valleylight.core.compose.sprites import Sprites
from valleylight.core.errors import InputError
from valleylight.core.film.denoise import remove_noise
from valleylight.core.film.exr import write_exr
from valleylight.core.film.film import Film
from valleylight.core.film.png import png
from valleylight.core.film.store import load_film, save_film
from valleylight.core.finish.balance import balance_of
from valleylight.core.finish.look import apply
from valleylight.core.finish.seen import needs_masks, seen_of
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.captions import caption_of
from valleylight.core.project.description import Look, Occasion
from valleylight.core.trace.render import new_film, trace_tiles
from valleylight.core.trace.scene.compiler import Compiler, RenderScene
from valleylight.core.trace.scene.quality import QUALITIES, Quality
from valleylight.core.trace.tiles import TILE, noisy_tiles, tiles
from valleylight.server import logs
from valleylight.server.messages.events import Event, JobChanged, JobPreview
from valleylight.server.store import jobs
from valleylight.server.store.files import FileStore
from valleylight.server.store.storage import plate_description, remember_asset
from valleylight.server.store.tables import JobRow, PlateRow
from valleylight.server.worker.heartbeat import Heartbeat
from valleylight.server.worker.reading import Reading

log = logs.log()

BATCH = 4  # samples of every pixel between two previews
#: Paths to each card by which the light about cut-outs is measured for a preview.
PREVIEW_PATHS = 8
KEPT_STOPPED = 4  # stopped plates whose film is kept
#: A chunk of tiles is meant to take so long: whoever works at the bench waits for no more. It fills all cores.
CHUNK_S, FIRST_TILES, LEAST_TILES = 0.12, 8, 4
SAVE_EVERY_S, TELL_EVERY_S = 15.0, 0.5
#: Share of the time of a plate that noise removal and finishing are expected to take.
AFTER_SHARE = 0.12


@dataclass
class _Making:
    job: JobRow
    plate: PlateRow
    scene: RenderScene
    film: Film
    occasion: Occasion
    look: Look
    place: int  # tiles of the batch that are done
    at_once: int  # tiles of a chunk
    started: float
    spent_before: float
    worked: float  # seconds of work on it alone, for estimates
    saved: float
    told: float


def keep_picture(files: FileStore, plate: PlateRow, film: Film, occasion: Occasion) -> None:
    """Finish a film without noise and keep picture and film as the plate's; the row is left to the caller to save."""
    project = plate_description(plate.settings_id)
    view = project.view(plate.view_key)
    caption = caption_of(project, view, occasion)
    look = project.look_for(view, occasion)
    gains = balance_of(occasion).gains(film)
    picture = png(apply(film, look, gains, seen=seen_of(film, look, files.read)), caption)
    with tempfile.NamedTemporaryFile(dir=files.scratch, suffix=".exr") as partial:
        write_exr(film, partial.name, gains, caption)
        linear = Path(partial.name).read_bytes()
    plate.picture, plate.film = files.keep(picture), files.keep(linear)
    remember_asset(plate.picture, "picture", len(picture), "")
    remember_asset(plate.film, "film", len(linear), "")


def chunk_size(tiles_done: int, seconds: float) -> int:
    """Tiles of the next chunk, so that it takes about `CHUNK_S`; never more than twice as many as before."""
    wanted = tiles_done * CHUNK_S / max(seconds, 1e-4)
    return int(min(max(wanted, LEAST_TILES), 2 * tiles_done))


class PlateMaker:
    """Makes waiting plates one after the other."""

    def __init__(
        self, compiler: Compiler, files: FileStore, pool: ThreadPoolExecutor, send: Callable[[Event], None],
        reading: Reading | None = None, holder: str = "", sprites: Sprites | None = None,
    ) -> None:  # fmt: skip
        self._composer = Composer(sprites or Sprites(files.read))
        self._compiler, self._files, self._pool, self._send = compiler, files, pool, send
        self._holder = holder or jobs.holder_of(files.folder)
        self._heart = Heartbeat(self._holder)
        self._reading = reading or Reading(compiler)
        self._making: _Making | None = None
        self._maybe_more = True

    @property
    def has_work(self) -> bool:
        return self._making is not None or self._maybe_more

    def wake(self) -> None:
        self._maybe_more = True

    def look_again(self) -> None:
        """Take up what another renderer let lie, if its lease has run out."""
        self.adopt()
        self._maybe_more = jobs.next_waiting() is not None

    def adopt(self) -> None:
        """Forsaken jobs go back in the queue, and say so; those that were to stop are stopped."""
        for job in jobs.stops_unheard():
            self._end(job, "stopped", "Stopped", keep=True)
        for job in jobs.forsaken(self._holder):
            kept = self._checkpoint(job).is_file()
            if job.stop_asked:
                self._end(job, "stopped", "Stopped", keep=True)
            elif job.interruptions + 1 >= jobs.MOST_DEATHS:
                job.interruptions += 1
                self._end(
                    job, "failed",
                    f"The renderer died {job.interruptions} times while making this plate; it was set aside. "
                    "Look for what is new on the stage, then make it again",
                )  # fmt: skip
            else:
                jobs.take_back(
                    job, "Interrupted; going on from the last saved film" if kept else "Interrupted; started again"
                )

    def leave(self) -> None:
        """The server goes, and this process with it: what is in the making waits for the next start. That is no death."""
        jobs.let_go(self._holder, "Interrupted when the server ended; going on from the last saved film")

    def stop(self, job_id: int) -> None:
        """Stop a job, running or waiting; what was traced is kept to go on from, for the last few stopped."""
        job = JobRow.get_or_none(JobRow.id == job_id)
        if job is None or job.status not in jobs.UNDERWAY:
            return
        making = self._making
        if making is not None and making.job.id == job_id:
            try:
                self._tell(making)
            except jobs.LeaseLostError:  # it is another's, who reads in the queue that it is to stop
                self._put_down()
                return
            job = making.job
            self._save(making)
            self._put_down()
        elif job.status == "running" and job.holder != self._holder:
            return  # another renderer has it, and reads in the queue that it is to stop
        self._end(job, "stopped", "Stopped", keep=True)
        for old in jobs.stopped_before(KEPT_STOPPED):
            self._checkpoint(old).unlink(missing_ok=True)

    def step(self) -> None:
        """The next chunk of the plate in the making, or the start of the next one."""
        making = self._making
        if making is None:
            job = jobs.next_waiting()
            if job is None:
                self._maybe_more = False
                return
            self._guarded(job, lambda: self._begin(job))
            return
        if self._heart.lost:
            self._put_down()
            return
        if self._heart.is_to_stop:
            self.stop(making.job.id)
            return
        began = time.monotonic()
        self._guarded(making.job, lambda: self._chunk(making))
        making.worked += time.monotonic() - began

    def _put_down(self) -> None:
        self._making = None
        self._heart.let_go()

    def _guarded(self, job: JobRow, work: Callable[[], None]) -> None:
        try:
            work()
        except PeeweeException:
            raise  # the database is away for a moment: the film at hand is kept, and the work goes on afterwards
        except jobs.LeaseLostError:
            self._put_down()
        except InputError as error:
            self._put_down()
            self._end(job, "failed", str(error))
        except Exception as error:
            log.exception("a plate failed", job=job.id)
            self._put_down()
            self._end(job, "failed", f"The plate could not be made ({type(error).__name__}: {error})")

    def _begin(self, job: JobRow) -> None:
        plate: PlateRow = job.plate
        project = LoadedProject(plate_description(plate.settings_id), self._files.read)
        view = project.description.view(plate.view_key)
        occasion = project.description.occasion(plate.occasion_key)
        quality: Quality = QUALITIES[plate.quality]
        if not self._reading.is_done(project):
            return
        # Written down before anything is set up: a stage that ends the process must be counted against its plate.
        if not jobs.hold(job, self._holder):  # another was quicker, or it was stopped meanwhile
            return
        self._heart.hold(job.id)
        scene = self._compiler.scene(project, view, occasion, plate.width, plate.height, plate.seed, quality)
        masks = quality.masks or needs_masks(project.description.look_for(view, occasion))
        film = new_film(scene, view, occasion, plate.width, plate.height, masks)
        place = self._restore(job, film)
        clock = time.monotonic()
        self._making = _Making(
            job, plate, scene, film, occasion, project.description.look_for(view, occasion), place, FIRST_TILES, clock,
            job.seconds_spent, job.seconds_spent, clock, clock,
        )  # fmt: skip
        self._tell(self._making)

    def _chunk(self, m: _Making) -> None:
        first = m.film.samples
        last = min(first + BATCH, m.plate.samples)
        if first < m.plate.samples:
            every = tiles(m.plate.width, m.plate.height)
            chunk = every[m.place : m.place + m.at_once]
            target = QUALITIES[m.plate.quality].noise
            began = time.monotonic()
            trace_tiles(
                m.scene, m.film, noisy_tiles(m.film, chunk, target) if target > 0 else chunk, first, last, self._pool
            )
            m.place += len(chunk)
            m.at_once = chunk_size(m.at_once, time.monotonic() - began)
            if m.place >= len(every):
                m.place = 0
                m.film.samples = last
                if last < m.plate.samples:
                    self._preview(m)
        else:
            self._finish(m)
            return
        clock = time.monotonic()
        if clock - m.told > TELL_EVERY_S:
            m.told = clock
            self._tell(m)
        if clock - m.saved > SAVE_EVERY_S:
            m.saved = clock
            self._save(m)

    def _finish(self, m: _Making) -> None:
        began = time.monotonic()
        self._tell(m, "Removing noise")
        remove_noise(m.film, "high" if m.plate.quality == "press" else "balanced")
        project = plate_description(m.plate.settings_id)
        view = project.view(m.plate.view_key)
        if project.cutouts_at(view.key, m.occasion.key):
            self._tell(m, "Laying in the cut-outs")
        keep_picture(
            self._files, m.plate, self._composer.composed(project, m.scene, m.film, view, m.occasion), m.occasion
        )
        m.plate.seconds = m.worked + time.monotonic() - began
        jobs.tell(m.job, self._holder)  # another's by now: its picture counts, not this one
        m.plate.save()
        self._put_down()
        m.job.samples_done = m.plate.samples
        m.job.seconds_spent = self._spent(m)
        self._end(m.job, "done", "")

    def _end(self, job: JobRow, status: Literal["done", "stopped", "failed"], message: str, keep: bool = False) -> None:
        try:
            jobs.end(job, status, message)
        except jobs.LeaseLostError:
            return
        if not keep:
            self._checkpoint(job).unlink(missing_ok=True)
        self._send(JobChanged(job=job.id, status=status))

    def _spent(self, m: _Making) -> float:
        return m.spent_before + time.monotonic() - m.started

    def _progress(self, m: _Making) -> float:
        every = len(tiles(m.plate.width, m.plate.height))
        return min((m.film.samples + BATCH * m.place / every) / m.plate.samples, 1.0)

    def _tell(self, m: _Making, message: str | None = None) -> None:
        share, spent = self._progress(m), self._spent(m)
        m.job.samples_done = m.film.samples
        m.job.seconds_spent = spent
        m.job.seconds_left = (
            spent * (1 - share) / share + spent / max(share, 0.05) * AFTER_SHARE if share > 0.01 else None
        )
        if message is not None:
            m.job.message = message
        jobs.tell(m.job, self._holder)
        self._send(JobChanged(job=m.job.id, status="running"))

    def _preview(self, m: _Making) -> None:
        film, gains = m.film, balance_of(m.occasion).gains(m.film)
        linear = film.balanced(gains)
        project = plate_description(m.plate.settings_id)
        # Those that must be traced first are left out: the plate itself waits for them.
        view = project.view(m.plate.view_key)
        laid = self._composer.laid(project, m.scene, film, view, m.occasion, PREVIEW_PATHS, waits=False)
        if laid is not None:
            film, linear = laid.on_passes(film), laid.on_sum(linear, film, gains)
        h, w = linear.shape[0] // 2 * 2, linear.shape[1] // 2 * 2
        small = linear[:h, :w].reshape(h // 2, 2, w // 2, 2, 3).mean((1, 3), dtype=np.float32)
        white = m.film.settings["saturation_cd_m2"]
        picture = apply(small, m.look, saturation_cd_m2=white, seen=seen_of(film, m.look, self._files.read))
        out = io.BytesIO()
        Image.fromarray(picture).save(out, "JPEG", quality=85)
        self._send(JobPreview(job=m.job.id, image=out.getvalue()))

    def _checkpoint(self, job: JobRow) -> Path:
        return self._files.scratch / f"job-{job.id}.npz"

    def _save(self, m: _Making) -> None:
        """Save the film where the job can go on from; whole or not at all."""
        save_film(m.film, self._checkpoint(m.job), place=m.place)

    def _restore(self, job: JobRow, film: Film) -> int:
        """Fill the film from the job's last saved one; returns the tiles of the batch that are done."""
        path = self._checkpoint(job)
        if not path.is_file():
            return 0
        try:
            numbers = load_film(path, film)
        except InputError:
            return 0
        # Films saved before chunks were tiles counted whole rows of them.
        return numbers.get("place", numbers.get("row", 0) * -(-film.size[0] // TILE))
