"""Another studio's teacher, another pupil and somebody signed out walk every route, and get nothing."""

from __future__ import annotations

import io
import json
from typing import Any

import pytest
from sqlalchemy import Engine

from attentive_owl.settings import Settings
from attentive_owl.web.scores import pack
from tests.conftest import Filled, Visitor, fill
from tests.web.takes import hand_in

OPEN = {
    "/api/session",
    "/api/session/first",
    "/api/session/teacher",
    "/api/session/pupil",
    "/api/session/invitation",
    "/api/health",
}
RECIPE = {"tonic": "D", "pattern": "quarters", "tempo_bpm": 72}


def routes(app: Any) -> list[tuple[str, str]]:
    return sorted(
        (method, rule.rule)
        for rule in app.url_map.iter_rules()
        for method in rule.methods - {"HEAD", "OPTIONS"}
        if rule.rule.startswith("/api/")
    )


def filled_path(rule: str, ids: dict[str, str]) -> str:
    kind = rule.split("/")[2]
    return rule.replace("<uuid:id>", ids.get(kind, "00000000-0000-0000-0000-000000000000"))


def body_for(method: str, rule: str, filled: Filled) -> dict[str, Any]:
    bodies: dict[str, Any] = {
        "/api/pupils": {"class_id": str(filled.group_id), "name": "X", "instrument": "violin", "size": "4/4"},
        "/api/assignments": {"recipe": RECIPE, "pupil_ids": [str(filled.pupil_id)], "due_on": "2099-01-01", "target_bpm": 72, "good_repeats": 1},
        "/api/takes/<uuid:id>/marks": {"verdict": "accepted"},
        "/api/takes/<uuid:id>/overrules": {"cause": "drift", "says": "not_so"},
        "/api/preview": {"recipe": RECIPE, "instrument": "violin"},
        "/api/sheet": {"recipe": RECIPE, "instruments": ["violin"]},
        "/api/export": {"recipe": RECIPE, "instrument": "violin", "kind": "midi"},
        "/api/exercises": {"recipe": RECIPE},
        "/api/exercises/<uuid:id>": {"recipe": RECIPE, "title": "Not yours"},
        "/api/paths/<uuid:id>": {"name": "Not yours", "steps": []},
        "/api/studio/settings": {"values": "crotchet"},
        "/api/classes": {"name": "Not yours"},
        "/api/classes/<uuid:id>": {"name": "Not yours"},
        "/api/sheets/<uuid:id>": {"seen": "2026-01-01T00:00:00Z"},
        "/api/sheets/add": {"recipe": RECIPE},
        "/api/sheets/<uuid:id>/template": {"name": "T"},
        "/api/pupils/<uuid:id>/passed": {"recipe": RECIPE},
        "/api/pupils/<uuid:id>/declined": {"recipe": RECIPE},
        "/api/pupils/<uuid:id>/move": {"class_id": str(filled.group_id)},
        "/api/pupils/<uuid:id>/merge": {"into": str(filled.other_pupil_id)},
        "/api/pupils/<uuid:id>/erase": {"name": filled.pupil_name},
        "/api/pupils/<uuid:id>/classes": {"class_ids": [str(filled.group_id)]},
        "/api/marks": {"take_ids": ["00000000-0000-0000-0000-000000000000"], "verdict": "accepted"},
        "/api/lessons": {"class_id": str(filled.group_id), "day": "2099-01-01", "starts": "10:00", "minutes": 45},
        "/api/lessons/<uuid:id>": {"class_id": str(filled.group_id), "day": "2099-01-01", "starts": "10:00", "minutes": 45},
        "/api/classes/<uuid:id>/roster": {"text": "X, violin, 4/4", "keep": True},
    }  # fmt: skip
    return bodies.get(rule, {})


@pytest.fixture
def scene(
    app: Any, engine: Engine, settings: Settings, filled: Filled, violin_take: bytes
) -> tuple[Filled, dict[str, str]]:
    owner, teacher = Visitor(app).pupil(filled), Visitor(app).teacher(filled)
    take = hand_in(owner, filled, violin_take).json["id"]
    mark = teacher.post(f"/api/takes/{take}/marks", json={"verdict": "once_more", "remark": "a secret remark"}).json[
        "id"
    ]
    overrule = teacher.post(
        f"/api/takes/{take}/overrules", json={"cause": "drift", "says": "not_so", "remark": "a secret remark"}
    ).json["id"]
    exercise = teacher.get("/api/exercises").json["exercises"][0]["id"]
    path = teacher.get("/api/paths").json["paths"][0]["id"]
    sheet = teacher.post("/api/sheets/add", json={"recipe": RECIPE}).json["id"]
    lesson = teacher.post(
        "/api/lessons", json={"class_id": str(filled.group_id), "day": "2099-01-01", "starts": "10:00", "minutes": 45}
    ).json["id"]
    pause = teacher.post("/api/breaks", json={"name": "B", "first_day": "2099-01-01", "last_day": "2099-01-02"}).json[
        "id"
    ]
    passed = teacher.post(f"/api/pupils/{filled.pupil_id}/passed", json={"recipe": RECIPE}).json["id"]
    link = teacher.post("/api/invitations").json["id"]
    ids = {
        "sheets": sheet,
        "lessons": lesson,
        "breaks": pause,
        "passed": passed,
        "invitations": link,
        "takes": take,
        "exercises": exercise,
        "paths": path,
        "marks": mark,
        "overrules": overrule,
        "pupils": str(filled.pupil_id),
        "classes": str(filled.group_id),
        "assignments": str(filled.assignment_id),
    }
    return filled, ids


