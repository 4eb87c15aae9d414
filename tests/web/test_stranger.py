"""Another studio's teacher, another pupil and somebody signed out walk every route, and get nothing."""

from __future__ import annotations

import json
from typing import Any

from sqlalchemy import Engine

from attentive_owl.settings import Settings
from tests.conftest import Filled, Visitor, fill
from tests.web.walk import walk


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
