"""The calendar, what it does to the plan, the outbox, and what is done once a day."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from typing import Any

import pytest
import vobject
from sqlalchemy import Engine, select

from attentive_owl.jobs.reading import samples_of
from attentive_owl.jobs.upkeep import let_go_of_sounds, remind
from attentive_owl.settings import Settings
from attentive_owl.store.audio import AudioStore
from attentive_owl.store.models import Assignment, OutboxMessage, Pupil, Studio, Take
from attentive_owl.store.session import open_session
from tests.conftest import Filled, Visitor
from tests.web.desk import given_take, report
from tests.web.takes import hand_in

TODAY = date.today()


def ahead(days: int) -> str:
    return (TODAY + timedelta(days=days)).isoformat()


def age(engine: Engine, filled: Filled, days: int) -> None:
    with open_session(engine, "tests set it earlier") as session:
        session.get_one(Assignment, filled.assignment_id).created_at = datetime.now(UTC) - timedelta(days=days)


def test_lessons_breaks_and_due_days(app: Any, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    lesson = {"class_id": str(filled.group_id), "day": ahead(-7), "starts": "10:00", "minutes": 45, "until": ahead(60)}
    made = teacher.post("/api/lessons", json=lesson).json
    assert (made["next_on"], made["class_name"]) == (ahead(0), "Class")
    teacher.post("/api/breaks", json={"name": "Ice days", "first_day": ahead(0), "last_day": ahead(6)})
    own = teacher.get("/api/calendar").json
    assert own["lessons"][0]["next_on"] == ahead(7)
    assert own["due"] == [{"day": ahead(3), "titles": ["D major, one octave, quarters"]}]
    changed = teacher.call("PUT", f"/api/lessons/{made['id']}", json={**lesson, "starts": "11:30"}).json
    assert changed["starts"].startswith("11:30")
    calendar = vobject.readOne(teacher.get("/api/calendar.ics").data.decode())
    assert {str(event.summary.value) for event in calendar.vevent_list} == {
        "Class",
        "Ice days",
        "Due: D major, one octave, quarters",
    }
    home = vobject.readOne(Visitor(app).pupil(filled).get("/api/own-calendar.ics").data.decode())
    assert len(home.vevent_list) == 3
    other = vobject.readOne(Visitor(app).pupil(filled, filled.other_phrase).get("/api/own-calendar.ics").data.decode())
    assert len(other.vevent_list) == 2
    assert teacher.call("DELETE", f"/api/lessons/{made['id']}").status_code == 200
    assert teacher.get("/api/calendar").json["lessons"] == []


@pytest.mark.parametrize(
    "body", [{"name": "X", "first_day": ahead(3), "last_day": ahead(1)}, {"name": "X", "first_day": ahead(0), "last_day": ahead(400)}]
)  # fmt: skip
def test_what_is_no_break_is_refused(app: Any, filled: Filled, body: dict[str, str]) -> None:
    assert Visitor(app).teacher(filled).post("/api/breaks", json=body).status_code == 422


def test_nothing_is_wanted_on_a_day_off(app: Any, filled: Filled) -> None:
    pupil, teacher = Visitor(app).pupil(filled), Visitor(app).teacher(filled)
    assert pupil.get("/api/today").json["items"][0]["wanted_today"] == 3
    own = teacher.post("/api/breaks", json={"name": "Ice days", "first_day": ahead(0), "last_day": ahead(0)}).json
    assert pupil.get("/api/today").json["items"][0]["wanted_today"] == 0
    teacher.call("DELETE", f"/api/breaks/{own['id']}")
    assert pupil.get("/api/today").json["items"][0]["wanted_today"] == 3


def test_a_reminder_is_said_once_and_can_be_switched_off(app: Any, engine: Engine, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    settings = {**teacher.get("/api/studio/settings").json, "values": "crotchet"}
    teacher.call("PUT", "/api/studio/settings", json=settings)
    assert remind(engine) == 0, "it was set today"
    age(engine, filled, 5)
    assert [remind(engine), remind(engine)] == [1, 0]
    message = teacher.get("/api/outbox").json["messages"][0]
    assert (message["pupil_name"], filled.pupil_name in message["words"]) == (filled.pupil_name, True)
    assert "one octave, crotchets” is set" in message["words"]
    teacher.call("DELETE", f"/api/outbox/{message['id']}")
    assert teacher.get("/api/outbox").json["total"] == 0
    teacher.call("PUT", "/api/studio/settings", json={**settings, "reminders": False})
    assert remind(engine) == 0


@pytest.mark.parametrize("why", ["recorded", "no consent", "left", "a break", "far off"])
def test_who_need_not_be_reminded_is_not(app: Any, engine: Engine, filled: Filled, why: str) -> None:
    age(engine, filled, 5)
    if why == "recorded":
        given_take(engine, filled, report(good=False))
    elif why == "a break":
        Visitor(app).teacher(filled).post(
            "/api/breaks", json={"name": "B", "first_day": ahead(0), "last_day": ahead(1)}
        )
    else:
        with open_session(engine, "tests change it") as session:
            pupil = session.get_one(Pupil, filled.pupil_id)
            if why == "no consent":
                pupil.consent_at = None
            elif why == "left":
                pupil.archived_at = datetime.now(UTC)
            else:
                session.get_one(Assignment, filled.assignment_id).due_on = TODAY + timedelta(days=4)
    assert remind(engine) == 0


def test_the_sound_goes_after_its_time_and_the_figures_stay(
    app: Any, engine: Engine, settings: Settings, filled: Filled, violin_take: bytes
) -> None:
    teacher, pupil, audio = Visitor(app).teacher(filled), Visitor(app).pupil(filled), AudioStore(settings.audio_url)
    sent = hand_in(pupil, filled, violin_take).json
    later = datetime.now(UTC) + timedelta(days=179)
    assert let_go_of_sounds(engine, audio, later + timedelta(days=2)) == 0, "it was never listened to"
    with open_session(engine, "tests listen") as session:
        session.scalars(select(Take)).one().state = "checked"
    assert let_go_of_sounds(engine, audio, later) == 0
    assert let_go_of_sounds(engine, audio, later + timedelta(days=2)) == 1
    assert not audio.exists(sent["sha256"], "original")
    assert not audio.exists(sent["sha256"], "playback")
    for own in (teacher, pupil):
        assert own.get(f"/api/takes/{sent['id']}").json["sound_gone"] is True
        assert own.get(f"/api/takes/{sent['id']}/audio").status_code == 410
    assert teacher.get("/api/takes?only=all").json["total"] == 1


def test_a_yes_that_is_taken_back_hides_the_sound_at_once_and_then_deletes_it(
    app: Any, engine: Engine, settings: Settings, filled: Filled, violin_take: bytes
) -> None:
    teacher, audio = Visitor(app).teacher(filled), AudioStore(settings.audio_url)
    sent = hand_in(Visitor(app).pupil(filled), filled, violin_take).json
    samples_of(audio, sent["sha256"], None)
    with open_session(engine, "tests listen") as session:
        own = session.scalars(select(Take)).one()
        # The same sound serves as a question for help.
        own.state, own.help_words, own.help_sha256 = "checked", "How?", own.sha256
    assert teacher.get(f"/api/takes/{sent['id']}/audio").status_code == 200
    assert teacher.get(f"/api/takes/{sent['id']}/help").status_code == 200
    teacher.call("PATCH", f"/api/pupils/{filled.pupil_id}", json={"consent_by": ""})
    assert teacher.get(f"/api/takes/{sent['id']}/audio").status_code == 410
    assert teacher.get(f"/api/takes/{sent['id']}/help").status_code == 404
    assert teacher.get(f"/api/takes/{sent['id']}").json["help_url"] is None
    assert audio.exists(sent["sha256"], "playback")
    assert let_go_of_sounds(engine, audio) == 1
    assert not audio.exists(sent["sha256"], "playback")


def test_a_studio_keeps_as_long_as_it_says(engine: Engine, settings: Settings, filled: Filled) -> None:
    given_take(engine, filled, report(), days_ago=40)
    audio = AudioStore(settings.audio_url)
    assert let_go_of_sounds(engine, audio) == 0
    with open_session(engine, "tests change it") as session:
        session.get_one(Studio, filled.studio_id).settings = {"keep_days": 30}
    assert let_go_of_sounds(engine, audio) == 1


def test_a_teacher_records_for_one_pupil_at_a_lesson(
    app: Any, engine: Engine, filled: Filled, violin_take: bytes
) -> None:
    teacher = Visitor(app).teacher(filled)
    assert hand_in(teacher, filled, violin_take).status_code == 422
    # It is set to the first pupil alone.
    assert hand_in(teacher, filled, violin_take, pupil_id=str(filled.other_pupil_id)).status_code == 404
    sent = hand_in(teacher, filled, violin_take, pupil_id=str(filled.pupil_id), hand_in="false")
    assert sent.status_code == 201
    take = teacher.get(f"/api/takes/{sent.json['id']}").json
    assert (take["recorded_at_lesson"], take["handed_in"], take["pupil_name"]) == (True, True, filled.pupil_name)
    teacher.call("PATCH", f"/api/pupils/{filled.pupil_id}", json={"consent_by": ""})
    assert hand_in(teacher, filled, violin_take, pupil_id=str(filled.pupil_id)).status_code == 403


def test_messages_are_paged(app: Any, engine: Engine, filled: Filled) -> None:
    with open_session(engine, "tests fill the outbox") as session:
        for at in range(30):
            session.add(
                OutboxMessage(
                    studio_id=filled.studio_id,
                    pupil_id=filled.pupil_id,
                    kind="k",
                    about=str(at),
                    subject="s",
                    words="w",
                )
            )
    found = Visitor(app).teacher(filled).get("/api/outbox?page=2").json
    assert (found["total"], found["pages"], len(found["messages"])) == (30, 2, 5)


def test_the_day_of_a_reminder_is_the_studios_own(app: Any, engine: Engine, filled: Filled) -> None:
    """Late in the evening of UTC it is the next day in Auckland (UTC+12 or 13): there the fourth day off is the third."""
    age(engine, filled, 5)
    with open_session(engine, "tests move the studio") as session:
        session.get_one(Assignment, filled.assignment_id).due_on = date(2026, 12, 14)
        session.get_one(Assignment, filled.assignment_id).created_at = datetime(2026, 12, 1, tzinfo=UTC)
        session.get_one(Studio, filled.studio_id).settings = {"time_zone": "Europe/Lisbon"}
    evening = datetime(2026, 12, 10, 23, tzinfo=UTC)
    assert remind(engine, evening) == 0
    with open_session(engine, "tests move the studio") as session:
        session.get_one(Studio, filled.studio_id).settings = {"time_zone": "Pacific/Auckland"}
    assert remind(engine, evening) == 1
