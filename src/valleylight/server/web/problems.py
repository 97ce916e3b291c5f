"""Every error leaves the server as application/problem+json (RFC 9457): what, where, and what to do."""

from __future__ import annotations

import errno
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from peewee import PeeweeException
from playhouse.pool import MaxConnectionsExceeded
from starlette.exceptions import HTTPException

from valleylight.core.errors import InputError, NotFoundError
from valleylight.core.project import words
from valleylight.server.store.edits import StaleEditError
from valleylight.server.store.files import TooLargeError
from valleylight.server.web.link import WorkerGoneError
from valleylight.server.web.schemas import live
from valleylight.server.web.schemas.projects import Conflict, Problem
from valleylight.server.store.storage import InvalidEditError

MEDIA_TYPE = "application/problem+json"
#: What the OpenAPI document says of errors: all of them have one shape.
ANSWERS: dict[int | str, dict[str, Any]] = {
    "4XX": {"model": Problem, "description": "What was asked cannot be done; what, where, and the remedy"},
    "5XX": {"model": Problem, "description": "Not now: try again"},
}
#: So many errors of one request are told; the rest follow from them, or are more of the same.
MOST_ERRORS = 20
#: Where a request's fields come from, as the framework names it.
_SIDES = ("body", "query", "path", "header")


def problem(
    status: int, title: str, where: str = "", remedy: str = "", detail: str = "", errors: Any = ()
) -> JSONResponse:
    body = Problem(
        title=title, status=status, where=where, remedy=remedy, detail=detail or " ".join(filter(None, (title, remedy))),
        errors=list(errors),
    )  # fmt: skip
    return JSONResponse(body.model_dump(), status, media_type=MEDIA_TYPE)


def described(app: FastAPI) -> dict[str, Any]:
    """The OpenAPI document, with the media type that errors are sent as, and what goes over the WebSocket among its schemas."""
    document = FastAPI.openapi(app)
    for operations in document["paths"].values():
        for operation in operations.values():
            for status, answer in operation["responses"].items():
                if status[0] in "45" and "application/json" in answer.get("content", {}):
                    answer["content"] = {MEDIA_TYPE: answer["content"]["application/json"]}
    components = document["components"]["schemas"]
    components.update({name: schema for name, schema in live.schemas().items() if name not in components})
    return document


def install(app: FastAPI) -> None:
    """Handlers for every kind of error."""
    app.openapi = lambda: described(app)  # type: ignore[method-assign]

    @app.exception_handler(StaleEditError)
    async def stale(_: Request, error: StaleEditError) -> JSONResponse:
        body = Conflict(
            title=error.what, status=409, where=error.where, remedy=error.remedy, detail=str(error),
            revision=error.revision, label=error.label, now=error.now,
        )  # fmt: skip
        return JSONResponse(body.model_dump(mode="json"), 409, media_type=MEDIA_TYPE)

    @app.exception_handler(InputError)
    async def input_error(_: Request, error: InputError) -> JSONResponse:
        status = 404 if isinstance(error, NotFoundError) else 413 if isinstance(error, TooLargeError) else 422
        errors = error.errors if isinstance(error, InvalidEditError) else ()
        return problem(status, error.what, error.where, error.remedy, str(error), errors)

    @app.exception_handler(RequestValidationError)
    async def request_error(_: Request, error: RequestValidationError) -> JSONResponse:
        found = [
            {"field": ".".join(str(p) for p in e["loc"] if p not in _SIDES), "message": words.plain(e)}
            for e in error.errors()[:MOST_ERRORS]
        ]
        first = found[0]
        place = words.place([p for p in error.errors()[0]["loc"] if p not in _SIDES], error.body)
        return problem(
            422, first["message"], first["field"], "Correct that field and send it again",
            f"{place or 'the request'}: {first['message']}. Nothing was changed.", found,
        )  # fmt: skip

    @app.exception_handler(HTTPException)
    async def http_error(_: Request, error: HTTPException) -> JSONResponse:
        return problem(error.status_code, str(error.detail))

    @app.exception_handler(WorkerGoneError)
    async def worker_gone(_: Request, error: WorkerGoneError) -> JSONResponse:
        return problem(503, "The renderer stopped and is being started again", remedy="Try once more in a few seconds")

    @app.exception_handler(TimeoutError)
    async def too_slow(_: Request, error: TimeoutError) -> JSONResponse:
        return problem(503, "The renderer is busy", remedy="Try again in a minute")

    @app.exception_handler(MaxConnectionsExceeded)
    async def crowded(_: Request, error: MaxConnectionsExceeded) -> JSONResponse:
        return problem(503, "Too much is asked of the database at once", remedy="Nothing was changed; try again")

    @app.exception_handler(OSError)
    async def disk(_: Request, error: OSError) -> JSONResponse:
        if error.errno not in (errno.ENOSPC, errno.EDQUOT):
            raise error
        return problem(507, "The disk is full", remedy="Make room on it, then try again; nothing was changed")

    @app.exception_handler(PeeweeException)
    async def database_error(_: Request, error: PeeweeException) -> JSONResponse:
        return problem(503, "The database did not answer", remedy="Nothing was changed; try again")
