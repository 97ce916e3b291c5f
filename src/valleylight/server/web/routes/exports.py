"""Plates saved as files: in forms, sizes and under names as they are asked for, several in a zip."""

from __future__ import annotations

import shutil
from dataclasses import dataclass
from pathlib import Path

from fastapi import APIRouter
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import FileResponse

from valleylight.core.errors import InputError, NotFoundError
from valleylight.core.film.caption import Caption
from valleylight.core.film.exports import SUFFIXES, size_of
from valleylight.core.project.captions import caption_of
from valleylight.core.project.description import Look
from valleylight.server.messages import questions as q
from valleylight.server.store import storage
from valleylight.server.store.tables import PlateRow
from valleylight.server.web.context import Context, Here, with_database
from valleylight.server.web.downloads import attachment
from valleylight.server.web.exporting import file_of, named, place_for, waiting, zipped
from valleylight.server.web.schemas.exports import ExportMade, ExportWanted

router = APIRouter(prefix="/api", tags=["plates"])


@dataclass(frozen=True)
class _Saved:
    """A plate as it is to be saved."""

    film: str
    look: Look
    levels: dict[str, float]
    colours: dict[str, float]
    caption: Caption
    made: tuple[int, int]
    name: str


@router.post("/projects/{slug}/exports", status_code=201)
async def export_plates(slug: str, wanted: ExportWanted, here: Here) -> ExportMade:
    """Write plates as files, to be fetched within the hour."""
    plates = await run_in_threadpool(_plates, slug, wanted)
    suffix = SUFFIXES[wanted.form]
    sizes = [p.made if wanted.form == "exr" else size_of(p.made, wanted.fit, wanted.dpi) for p in plates]
    written: list[Path] = []
    try:
        for plate, size in zip(plates, sizes, strict=True):
            path = place_for(here.files.scratch, suffix)
            if wanted.form == "exr":
                written.append(here.files.path(plate.film))
                continue
            written.append(path)
            await here.worker.ask(q.Export(
                film=plate.film, look=plate.look, levels=plate.levels, colours=plate.colours, form=wanted.form, size=size, dpi=wanted.dpi,
                caption=plate.caption, name=path.name,
            ))  # fmt: skip
        names = [f"{plate.name}{suffix}" for plate in plates]
        return await run_in_threadpool(_gathered, here, written, names, sizes, [p.made for p in plates])
    finally:
        # What went into a zip is not fetched by itself.
        if len(written) > 1:
            for path in written:
                if path.parent == here.files.scratch:
                    path.unlink(missing_ok=True)


@router.get("/exports/{file}/{name}", response_class=FileResponse)
def fetch_export(file: str, name: str, here: Here) -> FileResponse:
    """A file that was written, under any name."""
    path = waiting(here.files.scratch, file)
    stem, _, suffix = name.rpartition(".")
    return FileResponse(path, headers={"Content-Disposition": attachment(stem or name, suffix or path.suffix[1:])})


def _gathered(
    here: Context, written: list[Path], names: list[str], sizes: list[tuple[int, int]], made: list[tuple[int, int]]
) -> ExportMade:
    scratch = here.files.scratch
    if len(written) > 1 or written[0].parent != scratch:
        target = place_for(scratch, ".zip" if len(written) > 1 else Path(names[0]).suffix)
        if len(written) > 1:
            zipped(list(zip(written, names, strict=True)), target)
        else:
            shutil.copyfile(written[0], target)
    else:
        target = written[0]
    name = "plates.zip" if len(written) > 1 else names[0]
    enlarged = max(size[0] / was[0] for size, was in zip(sizes, made, strict=True))
    return ExportMade(file=file_of(target), name=name, bytes=target.stat().st_size, sizes=sizes, enlarged=round(enlarged, 3))


@with_database
def _plates(slug: str, wanted: ExportWanted) -> list[_Saved]:
    row = storage.project_row(slug)
    if len(set(wanted.plates)) < len(wanted.plates):
        raise InputError("a plate is named twice", "plates", "Name each once")
    found = {p.id: p for p in PlateRow.select().where(PlateRow.project == row, PlateRow.id.in_(wanted.plates))}
    taken: set[str] = set()
    plates = []
    for number in wanted.plates:
        plate = found.get(number)
        if plate is None or plate.film is None:
            raise NotFoundError(f"there is no plate {number} that is made", "plates", "Choose plates of the strip")
        plates.append(_saved(plate, wanted.pattern, taken))
    return plates


def _saved(plate: PlateRow, pattern: str, taken: set[str]) -> _Saved:
    project = storage.plate_description(plate.settings_id)
    view, occasion = project.view(plate.view_key), project.occasion(plate.occasion_key)
    values = {
        "project": project.name, "view": view.name, "occasion": occasion.name, "quality": plate.quality, "width": str(plate.width),
        "height": str(plate.height), "date": f"{occasion.when:%Y-%m-%d}", "number": str(plate.id),
    }  # fmt: skip
    return _Saved(
        film=str(plate.film), look=project.look_for(view, occasion), levels=occasion.light_levels(), colours=occasion.colours,
        caption=caption_of(project, view, occasion), made=(plate.width, plate.height), name=named(pattern, values, taken),
    )  # fmt: skip
