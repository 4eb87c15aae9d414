"""Who may come in, what the cookie looks like, and what happens to somebody who guesses."""

from __future__ import annotations

from typing import Any

import pytest

from attentive_owl.store.passphrases import new_passphrase, normal_passphrase
from tests.conftest import PASSWORD, Filled, Visitor


def test_teacher_and_pupil_come_in_and_go(app: Any, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    assert teacher.get("/api/session").json["person"]["role"] == "teacher"
    assert teacher.get("/api/week").status_code == 200
    assert teacher.get("/api/today").status_code == 403
    teacher.call("DELETE", "/api/session")
    assert teacher.get("/api/session").json["person"] is None
    assert teacher.get("/api/week").status_code == 401
    pupil = Visitor(app).pupil(filled)
    assert pupil.get("/api/today").status_code == 200
    assert pupil.get("/api/week").status_code == 403


@pytest.mark.parametrize("typed", ["AMBER boat one", " amber-boat-one ", "amber  boat   one"])
def test_words_are_forgiven_their_dress(app: Any, filled: Filled, typed: str) -> None:
    answer = Visitor(app).post(
        "/api/session/pupil", json={"class_code": filled.class_code.lower(), "passphrase": typed}
    )
    assert answer.status_code == 200


@pytest.mark.parametrize(
    ("path", "body"),
    [
        ("teacher", {"email": "one@test.example", "password": "wrong"}),
        ("teacher", {"email": "nobody@test.example", "password": PASSWORD}),
        ("pupil", {"class_code": "CODEONE", "passphrase": "amber boat two"}),
        ("pupil", {"class_code": "NOCODE", "passphrase": "amber boat one"}),
    ],
)
def test_wrong_words_get_the_same_answer_whoever_exists(
    visitor: Visitor, filled: Filled, path: str, body: dict[str, str]
) -> None:
    answer = visitor.post(f"/api/session/{path}", json=body)
    assert answer.status_code == 401
    assert "belong together" in answer.json["error"]


def test_guessing_is_slowed_down_and_others_are_not(app: Any, filled: Filled) -> None:
    visitor = Visitor(app)
    statuses = [
        visitor.post("/api/session/teacher", json={"email": filled.email, "password": "x"}).status_code
        for _ in range(11)
    ]
    assert statuses == [401] * 10 + [429]
    assert visitor.post("/api/session/teacher", json={"email": filled.email, "password": PASSWORD}).status_code == 429
    assert Visitor(app).pupil(filled)


def test_a_change_without_the_token_is_refused(app: Any, filled: Filled) -> None:
    client = app.test_client()
    answer = client.post("/api/session/teacher", json={"email": filled.email, "password": PASSWORD})
    assert answer.status_code == 400
    assert "reload" in answer.json["error"]


def test_cookie_and_headers_are_strict(app: Any, filled: Filled) -> None:
    visitor = Visitor(app).teacher(filled)
    cookie = visitor.client.get_cookie("owl")
    assert cookie is not None
    assert cookie.http_only
    assert cookie.same_site == "Strict"
    headers = visitor.get("/api/session").headers
    policy = headers["Content-Security-Policy"]
    assert "script-src 'self'" in policy
    assert "unsafe" not in policy
    assert headers["X-Frame-Options"] == "DENY"
    assert headers["X-Content-Type-Options"] == "nosniff"
    assert "microphone=(self)" in headers["Permissions-Policy"]


def test_passphrases_are_three_different_words() -> None:
    phrases = {new_passphrase() for _ in range(200)}
    # Of 24 bits, two of 200 may meet once in a thousand runs.
    assert len(phrases) >= 198
    assert all(len(set(p.split())) == 3 and p == normal_passphrase(p) for p in phrases)