def walk(app: Any, visitor: Visitor, filled: Filled, ids: dict[str, str]) -> dict[tuple[str, str], Any]:
    answers = {}
    for method, rule in routes(app):
        if rule in OPEN:
            continue
        path = filled_path(rule, ids)
        arguments: dict[str, Any] = {}
        if rule == "/api/takes" and method == "POST":
            answers[method, rule] = hand_in(visitor, filled, b"x" * 100)
            continue
        if rule == "/api/tuning-check" or (method, rule.rsplit("/", 1)[-1]) in {
            ("POST", "first-note"),
            ("POST", "help"),
        }:
            arguments["data"] = {"sound": (io.BytesIO(b"x"), "moment.wav")}
        if (method, rule.rsplit("/", 1)[-1]) == ("POST", "picture"):
            arguments["data"] = {"picture": (io.BytesIO(b"x"), "bow.jpg")}
        if rule == "/api/line":
            arguments["data"] = {"file": (io.BytesIO(b"x"), "line.mid")}
        if rule == "/api/demonstration":
            path += f"?recipe={pack(RECIPE, 72)}&instrument=violin"
        if rule.startswith("/api/tapes"):
            path += "?instrument=violin&size=4/4&string_length_mm=328"
        if method in ("POST", "PATCH", "PUT") and not arguments:
            arguments["json"] = body_for(method, rule, filled)
        answers[method, rule] = visitor.call(method, path, **arguments)
    return answers


def holds_secrets(data: bytes, filled: Filled, ids: dict[str, str]) -> bool:
    return any(
        secret.encode() in data
        for secret in (
            "Pupil 0 of one",
            "secret remark",
            ids["takes"],
            str(filled.pupil_id),
            filled.email,
            filled.class_code,
        )
    )


def test_somebody_signed_out_gets_401_everywhere(app: Any, scene: tuple[Filled, dict[str, str]]) -> None:
    answers = walk(app, Visitor(app), *scene)
    assert len(answers) > 18
    assert {a.status_code for a in answers.values()} == {401}, {k: a.status_code for k, a in answers.items()}


def test_another_studio_s_teacher_gets_nothing_of_ours(
    app: Any, engine: Engine, settings: Settings, scene: tuple[Filled, dict[str, str]]
) -> None:
    stranger = Visitor(app).teacher(fill(engine, settings, "two"))
    for (method, rule), answer in walk(app, stranger, *scene).items():
        assert not holds_secrets(answer.get_data(), *scene), (method, rule)
        if "<uuid:id>" in rule or (method, rule) in {("POST", "/api/pupils"), ("POST", "/api/assignments")}:
            assert answer.status_code in (403, 404), (method, rule, answer.status_code)


def test_another_pupil_of_the_class_gets_nothing_of_ours(app: Any, scene: tuple[Filled, dict[str, str]]) -> None:
    filled, ids = scene
    other = Visitor(app).pupil(filled, filled.other_phrase)
    for (method, rule), answer in walk(app, other, filled, ids).items():
        assert not holds_secrets(answer.get_data(), filled, ids), (method, rule)
        if "<uuid:id>" in rule:
            assert answer.status_code in (403, 404), (method, rule, answer.status_code)
    assert other.get("/api/today").json["items"] == []


def test_nothing_was_changed_by_strangers(
    app: Any, engine: Engine, settings: Settings, scene: tuple[Filled, dict[str, str]]
) -> None:
    filled, ids = scene
    teacher = Visitor(app).teacher(filled)
    before = json.dumps(
        [
            teacher.get(p).json
            for p in (
                "/api/week",
                "/api/classes",
                "/api/exercises",
                "/api/paths",
                "/api/studio/settings",
                f"/api/takes/{ids['takes']}",
            )
        ]
    )
    for stranger in (
        Visitor(app),
        Visitor(app).teacher(fill(engine, settings, "two")),
        Visitor(app).pupil(filled, filled.other_phrase),
    ):
        walk(app, stranger, filled, ids)
    assert (
        json.dumps(
            [
                teacher.get(p).json
                for p in (
                    "/api/week",
                    "/api/classes",
                    "/api/exercises",
                    "/api/paths",
                    "/api/studio/settings",
                    f"/api/takes/{ids['takes']}",
                )
            ]
        )
        == before
    )
