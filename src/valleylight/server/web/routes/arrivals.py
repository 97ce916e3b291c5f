"""What is brought into a project: profiles and kinds of fixture. Models: see models.py."""

from __future__ import annotations

import re
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool

from valleylight.core.errors import NotFoundError
from valleylight.core.lamps import templates
from valleylight.core.photometry import write_lm63
from valleylight.core.project.changes import Change
from valleylight.core.project.description import Project
from valleylight.server.web import catalogue
from valleylight.server.messages.wishes import CatalogueGrew
from valleylight.server.store import edits, storage
from valleylight.server.web.context import Context, Hand, Here, with_database
from valleylight.server.store.edits import Edit
from valleylight.server.web.profiles import figures, new_kind, plain_body, read_kept
from valleylight.server.web.routes.edits import announced
from valleylight.server.web.schemas.projects import KindFigures, KindFromProfile, ProjectState
from valleylight.server.web.trial import tried

router = APIRouter(prefix="/api/projects", tags=["projects"])
FileName = Annotated[str, Query(min_length=1, max_length=255, description="The name the file had, for people")]


@router.get("/{slug}/kinds")
@with_database
def list_kinds(slug: str, here: Here) -> list[KindFigures]:
    """The project's fixture kinds with the figures of their profiles."""
    description = storage.description(storage.project_row(slug))
    return [figures(kind, here.files.read(kind.profile)) for kind in description.kinds]


@router.post("/{slug}/profiles", status_code=201)
async def upload_profile(slug: str, name: FileName, request: Request, here: Here, hand: Hand = "") -> ProjectState:
    """Add a fixture kind from an IES LM-63 or EULUMDAT file sent as the body."""
    await run_in_threadpool(with_database(storage.project_row), slug)
    data = await here.files.receive(request.stream(), here.settings.largest_profile_bytes, plain(name))
    made = await run_in_threadpool(with_database(catalogue.take), here.files, data, plain(name))
    here.worker.send(CatalogueGrew())
    return await run_in_threadpool(_add_kind, slug, KindFromProfile(profile=made.sha256), here, hand)


@router.post("/{slug}/kinds", status_code=201)
def add_kind(slug: str, wanted: KindFromProfile, here: Here, hand: Hand = "") -> ProjectState:
    """Add a fixture kind from a profile of the catalogue or from a template."""
    return _add_kind(slug, wanted, here, hand)


@with_database
def _add_kind(slug: str, wanted: KindFromProfile, here: Here, hand: str) -> ProjectState:
    storage.project_row(slug)
    template = templates.find(wanted.template) if wanted.template else None
    if template is not None:
        line = catalogue.take(here.files, write_lm63(template.profile()).encode(), f"{template.key}.ies")
        here.worker.send(CatalogueGrew())
        name = template.name
        details: dict[str, Any] = {
            "kelvin": template.kelvin, "dimming": template.dimming, "body": template.body, "mounting": template.mounting,
        }  # fmt: skip
    elif wanted.profile:
        line = catalogue.line(catalogue.find(wanted.profile))
        name = line.name
        details = {
            "kelvin": line.kelvin or catalogue.UNSTATED_K, "body": plain_body(read_kept(here.files.read(line.sha256))),
            "mounting": "wall" if line.mounting == "wall" else "ceiling",
        }  # fmt: skip
    else:
        raise NotFoundError(f"there is no template {wanted.template!r}", "template", "Choose one of the list")

    def make(project: Project) -> Edit:
        kind = new_kind(project, name, line.sha256, **details)
        change = Change(part="kind", key=kind.key, value=kind.model_dump(mode="json"))
        return Edit(label=f"Add fixture {kind.name}"[:120], changes=[change])

    return announced(edits.edit_from(slug, make, hand), here, f"Add fixture {name}", hand)


async def tried_first(here: Context, what: str, data: bytes, name: str) -> dict[str, Any]:
    """What is in a file that is not kept yet. Raises InputError where it cannot be used; nothing is then left of it."""
    aside = await run_in_threadpool(here.files.set_aside, data)
    try:
        return await tried(what, aside, name)
    finally:
        aside.unlink(missing_ok=True)


def plain(name: str) -> str:
    """The last part of a file name, without control characters and marks of direction."""
    return re.sub(r"[\x00-\x1f\x7f\u200e\u200f\u202a-\u202e\u2066-\u2069]", "", name.replace("\\", "/").rsplit("/", 1)[-1]).strip()[:200] or "file"
