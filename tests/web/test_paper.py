"""Sheets, files and lines over the wire: what a teacher takes out of the workshop, and which line a pupil gets."""

from __future__ import annotations

import io
import re
from datetime import date, timedelta
from pathlib import Path
from typing import Any

import mido
import pytest
from pypdf import PdfReader
from sqlalchemy import Engine

from attentive_owl.formats.musicxml import read_musicxml
from attentive_owl.store.models import Pupil
from attentive_owl.store.session import open_session
from tests.conftest import Filled, Visitor
from tests.web.desk import given_take, report
from tests.web.test_sheets import begin, item

D_MAJOR = {"tonic": "D", "tempo_bpm": 66}


def test_a_sheet_is_a_pdf_for_the_teacher_alone(app: Any, filled: Filled) -> None:
    body = {"recipe": D_MAJOR, "instruments": ["violin", "bass"], "words": "Hum it first", "one_page": True}
    answer = Visitor(app).teacher(filled).post("/api/sheet", json=body)
    assert (answer.status_code, answer.mimetype) == (200, "application/pdf")
    text = PdfReader(io.BytesIO(answer.data)).pages[0].extract_text()
    assert "Hum it first" in text
    assert "Double bass" in text
    assert Visitor(app).pupil(filled).post("/api/sheet", json=body).status_code == 403


@pytest.mark.parametrize(("values", "called"), [("quarter", "quarters"), ("crotchet", "crotchets")])
def test_every_paper_calls_the_exercise_as_the_studio_calls_notes(
    app: Any, engine: Engine, filled: Filled, values: str, called: str
) -> None:
    teacher, pupil = Visitor(app).teacher(filled), Visitor(app).pupil(filled)
    kept = teacher.get("/api/studio/settings").json
    teacher.call("PUT", "/api/studio/settings", json={**kept, "values": values})
    take = given_take(engine, filled, report())
    sheet = begin(teacher, item())
    papers = [
        teacher.post("/api/sheet", json={"recipe": D_MAJOR, "instruments": ["violin"]}),
        teacher.get(f"/api/takes/{take}/report.pdf"),
        teacher.get(f"/api/pupils/{filled.pupil_id}/record.pdf"),
        teacher.get("/api/class.pdf"),
        pupil.get("/api/home.pdf"),
        teacher.get(f"/api/sheets/{sheet['id']}/paper.pdf"),
    ]
    for paper in papers:
        pages = PdfReader(io.BytesIO(paper.data)).pages
        text = " ".join(" ".join(page.extract_text() for page in pages).split())
        assert f"one octave, {called}" in text, text
        assert not re.search("quarter" if values == "crotchet" else "crotchet", text), text
    for calendar in (teacher.get("/api/calendar.ics"), pupil.get("/api/own-calendar.ics")):
        assert f"octave, {called}" in calendar.text.replace("\\,", ",")


