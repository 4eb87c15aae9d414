"""Who may come in, what the cookie looks like, and what happens to somebody who guesses."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from sqlalchemy import Engine, update

from attentive_owl.settings import Settings
from attentive_owl.store.models import SignInAttempt
from attentive_owl.store.passphrases import new_passphrase, normal_passphrase
from attentive_owl.store.session import open_session
from attentive_owl.web.app import create_app
from attentive_owl.web.throttle import note_failure
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


@pytest.mark.parametrize(("failures", "status"), [(59, 200), (60, 429)])
def test_one_address_may_fail_as_often_as_a_class(
    app: Any, settings: Settings, engine: Engine, filled: Filled, failures: int, status: int
) -> None:
    for number in range(failures):
        note_failure(engine, settings.secret_key, f"somebody {number}", "127.0.0.1")
    note_failure(engine, settings.secret_key, "somebody else", "192.0.2.7")
    answer = Visitor(app).post("/api/session/teacher", json={"email": filled.email, "password": PASSWORD})
    assert answer.status_code == status


def test_old_failures_are_forgiven(app: Any, settings: Settings, engine: Engine, filled: Filled) -> None:
    for _ in range(10):
        note_failure(engine, settings.secret_key, filled.email, "127.0.0.1")
    with open_session(engine, "the clock goes on") as session:
        session.execute(update(SignInAttempt).values(at=datetime.now(UTC) - timedelta(minutes=11)))
    assert Visitor(app).teacher(filled)


@pytest.mark.parametrize("secure", [True, False])
def test_cookies_stay_on_encrypted_lines_where_there_are_such(settings: Settings, filled: Filled, secure: bool) -> None:
    app = create_app(replace(settings, secure_cookies=secure))
    answer = app.test_client().get("/api/session", base_url="https://localhost" if secure else "http://localhost")
    cookies = answer.headers.getlist("Set-Cookie")
    assert cookies
    assert {"Secure" in cookie for cookie in cookies} == {secure}
    app.extensions["owl"].engine.dispose()


def test_whoever_comes_in_gets_a_session_of_their_own(app: Any, filled: Filled) -> None:
    """What a stranger left in the cookie, the token included, does not go on."""
    visitor = Visitor(app)
    visitor.get("/api/session")
    with visitor.client.session_transaction() as cookie:
        cookie["left"] = "by a stranger"
        before = cookie["csrf_token"]
    visitor.teacher(filled)
    with visitor.client.session_transaction() as cookie:
        assert "left" not in cookie
        assert cookie["csrf_token"] != before


def test_whoever_leaves_leaves_nothing_in_the_cookie(app: Any, filled: Filled) -> None:
    visitor = Visitor(app).teacher(filled)
    with visitor.client.session_transaction() as cookie:
        cookie["left"] = "by the teacher"
    visitor.call("DELETE", "/api/session")
    with visitor.client.session_transaction() as cookie:
        assert "left" not in cookie


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
