"""Goes and takes: what a pupil records is their own until it is handed in; ladder, pieces, help."""

from __future__ import annotations

import io
import uuid
from datetime import date, timedelta
from typing import Any

import pytest
from sqlalchemy import Engine

from attentive_owl.core.exercises import Recipe, build
from attentive_owl.core.playing import Habits
from attentive_owl.formats.audio import flac_bytes
from attentive_owl.jobs.checking import check_one
from attentive_owl.settings import Settings
from attentive_owl.store.audio import AudioStore
from attentive_owl.store.exercises import line_as_set
from attentive_owl.store.models import Assignment, Pupil, Take
from attentive_owl.store.session import open_session
from tests.conftest import RATE, Filled, Visitor, played
from tests.web.takes import hand_in
from tests.web.test_tuning import moment


@pytest.fixture
def go(app: Any, engine: Engine, filled: Filled, settings: Settings) -> Any:
    """Records a go of the filled pupil, and has it checked."""
    pupil = Visitor(app).pupil(filled)

    def make(sound: bytes, **more: Any) -> str:
        answer = hand_in(pupil, filled, sound, **{"hand_in": "false", **more})
        assert answer.status_code == 201, answer.json
        check_one(engine, AudioStore(settings.audio_url), uuid.UUID(answer.json["id"]))
        return str(answer.json["id"])

    return make


def pairs(bars: list[dict[str, int]]) -> list[tuple[int, int]]:
    return [(own["first"], own["last"]) for own in bars]


def room_of(visitor: Visitor, filled: Filled) -> Any:
    return visitor.get(f"/api/assignments/{filled.assignment_id}/room").json


def tell(visitor: Visitor, take: str, **said: Any) -> Any:
    return visitor.call("PATCH", f"/api/takes/{take}", json=said)


def test_a_go_is_the_pupil_s_until_it_is_handed_in(app: Any, filled: Filled, go: Any, violin_take: bytes) -> None:
    pupil, teacher = Visitor(app).pupil(filled), Visitor(app).teacher(filled)
    own = go(violin_take)
    assert teacher.get("/api/takes").json["total"] == 0
    assert teacher.get("/api/takes?only=all").json["total"] == 0
    week = teacher.get("/api/week").json
    assert (week["unmarked"], week["assignments"][0]["standings"][0]["takes"]) == (0, 1)
    assert week["assignments"][0]["standings"][0]["last_take_id"] is None
    # It counts as practice all the same, and is the one to hand in.
    today = pupil.get("/api/today").json["items"][0]
    assert (today["good_today"], today["handed_in"]) == (1, False)
    assert room_of(pupil, filled)["best_id"] == own

    assert tell(pupil, own, handed_in=True, felt="right").json["handed_in"] is True
    assert room_of(pupil, filled)["best_id"] is None
    listed = teacher.get("/api/takes").json["takes"]
    assert [(row["id"], row["felt"]) for row in listed] == [(own, "right")]
    assert pupil.get("/api/today").json["items"][0]["handed_in"] is True
    assert tell(pupil, own, handed_in=False).json["handed_in"] is False
    assert teacher.get("/api/takes").json["total"] == 0
    tell(pupil, own, handed_in=True)
    teacher.post(f"/api/takes/{own}/marks", json={"verdict": "accepted"})
    refused = tell(pupil, own, handed_in=False)
    assert refused.status_code == 409
    assert "answered" in refused.json["error"]


def test_how_many_goes_a_teacher_may_look_into_is_the_studio_s(
    app: Any, filled: Filled, go: Any, violin_take: bytes
) -> None:
    teacher, pupil = Visitor(app).teacher(filled), Visitor(app).pupil(filled)
    goes = [go(violin_take) for _ in range(3)]
    looked = {take: teacher.get(f"/api/takes/{take}").status_code for take in goes}
    assert set(looked.values()) == {200}
    settings = teacher.get("/api/studio/settings").json
    assert settings["goes_seen"] == 3
    teacher.call("PUT", "/api/studio/settings", json={**settings, "goes_seen": 1})
    assert [row["id"] for row in teacher.get("/api/takes?only=goes").json["takes"]] == goes[-1:]
    assert [teacher.get(f"/api/takes/{take}").status_code for take in goes] == [404, 404, 200]
    assert teacher.get(f"/api/takes/{goes[0]}/audio").status_code == 404
    # What is handed in is seen whatever is agreed on; the others of it are not.
    tell(pupil, goes[0], handed_in=True)
    teacher.call("PUT", "/api/studio/settings", json={**settings, "goes_seen": 0})
    assert [teacher.get(f"/api/takes/{take}").status_code for take in goes] == [200, 404, 404]
    assert teacher.get(f"/api/takes/{goes[0]}").json["others"] == []
    assert len(pupil.get(f"/api/takes/{goes[0]}").json["others"]) == 2


