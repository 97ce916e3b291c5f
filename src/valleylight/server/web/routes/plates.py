"""Plates: ask for one, watch it, stop it, take its files."""

from __future__ import annotations

import statistics
from typing import Literal

from fastapi import APIRouter
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import FileResponse, Response
from peewee import fn
from PIL import Image

from valleylight.core.trace.scene.quality import QUALITIES
from valleylight.server.web.schemas.live import PlatesNews
from valleylight.core.errors import InputError, NotFoundError
from valleylight.core.finish.exposure import ev100
from valleylight.core.project.description import Occasion, Project
from valleylight.core.sun.position import check_year
from valleylight.server.messages import questions as q
from valleylight.server.messages.wishes import PlateWaiting, StopJob
from valleylight.server.settings import Settings
from valleylight.server.store import storage, tables
from valleylight.server.web.context import Here, described, with_database
from valleylight.server.web.news import tell_job_soon
from valleylight.core.history.steps import changed_steps
from valleylight.server.web.schemas.plates import BetweenWanted, Finishing, ForetellWanted, Job, LivePlate, NewPlate, Plate, PlateAgain, PlateEstimate, PlateForetold, PlateLight
from valleylight.server.store.tables import JobRow, PlateRow, ProjectRow, database

router = APIRouter(prefix="/api", tags=["plates"])
Quality = Literal["sketch", "proof", "press"]
#: Seconds for a million samples before this machine has made a plate.
UNMEASURED_S_PER_MILLION = 2.6
THUMB_WIDTH = 480
#: Plates whose time tells how long the next will take.
RECENT = 15


def shown(plate: PlateRow, job: JobRow | None, now: Project) -> Plate:
    """A plate as the API gives it, compared with the description as it is now."""
    then = storage.plate_description(plate.settings_id)
    view, occasion = then.view(plate.view_key), then.occasion(plate.occasion_key)
    return Plate(
        id=plate.id, view=plate.view_key, occasion=plate.occasion_key, name=plate.name, rank=plate.rank, note=plate.note, starred=plate.starred, quality=plate.quality,
        width=plate.width, height=plate.height, samples=plate.samples, ev100=plate.ev100, true_to_place=plate.true_to_place,
        seconds=plate.seconds, created=plate.created.isoformat() + "Z", ready=plate.picture is not None,
        changed=changed_steps(then, now, plate.view_key, plate.occasion_key),
        look=then.look_for(view, occasion), levels=occasion.light_levels(), colours=occasion.colours,
        job=None if job is None else Job(
            id=job.id, rank=job.id if job.rank is None else job.rank, status=job.status, samples_done=job.samples_done, message=job.message,
            seconds_spent=job.seconds_spent, seconds_left=job.seconds_left,
        ),
    )  # fmt: skip


@router.get("/projects/{slug}/plates")
@with_database
def list_plates(slug: str) -> list[Plate]:
    """Plates of a project in the order of the strip: newest first, but for those ranked by hand. Not those put away."""
    row = storage.project_row(slug)
    now = storage.description(row)
    query = PlateRow.select().where(PlateRow.project == row, ~PlateRow.put_away)
    plates = list(query.order_by(fn.COALESCE(PlateRow.rank, PlateRow.id).desc(), PlateRow.id.desc()).limit(400))
    jobs = {job.plate.id: job for job in JobRow.select().where(JobRow.plate.in_(plates))} if plates else {}
    return [
        shown(plate, jobs.get(plate.id), now) for plate in plates if plate.picture is not None or plate.id in jobs
    ]


@router.post("/projects/{slug}/plates/live", status_code=201)
async def keep_live(slug: str, wanted: LivePlate, here: Here) -> Plate:
    """Keep the live picture as a plate, with the settings it shows."""
    row = await run_in_threadpool(with_database(storage.project_row), slug)
    made = await here.worker.ask(
        q.KeepLive(slug=row.slug, view=wanted.view, occasion=wanted.occasion, project=await described(slug))
    )
    here.hub.tell(row.slug, PlatesNews())
    return await run_in_threadpool(_as_it_is, made)


