"""Exercises, assignments and people through the routes; the OpenAPI document and what is generated from it."""

from __future__ import annotations

import json
import subprocess
from datetime import date, timedelta
from typing import Any

import pytest
from openapi_spec_validator import validate

from attentive_owl.formats.audio import read_flac
from attentive_owl.web.app import openapi_document
from tests.conftest import ROOT, Filled, Visitor

RECIPE = {"kind": "scale", "tonic": "A", "pattern": "eighths", "tempo_bpm": 72}


def test_preview_engraves_all_four_instruments(app: Any, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    body = {"recipe": RECIPE, "instruments": ["violin", "viola", "cello", "bass"], "width": 700}
    answer = teacher.post("/api/preview", json=body).json
    assert answer["title"] == "A major, one octave, eighths"
    assert [s["notes"][0]["name"] for s in answer["scores"]] == ["A4", "A3", "A2", "A1"]
    for score in answer["scores"]:
        assert [n["index"] for s in score["systems"] for n in s["notes"]] == list(range(32))


@pytest.mark.parametrize(
    "change", [{"tempo_bpm": 20}, {"tonic": "H"}, {"pattern": "waltz"}, {"kind": "song"}, {"extra": 1}]
)
def test_a_recipe_that_makes_no_exercise_gets_a_sentence(app: Any, filled: Filled, change: dict[str, Any]) -> None:
    answer = Visitor(app).teacher(filled).post("/api/exercises", json={"recipe": {**RECIPE, **change}})
    assert answer.status_code == 422
    assert answer.json["error"].endswith(".")


def test_the_shelf_keeps_a_recipe_once(app: Any, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    ids = {teacher.post("/api/exercises", json={"recipe": RECIPE}).json["id"] for _ in range(2)}
    assert len(ids) == 1
    assert len(teacher.get("/api/exercises").json["exercises"]) == 2


def test_assigning_showing_and_taking_back(app: Any, filled: Filled) -> None:
    teacher, pupil = Visitor(app).teacher(filled), Visitor(app).pupil(filled, filled.other_phrase)
    body = {
        "recipe": RECIPE,
        "pupil_ids": [str(filled.other_pupil_id)],
        "due_on": str(date.today() + timedelta(days=4)),
        "target_bpm": 66,
        "good_repeats": 4,
    }
    assert (
        teacher.post("/api/assignments", json={**body, "due_on": str(date.today() - timedelta(days=1))}).status_code
        == 422
    )
    made = teacher.post("/api/assignments", json=body)
    assert made.status_code == 201
    item = pupil.get("/api/today").json["items"][0]
    assert (item["target_bpm"], item["good_repeats"], item["title"]) == (66, 4, "A major, one octave, eighths")
    score = pupil.get(f"/api/assignments/{made.json['id']}/score?width=400").json
    assert (score["tempo_bpm"], score["instrument"]) == (66, "violin")
    assert len(score["systems"]) > 1
    assert teacher.call("DELETE", f"/api/assignments/{made.json['id']}").status_code == 200
    assert pupil.get("/api/today").json["items"] == []


def test_an_assignment_with_a_take_stays(app: Any, filled: Filled, violin_take: bytes) -> None:
    from tests.web.takes import hand_in

    hand_in(Visitor(app).pupil(filled), filled, violin_take)
    answer = Visitor(app).teacher(filled).call("DELETE", f"/api/assignments/{filled.assignment_id}")
    assert answer.status_code == 409


def test_demonstration_is_rendered_once_and_is_flac(app: Any, filled: Filled) -> None:
    pupil = Visitor(app).pupil(filled)
    path = "/api/demonstration?tonic=D&pattern=quarters&tempo_bpm=132&instrument=cello"
    first, second = pupil.get(path), pupil.get(path)
    assert first.data == second.data
    samples, rate = read_flac(first.data)
    assert len(samples) / rate == pytest.approx(0.3 + 20 * 60 / 132 + 1.0, abs=0.05)


def test_people_cards_and_consent(app: Any, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    body = {"class_id": str(filled.group_id), "name": "New Child", "instrument": "cello", "size": "1/2"}
    card = teacher.post("/api/pupils", json=body).json
    assert card["pupil"]["string_length_mm"] == 570
    fresh = Visitor(app)
    signed = fresh.post(
        "/api/session/pupil", json={"class_code": card["class_code"], "passphrase": card["passphrase"]}
    ).json
    assert signed["person"]["may_record"] is False
    path = f"/api/pupils/{card['pupil']['id']}"
    assert teacher.call("PATCH", path, json={"consent_by": "Her father"}).json["consent_by"] == "Her father"
    assert fresh.get("/api/session").json["person"]["may_record"] is True
    assert teacher.call("PATCH", path, json={"consent_by": ""}).json["consent_at"] is None
    assert teacher.call("PATCH", path, json={"size": "3/4"}).json["string_length_mm"] == 630
    assert teacher.call("PATCH", path, json={"size": "9/9"}).status_code == 422
    renewed = teacher.post(f"{path}/passphrase").json
    assert renewed["passphrase"] != card["passphrase"]
    old = Visitor(app).post(
        "/api/session/pupil", json={"class_code": card["class_code"], "passphrase": card["passphrase"]}
    )
    assert old.status_code == 401


def test_the_page_carries_the_nonce_of_its_policy(app: Any) -> None:
    answer = app.test_client().get("/today")
    assert answer.status_code == 200
    policy = answer.headers["Content-Security-Policy"]
    nonce = policy.split("'nonce-")[1].split("'")[0]
    assert nonce in answer.get_data(as_text=True)
    assert app.test_client().get("/assets/nothing.js").status_code == 404


def test_the_openapi_document_is_valid_and_what_is_committed() -> None:
    document = openapi_document()
    validate(document)
    committed = json.loads((ROOT / "frontend" / "openapi.json").read_text())
    assert json.loads(json.dumps(document)) == committed, "stale: owl openapi -o frontend/openapi.json"


def test_the_front_end_s_types_are_those_of_the_document(tmp_path) -> None:
    fresh = tmp_path / "schema.d.ts"
    subprocess.run(
        ["npx", "--no-install", "openapi-typescript", "openapi.json", "--default-non-nullable=false", "-o", str(fresh)],
        cwd=ROOT / "frontend", check=True, capture_output=True,
    )  # fmt: skip
    assert fresh.read_text() == (ROOT / "frontend/src/api/schema.d.ts").read_text(), "stale: npm run types"


def test_answers_keep_to_the_document(app: Any, filled: Filled) -> None:
    from openapi_schema_validator import OAS31Validator

    document = openapi_document()
    teacher, pupil = Visitor(app).teacher(filled), Visitor(app).pupil(filled)
    paths = [
        (teacher, p)
        for p in ("/api/week", "/api/classes", "/api/exercises", "/api/takes", "/api/catalogue", "/api/session")
    ]
    for visitor, path in [*paths, (pupil, "/api/today")]:
        schema = document["paths"][path]["get"]["responses"]["200"]["content"]["application/json"]["schema"]
        OAS31Validator({**schema, "components": document["components"]}).validate(visitor.get(path).json)
