"""Surfaces of the stage and of the catalogue: their samples, pictures brought in for them, and the way out and in as files."""

from __future__ import annotations

import hashlib
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import Response

from valleylight.core.errors import InputError, NotFoundError
from valleylight.core.project.surface import Surface
from valleylight.core.stage.catalogue import CATALOGUE
from valleylight.core.stage.channels import CHANNELS, Channel, small
from valleylight.core.stage.dressing import pictures_of
from valleylight.core.stage.exchange import material_glb, picture_zip, with_pictures
from valleylight.core.stage.samples import presented
from valleylight.server.messages import questions as q
from valleylight.server.store import own, storage
from valleylight.server.store.tables import AssetRow, OwnRow
from valleylight.server.web.context import Context, Here, described, with_database
from valleylight.server.web.downloads import attachment
from valleylight.server.web.routes.arrivals import FileName, plain
from valleylight.server.web.schemas.stage import Picked, Spot
from valleylight.server.web.schemas.surfaces import (
    CatalogueSurface,
    Renamed,
    StageSurface,
    SurfaceKept,
    SurfacePicture,
)
from valleylight.server.web.trial import of_channel, tried

router = APIRouter(prefix="/api", tags=["surfaces"])
KEPT = {"Cache-Control": "public, max-age=31536000, immutable"}
#: Goes into the name of every sample that is kept: another number makes all of them anew.
SAMPLED = "2"
OWN = "own-"


@router.get("/surfaces")
@with_database
def catalogue() -> list[CatalogueSurface]:
    """The catalogue of surfaces: those one keeps oneself, then those that ship."""
    shipped = [
        CatalogueSurface(
            key=e.key, name=e.name, family=e.family, surface=e.surface, sample_m=presented(e.surface).size_m
        )
        for e in CATALOGUE
    ]
    return [*(_line(row) for row in own.every("surface")), *shipped]


def _line(row: OwnRow, words: list[str] | None = None) -> CatalogueSurface:
    surface = Surface.model_validate(row.data)
    return CatalogueSurface(
        key=f"{OWN}{row.id}", name=row.name, family="own", surface=surface, sample_m=presented(surface).size_m, own=row.id,
        words=words or [],
    )  # fmt: skip


def _entry(key: str) -> CatalogueSurface:
    if key.startswith(OWN) and key[len(OWN) :].isdecimal() and len(key) < 20:
        return _line(own.find("surface", int(key[len(OWN) :])))
    entry = next((e for e in CATALOGUE if e.key == key), None)
    if entry is None:
        raise NotFoundError(f"there is no surface {key!r}", "surface", "Choose one of the catalogue")
    return CatalogueSurface(
        key=key, name=entry.name, family=entry.family, surface=entry.surface, sample_m=presented(entry.surface).size_m
    )


@router.post("/surfaces", status_code=201)
@with_database
def keep_surface(wanted: SurfaceKept) -> CatalogueSurface:
    """Keep a surface in the catalogue, for all projects."""
    _pictures_are_there(wanted.surface)
    plain_surface = wanted.surface.model_copy(update={"keep_picture": False})
    return _line(own.keep("surface", wanted.name, plain_surface.model_dump(mode="json")))


def _pictures_are_there(surface: Surface) -> None:
    there = {a.sha256 for a in AssetRow.select(AssetRow.sha256).where(AssetRow.sha256.in_(surface.files), AssetRow.kind == "texture")}
    for file in surface.files:
        if file not in there:
            raise InputError(f"the picture {file[:12]} was never brought in for a surface", "pictures", "Bring the file in first")


@router.put("/surfaces/own/{number}")
@with_database
def rename_surface(number: int, wanted: Renamed) -> CatalogueSurface:
    """Give a surface of one's own another name."""
    return _line(own.change("surface", number, wanted.name))


@router.delete("/surfaces/own/{number}", status_code=204)
@with_database
def put_surface_away(number: int) -> None:
    """Take a surface of one's own out of the catalogue; where it lies it stays."""
    own.put_away("surface", number)


@router.post("/surfaces/file", status_code=201)
async def take_surface(name: FileName, request: Request, here: Here) -> CatalogueSurface:
    """Take a surface into the catalogue from a file, sent as the body: glTF (alone or in a zip), or a zip of pictures named by channel."""
    shown = plain(name)
    data = await here.files.receive(request.stream(), here.settings.largest_picture_bytes, shown)
    found, pictures = await _tried(here, "surface", data, shown, {})
    return await run_in_threadpool(_take, here, found, pictures, shown)


@with_database
def _take(here: Context, found: dict[str, Any], pictures: dict[Channel, bytes], name: str) -> CatalogueSurface:
    files = {channel: storage.keep(here.files, png, "texture", name) for channel, png in pictures.items()}
    surface = with_pictures(Surface.model_validate(found["surface"]), files)
    return _line(own.keep("surface", found["name"], surface.model_dump(mode="json")), found["words"])


