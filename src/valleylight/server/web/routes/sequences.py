"""Sequences: their course, their making frame by frame, films of plates, files to take away."""

from __future__ import annotations

import statistics
from collections.abc import Iterator
from fractions import Fraction
from typing import Any, Literal

import numpy as np
from fastapi import APIRouter
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import FileResponse, Response
from numpy.typing import NDArray
from PIL import Image

from valleylight.core.errors import InputError, NotFoundError
from valleylight.core.film.jpeg import jpeg
from valleylight.core.project.description import Project, Sequence
from valleylight.core.sequence import film_file
from valleylight.core.sequence.course import Course
from valleylight.core.sequence.effort import SAMPLES
from valleylight.core.sun.position import position as sun_position
from valleylight.server.messages import questions as q
from valleylight.server.messages.films import Push, plates_of
from valleylight.server.messages.wishes import RunWaiting, StopRun
from valleylight.server.store import storage
from valleylight.server.store.runs import Frames, numbers_of
from valleylight.server.store.tables import PlateRow, ProjectRow, RunRow, database, now
from valleylight.server.web.context import Context, Here, described, with_database
from valleylight.server.web.exporting import file_of, named, place_for
from valleylight.server.web.news import tell_run_soon
from valleylight.server.web.routes.plates import ready_plate, recent_plates, seconds_per_million
from valleylight.server.web.schemas.live import RunsNews
from valleylight.server.web.schemas.sequences import (
    CourseMoment, CourseReading, CourseWanted, FilmFile, FilmFileWanted, FilmWanted, FramesWanted, MetOnTheWay, Run, RunWanted,
)  # fmt: skip

router = APIRouter(prefix="/api", tags=["sequences"])
#: Moments of a course that are drawn.
MOMENTS = 97
#: Pixels across of a sketch of a sequence, and every how many-th frame it has.
QUICK_WIDTH, QUICK_STEP = 480, 2
STRIP_WIDTH, SCREEN_WIDTH = 160, 960
_KEPT = {"Cache-Control": "private, no-cache"}


@router.post("/projects/{slug}/course")
@with_database
def course(slug: str, wanted: CourseWanted) -> CourseReading:
    """Where the lens is, and what the hour and the lamps are, at moments of a sequence; how long its making would take. Nothing is stored."""
    row = storage.project_row(slug)
    project = storage.description(row)
    s, found = wanted.sequence, Course(project, wanted.sequence)
    return CourseReading(
        frames=s.frames, moments=[_moment(project, found, s.seconds * k / (MOMENTS - 1)) for k in range(MOMENTS)], arrives=found.arrives,
        moves=found.moves, light_changes=found.light_changes, quick_s=_expected(row, project, s, "quick"), final_s=_expected(row, project, s, "final"),
    )  # fmt: skip


def _moment(project: Project, found: Course, second: float) -> CourseMoment:
    view, occasion = found.view(second), found.occasion(second)
    sun = occasion.sun
    if sun.true_to_place:
        at = sun_position(project.site.latitude_deg, project.site.longitude_deg, occasion.moment(project.site))
        altitude, azimuth = at.altitude_deg, at.azimuth_deg
    else:
        altitude, azimuth = sun.altitude_deg, sun.azimuth_deg
    return CourseMoment(
        second=second, position=view.position, target=view.target, focal_mm=view.focal_mm, speed_m_s=found.speed_m_s(second), when=occasion.when.isoformat(), altitude_deg=altitude,
        azimuth_deg=azimuth, levels={g: occasion.levels.get(g, 100.0) for g in project.groups()},
    )  # fmt: skip


@router.post("/projects/{slug}/course/way")
async def on_the_way(slug: str, wanted: CourseWanted, here: Here) -> list[MetOnTheWay]:
    """What the lens runs into on its path; nothing where the way is free."""
    met = await here.worker.ask(q.OnTheWay(project=await described(slug), sequence=wanted.sequence))
    return [MetOnTheWay.model_validate(m) for m in met]