@with_database
def _as_it_is(plate_id: int) -> Plate:
    plate = PlateRow.get_by_id(plate_id)
    return shown(plate, None, storage.description(plate.project))


@router.post("/plates/{plate_id}/again", status_code=202)
@with_database
def make_again(plate_id: int, wanted: PlateAgain, here: Here) -> Plate:
    """Put a plate in the queue once more, from the settings it keeps."""
    plate = plate_row(plate_id)
    quality = wanted.quality or (plate.quality if plate.quality in QUALITIES else "sketch")
    view = storage.plate_description(plate.settings_id).view(plate.view_key)
    width, height = view.pixels(here.settings.width_of(quality))
    with database.atomic():
        kept = {name: getattr(plate, name) for name in ("view_key", "occasion_key", "settings", "ev100", "true_to_place")}
        made = PlateRow.create(
            project=plate.project, quality=quality, width=width, height=height,
            samples=QUALITIES[quality].samples,
            name=plate.name, **kept,
        )  # fmt: skip
        job = JobRow.create(plate=made)
    here.worker.send(PlateWaiting())
    here.hub.tell_soon(plate.project.slug, PlatesNews())
    return shown(made, job, storage.description(plate.project))


@router.post("/projects/{slug}/plates", status_code=202)
@with_database
def make_plate(slug: str, wanted: NewPlate, here: Here) -> Plate:
    """Put a plate in the queue."""
    made = enqueue(storage.project_row(slug), wanted, here.settings)
    here.worker.send(PlateWaiting())
    here.hub.tell_soon(slug, PlatesNews())
    return made


def enqueue(row: ProjectRow, wanted: NewPlate, settings: Settings) -> Plate:
    """The rows of a plate to be made. Raises NotFoundError for an unknown view or occasion."""
    project = now = storage.description(row)
    occasion = project.occasion(wanted.occasion)
    if wanted.when is not None:
        check_year(wanted.when.year)
        moved = Occasion.model_validate({**occasion.model_dump(), "when": wanted.when})
        project = project.model_copy(
            update={"occasions": tuple(moved if o.key == occasion.key else o for o in project.occasions)}
        )
    cell = (wanted.view, wanted.occasion)
    return put_in_queue(row, project, now, [cell], wanted.quality, settings)[0]


def put_in_queue(
    row: ProjectRow, project: Project, now: Project, cells: list[tuple[str, str]], quality: Quality, settings: Settings
) -> list[Plate]:
    """The rows of plates to be made of one description, all or none; `now` is what the project is. Raises NotFoundError for an unknown view
    or occasion."""
    kept, made = storage.keep_settings(project), []
    with database.atomic():
        for view_key, occasion_key in cells:
            view, occasion = project.view(view_key), project.occasion(occasion_key)
            width, height = view.pixels(settings.width_of(quality))
            plate = PlateRow.create(
                project=row, view_key=view.key, occasion_key=occasion.key, quality=quality, width=width,
                height=height, samples=QUALITIES[quality].samples, settings=kept,
                ev100=ev100(view.lens_for(occasion.key)), true_to_place=occasion.sun.true_to_place,
            )  # fmt: skip
            made.append((plate, JobRow.create(plate=plate)))
    return [shown(plate, job, now) for plate, job in made]


@router.get("/projects/{slug}/estimate")
@with_database
def estimate(slug: str, here: Here) -> PlateEstimate:
    """How long a plate of each quality would take, from the newest ones made here."""
    made = recent_plates(storage.project_row(slug))
    return PlateEstimate(**{quality: _expected(quality, made, here.settings.width_of(quality)) for quality in QUALITIES})


def recent_plates(row: ProjectRow) -> list[PlateRow]:
    """The newest plates of a project that tell how quick this machine is."""
    made = PlateRow.select(PlateRow.seconds, PlateRow.width, PlateRow.height, PlateRow.samples, PlateRow.quality)
    timed = made.where(PlateRow.project == row, PlateRow.picture.is_null(False), PlateRow.seconds > 0)
    return list(timed.order_by(PlateRow.id.desc()).limit(60))


