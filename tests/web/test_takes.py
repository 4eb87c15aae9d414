"""A take from the pupil's hand to the teacher's word, through the real routes and the real check."""

from __future__ import annotations

import hashlib
import io
import re
import uuid
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from pypdf import PdfReader
from sqlalchemy import Engine, event, func, select, text
from sqlalchemy.engine import Engine as SqlEngine

from attentive_owl.core.exercises import Recipe, build
from attentive_owl.core.judging import ENGINE
from attentive_owl.core.playing import Habits
from attentive_owl.formats.audio import flac_bytes
from attentive_owl.jobs.checking import check_one
from attentive_owl.settings import Settings
from attentive_owl.store.audio import AudioStore
from attentive_owl.store.models import Pupil, Report, Take
from attentive_owl.store.session import open_session
from tests.conftest import RATE, Filled, Visitor, played
from tests.web.takes import hand_in


def jobs(engine: Engine) -> list[Any]:
    with engine.connect() as connection:
        return list(connection.execute(text("SELECT args FROM procrastinate_jobs")).scalars())


def stored(settings: Settings) -> list[Path]:
    kinds = Path(settings.audio_url.removeprefix("file://")).glob("*/")
    return [path for kind in kinds for path in kind.rglob("*") if path.is_file()]


def count(engine: Engine, model: type) -> int:
    with open_session(engine, "tests look") as session:
        return session.scalar(select(func.count()).select_from(model)) or 0


def test_take_and_job_are_committed_together_and_the_hash_is_the_receipt(
    app, engine: Engine, filled: Filled, settings: Settings, violin_take: bytes
) -> None:
    pupil = Visitor(app).pupil(filled)
    answer = hand_in(pupil, filled, violin_take)
    assert answer.status_code == 201, answer.json
    assert jobs(engine) == [{"take_id": answer.json["id"]}]
    kept = AudioStore(settings.audio_url).read(answer.json["sha256"], "original")
    assert kept == violin_take


def test_lists_load_no_report(app, engine: Engine, filled: Filled, settings: Settings, violin_take: bytes) -> None:
    """Only what stands in a row is read out of a report, by the database."""
    pupil, teacher = Visitor(app).pupil(filled), Visitor(app).teacher(filled)
    take_id = hand_in(pupil, filled, violin_take).json["id"]
    check_one(engine, AudioStore(settings.audio_url), uuid.UUID(take_id))
    whole = teacher.get(f"/api/takes/{take_id}").json["report"]
    statements: list[str] = []

    def note(_connection: Any, _cursor: Any, statement: str, *_rest: Any) -> None:
        statements.append(statement)

    event.listen(SqlEngine, "before_cursor_execute", note)
    try:
        row = teacher.get("/api/takes?only=all").json["takes"][0]
        teacher.get("/api/week")
        pupil.get("/api/today")
    finally:
        event.remove(SqlEngine, "before_cursor_execute", note)
    assert statements
    assert not any("report.document AS" in statement or "report_document" in statement for statement in statements)
    assert (row["pitch_word"], row["good"]) == (whole["judgement"]["pitch"]["word"], whole["good_go"]["good"])
    assert row["played_bpm"] == whole["tempo"]["played_bpm"]


def test_the_round(app, engine: Engine, filled: Filled, settings: Settings, violin_take: bytes) -> None:
    pupil, teacher = Visitor(app).pupil(filled), Visitor(app).teacher(filled)
    take_id = hand_in(pupil, filled, violin_take).json["id"]
    assert pupil.get(f"/api/takes/{take_id}").json["state"] == "waiting"
    check_one(engine, AudioStore(settings.audio_url), uuid.UUID(take_id))

    seen = pupil.get(f"/api/takes/{take_id}").json
    assert seen["state"] == "checked"
    assert [n["status"] for n in seen["report"]["notes"]] == ["played"] * 16
    # What else waits is the teacher's.
    assert (seen["next_unmarked_id"], seen["left"], seen["need"], seen["why"]) == (None, 0, None, "")
    listed = teacher.get("/api/takes").json
    assert [t["id"] for t in listed["takes"]] == [take_id]
    assert teacher.get("/api/week").json["unmarked"] == 1
    sound = teacher.get(f"/api/takes/{take_id}/audio", headers={"Range": "bytes=0-99"})
    assert (sound.status_code, len(sound.data), sound.data[:4]) == (206, 100, b"fLaC")

    mark = teacher.post(f"/api/takes/{take_id}/marks", json={"verdict": "accepted", "remark": "  Lovely.  "})
    assert mark.status_code == 201
    assert teacher.get("/api/takes").json["total"] == 0
    today = pupil.get("/api/today").json["items"][0]
    assert (today["accepted"], today["last_mark"]["remark"], today["good_today"]) == (True, "Lovely.", 1)
    undone = teacher.call("DELETE", f"/api/marks/{mark.json['id']}")
    assert undone.json["verdict"] == "accepted"
    assert teacher.get("/api/takes").json["total"] == 1


