"""The pupil's day over the wire: what is wanted today, in what order, and the week it stands in."""

from __future__ import annotations

import uuid
from datetime import UTC, date, datetime, timedelta
from typing import Any

from sqlalchemy import Engine

from attentive_owl.core.instruments import unfit_words
from attentive_owl.demo import scenario
from attentive_owl.store.models import Assignment, Take
from attentive_owl.store.session import open_session
from tests.conftest import Filled, Visitor

RECIPE = {"tonic": "D", "tempo_bpm": 66}


def assign(teacher: Visitor, filled: Filled, **more: Any) -> str:
    body = {
        "recipe": RECIPE,
        "pupil_ids": [str(filled.pupil_id)],
        "due_on": str(date.today() + timedelta(days=6)),
        "target_bpm": 66,
        "good_repeats": 4,
        **more,
    }
    made = teacher.post("/api/assignments", json=body)
    assert made.status_code == 201, made.json
    return str(made.json["id"])


def test_a_day_opens_with_its_warm_up_and_the_week_has_what_is_asked(app: Any, filled: Filled) -> None:
    teacher, pupil = Visitor(app).teacher(filled), Visitor(app).pupil(filled)
    teacher.call("DELETE", f"/api/assignments/{filled.assignment_id}")
    scale = assign(teacher, filled, days_a_week=7)
    open_string = assign(teacher, filled, days_a_week=7, recipe={**RECIPE, "family": "open-string"}, good_repeats=2)
    today = pupil.get("/api/today").json
    assert [item["assignment_id"] for item in today["items"]] == [open_string, scale]
    assert [item["wanted_today"] for item in today["items"]] == [2, 4]
    week = today["week"]
    assert [date.fromisoformat(day["day"]).weekday() for day in week] == list(range(7))
    ahead = [day for day in week if day["day"] >= today["today"]]
    assert {day["wanted"] for day in ahead} == {6}
    assert {day["wanted"] for day in week if day["day"] < today["today"]} <= {None}
    assert teacher.get("/api/week").json["assignments"][0]["days_a_week"] == 7


def test_missed_days_make_a_day_longer_and_never_twice_as_long(app: Any, filled: Filled, engine: Engine) -> None:
    teacher, pupil = Visitor(app).teacher(filled), Visitor(app).pupil(filled)
    own = assign(teacher, filled, days_a_week=5, due_on=str(date.today() + timedelta(days=1)))
    with open_session(engine, "the days that went by") as session:
        session.get_one(Assignment, own).created_at = datetime.now(UTC) - timedelta(days=6)
    item = next(i for i in pupil.get("/api/today").json["items"] if i["assignment_id"] == own)
    assert (item["good_repeats"], item["wanted_today"]) == (4, 6)


def test_days_a_week_are_one_to_seven(app: Any, filled: Filled) -> None:
    for days in (0, 8):
        answer = Visitor(app).teacher(filled).post(
            "/api/assignments",
            json={"recipe": RECIPE, "pupil_ids": [str(filled.pupil_id)], "due_on": str(date.today()), "target_bpm": 66,
                  "good_repeats": 4, "days_a_week": days},
        )  # fmt: skip
        assert answer.status_code == 422


def test_a_day_that_was_practised_is_no_day_that_was_missed(app: Any, filled: Filled, engine: Engine) -> None:
    """Whether its goes were good or not: who tries every day is not given more for it."""
    teacher, pupil = Visitor(app).teacher(filled), Visitor(app).pupil(filled)
    own = assign(teacher, filled, days_a_week=7, due_on=str(date.today()))
    with open_session(engine, "the days that went by") as session:
        session.get_one(Assignment, own).created_at = datetime.now(UTC) - timedelta(days=1)
        for number in range(2):
            session.add(
                Take(
                    pupil_id=filled.pupil_id,
                    assignment_id=uuid.UUID(own),
                    studio_id=filled.studio_id,
                    client_key=f"yesterday-{number}",
                    sha256="0" * 64,
                    file_name="t.wav",
                    size_bytes=1,
                    duration_s=1.0,
                    recorded_at=datetime.now(UTC) - timedelta(days=1),
                    state="checked",
                )
            )
    today = pupil.get("/api/today").json
    assert next(i for i in today["items"] if i["assignment_id"] == own)["wanted_today"] == 4
    yesterday = str(date.today() - timedelta(days=1))
    assert [(d["goes"], d["good"]) for d in today["week"] if d["day"] == yesterday] in ([(2, 0)], [])


def test_the_demo_says_of_no_instrument_what_it_does_not_have() -> None:
    for own in scenario.ASSIGNMENTS:
        players = {
            pupil.instrument for pupil in scenario.PUPILS if own.pupils is None or pupil.instrument in own.pupils
        }
        assert unfit_words(own.note, players) == []
