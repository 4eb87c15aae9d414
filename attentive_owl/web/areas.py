"""The addresses of one area of the program, and what is written of them for others.

The schemas of every question and answer are worked out for the OpenAPI document alone. With a hundred addresses that was a quarter of each
start of the server (0.7 of 3.0 s where numpy alone takes 0.2 s), so it waits until the document is asked for.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from flask_openapi3 import APIBlueprint, Tag
from flask_openapi3.types import ParametersTuple
from flask_openapi3.utils import parse_parameters

from attentive_owl.web.schemas.common import Problem


class Area(APIBlueprint):
    """The addresses that belong together: where they begin, their tag in the document, and the problems that each of them can answer with."""

    def __init__(
        self, name: str, import_name: str, *problems: int, tag: str | None = None, url_prefix: str = "/api"
    ) -> None:
        super().__init__(
            name,
            import_name,
            url_prefix=url_prefix,
            abp_tags=[Tag(name=tag or name)],
            abp_responses=dict.fromkeys(problems, Problem),
        )
        self._to_describe: list[tuple[str, Callable[..., Any], dict[str, Any]]] = []

    def describe(self) -> None:
        """Works out what the document says of these addresses: once, however often it is asked."""
        while self._to_describe:
            rule, view, described = self._to_describe.pop(0)
            super()._collect_openapi_info(rule, view, **described)

    def _collect_openapi_info(self, rule: str, func: Callable[..., Any], **described: Any) -> ParametersTuple:
        self._to_describe.append((rule, func, described))
        return parse_parameters(func, doc_ui=False)
