"""What a signed-in child may send to the address of a sound: everything that is no recipe is one sentence, and at once."""

from __future__ import annotations

import base64
import io
import json
import threading
import zlib
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest
from sqlalchemy import Engine

from attentive_owl.core.exercises import Score
from attentive_owl.core.playing import demonstrate
from attentive_owl.formats import confined
from attentive_owl.web import workshop
from tests.conftest import Filled, Visitor
from tests.processes import wait_for
from tests.web.desk import given_take, report

NOTE = {"name": "D4", "beats": "1", "slurred": False}


@pytest.mark.parametrize(
    "recipe",
    [
        {"family": "own", "line": [{"name": "D4", "beats": "1e9999999999"}]},
        {"family": "own", "line": [{"name": "D4", "beats": "9" * 400}]},
        {"family": "own", "line": [{"name": "D4", "beats": "1/0"}]},
        {"family": "own", "line": [{"name": "D4", "beats": 1}]},
        {"family": "own", "line": [{"name": "H4", "beats": "1"}]},
        {"family": "own", "line": [{"name": 4, "beats": "1"}]},
        {"family": "own", "line": [{**NOTE, "beats": "16"}] * 200},
        {"family": "own", "line": [NOTE] * 201},
        {"family": "own", "line": "D4"},
        {"family": "own", "line": [7]},
        {"family": "no such"},
        {"family": ["scale"]},
        {"tempo_bpm": "fast"},
        {"tempo_bpm": 1e9},
        {"bars": [1]},
        {"bars": 5},
        {"bars": ["a", "b"]},
        {"bowing": "none such"},
        {"octaves": [[[]]]},
        {"cue": 5},
        {"pins": [{"instrument": "violin"}]},
        {"unknown": 1},
        {"tonic": "\x00"},
    ],
    ids=lambda recipe: str(recipe)[:60],
)
def test_no_recipe_is_one_sentence_at_once(app: Any, filled: Filled, recipe: dict[str, Any]) -> None:
    pupil = Visitor(app).pupil(filled)
    whole = {"tonic": "D", "tempo_bpm": 40, **recipe}
    answer = pupil.get("/api/demonstration", query_string={"recipe": _packed(whole), "instrument": "violin"})
    assert answer.status_code == 422
    assert answer.json["error"].endswith(".")


def _packed(recipe: dict[str, Any]) -> str:
    """As the page packs it, whatever it is."""
    return base64.urlsafe_b64encode(zlib.compress(json.dumps(recipe).encode(), 9)).decode().rstrip("=")


class _Unread:
    """A body that nobody may read."""

    def read(self, *_: object) -> bytes:
        raise AssertionError("the body was read before it was asked who it is")

    readline = readinto = read


@pytest.mark.parametrize("address", ["/api/takes", "/api/line", "/api/tuning-check"])
def test_a_stranger_is_told_so_before_anything_of_a_body_is_read(app: Any, filled: Filled, address: str) -> None:
    visitor = Visitor(app)
    token = visitor.client.get("/api/session").json["csrf_token"]
    environ = {"wsgi.input": _Unread(), "CONTENT_LENGTH": "99999", "CONTENT_TYPE": "multipart/form-data; boundary=x"}
    answer = visitor.client.open(address, method="POST", headers={"X-CSRF-Token": token}, environ_overrides=environ)
    assert answer.status_code == 401
    # And whoever is signed in, but has no token: the form is not searched for one.
    visitor.pupil(filled)
    assert visitor.client.open(address, method="POST", environ_overrides=environ).status_code in (400, 403)


@pytest.mark.parametrize("sign", ["\x00", "\x1b", "\x7f"])
def test_signs_that_can_not_be_written_are_refused_everywhere(app: Any, filled: Filled, sign: str) -> None:
    teacher = Visitor(app).teacher(filled)
    words = teacher.get("/api/studio/settings").json
    for method, path, body in (
        ("PATCH", f"/api/pupils/{filled.pupil_id}", {"name": f"A{sign}da"}),
        ("PATCH", f"/api/pupils/{filled.pupil_id}", {"remarks": f"{sign}"}),
        ("PUT", "/api/studio/settings", {**words, "cues": {"eighths": [f"ti{sign}-", "de"]}}),
        ("PUT", "/api/studio/settings", {**words, "cues": {f"eighths{sign}": ["ti-", "de"]}}),
        ("POST", "/api/classes", {"name": f"{sign}x"}),
        ("POST", f"/api/classes/{filled.group_id}/roster", {"text": f"Ada{sign}, violin, 4/4", "keep": True}),
        ("POST", "/api/session/pupil", {"class_code": f"X{sign}", "passphrase": "a b c"}),
    ):
        answer = teacher.call(method, path, json=body)
        assert answer.status_code == 422, (path, answer.status_code)
    assert teacher.get("/api/takes", query_string={"search": f"a{sign}"}).status_code == 422
    kept = teacher.call("PATCH", f"/api/pupils/{filled.pupil_id}", json={"remarks": "two\nlines"})
    assert kept.json["remarks"] == "two\nlines"