def _expected(quality: str, made: list[PlateRow], width: int) -> float:
    return seconds_per_million(quality, made) * (width * width * 9 / 16) * QUALITIES[quality].samples / 1e6


def seconds_per_million(quality: str, made: list[PlateRow]) -> float:
    """Seconds for a million samples by the middle one of the last plates of this quality, else of the others: views differ, and one slow
    moment of the machine must not count for all."""

    def rate(plate: PlateRow) -> float:
        return float(plate.seconds / (plate.width * plate.height * plate.samples / 1e6))

    alike = [rate(p) for p in made if p.quality == quality][:RECENT] or [rate(p) for p in made if p.quality in QUALITIES][:RECENT]
    return statistics.median(alike) if alike else UNMEASURED_S_PER_MILLION


@router.post("/jobs/{job_id}/stop", status_code=202)
def stop_job(job_id: int, here: Here) -> dict[str, str]:
    """Stop the making of a plate: at once while it waits, after the chunk in hand while it is made."""
    if _stop_waiting(job_id):
        tell_job_soon(here.hub, job_id)
    else:
        here.worker.send(StopJob(job=job_id))
    return {"status": "stopping"}


@router.post("/jobs/{job_id}/resume", status_code=202)
def resume_job(job_id: int, here: Here) -> dict[str, str]:
    """Go on with a plate that was stopped, from its saved film."""
    _wait_again(job_id)
    here.worker.send(PlateWaiting())
    return {"status": "waiting"}


@with_database
def _wait_again(job_id: int) -> None:
    job = _find_job(job_id)
    if job.status != "stopped":
        raise InputError(f"the plate is {job.status}, not stopped", "job", "Reload the page")
    job.status, job.message, job.stop_asked, job.interruptions = "waiting", "Going on from the saved film", False, 0
    job.save()


@with_database
def _stop_waiting(job_id: int) -> bool:
    """Stop a plate that only waits, however busy the worker is; False when it is already being made."""
    _find_job(job_id)
    # Written down first: should the worker die before it hears of it, the next one reads it.
    JobRow.update(stop_asked=True).where(JobRow.id == job_id, JobRow.status.in_(("waiting", "running"))).execute()
    stopped = JobRow.update(status="stopped", message="Stopped", changed=tables.now())
    return bool(stopped.where(JobRow.id == job_id, JobRow.status == "waiting").execute())


def _find_job(job_id: int) -> JobRow:
    """A job by number. Raises NotFoundError."""
    job = JobRow.get_or_none(JobRow.id == job_id)
    if job is None:
        raise NotFoundError(f"there is no job {job_id}", "job", "Reload the page")
    return job


@with_database
def plate_row(plate_id: int) -> PlateRow:
    """A plate by its number. Raises NotFoundError."""
    plate = PlateRow.get_or_none(PlateRow.id == plate_id)
    if plate is None:
        raise NotFoundError(f"there is no plate {plate_id}", "plate", "Reload the page")
    return plate


def ready_plate(plate_id: int) -> PlateRow:
    """The same of one that is made. Raises NotFoundError for one that is not."""
    plate = plate_row(plate_id)
    if plate.picture is None:
        raise NotFoundError("the plate is not made yet", "plate", "Wait until it is, or make it again")
    return plate


@with_database
def _levels(plate: PlateRow) -> dict[str, float]:
    return storage.plate_description(plate.settings_id).occasion(plate.occasion_key).light_levels()


_KEPT = {"Cache-Control": "private, max-age=31536000, immutable"}


@router.post("/plates/{plate_id}/finish", response_class=Response)
async def finish_plate(plate_id: int, wanted: Finishing, here: Here) -> Response:
    """The plate under another look and other light levels, as PNG. Nothing is stored."""
    plate = await run_in_threadpool(ready_plate, plate_id)
    for name, level in wanted.levels.items():
        if not 0 <= level <= 1e6:
            raise InputError(f"the level {level:g} is impossible", f"levels.{name}", "Choose 0 or more")
    await run_in_threadpool(with_database(storage.tables_are_there), wanted.look)
    levels = wanted.levels or await run_in_threadpool(_levels, plate)
    jpeg = wanted.form == "jpeg"
    image = await here.worker.ask(
        q.Finish(film=str(plate.film), look=wanted.look, levels=levels, colours=wanted.colours, jpeg=jpeg)
    )
    return Response(image, media_type="image/jpeg" if jpeg else "image/png")


