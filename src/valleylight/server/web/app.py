"""The application: routes, error answers, the worker, and the built web client."""

from __future__ import annotations

import asyncio
import base64
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

from fastapi import FastAPI, Response
from fastapi.responses import FileResponse
from fastapi.staticfiles import StaticFiles

from valleylight import __version__
from valleylight.server.web import catalogue as catalogue_of_profiles
from valleylight.server.web import problems
from valleylight.server.store import tables
from valleylight.server.web.context import Context
from valleylight.server.store.files import FileStore
from valleylight.server.web.gate import Gate
from valleylight.server.web.hub import Hub
from valleylight.server.web.link import WorkerLink
from valleylight.server.store.migrations import migrate
from valleylight.server.web.news import tell_job_soon, tell_run_soon
from valleylight.server.web.routes import (
    air,
    arrange,
    arrivals,
    catalogue,
    cutouts,
    daylight,
    edits,
    exports,
    history,
    instruments,
    judging,
    live,
    lens,
    looks,
    measure,
    models,
    plates,
    projects,
    sequences,
    surfaces,
    things,
    treatments,
    underway,
    wall,
)
from valleylight.server.messages.events import CataloguePictured, Died, Event, JobChanged, JobPreview, LiveShown, Ready, RunChanged
from valleylight.server.settings import Settings

from valleylight.server.web.schemas.live import CatalogueNews, PreviewNews, WorkerNews


def create_app(settings: Settings) -> FastAPI:
    """The server for a database and a folder of files."""
    hub = Hub()
    files = FileStore(settings.files)

    def on_event(event: Event) -> None:
        _pass_on(hub, event)

    worker = WorkerLink(settings, on_event)

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        pool = tables.connect(settings.database_url)
        with pool.connection_context():
            migrate(pool)
            files.sweep()
            catalogue_of_profiles.list_unlisted(files)
        hub.loop = asyncio.get_running_loop()
        worker.start(hub.loop)
        yield
        worker.stop()
        pool.close_all()

    app = FastAPI(
        title="Valleylight", version=__version__, lifespan=lifespan, docs_url=None, redoc_url=None,
        openapi_url="/api/openapi.json", responses=problems.ANSWERS,
    )  # fmt: skip
    app.state.context = Context(settings, files, worker, hub)
    problems.install(app)
    for module in (projects, edits, air, arrivals, models, judging, history, plates, instruments, daylight, live, surfaces, things, cutouts, catalogue, measure, arrange, treatments, looks, lens, exports, sequences, underway, wall):
        app.include_router(module.router)

    app.add_middleware(Gate, settings=settings)
    _serve_client(app, settings)
    return app


def _serve_client(app: FastAPI, settings: Settings) -> None:
    assets = settings.web / "assets"
    if assets.is_dir():
        app.mount("/assets", StaticFiles(directory=assets), name="assets")

    @app.get("/api/{path:path}", include_in_schema=False)
    def no_such_route(path: str) -> Response:
        return problems.problem(404, f"There is no /api/{path}", remedy="See /api/openapi.json for what there is")

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> Response:
        if path:
            try:
                file = (settings.web / path).resolve()
                if file.is_file() and file.is_relative_to(settings.web.resolve()):
                    return FileResponse(file)
            except (OSError, ValueError):  # no name that a file could have
                return problems.problem(404, "There is no such page", remedy="Check the address")
        index = settings.web / "index.html"
        if not index.is_file():
            return problems.problem(
                503, "The web client is not built", remedy="Run ./valleylight serve, which builds it"
            )
        return FileResponse(index, headers={"Cache-Control": "no-cache"})


def _pass_on(hub: Hub, event: Event) -> None:
    """Worker events to the browsers they concern."""
    match event:
        case LiveShown():
            hub.show(event.slug, event.header, event.image)
        case JobChanged():
            tell_job_soon(hub, event.job)
        case RunChanged():
            tell_run_soon(hub, event.run)
        case JobPreview():
            text = "data:image/jpeg;base64," + base64.b64encode(event.image).decode()
            hub.tell(None, PreviewNews(job=event.job, image=text))
        case CataloguePictured():
            hub.tell(None, CatalogueNews())
        case Died():
            hub.tell(None, WorkerNews(state="restarting"))
        case Ready():
            hub.tell(None, WorkerNews(state="ready"))
