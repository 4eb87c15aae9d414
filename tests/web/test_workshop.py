"""Exercises, assignments and people through the routes; the OpenAPI document and what is generated from it."""

from __future__ import annotations

import io
import json
import math
import subprocess
import uuid
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from threading import Thread
from typing import Any

import mido
import pytest
from openapi_spec_validator import validate
from sqlalchemy import Engine, func, select

from attentive_owl.core.exercises import Recipe, build
from attentive_owl.formats.audio import read_flac
from attentive_owl.formats.musicxml import write_musicxml
from attentive_owl.jobs.checking import check_one
from attentive_owl.settings import Settings
from attentive_owl.store.audio import AudioStore
from attentive_owl.store.exercises import document_from_recipe, recipe_from_document
from attentive_owl.store.models import Take
from attentive_owl.store.session import open_session
from attentive_owl.web.app import openapi_document
from attentive_owl.web.areas import Area
from attentive_owl.web.schemas.common import Problem
from attentive_owl.web.scores import pack, unpack
from tests.conftest import ROOT, Filled, Visitor
from tests.web.takes import hand_in

RECIPE = {"tonic": "A", "pattern": "eighths", "tempo_bpm": 72}


def test_preview_engraves_all_four_instruments(app: Any, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    for instrument, lowest in {"violin": "A4", "viola": "A3", "cello": "A2", "bass": "A1"}.items():
        body = {"recipe": RECIPE, "instrument": instrument, "width": 700}
        answer = teacher.post("/api/preview", json=body).json
        assert answer["title"] == "A major, one octave, eighths"
        score = answer["part"]["score"]
        assert score["notes"][0]["name"] == lowest
        assert [n["index"] for s in score["systems"] for n in s["notes"]] == list(range(32))


def test_the_workshop_opens_with_the_recipe_of_the_core_and_what_is_not_said_is_as_in_it(
    app: Any, filled: Filled
) -> None:
    plain = document_from_recipe(Recipe())
    teacher = Visitor(app).teacher(filled)
    assert teacher.get("/api/catalogue").json["first_recipe"] == plain
    kept = teacher.post("/api/exercises", json={"recipe": {"tonic": "A", "tempo_bpm": 80}}).json["recipe"]
    assert kept == {**plain, "tonic": "A", "tempo_bpm": 80}


@pytest.mark.parametrize(
    "change",
    [{"tempo_bpm": 20}, {"tonic": "H"}, {"pattern": "polka"}, {"family": "song"}, {"cue": ["one"]}, {"extra": 1}],
)
def test_a_recipe_that_makes_no_exercise_gets_a_sentence(app: Any, filled: Filled, change: dict[str, Any]) -> None:
    answer = Visitor(app).teacher(filled).post("/api/exercises", json={"recipe": {**RECIPE, **change}})
    assert answer.status_code == 422
    assert answer.json["error"].endswith(".")


def test_the_shelf_keeps_a_recipe_once(app: Any, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    ids = {teacher.post("/api/exercises", json={"recipe": RECIPE}).json["id"] for _ in range(2)}
    assert len(ids) == 1
    assert len(teacher.get("/api/exercises").json["exercises"]) == 2


def test_assigning_showing_and_taking_back(app: Any, filled: Filled) -> None:
    teacher, pupil = Visitor(app).teacher(filled), Visitor(app).pupil(filled, filled.other_phrase)
    body = {
        "recipe": RECIPE,
        "pupil_ids": [str(filled.other_pupil_id)],
        "due_on": str(date.today() + timedelta(days=4)),
        "target_bpm": 66,
        "good_repeats": 4,
    }
    assert (
        teacher.post("/api/assignments", json={**body, "due_on": str(date.today() - timedelta(days=1))}).status_code
        == 422
    )
    made = teacher.post("/api/assignments", json=body)
    assert made.status_code == 201
    item = pupil.get("/api/today").json["items"][0]
    assert (item["target_bpm"], item["good_repeats"], item["title"]) == (66, 4, "A major, one octave, eighths")
    score = pupil.get(f"/api/assignments/{made.json['id']}/score?width=400").json
    assert (score["tempo_bpm"], score["instrument"]) == (66, "violin")
    assert {(note["string"], note["finger"], note["position"], note["semitones"]) for note in score["notes"][:4]} == {
        ("A", 0, "1", 0), ("A", 1, "1", 2),
    }  # fmt: skip
    assert len(score["systems"]) > 1
    # Engraved for a width that is kept ready, not for each one that a window may have, and never narrower than can be read.
    widths = {
        asked: {
            own["width"] for own in pupil.get(f"/api/assignments/{made.json['id']}/score?width={asked}").json["systems"]
        }
        for asked in (390, 399, 400, 641, 240)
    }
    assert widths[390] == widths[399] != widths[400] == {400}
    assert (widths[641], widths[240]) == ({640}, {240})
    assert teacher.call("DELETE", f"/api/assignments/{made.json['id']}").status_code == 200
    assert pupil.get("/api/today").json["items"] == []


def test_an_assignment_with_a_take_stays(app: Any, filled: Filled, violin_take: bytes) -> None:
    from tests.web.takes import hand_in

    hand_in(Visitor(app).pupil(filled), filled, violin_take)
    answer = Visitor(app).teacher(filled).call("DELETE", f"/api/assignments/{filled.assignment_id}")
    assert answer.status_code == 409


def test_a_take_that_is_being_committed_is_not_taken_away(
    app: Any, filled: Filled, engine: Engine, violin_take: bytes
) -> None:
    """Taken back in the moment between a take's row and its commit: the answer waits, and says that somebody was first."""
    teacher = Visitor(app).teacher(filled)
    take = Take(
        pupil_id=filled.pupil_id, assignment_id=filled.assignment_id, studio_id=filled.studio_id, client_key="a-key-of-eight",
        sha256="0" * 64, file_name="take.wav", size_bytes=1, duration_s=1.0, recorded_at=datetime.now(UTC),
    )  # fmt: skip
    answers: list[int] = []
    path = f"/api/assignments/{filled.assignment_id}"
    with open_session(engine, "a take on its way") as session:
        session.add(take)
        session.flush()
        asking = Thread(target=lambda: answers.append(teacher.call("DELETE", path).status_code))
        asking.start()
        asking.join(0.5)
        assert answers == []
    asking.join(10)
    assert answers == [409]
    with open_session(engine, "tests look") as session:
        assert session.scalar(select(func.count()).select_from(Take)) == 1


def test_demonstration_is_rendered_once_and_is_flac(app: Any, filled: Filled) -> None:
    pupil = Visitor(app).pupil(filled)
    path = f"/api/demonstration?recipe={pack({'tonic': 'D', 'tempo_bpm': 132.0}, 132.0)}&instrument=cello"
    first, second = pupil.get(path), pupil.get(path)
    assert first.data == second.data
    samples, rate = read_flac(first.data)
    assert len(samples) / rate == pytest.approx(0.3 + 20 * 60 / 132 + 1.0, abs=0.05)
    with_drone = pupil.get(f"{path}&company=drone")
    assert with_drone.status_code == 200
    assert with_drone.data != first.data


@pytest.mark.parametrize("text", ["", "garbage", "!!!", "eJwDAAAAAAE"])
def test_an_address_that_holds_no_recipe_gets_a_sentence(app: Any, filled: Filled, text: str) -> None:
    answer = Visitor(app).pupil(filled).get(f"/api/demonstration?recipe={text}&instrument=violin")
    assert answer.status_code == 422
    assert answer.json["error"].endswith(".")


def test_the_longest_line_fits_an_address() -> None:
    names = ["D4", "F#4", "Bb4", "C#5", None]
    line = [{"name": names[i % 5], "beats": "1/2" if i % 3 else "3/4", "slurred": i % 7 == 0} for i in range(200)]
    recipe = {"tonic": "D", "tempo_bpm": 72.0, "family": "own", "line": line}
    packed = pack(recipe, 72.0)
    assert len(packed) < 3800
    assert recipe_from_document(unpack(packed)) == recipe_from_document(recipe)


def test_preview_says_what_a_teacher_would(app: Any, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    body = {"recipe": {"tonic": "G", "tempo_bpm": 72}, "instrument": "violin", "width": 700}
    violin = teacher.post("/api/preview", json=body).json["part"]["insight"]
    assert violin["signature"] == "one sharp: F"
    assert violin["occurring"] == ["F sharp"]
    assert [(h["low"], h["high"]) for h in violin["half_steps"]] == [("B", "C"), ("F sharp", "G")]
    assert violin["neighbours"][6] == {"below": "E", "above": "G"}
    # D major is set in this studio already; what G major adds is the G string and its own key.
    assert "the G string" in violin["new"]
    assert "quarter notes" not in violin["new"]


def test_an_instrument_that_can_not_play_it_is_named_and_the_others_stand(app: Any, filled: Filled) -> None:
    recipe = {"family": "open-string", "string": "E", "tonic": "D", "tempo_bpm": 60}
    teacher = Visitor(app).teacher(filled)
    violin, cello = (
        teacher.post("/api/preview", json={"recipe": recipe, "instrument": instrument, "width": 700}).json
        for instrument in ("violin", "cello")
    )
    assert (violin["part"]["score"]["instrument"], violin["left_out"]) == ("violin", None)
    assert (cello["part"], cello["left_out"]) == (None, "Cello: the cello has no E string.")


def test_an_assigned_exercise_gets_a_new_version_and_a_free_one_changes(app: Any, filled: Filled) -> None:
    teacher, pupil = Visitor(app).teacher(filled), Visitor(app).pupil(filled)
    old = teacher.get("/api/exercises").json["exercises"][0]
    assert old["assigned"] == 1
    pinned = {**old["recipe"], "pins": [{"instrument": "violin", "index": 4, "string": "D", "finger": 4}]}
    newer = teacher.call("PUT", f"/api/exercises/{old['id']}", json={"recipe": pinned, "tags": ["Fourth"]}).json
    assert newer["id"] != old["id"]
    assert (newer["version"], newer["tags"], newer["assigned"]) == (2, ["fourth"], 0)
    score = pupil.get(f"/api/assignments/{filled.assignment_id}/score?width=600").json
    assert (score["notes"][4]["string"], score["notes"][4]["finger"]) == ("A", 0)
    assert [e["id"] for e in teacher.get("/api/exercises").json["exercises"]] == [newer["id"]]
    again = teacher.call("PUT", f"/api/exercises/{newer['id']}", json={"recipe": pinned, "title": "Fourths"}).json
    assert (again["id"], again["title"]) == (newer["id"], "Fourths")


def test_finding_retiring_and_bringing_back(app: Any, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    made = teacher.post("/api/exercises", json={"recipe": RECIPE, "title": "Monday eighths", "tags": ["warm"]}).json
    found = lambda text: [e["title"] for e in teacher.get(f"/api/exercises?search={text}").json["exercises"]]  # noqa: E731
    assert found("monday") == found("warm") == ["Monday eighths"]
    assert found("monday nothing") == []
    assert teacher.post(f"/api/exercises/{made['id']}/retire").json["retired"] is True
    assert found("monday") == []
    assert [e["id"] for e in teacher.get("/api/exercises?retired=true").json["exercises"]] == [made["id"]]
    assert teacher.post(f"/api/exercises/{made['id']}/restore").json["retired"] is False


def test_learning_paths_ship_and_can_be_edited(app: Any, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    paths = teacher.get("/api/paths").json["paths"]
    assert [p["name"] for p in paths] == ["Middle strings first", "Upper strings first", "Mixed class"]
    assert paths == teacher.get("/api/paths").json["paths"]
    first = paths[0]
    body = {"name": "Ours", "about": "", "steps": first["steps"][2:4][::-1]}
    assert teacher.call("PUT", f"/api/paths/{first['id']}", json=body).json["steps"] == body["steps"]
    teacher.post("/api/exercises", json={"recipe": RECIPE, "path_id": first["id"]})
    assert next(p for p in teacher.get("/api/paths").json["paths"] if p["name"] == "Ours")["steps"][-1][
        "title"
    ].startswith("A major")


def test_the_studio_s_words_and_tapes(app: Any, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    words = teacher.get("/api/studio/settings").json
    tape = {"name": "hand frame", "colour": "copper", "semitones": 7, "own_shade": "#b87333"}
    changed = {**words, "values": "crotchet", "cues": {"eighths": ["ti-", "de"]}, "marks": {"violin": [tape]}}
    assert teacher.call("PUT", "/api/studio/settings", json=changed).status_code == 200
    assert teacher.get("/api/studio/settings").json["cues"] == {"eighths": ["ti-", "de"]}
    wrong = teacher.call("PUT", "/api/studio/settings", json={**words, "cues": {"eighths": ["one"]}})
    assert wrong.json["error"] == "Eighths needs 2 syllables, one for each note."
    question = "instrument=violin&size=4/4&string_length_mm=328"
    assert teacher.get(f"/api/tapes?{question}").json["tapes"] == [
        {**tape, "shade": "#b87333", "mm": 109.1, "notes": ["D4", "A4", "E5", "B5"]}
    ]
    assert teacher.get(f"/api/tapes.pdf?{question}").data.startswith(b"%PDF")


def test_a_line_comes_from_a_file_or_says_why_not(app: Any, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    score = write_musicxml(build(Recipe("G", "dotted"), "violin"))
    send = lambda data, name: teacher.post("/api/line", data={"file": (io.BytesIO(data), name)})  # noqa: E731
    got = send(score, "line.musicxml").json
    assert (got["tonic"], got["meter"], len(got["line"])) == ("G", "4/4", 32)
    assert got["line"][:2] == [
        {"name": "G3", "beats": "3/2", "slurred": False},
        {"name": "G3", "beats": "1/2", "slurred": False},
    ]
    song = mido.MidiFile(ticks_per_beat=480)
    track = mido.MidiTrack()
    for key, gap in ((62, 0), (66, 480)):
        track += [mido.Message("note_on", note=key, time=gap), mido.Message("note_off", note=key, time=480)]
    song.tracks.append(track)
    data = io.BytesIO()
    song.save(file=data)
    assert [(n["name"], n["beats"]) for n in send(data.getvalue(), "line.mid").json["line"]] == [
        ("D4", "1"), (None, "1"), ("F#4", "1")]  # fmt: skip
    for data_, name in ((b"nothing", "x.mid"), (b"<a/>", "x.musicxml"), (b"hello", "x.txt")):
        answer = send(data_, name)
        assert answer.status_code == 422, name
        assert answer.json["error"].endswith("."), name


def test_people_cards_and_consent(app: Any, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    body = {"class_id": str(filled.group_id), "name": "New Child", "instrument": "cello", "size": "1/2"}
    card = teacher.post("/api/pupils", json=body).json
    assert card["pupil"]["string_length_mm"] == 570
    fresh = Visitor(app)
    signed = fresh.post(
        "/api/session/pupil", json={"class_code": card["class_code"], "passphrase": card["passphrase"]}
    ).json
    assert signed["person"]["may_record"] is False
    path = f"/api/pupils/{card['pupil']['id']}"
    assert teacher.call("PATCH", path, json={"consent_by": "Her father"}).json["consent_by"] == "Her father"
    assert fresh.get("/api/session").json["person"]["may_record"] is True
    assert teacher.call("PATCH", path, json={"consent_by": ""}).json["consent_at"] is None
    assert teacher.call("PATCH", path, json={"size": "3/4"}).json["string_length_mm"] == 630
    assert teacher.call("PATCH", path, json={"size": "9/9"}).status_code == 422
    renewed = teacher.post(f"{path}/passphrase").json
    assert renewed["passphrase"] != card["passphrase"]
    old = Visitor(app).post(
        "/api/session/pupil", json={"class_code": card["class_code"], "passphrase": card["passphrase"]}
    )
    assert old.status_code == 401


def test_the_page_carries_the_nonce_of_its_policy(app: Any) -> None:
    answer = app.test_client().get("/today")
    assert answer.status_code == 200
    policy = answer.headers["Content-Security-Policy"]
    nonce = policy.split("'nonce-")[1].split("'")[0]
    assert nonce in answer.get_data(as_text=True)
    assert app.test_client().get("/assets/nothing.js").status_code == 404


def test_the_openapi_document_is_valid_and_what_is_committed() -> None:
    document = openapi_document()
    validate(document)
    committed = json.loads((ROOT / "frontend" / "openapi.json").read_text())
    assert json.loads(json.dumps(document)) == committed, "stale: owl openapi -o frontend/openapi.json"


def test_what_is_written_of_an_address_is_worked_out_when_it_is_asked_for_and_once() -> None:
    area = Area("ferry", __name__, 401, tag="boats")

    @area.get("/ferries", responses={200: Problem})
    def ferries() -> Any:
        return {}

    assert not area.paths
    area.describe()
    written = area.paths["/api/ferries"].get
    assert (written.tags, set(written.responses)) == (["boats"], {"200", "401"})
    area.paths.clear()
    area.describe()
    assert not area.paths


def test_the_front_end_s_types_are_those_of_the_document(tmp_path) -> None:
    fresh = tmp_path / "schema.d.ts"
    subprocess.run(
        ["npx", "--no-install", "openapi-typescript", "openapi.json", "--default-non-nullable=false", "-o", str(fresh)],
        cwd=ROOT / "frontend", check=True, capture_output=True,
    )  # fmt: skip
    assert fresh.read_text() == (ROOT / "frontend/src/api/schema.d.ts").read_text(), "stale: npm run types"


def test_answers_keep_to_the_document(app: Any, filled: Filled) -> None:
    from openapi_schema_validator import OAS31Validator

    document = openapi_document()
    teacher, pupil = Visitor(app).teacher(filled), Visitor(app).pupil(filled)
    paths = [
        (teacher, p)
        for p in (
            "/api/week",
            "/api/classes",
            "/api/exercises",
            "/api/paths",
            "/api/studio/settings",
            "/api/takes",
            "/api/catalogue",
            "/api/session",
        )
    ]
    for visitor, path in [*paths, (pupil, "/api/today")]:
        schema = document["paths"][path]["get"]["responses"]["200"]["content"]["application/json"]["schema"]
        OAS31Validator({**schema, "components": document["components"]}).validate(visitor.get(path).json)


def test_how_it_is_judged_goes_into_the_report(
    app: Any, engine: Engine, filled: Filled, settings: Settings, violin_take: bytes
) -> None:
    """Reference pitch, temperament, way of practising, and the teacher's own tolerances."""
    teacher, pupil = Visitor(app).teacher(filled), Visitor(app).pupil(filled)
    words = teacher.get("/api/studio/settings").json
    own = {"pitch_cents": 31, "ringing_cents": 21, "timing_ms": 101, "tempo_percent": 11}
    assert teacher.call("PUT", "/api/studio/settings", json={**words, "levels": {"secure": own}}).status_code == 200
    body = {
        "recipe": {"tonic": "D", "tempo_bpm": 100},
        "pupil_ids": [str(filled.pupil_id)],
        "due_on": str(date.today() + timedelta(days=2)),
        "target_bpm": 100,
        "good_repeats": 3,
        "level": "secure",
        "temperament": "ringing",
        "a4_hz": 442,
        "mode": "repeats",
    }
    made = teacher.post("/api/assignments", json=body).json
    take = hand_in(pupil, replace(filled, assignment_id=made["id"]), violin_take).json["id"]
    check_one(engine, AudioStore(settings.audio_url), uuid.UUID(take))
    report = teacher.get(f"/api/takes/{take}").json["report"]
    asked = report["expectations"]
    assert (asked["pitch_cents"], asked["timing_ms"], asked["temperament"], asked["a4_hz"], asked["mode"]) == (
        31, 101, "ringing", 442, "repeats")  # fmt: skip
    assert [p["chosen"] for p in report["passes"]] == [True]
    # The take stands at A = 440, so against 442 the instrument is 7.9 cents low.
    open_d = report["notes"][0]["cents"]
    assert open_d == pytest.approx(1200 * math.log2(440 / 442) + 1.96, abs=2.5)


def test_each_pupil_has_own_tapes_and_known_frames(app: Any, filled: Filled) -> None:
    teacher, pupil = Visitor(app).teacher(filled), Visitor(app).pupil(filled, filled.other_phrase)
    path = f"/api/pupils/{filled.pupil_id}"
    tape = {"name": "my own", "colour": "moss", "semitones": 3, "own_shade": ""}
    assert teacher.call("PATCH", path, json={"marks": [tape]}).json["marks"] == [tape]
    question = "instrument=violin&size=4/4&string_length_mm=328"
    mine = teacher.get(f"/api/tapes?{question}&pupil_id={filled.pupil_id}").json["tapes"]
    assert [(t["name"], t["mm"]) for t in mine] == [("my own", 52.2)]
    assert len(teacher.get(f"/api/tapes?{question}").json["tapes"]) == 4
    # The pupil's page shows the pupil's tapes; the third semitone is not in D major, so none stands under its notes.
    own = Visitor(app).pupil(filled).get(f"/api/assignments/{filled.assignment_id}/score?width=600").json
    assert {n["mark"] and n["mark"]["name"] for n in own["notes"]} == {None}
    teacher.call("PATCH", path, json={"marks": [{**tape, "semitones": 4}]})
    own = Visitor(app).pupil(filled).get(f"/api/assignments/{filled.assignment_id}/score?width=600").json
    assert [n["index"] for n in own["notes"] if n["mark"]] == [2, 6, 9, 13]
    teacher.call("PATCH", path, json={"marks": [tape]})
    assert pupil.get(f"/api/tapes?{question}&pupil_id={filled.pupil_id}").status_code == 404

    body = {"recipe": {"tonic": "C", "tempo_bpm": 72}, "instrument": "violin", "width": 700}
    new_for = lambda: {  # noqa: E731
        name: entry["new"]
        for entry in teacher.post("/api/preview", json=body).json["part"]["insight"]["new_for"]
        for name in entry["pupils"]
    }
    before = new_for()
    assert "1-2 close on D" in before["Pupil 0 of one"]
    teacher.call("PATCH", path, json={"known": ["1-2 close"]})
    assert "1-2 close on D" not in new_for()["Pupil 0 of one"]
    assert "the key of C major" in new_for()["Pupil 0 of one"]


def test_notes_are_called_as_the_studio_calls_them(app: Any, filled: Filled) -> None:
    teacher, pupil = Visitor(app).teacher(filled), Visitor(app).pupil(filled)
    words = teacher.get("/api/studio/settings").json

    def spoken() -> list[str]:
        notes = pupil.get(f"/api/assignments/{filled.assignment_id}/score?width=600").json["notes"]
        return [note["spoken"] for note in notes[:3]]

    assert spoken() == ["D", "E", "F sharp"]
    teacher.call("PUT", "/api/studio/settings", json={**words, "names": "movable"})
    assert spoken() == ["do", "re", "mi"]
    teacher.call("PUT", "/api/studio/settings", json={**words, "names": "fixed"})
    assert spoken() == ["re", "mi", "fa sharp"]
