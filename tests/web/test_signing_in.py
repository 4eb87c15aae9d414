"""Who may come in, what the cookie looks like, and what happens to somebody who guesses."""

from __future__ import annotations

import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from argon2 import Type, extract_parameters
from flask import request
from sqlalchemy import Engine, update

from attentive_owl.settings import Settings
from attentive_owl.store.models import SignInAttempt, Teacher
from attentive_owl.store.passphrases import new_passphrase, normal_passphrase, words
from attentive_owl.store.session import open_session
from attentive_owl.web import throttle
from attentive_owl.web.app import create_app
from attentive_owl.web.problems import ProblemError
from attentive_owl.web.throttle import CLASS, TEACHER, Pace, begin
from tests.conftest import PASSWORD, REAL_HASHER, Filled, Visitor


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


def guess(app: Any, filled: Filled, words: str, address: str = "192.0.2.1") -> Any:
    return Visitor(app).post(
        "/api/session/pupil",
        json={"class_code": filled.class_code, "passphrase": words},
        environ_overrides={"REMOTE_ADDR": address},
    )


def try_teacher(app: Any, filled: Filled, password: str, address: str = "192.0.2.1") -> Any:
    return Visitor(app).post(
        "/api/session/teacher",
        json={"email": filled.email, "password": password},
        environ_overrides={"REMOTE_ADDR": address},
    )


def aged(engine: Engine, seconds: float) -> None:
    with open_session(engine, "the clock goes on") as session:
        session.execute(update(SignInAttempt).values(at=SignInAttempt.at - timedelta(seconds=seconds)))


def test_guessing_is_slowed_down_and_nobody_is_locked_out(app: Any, engine: Engine, filled: Filled) -> None:
    statuses = [try_teacher(app, filled, f"x{number}").status_code for number in range(11)]
    assert statuses == [401] * 10 + [429]
    # The right one waits too, or guessing would go on; but for a second, and then it opens.
    waiting = try_teacher(app, filled, PASSWORD)
    assert (waiting.status_code, waiting.headers["Retry-After"]) == (429, "1")
    assert waiting.json["error"] == "That was tried too often. Please wait 1 second."
    aged(engine, 1.1)
    assert try_teacher(app, filled, PASSWORD).status_code == 200
    # Others, and the same teacher from another address, never waited.
    assert try_teacher(app, filled, PASSWORD, "192.0.2.2").status_code == 200
    assert Visitor(app).pupil(filled)


def test_each_further_guess_doubles_the_wait_to_a_minute(
    app: Any, engine: Engine, filled: Filled, monkeypatch: pytest.MonkeyPatch
) -> None:
    # Time stands still but for what is aged: a second is soon over on a slow machine.
    moment = datetime.now(UTC)

    class Still(datetime):
        @classmethod
        def now(cls, tz: Any = None) -> datetime:
            return moment

    monkeypatch.setattr(throttle, "datetime", Still)
    for number in range(10):
        try_teacher(app, filled, f"x{number}")
    waits = []
    for number in range(8):
        waits.append(int(try_teacher(app, filled, f"y{number}").headers["Retry-After"]))
        aged(engine, 61)
        assert try_teacher(app, filled, f"y{number}").status_code == 401
    assert waits == [1, 2, 4, 8, 16, 32, 60, 60]


def test_the_same_wrong_word_is_one_try(app: Any, filled: Filled) -> None:
    assert {guess(app, filled, "amber boat tow").status_code for _ in range(60)} == {401}
    assert guess(app, filled, filled.phrase).status_code == 200


def test_a_class_of_thirty_that_mistypes_does_not_wait(app: Any, filled: Filled) -> None:
    assert {guess(app, filled, f"wrong word {number}").status_code for number in range(30)} == {401}
    assert guess(app, filled, filled.phrase).status_code == 200


