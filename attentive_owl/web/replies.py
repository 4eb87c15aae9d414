"""Pydantic models out."""

from __future__ import annotations

from flask import Response, make_response
from pydantic import BaseModel


def reply(model: BaseModel, status: int = 200) -> Response:
    response = make_response(model.model_dump_json(), status)
    response.mimetype = "application/json"
    response.headers["Cache-Control"] = "no-store"
    return response