def test_what_no_instrument_can_play_is_one_sentence(app: Any, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    recipe = {**D_MAJOR, "family": "open-string", "string": "E"}
    for path, body in (
        ("/api/sheet", {"recipe": recipe, "instruments": ["cello"]}),
        ("/api/export", {"recipe": recipe, "instrument": "cello", "kind": "midi"}),
    ):
        answer = teacher.post(path, json=body)
        assert (answer.status_code, answer.json["error"]) == (422, "The cello has no E string.")


def test_a_line_goes_out_as_musicxml_and_as_midi(app: Any, filled: Filled, tmp_path: Path) -> None:
    teacher = Visitor(app).teacher(filled)
    path = tmp_path / "line.musicxml"
    body = {"recipe": D_MAJOR, "instrument": "bass", "ease": "easier", "kind": "musicxml"}
    path.write_bytes(teacher.post("/api/export", json=body).data)
    assert [n.pitch.name for n in read_musicxml(path).notes[5:8]] == ["B2", "C#2", "D2"]
    midi = mido.MidiFile(file=io.BytesIO(teacher.post("/api/export", json={**body, "kind": "midi"}).data))
    assert [m.note for m in midi if m.type == "note_on"][5:8] == [47, 37, 38]


def test_words_about_a_string_are_checked_when_assigning(app: Any, filled: Filled, engine: Engine) -> None:
    teacher = Visitor(app).teacher(filled)
    with open_session(engine, "a test gives another instrument") as session:
        session.get_one(Pupil, filled.other_pupil_id).instrument = "viola"
    body = {
        "recipe": D_MAJOR,
        "pupil_ids": [str(filled.pupil_id), str(filled.other_pupil_id)],
        "due_on": str(date.today() + timedelta(days=4)),
        "target_bpm": 66,
        "good_repeats": 4,
        "note": "Listen for the open E.",
    }
    answer = teacher.post("/api/assignments", json=body)
    assert (answer.status_code, answer.json["error"].split(".")[0]) == (422, "The viola has no E string")
    violin = {**body, "pupil_ids": [str(filled.pupil_id)]}
    assert teacher.post("/api/assignments", json=violin).status_code == 201
    assert teacher.post("/api/assignments", json={**body, "note": "Listen for the open A."}).status_code == 201


def test_two_pupils_on_one_instrument_have_an_easier_and_a_harder_line(
    app: Any, filled: Filled, engine: Engine
) -> None:
    """What was set stays as it was set, whatever a pupil is given later."""
    teacher = Visitor(app).teacher(filled)
    with open_session(engine, "a test gives another instrument") as session:
        for pupil_id in (filled.pupil_id, filled.other_pupil_id):
            session.get_one(Pupil, pupil_id).instrument = "bass"
    path = f"/api/pupils/{filled.other_pupil_id}"
    assert teacher.call("PATCH", path, json={"ease": "easier"}).json["ease"] == "easier"
    body = {
        "recipe": D_MAJOR,
        "pupil_ids": [str(filled.pupil_id), str(filled.other_pupil_id)],
        "due_on": str(date.today() + timedelta(days=4)),
        "target_bpm": 66,
        "good_repeats": 4,
    }
    made = teacher.post("/api/assignments", json=body).json["id"]
    teacher.call("PATCH", path, json={"ease": "harder"})
    names, heard = [], []
    for pupil in (Visitor(app).pupil(filled), Visitor(app).pupil(filled, filled.other_phrase)):
        score = pupil.get(f"/api/assignments/{made}/score?width=600").json
        names.append(score["notes"][6]["name"])
        assert ("ease=easier" in score["demonstration_url"]) == (names[-1] == "C#2")
        heard.append(pupil.get(score["demonstration_url"]).data)
    assert names == ["C#3", "C#2"]
    # What is heard is what is read.
    assert heard[0] != heard[1]


def test_a_preview_tells_where_a_line_may_lie(app: Any, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    insight = teacher.post("/api/preview", json={"recipe": D_MAJOR, "instrument": "bass"}).json["part"]["insight"]
    assert (insight["starts"], insight["eases"]) == (["D2"], ["usual", "easier"])
    told = {own["about"]: own["words"] for own in insight["telling"]}
    assert "shifts at 2.3" in told["Moves"]
    # The studio's D major was set before: A major has its fingers, one string over.
    a_major = teacher.post("/api/preview", json={"recipe": {**D_MAJOR, "tonic": "A"}, "instrument": "violin"})
    told = {own["about"]: own["words"] for own in a_major.json["part"]["insight"]["telling"]}
    assert told["Fingers"].endswith("one string over")
    easier = teacher.post("/api/preview", json={"recipe": D_MAJOR, "instrument": "bass", "ease": "easier"}).json
    assert easier["part"]["score"]["notes"][6]["name"] == "C#2"


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"registers": [{"instrument": "violin", "start": "H4"}]}, "start"),
        ({"signs": ["sparkles"]}, "signs"),
        ({"times": 9}, "times"),
        ({"rungs": [7]}, "rungs"),
    ],
)
def test_a_choice_that_is_none_is_named(app: Any, filled: Filled, change: dict[str, Any], words: str) -> None:
    body = {"recipe": {**D_MAJOR, **change}, "instrument": "violin"}
    answer = Visitor(app).teacher(filled).post("/api/preview", json=body)
    assert answer.status_code == 422
    assert words in answer.json["error"].lower()