@router.get("/projects/{slug}/runs")
@with_database
def list_runs(slug: str, here: Here) -> list[Run]:
    """Sequences made or in the making, newest first."""
    row = storage.project_row(slug)
    project = storage.description(row)
    runs = RunRow.select().where(RunRow.project == row).order_by(RunRow.id.desc()).limit(200)
    return [shown(run, here, project) for run in runs]


@router.post("/projects/{slug}/sequences/{key}/runs", status_code=202)
@with_database
def make(slug: str, key: str, wanted: RunWanted, here: Here) -> Run:
    """Put the making of a sequence in the queue."""
    row = storage.project_row(slug)
    project = storage.description(row)
    sequence = project.sequence(key)
    found = Course(project, sequence)
    found.check_that_it_changes()
    step, (width, height), quality = _shape(project, sequence, wanted.version)
    return _waiting(
        here, project, project=row, sequence_key=sequence.key, name=sequence.name, kind="traced", version=wanted.version, wanted=sequence.model_dump(mode="json"),
        settings=storage.keep_settings(project), quality=quality, width=width, height=height,
        rate=sequence.rate / step, frames=len(found.frames(step)), step=step,
    )  # fmt: skip


def _shape(project: Project, sequence: Sequence, version: str) -> tuple[int, tuple[int, int], str]:
    """Of a version: every how many-th frame it has, the size of its pictures, and their quality."""
    quick = version == "quick"
    step = QUICK_STEP if quick and sequence.frames > QUICK_STEP else 1
    size = project.view(sequence.view).pixels(min(QUICK_WIDTH, sequence.width) if quick else sequence.width)
    return step, size, "sketch" if quick else sequence.quality


def _expected(row: ProjectRow, project: Project, sequence: Sequence, version: str) -> float:
    """Seconds that a version would take: by the last versions of its quality made here, else by plates."""
    step, (width, height), quality = _shape(project, sequence, version)
    frames = len(range(0, sequence.frames, step))
    millions = frames * width * height * SAMPLES[quality] / 1e6
    runs = RunRow.select().where(RunRow.project == row, RunRow.kind == "traced", RunRow.quality == quality, RunRow.status == "done", RunRow.takes == 0)
    made = [r.seconds_spent / (r.frames * r.width * r.height * SAMPLES[quality] / 1e6) for r in runs.order_by(RunRow.id.desc()).limit(5)]
    return (statistics.median(made) if made else seconds_per_million(quality, recent_plates(row))) * millions


@router.post("/projects/{slug}/films", status_code=202)
@with_database
def make_of_plates(slug: str, wanted: FilmWanted, here: Here) -> Run:
    """Put a film of plates in the queue: nothing of it is traced."""
    row = storage.project_row(slug)
    film, plates = wanted.film, [_plate_of(row, number) for number in plates_of(wanted.film)]
    if not isinstance(film, Push):
        if film.first == film.second:
            raise InputError("both are the same plate", "second", "Choose another second plate")
        if film.kind == "fade" and plates[0].view_key != plates[1].view_key:
            raise InputError("the plates are of two views", "second", "Choose plates of one view")
        (w, h), (v, k) = ((p.width, p.height) for p in plates)
        if abs(w * k / (h * v) - 1) > 0.02:
            raise InputError(f"pictures of {w} x {h} and {v} x {k} have no common shape", "second", "Choose plates of one format")
    elif not (film.ahead or film.right or film.up):
        raise InputError("the lens does not move", "ahead", "Let it go ahead, or aside")
    names = {"fade": "From day to night", "wipe": "Before and after", "push": "Push into a still"}
    return _waiting(
        here, storage.description(row), project=row, name=wanted.name.strip() or names[film.kind], kind=film.kind, version="final", wanted=film.model_dump(mode="json"), quality=plates[0].quality,
        width=plates[0].width, height=plates[0].height, rate=float(film.rate), frames=max(round(film.seconds * film.rate), 2),
    )  # fmt: skip


def _plate_of(row: ProjectRow, number: int) -> PlateRow:
    plate = ready_plate(number)
    if plate.project.id != row.id:
        raise NotFoundError("that plate belongs to another project", "first", "Choose plates of this project")
    return plate


