"""Every error leaves the server as application/problem+json (RFC 9457): what, where, and what to do."""

from __future__ import annotations

from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from peewee import PeeweeException
from starlette.exceptions import HTTPException

from valleylight.core.errors import InputError, NotFoundError
from valleylight.server.files import TooLargeError
from valleylight.server.link import WorkerGoneError
from valleylight.server.schemas.projects import Problem
from valleylight.server.storage import InvalidEditError


def problem(
    status: int, title: str, where: str = "", remedy: str = "", detail: str = "", errors: Any = ()
) -> JSONResponse:
    body = Problem(
        title=title, status=status, where=where, remedy=remedy, detail=detail or " ".join(filter(None, (title, remedy))),
        errors=list(errors),
    )  # fmt: skip
    return JSONResponse(body.model_dump(), status, media_type="application/problem+json")


def install(app: FastAPI) -> None:
    """Handlers for every kind of error."""

    @app.exception_handler(InputError)
    async def input_error(_: Request, error: InputError) -> JSONResponse:
        status = 404 if isinstance(error, NotFoundError) else 413 if isinstance(error, TooLargeError) else 422
        errors = error.errors if isinstance(error, InvalidEditError) else ()
        return problem(status, error.what, error.where, error.remedy, str(error), errors)

    @app.exception_handler(RequestValidationError)
    async def request_error(_: Request, error: RequestValidationError) -> JSONResponse:
        found = [
            {
                "field": ".".join(str(p) for p in e["loc"] if p != "body"),
                "message": e["msg"].removeprefix("Value error, "),
            }
            for e in error.errors()
        ]
        first = found[0]
        return problem(
            422, first["message"], first["field"], "Correct that field and send it again",
            f"{first['field']}: {first['message']}. Nothing was changed.", found,
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

    @app.exception_handler(PeeweeException)
    async def database_error(_: Request, error: PeeweeException) -> JSONResponse:
        return problem(503, "The database did not answer", remedy="Nothing was changed; try again", detail=str(error))