def test_what_is_thrown_away_is_nobody_s_and_can_be_fetched_back(
    app: Any, filled: Filled, go: Any, violin_take: bytes
) -> None:
    pupil, teacher = Visitor(app).pupil(filled), Visitor(app).teacher(filled)
    own = go(violin_take)
    tell(pupil, own, thrown_away=True)
    assert room_of(pupil, filled)["goes"] == []
    assert teacher.get(f"/api/takes/{own}").status_code == 404
    # It was practised: the day does not lose it.
    assert pupil.get("/api/today").json["items"][0]["good_today"] == 1
    tell(pupil, own, thrown_away=False)
    assert [g["id"] for g in room_of(pupil, filled)["goes"]] == [own]
    # What is handed in is fetched back by it.
    tell(pupil, own, thrown_away=True)
    assert tell(pupil, own, handed_in=True).json["handed_in"] is True
    assert [g["id"] for g in room_of(pupil, filled)["goes"]] == [own]
    assert tell(pupil, own, thrown_away=True).status_code == 409
    assert tell(pupil, own, kept=True).json["kept"] is True


def test_only_the_one_who_played_says_anything_of_a_go(app: Any, filled: Filled, go: Any, violin_take: bytes) -> None:
    own = go(violin_take)
    assert tell(Visitor(app).pupil(filled, filled.other_phrase), own, handed_in=True).status_code == 404
    assert tell(Visitor(app).teacher(filled), own, handed_in=True).status_code == 403
    assert tell(Visitor(app).pupil(filled), own, felt="dull").status_code == 422


def test_asking_for_help_hands_it_in_with_the_question(app: Any, filled: Filled, go: Any, violin_take: bytes) -> None:
    pupil, teacher = Visitor(app).pupil(filled), Visitor(app).teacher(filled)
    own = go(violin_take)
    assert tell(pupil, own, help_words=" My F sharp? ").json["asks_for_help"] is True
    seen = teacher.get(f"/api/takes/{own}").json
    assert (seen["help_words"], seen["help_url"], seen["handed_in"]) == ("My F sharp?", None, True)
    spoken = pupil.post(
        f"/api/takes/{own}/help",
        data={"sound": (io.BytesIO(moment(220)), "help.wav")},
        content_type="multipart/form-data",
    )
    assert spoken.status_code == 200, spoken.json
    heard = teacher.get(f"/api/takes/{own}/help")
    assert (heard.status_code, heard.data[:4]) == (200, b"fLaC")
    assert tell(pupil, own, help_words=None).json["asks_for_help"] is False
    assert teacher.get(f"/api/takes/{own}/help").status_code == 404
    # A question goes back with its go: nobody believes that it was asked.
    tell(pupil, own, help_words="My bow?")
    taken_back = tell(pupil, own, handed_in=False).json
    assert (taken_back["handed_in"], taken_back["asks_for_help"]) == (False, False)


def test_a_question_is_a_minute_long_at_most(app: Any, filled: Filled, go: Any, violin_take: bytes) -> None:
    pupil, own = Visitor(app).pupil(filled), go(violin_take)

    def asked(seconds: float) -> Any:
        sound = {"sound": (io.BytesIO(moment(220, seconds)), "help.wav")}
        return pupil.post(f"/api/takes/{own}/help", data=sound, content_type="multipart/form-data")

    refused = asked(61.5)
    assert (refused.status_code, refused.json["error"]) == (
        422,
        "That was longer than 60 seconds. Say it in fewer words.",
    )
    assert asked(59.0).status_code == 200


def test_nothing_is_spoken_before_an_adult_has_said_yes(
    app: Any, engine: Engine, filled: Filled, go: Any, violin_take: bytes
) -> None:
    own = go(violin_take)
    with open_session(engine, "the adult takes it back") as session:
        session.get_one(Pupil, filled.pupil_id).consent_at = None
    data = {"sound": (io.BytesIO(moment(220)), "help.wav")}
    answer = Visitor(app).pupil(filled).post(f"/api/takes/{own}/help", data=data, content_type="multipart/form-data")
    assert answer.status_code == 403