def test_the_newest_word_counts_and_all_are_kept(app, engine: Engine, filled: Filled, violin_take: bytes) -> None:
    pupil, teacher = Visitor(app).pupil(filled), Visitor(app).teacher(filled)
    take_id = hand_in(pupil, filled, violin_take).json["id"]
    seen = None
    for verdict in ("once_more", "come_and_see_me", "accepted"):
        word = {"verdict": verdict, "remark": verdict, "after": seen}
        seen = teacher.post(f"/api/takes/{take_id}/marks", json=word).json["id"]
    assert teacher.get("/api/takes?only=all").json["takes"][0]["verdict"] == "accepted"
    assert pupil.get("/api/today").json["items"][0]["last_mark"]["verdict"] == "accepted"
    assert [mark["verdict"] for mark in teacher.get(f"/api/takes/{take_id}").json["marks"]][-1] == "accepted"


def test_checking_twice_gives_one_report(
    app, engine: Engine, filled: Filled, settings: Settings, violin_take: bytes
) -> None:
    take_id = uuid.UUID(hand_in(Visitor(app).pupil(filled), filled, violin_take).json["id"])
    for _ in range(2):
        check_one(engine, AudioStore(settings.audio_url), take_id)
    assert count(engine, Report) == 1
    check_one(engine, AudioStore(settings.audio_url), uuid.uuid4())


def test_a_new_engine_checks_old_takes_again_and_the_old_report_and_the_teachers_word_stay(
    app, engine: Engine, filled: Filled, settings: Settings, violin_take: bytes
) -> None:
    pupil, teacher = Visitor(app).pupil(filled), Visitor(app).teacher(filled)
    take_id = hand_in(pupil, filled, violin_take).json["id"]
    audio = AudioStore(settings.audio_url)
    check_one(engine, audio, uuid.UUID(take_id))
    # As if an earlier ear had checked it, and had found less.
    with open_session(engine, "tests make an old report") as session:
        old = session.scalars(select(Report)).one()
        old.engine = "ear-0"
        old.created_at = datetime.now(UTC) - timedelta(days=30)
        old.document = {**old.document, "engine": "ear-0", "good_go": {**old.document["good_go"], "good": False}}
    word = {"verdict": "once_more", "remark": "Nearly."}
    teacher.post(f"/api/takes/{take_id}/marks", json=word)
    teacher.post(f"/api/takes/{take_id}/overrules", json={"note_index": 3, "says": "home"})
    assert teacher.get("/api/recheck").json["behind"] == 1
    assert teacher.post("/api/recheck").status_code == 202
    assert jobs(engine)[-1] == {"take_id": take_id}
    # What pupils hand in meanwhile goes first.
    with engine.connect() as connection:
        asked = connection.execute(text("SELECT priority FROM procrastinate_jobs ORDER BY id")).scalars().all()
    assert asked == [0, -10]
    # While the new check is waited for, the old report is shown.
    assert teacher.get(f"/api/takes/{take_id}").json["report"]["engine"] == "ear-0"
    check_one(engine, audio, uuid.UUID(take_id))

    assert teacher.get("/api/recheck").json["behind"] == 0
    seen = teacher.get(f"/api/takes/{take_id}").json
    assert seen["engines"] == ["ear-0", ENGINE]
    assert seen["report"]["engine"] == ENGINE
    assert count(engine, Report) == 2
    assert (seen["marks"][0]["remark"], seen["overrules"][0]["note_index"]) == ("Nearly.", 3)
    # Two reports do not make two takes of it.
    assert teacher.get("/api/takes?only=all").json["total"] == 1
    assert teacher.get("/api/week").json["assignments"][0]["standings"][0]["takes"] == 1


def test_the_teachers_ear_goes_before_the_check(
    app, engine: Engine, filled: Filled, settings: Settings, violin_take: bytes
) -> None:
    pupil, teacher = Visitor(app).pupil(filled), Visitor(app).teacher(filled)
    take_id = hand_in(pupil, filled, violin_take).json["id"]
    check_one(engine, AudioStore(settings.audio_url), uuid.UUID(take_id))
    path = f"/api/takes/{take_id}/overrules"
    first = teacher.post(path, json={"note_index": 2, "says": "away"}).json
    again = teacher.post(path, json={"note_index": 2, "says": "home", "remark": "It rang."}).json
    teacher.post(path, json={"cause": "finger:2", "says": "not_so"})
    # A word on another note leaves those on the others.
    for index in (5, 1):
        teacher.post(path, json={"note_index": index, "says": "missed"})
    assert first["id"] != again["id"]
    seen = pupil.get(f"/api/takes/{take_id}").json["overrules"]
    assert [(o["note_index"], o["cause"], o["says"]) for o in seen] == [
        (2, None, "home"), (None, "finger:2", "not_so"), (5, None, "missed"), (1, None, "missed")
    ]  # fmt: skip
    assert seen[0]["teacher_name"]
    # The report itself is what the ear heard.
    assert pupil.get(f"/api/takes/{take_id}").json["report"]["notes"][2]["status"] == "played"
    assert teacher.call("DELETE", f"/api/overrules/{again['id']}").json["remark"] == "It rang."
    assert len(teacher.get(f"/api/takes/{take_id}").json["overrules"]) == 3