def _waiting(here: Context, now_is: Project, **fields: Any) -> Run:
    """A run put in the queue."""
    with database.atomic():  # nobody sees it before its folder is empty
        run = RunRow.create(**fields)
        # A database begun anew beside older files counts from one again: what lies there is another's.
        Frames(here.files, run.id).remove()
    here.worker.send(RunWaiting())
    here.hub.tell_soon(run.project.slug, RunsNews())
    return shown(run, here, now_is)


def shown(run: RunRow, here: Context, project: Project) -> Run:
    """A run as the API gives it, compared with the description as it is now."""
    return Run(
        id=run.id, sequence=run.sequence_key, name=run.name, kind=run.kind, version=run.version, wanted=run.wanted, quality=run.quality, width=run.width,
        height=run.height, rate=run.rate, step=run.step, takes=run.takes, numbers=numbers_of(run), made=Frames(here.files, run.id).made(), status=run.status, message=run.message,
        seconds_spent=run.seconds_spent, seconds_left=run.seconds_left, changed=_changed(run, project), created=run.created.isoformat() + "Z",
    )  # fmt: skip


def _changed(run: RunRow, project: Project) -> bool:
    """Whether a sequence has other settings now than when it was put in the queue."""
    if run.kind != "traced":
        return False
    now_is = next((s for s in project.sequences if s.key == run.sequence_key), None)
    return now_is is None or now_is.model_dump(mode="json", exclude={"name"}) != {k: v for k, v in run.wanted.items() if k != "name"}


@router.post("/runs/{run_id}/stop", status_code=202)
def stop(run_id: int, here: Here) -> dict[str, str]:
    """Stop the making of a sequence: at once while it waits, after the chunk in hand while it is made. Its frames stay."""
    if _stop_waiting(run_id):
        tell_run_soon(here.hub, run_id)
    else:
        here.worker.send(StopRun(run=run_id))
    return {"status": "stopping"}


@router.post("/runs/{run_id}/resume", status_code=202)
def resume(run_id: int, here: Here) -> dict[str, str]:
    """Go on with a sequence that was stopped or failed, from its last frame."""
    _wait_again(run_id)
    here.worker.send(RunWaiting())
    tell_run_soon(here.hub, run_id)
    return {"status": "waiting"}


@router.post("/runs/{run_id}/again", status_code=202)
def again(run_id: int, wanted: FramesWanted, here: Here) -> dict[str, str]:
    """Make chosen frames of a sequence again; the others stay."""
    _forget(run_id, wanted.frames, here)
    here.worker.send(RunWaiting())
    tell_run_soon(here.hub, run_id)
    return {"status": "waiting"}


@router.delete("/runs/{run_id}", status_code=204)
@with_database
def take_away(run_id: int, here: Here) -> None:
    """Take a sequence that was made away, with its frames. What it was made from stays."""
    run = _run(run_id)
    if run.status == "running":
        raise InputError("the sequence is being made", "run", "Stop it first")
    slug = run.project.slug
    run.delete_instance()
    Frames(here.files, run_id).remove()
    here.hub.tell_soon(slug, RunsNews())


@router.get("/runs/{run_id}/frames/{number}/{form}", response_class=Response)
def frame(run_id: int, number: int, form: Literal["picture.png", "linear.exr", "screen.jpg", "strip.jpg"], here: Here) -> Response:
    """A frame as PNG, as linear EXR in cd/m2, or as a JPEG to play or to lay in a strip."""
    _known(run_id)
    frames = Frames(here.files, run_id)
    if form in ("strip.jpg", "screen.jpg"):
        width = STRIP_WIDTH if form == "strip.jpg" else SCREEN_WIDTH
        with Image.open(frames.there(number, "png")) as image:
            small = image.convert("RGB")
            small.thumbnail((width, width))
        return Response(jpeg(np.asarray(small), 84), media_type="image/jpeg", headers=_KEPT)
    if form == "linear.exr":
        return FileResponse(frames.there(number, "exr"), media_type="image/x-exr", headers=_KEPT)
    return FileResponse(frames.there(number, "png"), media_type="image/png", headers=_KEPT)


