"""Everything that goes wrong becomes one sentence in one shape: {"error": "..."}."""

from __future__ import annotations

import errno
import logging
from typing import Any

from flask import Flask, Response, jsonify, make_response
from flask_wtf.csrf import CSRFError
from psycopg.errors import DiskFull
from pydantic import ValidationError
from sqlalchemy.exc import DBAPIError, OperationalError
from werkzeug.exceptions import HTTPException, RequestEntityTooLarge

from attentive_owl.core.exercises import RecipeError
from attentive_owl.core.instruments import UnplayableError
from attentive_owl.formats.confined import BusyError
from attentive_owl.formats.limits import MAX_MEGABYTES
from attentive_owl.store.audio import StoreAwayError

_log = logging.getLogger(__name__)
_AWAY = (None, "08006", "57P01", "57P02", "57P03")
"""No connection, or one that the server has ended: shutting down, crashed, not up yet (PostgreSQL's handbook, appendix A)."""


class ProblemError(Exception):
    """`wait_s`: seconds after which it may be tried again."""

    def __init__(self, status: int, sentence: str, wait_s: int | None = None) -> None:
        super().__init__(sentence)
        self.status = status
        self.sentence = sentence
        self.wait_s = wait_s


def not_found() -> ProblemError:
    """The same for what does not exist and for what is not the visitor's."""
    return ProblemError(404, "There is nothing here.")


def _answer(status: int, sentence: str) -> Response:
    return make_response(jsonify({"error": sentence}), status)


def _no_room() -> Response:
    _log.exception("no room")
    return _answer(
        507, "There is no room left here just now. What you recorded stays on this device, and goes by itself later."
    )


def validation_sentence(error: ValidationError) -> str:
    first = error.errors()[0]
    place = " ".join(str(part).replace("_", " ") for part in first["loc"] if isinstance(part, str))
    message = str(first["msg"])
    return f"{(place or 'This').capitalize()}: {message[0].lower()}{message[1:]}."


def on_validation_error(error: ValidationError) -> Response:
    return _answer(422, validation_sentence(error))


def register(app: Flask) -> None:
    @app.errorhandler(ProblemError)
    def own(error: ProblemError) -> Response:
        answer = _answer(error.status, error.sentence)
        if error.wait_s is not None:
            answer.headers["Retry-After"] = str(error.wait_s)
        return answer

    @app.errorhandler(RecipeError)
    @app.errorhandler(UnplayableError)
    def no_exercise(error: ValueError) -> Response:
        sentence = str(error)
        return _answer(422, f"{sentence[:1].upper()}{sentence[1:]}.")

    @app.errorhandler(RecursionError)
    def too_deep(error: RecursionError) -> Response:
        return _answer(422, "This is nested too deeply.")

    @app.errorhandler(StoreAwayError)
    def store_away(error: StoreAwayError) -> Response:
        _log.error("%s", error)
        return _answer(
            503,
            "The place of the recordings is away just now. What you recorded stays on this device, and goes by itself later.",
        )

    @app.errorhandler(BusyError)
    def busy(error: BusyError) -> Response:
        return own(ProblemError(503, "Other files are being read just now. Please send yours again in a moment.", 10))

    @app.errorhandler(OSError)
    def disk(error: OSError) -> Response | tuple[Any, int]:
        return _no_room() if error.errno in (errno.ENOSPC, errno.EDQUOT) else unexpected(error)

    @app.errorhandler(DBAPIError)
    def database(error: DBAPIError) -> Response | tuple[Any, int]:
        if isinstance(error.orig, DiskFull):
            return _no_room()
        if isinstance(error, OperationalError) and getattr(error.orig, "sqlstate", None) in _AWAY:
            _log.exception("the database is away")
            return _answer(503, "The house is not quite awake. Nothing of yours is lost; please try again in a moment.")
        return unexpected(error)

    @app.errorhandler(CSRFError)
    def forged(error: CSRFError) -> Response:
        return _answer(400, "This page is out of date; please reload it.")

    @app.errorhandler(RequestEntityTooLarge)
    def too_large(error: RequestEntityTooLarge) -> Response:
        return _answer(413, f"A recording can be {MAX_MEGABYTES} MB at most.")

    @app.errorhandler(HTTPException)
    def standard(error: HTTPException) -> Response:
        return _answer(
            error.code or 500,
            {404: "There is nothing here.", 405: "This can not be done here."}.get(
                error.code or 500, error.description or error.name
            ),
        )

    @app.errorhandler(Exception)
    def unexpected(error: Exception) -> Response | tuple[Any, int]:
        _log.exception("unexpected")
        return _answer(500, "Something went wrong on our side; nothing of yours is lost. Please try again.")