@pytest.mark.parametrize(
    "body",
    [
        {"note_index": 99, "says": "home"},
        {"note_index": 1, "says": "not_so"},
        {"cause": "drift", "says": "home"},
        {"says": "home"},
        {"note_index": 1, "cause": "drift", "says": "home"},
    ],
)
def test_an_overrule_that_says_nothing_gets_one_sentence(
    app, engine: Engine, filled: Filled, settings: Settings, violin_take: bytes, body: dict[str, Any]
) -> None:
    take_id = hand_in(Visitor(app).pupil(filled), filled, violin_take).json["id"]
    check_one(engine, AudioStore(settings.audio_url), uuid.UUID(take_id))
    answer = Visitor(app).teacher(filled).post(f"/api/takes/{take_id}/overrules", json=body)
    assert answer.status_code == 422
    assert answer.json["error"].endswith(".")


def test_what_the_teacher_says_is_not_so_is_not_advised_on_paper(
    app, engine: Engine, filled: Filled, settings: Settings
) -> None:
    score = build(Recipe("D", tempo_bpm=100), "violin")
    sound = flac_bytes(played(score, Habits(finger_cents={2: -38}, scatter_cents=3)), RATE)
    pupil, teacher = Visitor(app).pupil(filled), Visitor(app).teacher(filled)
    take_id = hand_in(pupil, filled, sound).json["id"]
    check_one(engine, AudioStore(settings.audio_url), uuid.UUID(take_id))

    def text() -> str:
        answer = pupil.get(f"/api/takes/{take_id}/report.pdf")
        return "".join(page.extract_text() for page in PdfReader(io.BytesIO(answer.data)).pages)

    assert "Your second finger lands" in text()
    teacher.post(f"/api/takes/{take_id}/overrules", json={"cause": "finger:2", "says": "not_so"})
    assert "Your second finger lands" not in text()
    assert "is not so" in text()


def test_the_report_on_paper(app, engine: Engine, filled: Filled, settings: Settings, violin_take: bytes) -> None:
    pupil, teacher = Visitor(app).pupil(filled), Visitor(app).teacher(filled)
    take_id = hand_in(pupil, filled, violin_take).json["id"]
    assert teacher.get(f"/api/takes/{take_id}/report.pdf").status_code == 409
    check_one(engine, AudioStore(settings.audio_url), uuid.UUID(take_id))
    teacher.post(f"/api/takes/{take_id}/marks", json={"verdict": "accepted", "remark": "Lovely bow."})
    answer = teacher.get(f"/api/takes/{take_id}/report.pdf")
    assert answer.mimetype == "application/pdf"
    text = "".join(page.extract_text() for page in PdfReader(io.BytesIO(answer.data)).pages)
    for said in ("Pupil 0 of one", "D major", "Lovely bow.", "of 16", "F♯", "cents"):
        assert said in text
    assert pupil.get(f"/api/takes/{take_id}/report.pdf").status_code == 200


def test_the_same_key_sent_again_is_the_same_take(app, engine: Engine, filled: Filled, violin_take: bytes) -> None:
    pupil = Visitor(app).pupil(filled)
    key = str(uuid.uuid4())
    first = hand_in(pupil, filled, violin_take, client_key=key)
    second = hand_in(pupil, filled, violin_take, client_key=key)
    assert (first.status_code, second.status_code) == (201, 200)
    assert first.json == second.json
    assert count(engine, Take) == 1
    assert len(jobs(engine)) == 1


@pytest.mark.parametrize(
    ("damage", "status", "says"),
    [
        (lambda s: (b"", {}), 422, "empty"),
        (lambda s: (b"not a sound at all" * 99, {}), 422, "could not be read"),
        (lambda s: (s, {"sha256": "0" * 64}), 422, "damaged on the way"),
        (lambda s: (s, {"client_key": "?"}), 422, "Client key"),
        (lambda s: (s, {"assignment_id": str(uuid.uuid4())}), 404, "nothing here"),
        (lambda s: (b"0" * (101 * 1024 * 1024), {}), 413, "100 MB"),
    ],
)
def test_what_can_not_be_used_gets_one_sentence_and_is_not_stored_half(
    app, engine: Engine, filled: Filled, settings: Settings, violin_take: bytes, damage, status: int, says: str
) -> None:
    sound, changes = damage(violin_take)
    answer = hand_in(Visitor(app).pupil(filled), filled, sound, **changes)
    assert answer.status_code == status
    assert re.search(says, answer.json["error"])
    assert answer.json["error"].endswith(".")
    assert count(engine, Take) == 0
    assert jobs(engine) == []
    assert stored(settings) == []