def test_a_crowd_of_addresses_is_slowed_down_and_the_class_hardly_feels_it(
    app: Any, engine: Engine, settings: Settings, filled: Filled
) -> None:
    for number in range(120):
        begin(engine, settings.secret_key, CLASS, filled.class_code, f"198.51.100.{number}", f"guess {number}")
        aged(engine, 5)
    assert guess(app, filled, filled.phrase).status_code == 200
    assert guess(app, filled, "one more guess").status_code == 401
    waiting = guess(app, filled, filled.phrase, "192.0.2.77")
    assert (waiting.status_code, waiting.headers["Retry-After"]) == (429, "5")
    aged(engine, 5.1)
    assert guess(app, filled, filled.phrase).status_code == 200


class Patient(Pace):
    """Whoever is over what is free waits so long that sixty tries are over before it on any machine."""

    def wait_s(self, tried: int) -> float:
        return self.longest_s if tried >= self.free else 0.0


def test_sixty_guesses_at_one_time_are_counted_one_by_one(engine: Engine, settings: Settings, filled: Filled) -> None:
    pair = Patient(TEACHER.free, 600.0)

    def one(number: int) -> bool:
        try:
            begin(engine, settings.secret_key, pair, filled.email, "192.0.2.1", f"guess {number}")
        except ProblemError:
            return False
        return True

    with ThreadPoolExecutor(12) as pool:
        assert sum(pool.map(one, range(60))) == 10


def test_a_whole_staff_comes_in_at_one_moment(app: Any, engine: Engine, filled: Filled) -> None:
    """At the same address, all of them right: nobody waits."""
    with open_session(engine, "tests make a staff") as session:
        secret = session.get_one(Teacher, filled.teacher_id).password_hash
        session.add_all(
            Teacher(studio_id=filled.studio_id, email=f"t{at}@test.example", name=f"T{at}", password_hash=secret)
            for at in range(20)
        )

    def one(at: int) -> int:
        body = {"email": f"t{at}@test.example", "password": PASSWORD}
        return int(Visitor(app).post("/api/session/teacher", json=body).status_code)

    with ThreadPoolExecutor(20) as pool:
        assert list(pool.map(one, range(20))) == [200] * 20


def test_tries_of_before_are_forgiven(app: Any, engine: Engine, filled: Filled) -> None:
    for number in range(11):
        try_teacher(app, filled, f"x{number}")
    aged(engine, 16 * 60)
    assert [try_teacher(app, filled, f"z{number}").status_code for number in range(10)] == [401] * 10


@pytest.mark.parametrize(("proxies", "counted"), [(0, "10.0.0.1"), (1, "203.0.113.9")])
def test_the_address_behind_a_trusted_proxy_is_the_visitors(
    settings: Settings, filled: Filled, proxies: int, counted: str
) -> None:
    app = create_app(replace(settings, proxies=proxies))
    seen: list[str] = []
    app.before_request(lambda: seen.append(request.remote_addr or ""))
    headers = {"X-Forwarded-For": "198.51.100.1, 203.0.113.9"}
    app.test_client().get("/api/session", headers=headers, environ_overrides={"REMOTE_ADDR": "10.0.0.1"})
    assert seen == [counted]
    app.extensions["owl"].engine.dispose()


@pytest.mark.parametrize("secure", [True, False])
def test_cookies_stay_on_encrypted_lines_where_there_are_such(settings: Settings, filled: Filled, secure: bool) -> None:
    app = create_app(replace(settings, secure_cookies=secure))
    answer = app.test_client().get("/api/session", base_url="https://localhost" if secure else "http://localhost")
    cookies = answer.headers.getlist("Set-Cookie")
    assert cookies
    assert {"Secure" in cookie for cookie in cookies} == {secure}
    # No script reads it, and no other site's page sends it.
    assert all("HttpOnly" in cookie and "SameSite=Strict" in cookie for cookie in cookies)
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


def test_passphrases_are_four_different_words_of_a_thousand() -> None:
    phrases = {new_passphrase() for _ in range(200)}
    assert len(phrases) == 200
    assert all(len(set(p.split())) == 4 and p == normal_passphrase(p) for p in phrases)
    known = words()
    assert len(known) == len(set(known)) >= 1024
    assert all(word.isascii() and word.islower() and 3 <= len(word) <= 10 for word in known)


