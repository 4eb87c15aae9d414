"""From nothing: the first account, a class, its pupils from a list."""

from __future__ import annotations

from typing import Any

import pytest
from sqlalchemy import Engine, func, select

from attentive_owl.settings import Settings
from attentive_owl.store.models import ClassGroup, Pupil, Studio
from attentive_owl.store.session import open_session
from tests.conftest import Filled, Visitor, fill
from tests.web.desk import given_take, report

ACCOUNT = {"studio": "Boat House", "name": "Ida", "email": "ida@boat.example", "password": "a lamp in the bow"}
LIST = "Ada Moor, violin, 3/4\nBo Lund, cello, 1/2, 565\n"


def count(engine: Engine, model: Any) -> int:
    with open_session(engine, "tests count") as session:
        return session.scalar(select(func.count()).select_from(model)) or 0


def test_the_first_teacher_makes_a_studio_and_shuts_the_door(app: Any, engine: Engine) -> None:
    visitor = Visitor(app)
    assert visitor.get("/api/session").json["here"] == "nothing"
    made = visitor.post("/api/session/first", json=ACCOUNT)
    assert (made.status_code, made.json["person"]["studio"], made.json["here"]) == (201, "Boat House", "studio")
    week = visitor.get("/api/week").json
    assert (week["classes"], week["pupils"], week["takes"], week["assignments"]) == (0, 0, 0, [])
    later = Visitor(app)
    assert later.get("/api/session").json["here"] == "studio"
    refused = later.post("/api/session/first", json={**ACCOUNT, "email": "other@boat.example"})
    assert refused.status_code == 409
    assert count(engine, Studio) == 1
    body = {"email": "IDA@boat.example", "password": ACCOUNT["password"]}
    assert later.post("/api/session/teacher", json=body).status_code == 200


def test_of_two_at_once_the_second_finds_the_door_shut(app: Any, engine: Engine, monkeypatch: Any) -> None:
    """Both have looked before either made a studio."""
    visitor, late = Visitor(app), Visitor(app)
    assert visitor.post("/api/session/first", json=ACCOUNT).status_code == 201
    monkeypatch.setattr("attentive_owl.web.signing_in._what_is_here", lambda: "nothing")
    refused = late.post("/api/session/first", json={**ACCOUNT, "email": "other@boat.example"})
    assert refused.status_code == 409
    assert count(engine, Studio) == 1


def test_a_demo_does_not_shut_the_door(app: Any, engine: Engine, settings: Settings) -> None:
    fill(engine, settings)
    assert Visitor(app).get("/api/session").json["here"] == "studio"
    with open_session(engine, "tests make it a demo") as session:
        session.scalars(select(Studio)).one().demo = True
    assert Visitor(app).get("/api/session").json["here"] == "demo"
    taken = Visitor(app).post("/api/session/first", json={**ACCOUNT, "email": "one@test.example"})
    assert (taken.status_code, taken.json["error"]) == (422, "This e-mail has an account already.")
    assert Visitor(app).post("/api/session/first", json=ACCOUNT).status_code == 201


@pytest.mark.parametrize("change", [{"password": "short"}, {"email": "ida"}, {"studio": " "}, {"name": ""}])
def test_what_is_no_account_is_refused(app: Any, engine: Engine, change: dict[str, str]) -> None:
    assert Visitor(app).post("/api/session/first", json={**ACCOUNT, **change}).status_code == 422
    assert count(engine, Studio) == 0


def test_a_class_is_made_named_filled_and_not_lost(app: Any, engine: Engine, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    made = teacher.post("/api/classes", json={"name": " Tuesday, second boat "})
    assert (made.status_code, made.json["name"], made.json["pupils"]) == (201, "Tuesday, second boat", [])
    own = made.json["id"]
    assert teacher.call("PATCH", f"/api/classes/{own}", json={"name": "Tuesday"}).json["name"] == "Tuesday"
    looked = teacher.post(f"/api/classes/{own}/roster", json={"text": LIST}).json
    assert [(row["name"], row["string_length_mm"]) for row in looked["rows"]] == [("Ada Moor", 300), ("Bo Lund", 565)]
    assert (looked["faults"], looked["cards"]) == ([], [])
    assert count(engine, Pupil) == 2
    kept = teacher.post(f"/api/classes/{own}/roster", json={"text": LIST, "keep": True}).json
    assert [card["pupil"]["name"] for card in kept["cards"]] == ["Ada Moor", "Bo Lund"]
    # Each card opens its own room.
    for card in kept["cards"]:
        body = {"class_code": card["class_code"], "passphrase": card["passphrase"]}
        person = Visitor(app).post("/api/session/pupil", json=body).json["person"]
        assert (person["name"], person["may_record"]) == (card["pupil"]["name"], False)
    assert len({card["passphrase"] for card in kept["cards"]}) == 2
    assert teacher.call("DELETE", f"/api/classes/{own}").status_code == 409
    empty = teacher.post("/api/classes", json={"name": "Nobody"}).json["id"]
    assert teacher.call("DELETE", f"/api/classes/{empty}").status_code == 200
    assert count(engine, ClassGroup) == 2


def test_a_broken_list_puts_nobody_in(app: Any, engine: Engine, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    text = f"{LIST}Cy, trumpet, 4/4\n{filled.pupil_name}, viola, 15 in\n"
    path = f"/api/classes/{filled.group_id}/roster"
    looked = teacher.post(path, json={"text": text}).json
    assert [fault["line"] for fault in looked["faults"]] == [3, 4]
    kept = teacher.post(path, json={"text": text, "keep": True})
    assert kept.status_code == 422
    assert kept.json["error"].startswith("Nobody was put in: line 3: “trumpet” is none of")
    assert teacher.post(path, json={"text": "\n", "keep": True}).status_code == 422
    assert count(engine, Pupil) == 2


def test_nothing_handed_in_is_not_all_heard(app: Any, engine: Engine, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    assert teacher.get("/api/takes").json["none_yet"] is True
    take = given_take(engine, filled, report())
    assert teacher.get("/api/takes").json["none_yet"] is False
    teacher.post(f"/api/takes/{take}/marks", json={"verdict": "accepted"})
    after = teacher.get("/api/takes").json
    assert (after["total"], after["none_yet"]) == (0, False)