def test_json_that_is_nested_too_deeply_is_one_sentence(app: Any, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    deep = '{"name":' + "[" * 100_000 + "]" * 100_000 + "}"
    answer = teacher.post("/api/classes", data=deep, content_type="application/json")
    assert answer.status_code in (400, 422)
    assert "error" in answer.json


def test_a_file_with_a_very_long_suffix_is_no_score(app: Any, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    upload = {"file": (io.BytesIO(b"x"), "line." + "m" * 400)}
    answer = teacher.post("/api/line", data=upload, content_type="multipart/form-data")
    assert (answer.status_code, "neither MusicXML" in answer.json["error"]) == (422, True)


def test_eight_overrules_at_one_time_leave_one(app: Any, engine: Engine, filled: Filled) -> None:
    take = given_take(engine, filled, report())
    teachers = [Visitor(app).teacher(filled) for _ in range(8)]

    def one(teacher: Visitor) -> int:
        return int(teacher.post(f"/api/takes/{take}/overrules", json={"note_index": 3, "says": "away"}).status_code)

    with ThreadPoolExecutor(8) as pool:
        assert set(pool.map(one, teachers)) == {201}
    assert len(teachers[0].get(f"/api/takes/{take}").json["overrules"]) == 1


def test_twelve_first_demonstrations_at_one_time_are_one_sound(
    app: Any, filled: Filled, monkeypatch: pytest.MonkeyPatch
) -> None:
    rendered: list[Score] = []

    def counted(score: Score, **how: Any) -> Any:
        rendered.append(score)
        return demonstrate(score, **how)

    monkeypatch.setattr(workshop, "demonstrate", counted)
    pupils = [Visitor(app).pupil(filled) for _ in range(12)]
    address = pupils[0].get(f"/api/assignments/{filled.assignment_id}/score").json["demonstration_url"]
    with ThreadPoolExecutor(12) as pool:
        answers = list(pool.map(lambda own: own.get(address), pupils))
    assert {answer.status_code for answer in answers} == {200}
    assert len({answer.data for answer in answers}) == 1
    assert len(rendered) == 1


def test_a_sound_that_is_gone_says_so(app: Any, engine: Engine, filled: Filled) -> None:
    take = given_take(engine, filled, report())
    answer = Visitor(app).teacher(filled).get(f"/api/takes/{take}/audio")
    assert (answer.status_code, answer.json["error"]) == (410, "This recording is not there any more.")


def test_whoever_sends_slow_files_many_at_a_time_holds_two_threads(
    app: Any, filled: Filled, monkeypatch: pytest.MonkeyPatch
) -> None:
    reading: list[int] = []
    most: list[int] = []
    done = threading.Event()

    def slow(*_: Any) -> dict[str, Any]:
        reading.append(1)
        most.append(len(reading))
        done.wait(20)
        reading.pop()
        return {}

    monkeypatch.setattr(confined, "_answer_of", slow)
    monkeypatch.setattr(confined, "_PATIENCE_S", 0.05)
    visitors = [Visitor(app).teacher(filled) for _ in range(8)]

    def send(own: Visitor) -> Any:
        return own.post("/api/line", data={"file": (io.BytesIO(b"x"), "a.mid")}, content_type="multipart/form-data")

    with ThreadPoolExecutor(8) as pool:
        sent = [pool.submit(send, own) for own in visitors]
        try:
            wait_for(lambda: sum(own.done() for own in sent) >= 6, 15)
            told = [own.result() for own in sent if own.done()]
        finally:
            done.set()
    assert {own.status_code for own in told} == {503}
    assert {(own.headers["Retry-After"], own.json["error"][:11]) for own in told} == {("10", "Other files")}
    assert (len(told), max(most)) == (6, 2)
    # And when they are done, the next is read.
    assert send(visitors[0]).status_code == 422
