"""What whoever runs it sees: readiness, figures, and logs in which nobody is named."""

from __future__ import annotations

import io
import json
import logging
from typing import Any

import pytest
from prometheus_client.parser import text_string_to_metric_families
from sqlalchemy import Engine, text

from attentive_owl.ops.logs import DiscreetFormatter
from attentive_owl.settings import Settings
from attentive_owl.store.audio import AudioStore
from attentive_owl.store.session import open_session
from tests.conftest import Filled, Visitor
from tests.processes import wait_for, worker
from tests.web.desk import given_take
from tests.web.takes import hand_in


@pytest.fixture
def log() -> Any:
    """Everything that is logged, as it would be written."""
    out = io.StringIO()
    handler = logging.StreamHandler(out)
    handler.setFormatter(DiscreetFormatter())
    root = logging.getLogger()
    level = root.level
    root.addHandler(handler)
    root.setLevel(logging.INFO)
    yield out
    root.removeHandler(handler)
    root.setLevel(level)


def test_no_log_names_anybody(app: Any, engine: Engine, filled: Filled, log: io.StringIO) -> None:
    app.testing, app.config["PROPAGATE_EXCEPTIONS"] = False, False
    teacher = Visitor(app).teacher(filled)
    Visitor(app).post("/api/session/teacher", json={"email": filled.email, "password": "Wrong Words"})
    Visitor(app).post("/api/session/pupil", json={"class_code": filled.class_code, "passphrase": "wrong words here"})
    teacher.get("/api/takes?search=Secretname")
    Visitor(app).get("/api/session/invitation?token=abcdefghijklmnopqrstuvwxyz")
    # A statement that fails, with what somebody typed in it.
    with engine.begin() as connection:
        connection.execute(text("ALTER TABLE pupil ADD CONSTRAINT never CHECK (name <> 'Secretname')"))
    answer = teacher.call("PATCH", f"/api/pupils/{filled.pupil_id}", json={"name": "Secretname"})
    assert answer.status_code == 500
    with open_session(engine, "tests look") as session:
        hashes = [
            *session.scalars(text("SELECT phrase_hash FROM pupil")),
            *session.scalars(text("SELECT password_hash FROM teacher")),
        ]
    said = log.getvalue()
    lines = [json.loads(line) for line in said.splitlines()]
    error = next(line for line in lines if line["level"] == "ERROR")
    assert error["exc_info"].endswith("sqlalchemy.exc.IntegrityError")
    assert "classes.py" in error["exc_info"], "where it came from is told"
    for secret in ("Secretname", filled.email, "Wrong", "wrong words", "abcdefghij", filled.pupil_name, *hashes):
        assert secret not in said, secret
    asked = {(line["method"], line["route"]) for line in lines if line["message"] == "request"}
    assert ("PATCH", "/api/pupils/<uuid:id>") in asked
    assert all(line["ms"] >= 0 for line in lines if line["message"] == "request")


def test_ready_is_only_what_has_all_it_needs(app: Any, settings: Settings, filled: Filled) -> None:
    visitor = Visitor(app)
    AudioStore(settings.audio_url, settings.store_seen).check()
    lacking = visitor.get("/api/ready")
    assert (lacking.status_code, lacking.json) == (
        503, {"database": True, "newest_form": True, "store": True, "worker": False},
    )  # fmt: skip
    with worker(settings):
        wait_for(lambda: visitor.get("/api/ready").status_code == 200)
    (settings.var / "audio").rename(settings.var / "elsewhere")
    assert visitor.get("/api/ready").json["store"] is False
    assert visitor.get("/api/health").status_code == 200


def test_figures_for_prometheus(
    app: Any, engine: Engine, filled: Filled, violin_take: bytes, monkeypatch: pytest.MonkeyPatch
) -> None:
    visitor = Visitor(app)
    assert visitor.get("/api/metrics").status_code == 404
    monkeypatch.setenv("OWL_METRICS_TOKEN", "a token")
    assert visitor.get("/api/metrics", headers={"Authorization": "Bearer another"}).status_code == 404
    hand_in(Visitor(app).pupil(filled), filled, violin_take)
    given_take(engine, filled, seconds_ago=5)
    answer = visitor.get("/api/metrics", headers={"Authorization": "Bearer a token"})
    families = {own.name: own for own in text_string_to_metric_families(answer.text)}
    assert {own.labels["status"]: own.value for own in families["owl_jobs"].samples} == {"todo": 1.0}
    assert {own.labels["state"]: own.value for own in families["owl_takes"].samples} == {"waiting": 2.0}
    taken = [
        own.value for own in families["owl_requests"].samples
        if own.name == "owl_requests_total" and own.labels == {"method": "POST", "route": "/api/takes", "status": "201"}
    ]  # fmt: skip
    assert taken[0] >= 1
    assert filled.pupil_name not in answer.text
