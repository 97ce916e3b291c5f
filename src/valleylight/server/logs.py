"""The server's log: one line an event on standard error, with its level, its time (UTC) and the request it belongs to.

    2026-06-21T12:00:00Z [error    ] unforeseen                     [valleylight] number=1f2e3d4c request=9a8b7c6d

As JSON, for a machine that gathers logs, the same fields are keys. Whatever logs by the standard library's `logging`
comes out the same way, so that a library's words are told like our own.
"""

from __future__ import annotations

import logging
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import structlog

from valleylight.server.settings import Settings

#: What every line goes through, our own and those of libraries.
_STEPS: list[Any] = [
    structlog.contextvars.merge_contextvars,
    structlog.stdlib.add_logger_name,
    structlog.stdlib.add_log_level,
    structlog.stdlib.PositionalArgumentsFormatter(),
    structlog.processors.TimeStamper(fmt="iso", utc=True),
]


def install(settings: Settings) -> None:
    """Send what is logged to standard error, from the level on that the settings name."""
    as_json = settings.log_format == "json"
    last: Any = (
        structlog.processors.JSONRenderer()
        if as_json
        else structlog.dev.ConsoleRenderer(colors=False, exception_formatter=structlog.dev.plain_traceback)
    )
    finish: list[Any] = [structlog.stdlib.ProcessorFormatter.remove_processors_meta]
    if as_json:
        finish.append(structlog.processors.format_exc_info)
    handler = logging.StreamHandler(sys.stderr)
    handler.setFormatter(structlog.stdlib.ProcessorFormatter(foreign_pre_chain=_STEPS, processors=[*finish, last]))
    handler.set_name("valleylight")
    root = logging.getLogger()
    root.handlers[:] = [*(h for h in root.handlers if h.get_name() != "valleylight"), handler]
    root.setLevel("WARNING")  # libraries tell of trouble only
    logging.getLogger("valleylight").setLevel(settings.log_level.upper())


def log() -> Any:
    """The product's log: `log().warning("what happened", key=value)`."""
    return structlog.wrap_logger(
        logging.getLogger("valleylight"),
        processors=[structlog.stdlib.filter_by_level, *_STEPS, structlog.stdlib.ProcessorFormatter.wrap_for_formatter],
        wrapper_class=structlog.stdlib.BoundLogger,
    )


@contextmanager
def about(**fields: Any) -> Iterator[None]:
    """Every line logged within says these fields."""
    with structlog.contextvars.bound_contextvars(**fields):
        yield