@router.post("/surface-pictures", status_code=201)
async def take_picture(name: FileName, channel: Channel, request: Request, here: Here) -> SurfacePicture:
    """Bring in a picture of one channel of a surface (PNG, JPEG, TIFF, EXR), sent as the body. It lies nowhere before a surface names it."""
    shown = plain(name)
    data = await here.files.receive(request.stream(), here.settings.largest_picture_bytes, shown)
    found, pictures = await _tried(here, "texture", data, shown, {"channel": channel, "channels": [channel]})
    asset = await run_in_threadpool(with_database(storage.keep), here.files, pictures[channel], "texture", shown)
    return SurfacePicture(asset=asset, width=found["width"], height=found["height"], words=found["words"])


@router.get("/surface-pictures/{asset}/small.png", response_class=Response)
@with_database
def small_picture(asset: str, here: Here) -> Response:
    """A picture that was brought in, at most 96 pixels on a side."""
    row = AssetRow.get_or_none(AssetRow.sha256 == asset, AssetRow.kind == "texture")
    if row is None:
        raise NotFoundError(f"there is no picture {asset[:12]!r}", "asset", "Bring it in first")
    return Response(small(here.files.read(asset)), media_type="image/png", headers=KEPT)


async def _tried(
    here: Context, what: str, data: bytes, name: str, beside: dict[str, Any]
) -> tuple[dict[str, Any], dict[Channel, bytes]]:
    """What a trial found in a file, and the pictures it left, as they are to be kept."""
    aside = await run_in_threadpool(here.files.set_aside, data)
    try:
        found = await tried(what, aside, name, beside)
        pictures = {c: of_channel(aside, c).read_bytes() for c in found.get("channels", beside.get("channels", ()))}
        return found, pictures
    finally:
        aside.unlink(missing_ok=True)
        for channel in CHANNELS:
            of_channel(aside, channel).unlink(missing_ok=True)


@router.get("/surfaces/{key}/surface.{suffix}", response_class=Response)
@with_database
def surface_file(key: str, suffix: Literal["glb", "zip"], here: Here) -> Response:
    """A surface of the catalogue as a file: a tile as glTF binary, or its pictures named by channel in a zip."""
    entry = _entry(key)
    return _as_file(entry.name, entry.surface, suffix, here)


@router.post("/surfaces/file.{suffix}", response_class=Response)
@with_database
def surface_as_file(suffix: Literal["glb", "zip"], wanted: SurfaceKept, here: Here) -> Response:
    """Any surface as a file, see `surface_file`."""
    _pictures_are_there(wanted.surface)
    return _as_file(wanted.name, wanted.surface, suffix, here)


def _as_file(name: str, surface: Surface, suffix: str, here: Context) -> Response:
    pictures = {channel: here.files.read(file) for channel, file in pictures_of(surface).items()}
    data = (material_glb if suffix == "glb" else picture_zip)(name, surface, pictures)
    kind = "model/gltf-binary" if suffix == "glb" else "application/zip"
    return Response(data, media_type=kind, headers={"Content-Disposition": attachment(name, suffix)})


@router.get("/surfaces/{key}/sample.png", response_class=Response)
async def catalogue_sample(key: str, here: Here) -> Response:
    """A surface of the catalogue as a sample, see `core.preview.sample`."""
    entry = await run_in_threadpool(with_database(_entry), key)
    version = hashlib.sha256(f"{SAMPLED}{entry.surface.model_dump_json()}".encode()).hexdigest()[:24]
    return await sample(here, version, q.SurfaceSample(surface=entry.surface))


@router.get("/projects/{slug}/surfaces")
async def stage_surfaces(
    slug: str, here: Here,
    view: Annotated[str, Query(max_length=80, description="Ask how much of this view's picture each is")] = "",
    occasion: Annotated[str, Query(max_length=80)] = "",
) -> list[StageSurface]:  # fmt: skip
    """The materials of a project's stage."""
    answer = await here.worker.ask(q.Surfaces(project=await described(slug), view=view, occasion=occasion))
    return [StageSurface.model_validate(line) for line in answer]


@router.get("/projects/{slug}/surfaces/{version}/sample.png", response_class=Response)
async def stage_sample(slug: str, version: str, name: str, here: Here) -> Response:
    """A material of the stage as a sample, with its pictures."""
    project = await described(slug)
    key = hashlib.sha256(f"{SAMPLED}{slug}/{name}/{version}".encode()).hexdigest()[:24]
    return await sample(here, key, q.MaterialSample(project=project, material=name))


async def sample(here: Here, version: str, question: q.SurfaceSample | q.MaterialSample | q.ThingPicture | q.OwnPicture | q.CutOutPicture) -> Response:
    """A picture that is asked once and kept under a name of what it shows."""
    kept = here.files.scratch / f"sample-{version}.png"
    if not kept.is_file():
        picture = await here.worker.ask(question)
        partial = kept.with_suffix(".part")
        partial.write_bytes(picture)
        partial.replace(kept)
    return Response(kept.read_bytes(), media_type="image/png", headers=KEPT)


@router.post("/projects/{slug}/pick")
async def pick(slug: str, spot: Spot, here: Here) -> Picked | None:
    """The object and material at a place of the picture or of the plan; nothing where the sky is seen."""
    answer = await here.worker.ask(q.Pick(project=await described(slug), **spot.model_dump()))
    return Picked.model_validate(answer) if answer else None
