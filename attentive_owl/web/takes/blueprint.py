"""The addresses of takes."""

from __future__ import annotations

from flask_openapi3 import APIBlueprint, Tag

from attentive_owl.web.schemas.common import Problem

api = APIBlueprint(
    "takes", __name__, url_prefix="/api", abp_tags=[Tag(name="takes")], abp_responses={401: Problem, 404: Problem}
)