def test_a_piece_of_the_line_is_judged_as_that_piece(app: Any, engine: Engine, filled: Filled, go: Any) -> None:
    pupil = Visitor(app).pupil(filled)
    piece = build(Recipe("D", tempo_bpm=80, bars=(2, 3)), "violin")
    own = go(flac_bytes(played(piece), RATE), first_bar="2", last_bar="3", bpm="80")
    seen = pupil.get(f"/api/takes/{own}").json
    assert seen["report"]["accepted"], seen["report"]["refusal"]
    assert len(seen["report"]["notes"]) == len(piece.notes)
    assert (seen["bars"], seen["target_bpm"], seen["report"]["tempo"]["target_bpm"]) == (
        {"first": 2, "last": 3},
        80,
        80,
    )
    shown = pupil.get(f"/api/takes/{own}/score?width=600").json
    assert len(shown["notes"]) == len(piece.notes)
    # A bar that was played well is no line that was played.
    assert pupil.get("/api/today").json["items"][0]["good_today"] == 0
    assert room_of(pupil, filled)["best_id"] is None
    heard = pupil.get(f"/api/assignments/{filled.assignment_id}/score?width=600&first_bar=2&last_bar=3&bpm=80").json
    assert ([n["name"] for n in heard["notes"]], heard["tempo_bpm"]) == ([n.pitch.name for n in piece.notes], 80)
    none = pupil.get(f"/api/assignments/{filled.assignment_id}/score?first_bar=9&last_bar=9")
    assert (none.status_code, none.json["error"]) == (422, "The line has no such bars.")
    assert hand_in(pupil, filled, b"x", first_bar="9", last_bar="9").status_code == 422
    assert hand_in(pupil, filled, b"x", first_bar="3", last_bar="2").status_code == 422
    with open_session(engine, "bars of an exercise that is itself some bars") as session:
        assignment = session.get_one(Assignment, filled.assignment_id)
        assignment.exercise.recipe = {**assignment.exercise.recipe, "bars": [2, 4]}
        line = line_as_set(session, assignment, session.get_one(Pupil, filled.pupil_id), bars=(1, 2))
        assert [n.pitch for n in line.score.notes] == [n.pitch for n in piece.notes]


def test_the_ladder_is_offered_rung_by_rung(app: Any, filled: Filled, go: Any, violin_take: bytes) -> None:
    teacher, pupil = Visitor(app).teacher(filled), Visitor(app).pupil(filled)
    assert room_of(pupil, filled)["ladder"] is None
    body = {
        "recipe": {"tonic": "D", "tempo_bpm": 100}, "pupil_ids": [str(filled.pupil_id)], "target_bpm": 100, "good_repeats": 3,
        "due_on": str(date.today() + timedelta(days=5)), "ladder_from_bpm": 88, "ladder_step_bpm": 8, "ladder_clean": 2,
    }  # fmt: skip
    over = teacher.post("/api/assignments", json={**body, "ladder_from_bpm": 120})
    assert over.status_code == 422
    set_to = teacher.post("/api/assignments", json=body).json
    assert set_to["ladder_from_bpm"] == 88

    def ladder() -> Any:
        return pupil.get(f"/api/assignments/{set_to['id']}/room").json["ladder"]

    assert (ladder()["rungs"], ladder()["bpm"], ladder()["offered_bpm"]) == ([88, 96, 100], 88, None)
    slow = flac_bytes(played(build(Recipe("D", tempo_bpm=88), "violin")), RATE)
    go(slow, assignment_id=set_to["id"], bpm="88")
    assert (ladder()["in_a_row"], ladder()["offered_bpm"]) == (1, None)
    # With pauses allowed it is practice, and no rung.
    go(slow, assignment_id=set_to["id"], bpm="88", mode="pauses")
    assert ladder()["in_a_row"] == 1
    go(slow, assignment_id=set_to["id"], bpm="88")
    assert (ladder()["in_a_row"], ladder()["offered_bpm"]) == (2, 96)
    room = pupil.get(f"/api/assignments/{set_to['id']}/room").json
    assert room["good_in_a_row"] == 3
    # Wherever it is shown it is the same ladder: what was thrown away is no step on it.
    last = room["goes"][0]["id"]

    def rung_at_home() -> float:
        items = pupil.get("/api/home").json["items"]
        return next(float(own["bpm"]) for own in items if own["target_bpm"] == 100 and own["bpm"] != 100)

    high = go(slow, assignment_id=set_to["id"], bpm="96")
    assert (ladder()["bpm"], rung_at_home()) == (96, 96)
    tell(pupil, high, thrown_away=True)
    assert (ladder()["bpm"], rung_at_home()) == (88, 88)
    # Below the target and clean: said so, and no fault.
    report = pupil.get(f"/api/takes/{last}").json["report"]
    assert report["good_go"]["good"]
    assert report["tempo"]["target_bpm"] == 88