@router.get("/plates/{plate_id}/lights")
async def plate_lights(plate_id: int, here: Here) -> list[PlateLight]:
    """The lights of a plate's film, each by itself."""
    plate = await run_in_threadpool(ready_plate, plate_id)
    lines = await here.worker.ask(q.LightsOfFilm(film=str(plate.film)))
    return [PlateLight.model_validate(line) for line in lines]


@router.post("/projects/{slug}/foretold")
async def foretold(slug: str, wanted: ForetellWanted, here: Here) -> PlateForetold:
    """How long a plate would take, measured by a short run of its own picture; on demand what parts of the scene add to that."""
    project = await described(slug)
    project.occasion(wanted.occasion)
    size = project.view(wanted.view).pixels(here.settings.width_of(wanted.quality))
    found = await here.worker.ask(q.Foretell(
        project=project, view=wanted.view, occasion=wanted.occasion, quality=wanted.quality, size=size, parts=wanted.parts
    ))  # fmt: skip
    return PlateForetold(width=size[0], height=size[1], **found)


@router.post("/projects/{slug}/between", response_class=Response)
async def between_plates(slug: str, wanted: BetweenWanted, here: Here) -> Response:
    """The picture at a share of the way from one plate to another of the same view, as JPEG. Nothing is stored."""
    first, second = await run_in_threadpool(_two, slug, wanted)
    image = await here.worker.ask(q.Between(first=first, second=second, share=wanted.share))
    return Response(image, media_type="image/jpeg")


@with_database
def _two(slug: str, wanted: BetweenWanted) -> tuple[q.Kept, q.Kept]:
    row = storage.project_row(slug)
    plates = [ready_plate(number) for number in (wanted.first, wanted.second)]
    if any(plate.project.id != row.id for plate in plates):
        raise NotFoundError("that plate belongs to another project", "first", "Choose plates of this project")
    if plates[0].view_key != plates[1].view_key:
        raise InputError("the plates are of two views", "second", "Choose plates of one view")
    first, second = (_kept(plate) for plate in plates)
    return first, second


def _kept(plate: PlateRow) -> q.Kept:
    project = storage.plate_description(plate.settings_id)
    view, occasion = project.view(plate.view_key), project.occasion(plate.occasion_key)
    return q.Kept(
        film=str(plate.film), look=project.look_for(view, occasion), levels=occasion.light_levels(), colours=occasion.colours
    )


@router.get("/plates/{plate_id}/{form}", response_class=FileResponse)
def plate_file(plate_id: int, form: Literal["picture.png", "linear.exr", "thumb.jpg"], here: Here) -> FileResponse:
    """The picture as PNG, the linear film as multi-layer EXR in cd/m2, or a small JPEG."""
    plate = ready_plate(plate_id)
    name = f"{plate.view_key}-{plate.occasion_key}-{plate.id}"
    if form == "linear.exr":
        film = here.files.path(str(plate.film))
        return FileResponse(film, media_type="image/x-exr", filename=f"{name}.exr", headers=_KEPT)
    picture = here.files.path(str(plate.picture))
    if form == "picture.png":
        return FileResponse(
            picture, media_type="image/png", filename=f"{name}.png", headers=_KEPT, content_disposition_type="inline"
        )
    thumb = here.files.scratch / f"thumb-{plate.picture}.jpg"
    if not thumb.is_file():
        small = Image.open(picture).convert("RGB")
        small.thumbnail((THUMB_WIDTH, THUMB_WIDTH), Image.Resampling.LANCZOS)
        partial = thumb.with_suffix(f".{plate.id}.part")
        small.save(partial, "JPEG", quality=90)
        partial.replace(thumb)
    return FileResponse(thumb, media_type="image/jpeg", headers=_KEPT)