@pytest.mark.parametrize(
    ("damage", "says"),
    [
        (lambda s: (s[: len(s) // 2], {}), "part|damaged|could not"),
        (lambda s: (s, {"claimed_s": "60"}), "Only a part"),
        (lambda s: (b"RIFF" + bytes(400), {}), "could not be read"),
    ],
)
def test_what_a_worker_can_not_read_is_said_on_the_page(
    app, engine: Engine, filled: Filled, settings: Settings, violin_take: bytes, damage, says: str
) -> None:
    """The answer does not wait for a decoder: it comes when the bytes are safe."""
    sound, changes = damage(violin_take)
    pupil, teacher = Visitor(app).pupil(filled), Visitor(app).teacher(filled)
    answer = hand_in(pupil, filled, sound, **changes)
    assert (answer.status_code, answer.json["sha256"]) == (201, hashlib.sha256(sound).hexdigest())
    address = f"/api/takes/{answer.json['id']}"
    early = pupil.get(address).json
    assert (early["state"], early["audio_url"], pupil.get(f"{address}/audio").status_code) == ("waiting", None, 409)
    check_one(engine, AudioStore(settings.audio_url), uuid.UUID(answer.json["id"]))
    take = pupil.get(address).json
    assert (take["state"], take["audio_url"], pupil.get(f"{address}/audio").status_code) == ("refused", None, 410)
    refusal = take["report"]["refusal"]
    assert re.search(says, refusal["words"])
    assert "Play it again" in refusal["words"]
    row = teacher.get("/api/takes").json["takes"][0]
    assert (row["need"], row["why"]) == ("refused", "not judged: the file could not be read")


def test_no_recording_before_an_adult_said_yes(app, engine: Engine, filled: Filled, violin_take: bytes) -> None:
    with open_session(engine, "tests change") as session:
        session.get(Pupil, filled.pupil_id).consent_at = None
    answer = hand_in(Visitor(app).pupil(filled), filled, violin_take)
    assert answer.status_code == 403
    assert "adult" in answer.json["error"]


def test_a_device_clock_is_believed_only_within_reason(app, engine: Engine, filled: Filled, violin_take: bytes) -> None:
    pupil = Visitor(app).pupil(filled)
    now = datetime.now(UTC)
    for claimed, believed in (
        (now - timedelta(hours=5), True),
        (now + timedelta(days=2), False),
        (now - timedelta(days=400), False),
    ):
        take_id = hand_in(pupil, filled, violin_take, recorded_at=claimed.isoformat()).json["id"]
        recorded = datetime.fromisoformat(pupil.get(f"/api/takes/{take_id}").json["recorded_at"])
        assert (abs(recorded - claimed) < timedelta(seconds=1)) is believed


def test_two_browsers_of_one_pupil_lose_nothing_and_make_nothing_twice(
    app: Any, engine: Engine, filled: Filled, violin_take: bytes
) -> None:
    browsers, kept, late_key = [Visitor(app).pupil(filled) for _ in range(2)], uuid.uuid4().hex, uuid.uuid4().hex
    with ThreadPoolExecutor(2) as pool:
        own = list(pool.map(lambda browser: hand_in(browser, filled, violin_take), browsers))
        # One page that is open in two windows sends what it has kept from both.
        shared = list(pool.map(lambda browser: hand_in(browser, filled, violin_take, client_key=kept), browsers))
    assert [answer.status_code for answer in own] == [201, 201]
    assert sorted(answer.status_code for answer in shared) == [200, 201]
    ids = {answer.json["id"] for answer in (*own, *shared)}
    with open_session(engine, "tests look") as session:
        assert {str(own) for own in session.scalars(select(Take.id))} == ids
    assert len(ids) == 3
    days = [browser.get("/api/today").json for browser in browsers]
    assert days[0] == days[1]
    # Signing out in one ends both; what the other had under way stays with it, and is taken when the card is shown again.
    assert browsers[0].call("DELETE", "/api/session").status_code == 200
    late = hand_in(browsers[1], filled, violin_take, client_key=late_key)
    assert (late.status_code, late.json["error"]) == (401, "Please sign in first.")
    browsers[1].pupil(filled)
    assert hand_in(browsers[1], filled, violin_take, client_key=late_key).status_code == 201
