"""What the OpenAPI document allows, and what it does not, drawn at random and sent by a teacher, a pupil and somebody signed out: no answer
is a fault of ours, each says one sentence, and nothing is left behind. All three send what was drawn once: drawing takes longer than
answering. More of it: OWL_FUZZ=200 ./test tests/web/test_fuzz.py"""

from __future__ import annotations

import io
import json
import os
import tempfile
import warnings
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, given, seed
from hypothesis import settings as limits
from schemathesis import GenerationMode

from attentive_owl.web.app import openapi_document
from tests.conftest import Filled, Visitor

EXAMPLES = int(os.environ.get("OWL_FUZZ", "4"))
LEFT_OUT = {("DELETE", "/api/session"), ("DELETE", "/api/studio"), ("GET", "/api/ready")}
"""Afterwards nobody is there who could go on; and what has no worker is not ready."""
WELL_SAID = (".", "!", "?")


def operations() -> list[Any]:
    schema = schemathesis.openapi.from_dict(openapi_document())
    schema.config.generation.update(modes=list(GenerationMode))
    return [own.ok() for own in schema.get_all_operations() if (own.ok().method.upper(), own.ok().path) not in LEFT_OUT]


def visitor_of(app: Any, filled: Filled, who: str) -> Visitor:
    visitor = Visitor(app)
    return visitor.teacher(filled) if who == "teacher" else visitor.pupil(filled) if who == "pupil" else visitor


def send(visitor: Visitor, case: Any) -> Any:
    """As the transport of the tests wants it: texts in queries, and files in forms."""
    arguments: dict[str, Any] = {}
    if case.query:
        arguments["query_string"] = {str(name): str(value) for name, value in case.query.items()}
    if case.media_type == "multipart/form-data" and isinstance(case.body, dict):
        arguments["data"] = {name: _part(value) for name, value in case.body.items()}
        arguments["content_type"] = "multipart/form-data"
    elif isinstance(case.body, bytes):
        arguments |= {"data": case.body, "content_type": case.media_type}
    elif case.body is not schemathesis.core.NOT_SET:
        arguments |= {"data": json.dumps(case.body, default=str), "content_type": "application/json"}
    return visitor.call(case.method.upper(), case.formatted_path, **arguments)


def _part(value: Any) -> Any:
    """A file, or now and then its bytes as a text: a part without a name is one."""
    data = getattr(value, "data", value)
    if isinstance(data, bytes):
        return (io.BytesIO(data), "file") if len(data) % 4 else data.decode("latin-1")
    return str(value)


def _sent(visitors: dict[str, Visitor], found: dict[str, set[int]]) -> Callable[[Any], None]:
    def one(case: Any) -> None:
        for who, visitor in visitors.items():
            answer = send(visitor, case)
            found.setdefault(who, set()).add(answer.status_code)
            assert answer.status_code < 500, (who, case.method, case.formatted_path, case.query, case.body, answer.text)
            if answer.status_code >= 400:
                assert answer.json["error"].endswith(WELL_SAID), (who, case.method, case.path, answer.json)

    return one


def _drawn(operation: Any, number: int, one: Callable[[Any], None]) -> Callable[[], None]:
    """Half of it as the document allows, half of it not; the same each time."""
    cases = operation.as_strategy(generation_mode=GenerationMode.POSITIVE)
    cases |= operation.as_strategy(generation_mode=GenerationMode.NEGATIVE)
    quiet = limits(
        max_examples=EXAMPLES, database=None, deadline=None, phases=[Phase.generate], suppress_health_check=list(HealthCheck)
    )  # fmt: skip
    return seed(number)(quiet(given(case=cases)(lambda case: one(case))))


@pytest.fixture
def own_temporary(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    folder = tmp_path / "temporary"
    folder.mkdir()
    monkeypatch.setattr(tempfile, "tempdir", str(folder))
    return folder


def test_nothing_that_is_sent_is_a_fault_of_ours(app: Any, filled: Filled, own_temporary: Path) -> None:
    visitors = {who: visitor_of(app, filled, who) for who in ("pupil", "nobody", "teacher")}
    seen: dict[str, dict[str, set[int]]] = {}
    for number, operation in enumerate(operations()):
        with warnings.catch_warnings():
            # What a schema leaves open is no news here.
            warnings.simplefilter("ignore")
            _drawn(operation, number, _sent(visitors, seen.setdefault(operation.label, {})))()
    assert list(own_temporary.iterdir()) == []
    well = {who: {label for label, codes in seen.items() if min(codes[who]) < 400} for who in visitors}
    assert well["nobody"] <= {"GET /api/session", "GET /api/health"}
    assert min(len(well["teacher"]), len(well["pupil"])) > 6, "much of what is sent has to be right"
