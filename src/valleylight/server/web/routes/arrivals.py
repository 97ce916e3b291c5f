"""What is brought into a project: profiles, kinds of fixture, models."""

from __future__ import annotations

import re
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool

from valleylight.core.errors import InputError, NotFoundError
from valleylight.core.lamps import templates
from valleylight.core.photometry import write_lm63
from valleylight.core.project.changes import Change
from valleylight.core.project.description import Layer, Placement, Project, find
from valleylight.core.project.keys import key_for
from valleylight.server.web import catalogue
from valleylight.server.messages import questions as q
from valleylight.server.messages.wishes import CatalogueGrew
from valleylight.server.store import edits, storage
from valleylight.server.web.context import Context, Hand, Here, described, with_database
from valleylight.server.store.edits import Edit
from valleylight.server.web.profiles import figures, new_kind, plain_body, read_kept
from valleylight.server.web.routes.edits import announced
from valleylight.server.web.schemas.projects import KindFigures, KindFromProfile, ProjectState
from valleylight.server.web.schemas.stage import StageFigures
from valleylight.server.web.trial import converted, tried

router = APIRouter(prefix="/api/projects", tags=["projects"])
#: Layers of one model that become the project's; further ones go by their own names. And how long a name may be.
MOST_LAYERS, LONGEST_LAYER = 500, 200
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


@router.post("/{slug}/models", status_code=201)
async def upload_model(
    slug: str, name: FileName, request: Request, here: Here, hand: Hand = "",
    replace: Annotated[str | None, Query(max_length=64, description="Key of the thing on the stage it stands in for")] = None,
) -> ProjectState:  # fmt: skip
    """Put a model, sent as the body, on the stage; beside the others, or in place of one of them.

    glTF (.glb, .gltf), OBJ, COLLADA, PLY and STL are read, alone or in a zip with the files they refer to; nothing else is looked at.
    It is kept as glTF binary. Surfaces set by hand stay with the names of their materials; its layers join those of the project. A file
    that stands there already is refused.
    """
    held = await run_in_threadpool(with_database(lambda: storage.description(storage.project_row(slug))))
    if replace is not None:
        find(held.placements, replace, "thing on the stage")
    shown = plain(name)
    data = await here.files.receive(request.stream(), here.settings.largest_model_bytes, shown)
    aside = await run_in_threadpool(here.files.set_aside, data)
    try:
        found = await tried("model", aside, shown)
        kept = await run_in_threadpool(converted(aside).read_bytes)
    finally:
        aside.unlink(missing_ok=True)
        converted(aside).unlink(missing_ok=True)
    return await run_in_threadpool(_store_model, slug, shown, kept, found, here, hand, replace)


@with_database
def _store_model(
    slug: str, name: str, data: bytes, found: dict[str, Any], here: Here, hand: str, replace: str | None
) -> ProjectState:
    sha = storage.keep(here.files, data, "model", name)
    label = f"{'Add' if replace is None else 'Replace'} model {name}"[:120]

    def make(project: Project) -> Edit:
        twin = next((p for p in project.placements if p.asset == sha and p.key != replace), None)
        if twin is not None:
            raise InputError(
                f'the same file stands on the stage already, as "{twin.name}"', name,
                "Nothing was changed; take that one away first, or choose another file",
            )  # fmt: skip
        if replace is None:
            key = key_for(name, {p.key for p in project.placements}, "model")
            new = Placement(key=key, name=name[:80], asset=sha, scale=found["scale"])
        else:
            old = find(project.placements, replace, "thing on the stage")
            scale = found["scale"] if old.scale == 1.0 else old.scale  # one that was set stays
            new = old.model_copy(update={"name": name[:80], "asset": sha, "scale": scale})
        change = Change(part="placement", key=new.key, value=new.model_dump(mode="json"))
        return Edit(label=label, changes=[change, *_new_layers(project, found["layers"])])

    return announced(edits.edit_from(slug, make, hand), here, label, hand)


def _new_layers(project: Project, names: list[str]) -> list[Change]:
    """Layers of a model that the project does not have yet."""
    taken = {layer.key for layer in project.layers}
    known = {layer.in_models for layer in project.layers}
    changes = []
    for name in names[:MOST_LAYERS]:
        if name not in known and 0 < len(name) <= LONGEST_LAYER and name.strip():
            key = key_for(name, taken, "layer")
            taken.add(key)
            layer = Layer(key=key, name=name.strip()[:80], in_models=name)
            changes.append(Change(part="layer", key=key, value=layer.model_dump(mode="json")))
    return changes


@router.get("/{slug}/stage")
async def get_stage(slug: str, here: Here) -> StageFigures:
    """Figures of the stage: objects, triangles, materials, layers."""
    return StageFigures.model_validate(await here.worker.ask(q.StageFigures(project=await described(slug))))


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
