"""The blueprint that everything about people hangs on."""

from __future__ import annotations

from flask_openapi3 import APIBlueprint, Tag

from attentive_owl.web.schemas.common import Problem

api = APIBlueprint(
    "people", __name__, url_prefix="/api", abp_tags=[Tag(name="people")], abp_responses={401: Problem, 404: Problem}
)
