"""The pupil's record, and the week for the adult at home, over the wire."""

from __future__ import annotations

import io
import uuid
from datetime import UTC, datetime, timedelta
from typing import Any

from pypdf import PdfReader
from sqlalchemy import Engine

from attentive_owl.core.planning import practice_minutes
from attentive_owl.settings import Settings
from attentive_owl.store.models import Assignment, Mark, Pupil, Take
from attentive_owl.store.session import open_session
from tests.conftest import Filled, Visitor
from tests.web.test_goes import go as go
from tests.web.test_goes import tell


def moved(engine: Engine, take: str, days: int, **more: Any) -> None:
    with open_session(engine, "tests let days go by") as session:
        own = session.get_one(Take, uuid.UUID(take))
        own.recorded_at = datetime.now(UTC) - timedelta(days=days)
        for name, value in more.items():
            setattr(own, name, value)


def test_what_was_practised_is_kept_day_by_day(
    app: Any, engine: Engine, filled: Filled, go: Any, violin_take: bytes
) -> None:
    pupil = Visitor(app).pupil(filled)
    assert pupil.get("/api/record").json["days"] == []
    first, second, third, old = (go(violin_take, bpm=bpm) for bpm in ("80", "92", "100", "60"))
    for take, days in ((first, 21), (second, 7), (third, 7), (old, 100)):
        moved(engine, take, days)
    tell(pupil, second, kept=True)
    record = pupil.get("/api/record").json
    assert [(day["goes"], day["good"]) for day in record["days"]] == [(1, 1), (2, 2)]
    assert all(day["seconds"] > 9 for day in record["days"])
    (way,) = record["ways"]
    # Twelve weeks back, the oldest first.
    assert way["goes"][0]["id"] == first
    assert {own["id"] for own in way["goes"]} == {first, second, third}
    assert (way["reached_bpm"], way["passed"]) == (100, False)
    assert all(0.9 < own["home_share"] <= 1 for own in way["goes"])
    assert [own["id"] for own in record["favourites"]] == [second]
    with open_session(engine, "the teacher accepts one") as session:
        session.add(
            Mark(studio_id=filled.studio_id, take_id=uuid.UUID(first), teacher_id=filled.teacher_id, verdict="accepted")
        )
    tell(pupil, second, thrown_away=True)
    record = pupil.get("/api/record").json
    assert record["ways"][0]["passed"]
    assert second not in {own["id"] for own in record["ways"][0]["goes"]}
    assert record["favourites"] == []
    # What was thrown away was practised all the same.
    assert sum(day["goes"] for day in record["days"]) == 3
    assert Visitor(app).pupil(filled, filled.other_phrase).get("/api/record").json["days"] == []
    assert Visitor(app).teacher(filled).get("/api/record").status_code == 403


def test_a_piece_and_a_refused_go_are_no_steps_on_the_way(
    app: Any, engine: Engine, filled: Filled, go: Any, violin_take: bytes
) -> None:
    pupil = Visitor(app).pupil(filled)
    own = go(violin_take)
    moved(engine, own, 1, first_bar=1, last_bar=2)
    refused = go(violin_take)
    moved(engine, refused, 1, state="refused")
    record = pupil.get("/api/record").json
    assert record["ways"] == []
    assert record["days"][0]["goes"] == 2


def test_the_adult_at_home_has_the_week_on_a_page_and_on_one_sheet(
    app: Any, engine: Engine, settings: Settings, filled: Filled
) -> None:
    pupil = Visitor(app).pupil(filled)
    with open_session(engine, "tests set a ladder") as session:
        own = session.get_one(Assignment, filled.assignment_id)
        own.ladder_from_bpm, own.note = 76, "Sing it first."
    home = pupil.get("/api/home").json
    (item,) = home["items"]
    assert (item["wanted_today"], item["bpm"], item["target_bpm"]) == (3, 76, 100)
    # Three goes of sixteen quarters at 76 (12.6 s) with 25 s about each, and three minutes to get ready: under five minutes.
    assert home["minutes_today"] == 5
    assert home["strings"] == ["G", "D", "A", "E"]
    assert "Instrument up" in home["checklist"]
    assert "A child turns the fine tuners alone" in home["tuning_care"]
    assert "doctor" in home["care"]
    sheet = PdfReader(io.BytesIO(pupil.get("/api/home.pdf").data))
    assert len(sheet.pages) == 1
    text = sheet.pages[0].extract_text()
    for words in (
        filled.pupil_name,
        "D major, one octave, quarters",
        "Sing it first.",
        "3 good goes today",
        "the face away",
    ):
        assert words in text
    with open_session(engine, "tests give a bass") as session:
        session.get_one(Pupil, filled.pupil_id).instrument = "bass"
    bass = pupil.get("/api/home").json
    assert "no fine tuners" in bass["tuning_care"]
    assert "Instrument up" not in bass["checklist"]


def test_minutes_are_rounded_up_to_five() -> None:
    assert practice_minutes([]) == 0
    assert practice_minutes([(0, 20.0)]) == 0
    # Ten goes of 20 s: 3 minutes to get ready and 7.5 of playing.
    assert practice_minutes([(10, 20.0)]) == 15
    assert practice_minutes([(1, 20.0)]) == 5