@router.post("/runs/{run_id}/film")
async def film(run_id: int, wanted: FilmFileWanted, here: Here) -> FilmFile:
    """Write the frames that are made as a film, or as a zip of frames. It is fetched at /api/exports."""
    run = await run_in_threadpool(_known, run_id)
    return await run_in_threadpool(_written, run, wanted.form, here)


def _written(run: RunRow, form: str, here: Context) -> FilmFile:
    """The file, written without a connection to the database: long ones take minutes."""
    frames = Frames(here.files, run.id)
    made = frames.made()
    if not made:
        raise InputError("there are no frames yet", "frames", "Wait for the first frames")
    stem = named("{name}", {"name": run.name}, set())
    if form in ("png", "exr"):
        files = [(frames.picture(n) if form == "png" else frames.linear(n), f"{stem} {n:05d}.{form}") for n in made]
        if not all(path.is_file() for path, _ in files):
            raise InputError("films of plates have no linear frames", "form", "Choose PNG frames, or a film")
        target = place_for(here.files.scratch, ".zip")
        film_file.zipped_frames(files, target)
        count, name = len(files), f"{stem} frames.zip"
    else:
        target = place_for(here.files.scratch, f".{form}")
        count = film_file.write_film(_pictures(frames, made), target, _rate(run), form)  # type: ignore[arg-type]
        name = f"{stem}.{form}"
    return FilmFile(file=file_of(target), name=name, bytes=target.stat().st_size, frames=count)


def _rate(run: RunRow) -> Fraction:
    """Frames in a second of a run, to the fraction: every second of 25 are twelve and a half."""
    return Fraction(int(run.wanted["rate"]), run.step)


def _pictures(frames: Frames, numbers: list[int]) -> Iterator[NDArray[np.uint8]]:
    for number in numbers:
        with Image.open(frames.there(number, "png")) as image:
            yield np.asarray(image.convert("RGB"))


def _run(run_id: int) -> RunRow:
    run = RunRow.get_or_none(RunRow.id == run_id)
    if run is None:
        raise NotFoundError(f"there is no sequence {run_id} in the making", "run", "Reload the page")
    return run


@with_database
def _known(run_id: int) -> RunRow:
    return _run(run_id)


@with_database
def _wait_again(run_id: int) -> None:
    run = _run(run_id)
    if run.status not in ("stopped", "failed"):
        raise InputError(f"the sequence is {run.status}, not stopped", "run", "Reload the page")
    _queue(run, "Going on from the last frame")


@with_database
def _forget(run_id: int, numbers: list[int], here: Context) -> None:
    run = _run(run_id)
    if run.status in ("waiting", "running"):
        raise InputError("the sequence is being made", "run", "Stop it first")
    unknown = sorted(set(numbers) - set(numbers_of(run)))
    if unknown:
        raise InputError(f"the sequence has no frame {unknown[0]}", "frames", "Choose frames of the strip")
    Frames(here.files, run_id).forget(numbers)
    _queue(run, "Chosen frames are made again", takes=run.takes + 1)


def _queue(run: RunRow, message: str, **more: Any) -> None:
    fields = {"status": "waiting", "message": message, "stop_asked": False, "interruptions": 0, "changed": now(), **more}
    RunRow.update(fields).where(RunRow.id == run.id, RunRow.status == run.status).execute()


@with_database
def _stop_waiting(run_id: int) -> bool:
    """Stop a run that only waits, however busy the worker is; False when it is already being made."""
    _run(run_id)
    # Written down first: should the worker die before it hears of it, the next one reads it.
    RunRow.update(stop_asked=True).where(RunRow.id == run_id, RunRow.status.in_(("waiting", "running"))).execute()
    stopped = RunRow.update(status="stopped", message="Stopped", changed=now())
    return bool(stopped.where(RunRow.id == run_id, RunRow.status == "waiting").execute())