def test_the_hardest_bar_of_the_last_go_is_the_first_piece(app: Any, filled: Filled, go: Any) -> None:
    pupil = Visitor(app).pupil(filled)
    empty = room_of(pupil, filled)
    assert (empty["hardest"], pairs(empty["from_the_end"])) == ([], [(4, 4), (3, 4), (2, 4)])
    score = build(Recipe("D", tempo_bpm=100), "violin")
    third = [note.index for note in score.notes if note.measure == 3]
    go(flac_bytes(played(score, Habits(missed=(third[1],), scatter_cents=3, timing_ms=6)), RATE))
    assert pairs(room_of(pupil, filled)["hardest"]) == [(3, 3), (2, 3), (2, 4)]
    go(flac_bytes(played(score, Habits(scatter_cents=3, timing_ms=6)), RATE))
    assert room_of(pupil, filled)["hardest"] == []


def test_an_echo_shows_its_notes_after_the_second_try(app: Any, filled: Filled, engine: Engine, go: Any) -> None:
    teacher, pupil = Visitor(app).teacher(filled), Visitor(app).pupil(filled)
    body = {
        "recipe": {"tonic": "D", "tempo_bpm": 80, "family": "echo"}, "pupil_ids": [str(filled.pupil_id)], "target_bpm": 80,
        "good_repeats": 3, "due_on": str(date.today() + timedelta(days=5)),
    }  # fmt: skip
    own = teacher.post("/api/assignments", json=body).json["id"]
    hiss = flac_bytes(played(build(Recipe("D", tempo_bpm=80, family="echo"), "violin")), RATE)
    seen = []
    for _ in range(3):
        seen.append(pupil.get(f"/api/assignments/{own}/score?width=600").json["hidden"])
        go(hiss, assignment_id=own)
    assert seen == [True, True, False]


def test_the_first_note_is_answered(app: Any, filled: Filled) -> None:
    pupil = Visitor(app).pupil(filled)

    def ask(hz: float) -> Any:
        data = {"sound": (io.BytesIO(moment(hz)), "moment.wav")}
        path = f"/api/assignments/{filled.assignment_id}/first-note"
        return pupil.post(path, data=data, content_type="multipart/form-data").json

    # D4 in equal temperament from A4 = 440 Hz: 293.66 Hz.
    assert (ask(293.66)["word"], ask(293.66)["words"]) == ("home", "D: that is it. Remember how it feels.")
    low = ask(293.66 * 2 ** (-60 / 1200))
    assert low["word"] == "low"
    assert low["cents"] == pytest.approx(-60, abs=2)
    assert ask(440.0)["words"] == "I heard A. The line begins on D."


def test_the_checklist_is_the_studio_s(app: Any, filled: Filled) -> None:
    teacher, pupil = Visitor(app).teacher(filled), Visitor(app).pupil(filled)
    assert "Instrument up" in room_of(pupil, filled)["checklist"]
    settings = teacher.get("/api/studio/settings").json
    own = {**settings, "checklists": {"violin": ["Scroll to the window"]}}
    assert teacher.call("PUT", "/api/studio/settings", json=own).status_code == 200
    assert room_of(pupil, filled)["checklist"] == ["Scroll to the window"]


def test_the_row_of_a_go_says_how_it_was_asked_for(engine: Engine, filled: Filled, go: Any, violin_take: bytes) -> None:
    own = go(violin_take, bpm="92", focus="tune", mode="pauses")
    with open_session(engine, "tests look") as session:
        row = session.get_one(Take, uuid.UUID(own))
        assert (row.bpm, row.focus, row.mode, row.bars) == (92, "tune", "pauses", None)


def test_bars_that_were_not_come_to_are_no_hard_place(app: Any, filled: Filled, go: Any) -> None:
    half = build(Recipe("D", tempo_bpm=100, bars=(1, 2)), "violin")
    own = go(flac_bytes(played(half, Habits(scatter_cents=3, timing_ms=6)), RATE))
    report = Visitor(app).pupil(filled).get(f"/api/takes/{own}").json["report"]
    assert {note["reason"] for note in report["notes"] if note["measure"] > 2} == {"not_come_to"}
    assert room_of(Visitor(app).pupil(filled), filled)["hardest"] == []