def test_whoever_leaves_is_out_on_the_server_too(app: Any, filled: Filled) -> None:
    """A cookie that somebody kept opens nothing; nor does a session on another device."""
    one, two = Visitor(app).pupil(filled), Visitor(app).pupil(filled)
    kept = one.client.get_cookie("owl")
    assert kept is not None
    one.call("DELETE", "/api/session")
    thief = Visitor(app)
    thief.client.set_cookie("owl", kept.value)
    assert thief.get("/api/today").status_code == 401
    assert two.get("/api/today").status_code == 401
    assert one.pupil(filled).get("/api/today").status_code == 200


def test_a_new_card_ends_what_the_old_one_opened(app: Any, filled: Filled) -> None:
    pupil, other, teacher = (
        Visitor(app).pupil(filled),
        Visitor(app).pupil(filled, filled.other_phrase),
        Visitor(app).teacher(filled),
    )
    teacher.post(f"/api/pupils/{filled.pupil_id}/passphrase")
    assert pupil.get("/api/today").status_code == 401
    assert other.get("/api/today").status_code == 200


def test_another_password_ends_every_other_session(app: Any, filled: Filled) -> None:
    one, two = Visitor(app).teacher(filled), Visitor(app).teacher(filled)
    wrong = one.post("/api/session/password", json={"old": "not this", "new": "another good one"})
    assert (wrong.status_code, two.get("/api/week").status_code) == (401, 200)
    assert one.post("/api/session/password", json={"old": PASSWORD, "new": "short"}).status_code == 422
    assert one.post("/api/session/password", json={"old": PASSWORD, "new": "another good one"}).status_code == 200
    assert (one.get("/api/week").status_code, two.get("/api/week").status_code) == (200, 401)
    assert try_teacher(app, filled, PASSWORD).status_code == 401
    assert try_teacher(app, filled, "another good one").status_code == 200
    assert (
        Visitor(app).pupil(filled).post("/api/session/password", json={"old": "x", "new": "y" * 10}).status_code == 403
    )


@pytest.mark.parametrize(
    ("role", "begun", "used", "in_"),
    [
        ("teacher", 1, 1, True), ("teacher", 8, 8, False), ("teacher", 30, 6.9, True), ("teacher", 91, 1, False),
        ("pupil", 44, 44, True), ("pupil", 46, 46, False), ("pupil", 91, 1, False),
    ],
)  # fmt: skip
def test_a_session_ends_when_it_is_not_used_or_is_very_old(
    app: Any, filled: Filled, role: str, begun: float, used: float, in_: bool
) -> None:
    visitor = Visitor(app)
    visitor = visitor.teacher(filled) if role == "teacher" else visitor.pupil(filled)
    address = "/api/week" if role == "teacher" else "/api/today"
    assert visitor.get(address).status_code == 200
    now = time.time()
    with visitor.client.session_transaction() as cookie:
        cookie["begun"], cookie["used"] = now - begun * 86400, now - used * 86400
    assert visitor.get(address).status_code == (200 if in_ else 401)
    if in_:
        with visitor.client.session_transaction() as cookie:
            assert now - cookie["used"] < 60


def test_passwords_are_hashed_as_the_standard_recommends() -> None:
    """RFC 9106, section 4, the second recommended option: argon2id with 3 passes, 4 lanes, 64 MiB, a salt of 16 bytes."""
    found = extract_parameters(REAL_HASHER.hash("a password"))
    assert (found.type, found.salt_len) == (Type.ID, 16)
    assert (found.time_cost, found.parallelism, found.memory_cost) == (3, 4, 64 * 1024)


@pytest.mark.parametrize(
    ("tried", "seconds"), [(0, 0.0), (9, 0.0), (10, 1.0), (11, 2.0), (15, 32.0), (16, 60.0), (90, 60.0)]
)
def test_ten_wrong_tries_are_free_and_each_one_more_doubles_the_wait(tried: int, seconds: float) -> None:
    assert TEACHER.wait_s(tried) == seconds
