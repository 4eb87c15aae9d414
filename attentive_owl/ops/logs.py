"""Logs: an object of JSON a line, and nothing of people in it. What was asked is told by its route, which has no names in it; of an
exception its type and where it came from, for its message may quote what somebody typed or what stands in a row."""

from __future__ import annotations

import logging
import logging.config
import traceback
from collections.abc import Iterator
from types import TracebackType
from typing import Any

from pythonjsonlogger.json import JsonFormatter

_FIELDS = "%(asctime)s %(levelname)s %(name)s %(message)s"
_LOUD = "INFO"


class DiscreetFormatter(JsonFormatter):
    """Time, level, logger, message and what was given as `extra`."""

    def __init__(self) -> None:
        super().__init__(_FIELDS, rename_fields={"asctime": "at", "levelname": "level", "name": "from"})

    def formatException(
        self, ei: tuple[type[BaseException], BaseException, TracebackType | None] | tuple[None, None, None]
    ) -> str:
        return "\n".join(_chain(ei[1])) if ei[1] is not None else ""


def _chain(error: BaseException) -> Iterator[str]:
    """The types of an exception and of those behind it, each with the places it went through, the innermost last."""
    behind = error.__cause__ or (None if error.__suppress_context__ else error.__context__)
    if behind is not None:
        yield from _chain(behind)
        yield "then"
    yield from (f"{own.filename}:{own.lineno} {own.name}" for own in traceback.extract_tb(error.__traceback__))
    yield f"{type(error).__module__}.{type(error).__qualname__}"


def config() -> dict[str, Any]:
    """For `logging.config`, and for gunicorn. What our libraries say below a warning is left out: of a job it would quote the call."""
    quiet = {"level": "WARNING", "propagate": True}
    return {
        "version": 1,
        "disable_existing_loggers": False,
        "formatters": {"discreet": {"()": DiscreetFormatter}},
        "handlers": {"out": {"class": "logging.StreamHandler", "formatter": "discreet", "stream": "ext://sys.stdout"}},
        "root": {"handlers": ["out"], "level": _LOUD},
        "loggers": {"procrastinate": quiet, "gunicorn.access": quiet, "gunicorn.error": {"level": _LOUD, "propagate": True}},
    }  # fmt: skip


def begin() -> None:
    logging.config.dictConfig(config())
