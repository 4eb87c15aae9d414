"""Each rank walks every route of the OpenAPI document, with the ids of its own studio: what the table of roles says, and nothing else,
opens."""

from __future__ import annotations

import io
import uuid
import zipfile
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from sqlalchemy import Engine

from attentive_owl.formats.audio import read_flac
from attentive_owl.jobs.checking import check_one
from attentive_owl.jobs.reading import samples_of
from attentive_owl.jobs.upkeep import forget_old_trails
from attentive_owl.settings import Settings
from attentive_owl.store.audio import AudioStore
from attentive_owl.store.models import Pupil, Teacher
from attentive_owl.store.session import open_session
from attentive_owl.web.app import openapi_document
from attentive_owl.web.audit import CHANGES_NOTHING, READS, SAID, TAKEN_BACK, line_for
from attentive_owl.web.roles import MAY, WHY_NOT, Rank, Right
from tests.conftest import Filled, Visitor
from tests.web.takes import hand_in
from tests.web.walk import OPEN, routes, walk


def visitor_of(app: Any, engine: Engine, filled: Filled, rank: Rank) -> Visitor:
    if rank is Rank.ADULT:
        return Visitor(app).pupil(filled, adult=True)
    if rank is Rank.PUPIL:
        return Visitor(app).pupil(filled)
    with open_session(engine, "tests give a rank") as session:
        session.get_one(Teacher, filled.teacher_id).rank = rank
    return Visitor(app).teacher(filled)


def wanted(app: Any) -> dict[tuple[str, str], str]:
    """Method and route -> the right that it asks for."""
    found = {}
    for rule in app.url_map.iter_rules():
        for method in rule.methods - {"HEAD", "OPTIONS"}:
            found[method, rule.rule] = getattr(app.view_functions[rule.endpoint], "requires", "")
    return found


def test_every_route_of_the_document_asks_for_a_right(app: Any) -> None:
    document = {
        (method.upper(), path.replace("{id}", "<uuid:id>"))
        for path, methods in openapi_document()["paths"].items()
        for method in methods
    }
    assert document == set(routes(app))
    asked = wanted(app)
    assert {rule for method, rule in document if not asked[method, rule]} == OPEN
    assert {asked[own] for own in document} - {"", "anyone"} == set(Right)


@pytest.mark.parametrize("rank", [own for own in Rank if own is not Rank.LEFT])
def test_what_the_table_says_opens_and_nothing_else(
    app: Any,
    engine: Engine,
    scene: tuple[Filled, dict[str, str]],
    rank: Rank,
) -> None:
    filled, ids = scene
    asked = wanted(app)
    for own, answer in walk(app, visitor_of(app, engine, filled, rank), filled, ids).items():
        right = asked[own]
        assert answer.status_code not in (401, 500), (own, answer.status_code)
        if right == "anyone" or Right(right) in MAY[rank]:
            # Whatever else may be wrong with what the walk sends, it is not the rank.
            assert answer.status_code != 403 or answer.json["error"] not in WHY_NOT.values(), own
        else:
            assert (answer.status_code, answer.json["error"]) == (403, WHY_NOT[Right(right)]), own


def test_the_table_is_what_a_school_expects() -> None:
    """Common practice: an assistant hears and sets, and leaves cards, consent and erasing to the teachers; who runs the house decides who
    teaches in it; nobody who teaches sits in a pupil's room."""
    assert MAY[Rank.ASSISTANT] < MAY[Rank.TEACHER] < MAY[Rank.OWNER]
    assert MAY[Rank.OWNER] == set(Right) - {Right.PRACTISE}
    assert MAY[Rank.PUPIL] == MAY[Rank.ADULT] == {Right.PRACTISE}
    assert MAY[Rank.LEFT] == set()


def test_who_has_left_is_out_at_once_and_what_they_wrote_stays(app: Any, engine: Engine, filled: Filled) -> None:
    owner = Visitor(app).teacher(filled)
    link = owner.post("/api/invitations", json={"rank": "assistant"}).json["path"].rsplit("/", 1)[1]
    newcomer = Visitor(app)
    account = {"token": link, "name": "Ida", "email": "ida@test.example", "password": "a lamp in the bow"}
    person = newcomer.post("/api/session/invitation", json=account).json["person"]
    assert (person["rank"], person["may"]) == ("assistant", ["teach"])
    assert newcomer.post("/api/invitations", json={}).status_code == 403
    passed = newcomer.post(
        f"/api/pupils/{filled.pupil_id}/passed", json={"recipe": {"tonic": "D", "tempo_bpm": 60}}
    ).json["id"]
    address = f"/api/teachers/{person['id']}"
    assert owner.call("PATCH", address, json={"rank": "left"}).json["rank"] == "left"
    assert newcomer.get("/api/week").status_code == 401
    again = {"email": account["email"], "password": account["password"]}
    assert Visitor(app).post("/api/session/teacher", json=again).status_code == 401
    story = owner.get(f"/api/pupils/{filled.pupil_id}/story").json
    assert [own["id"] for own in story["passed"]] == [passed]
    assert owner.call("PATCH", address, json={"rank": "teacher"}).status_code == 200
    assert Visitor(app).post("/api/session/teacher", json=again).json["person"]["rank"] == "teacher"
    assert owner.call("PATCH", f"/api/teachers/{uuid.uuid4()}", json={"rank": "left"}).status_code == 404


@pytest.mark.parametrize("rank", ["teacher", "assistant", "left"])
def test_a_studio_always_has_an_owner(app: Any, filled: Filled, rank: str) -> None:
    owner = Visitor(app).teacher(filled)
    answer = owner.call("PATCH", f"/api/teachers/{filled.teacher_id}", json={"rank": rank})
    assert (answer.status_code, answer.json["error"][:26]) == (409, "Somebody has to run the st")
    assert owner.get("/api/teachers").json["teachers"][0]["rank"] == "owner"


def test_what_staff_do_stands_in_the_trail_once(
    app: Any, engine: Engine, settings: Settings, filled: Filled, violin_take: bytes
) -> None:
    owner, pupil = Visitor(app).teacher(filled), Visitor(app).pupil(filled)
    take = hand_in(pupil, filled, violin_take).json
    samples_of(AudioStore(settings.audio_url), take["sha256"], None)
    for _ in range(2):
        for part in (0, 400):
            owner.get(f"/api/takes/{take['id']}/audio", headers={"Range": f"bytes={part}-{part + 399}"})
    pupil.get(f"/api/takes/{take['id']}/audio")
    owner.post(f"/api/takes/{take['id']}/marks", json={"verdict": "accepted"})
    owner.post("/api/preview", json={"recipe": {"tonic": "D", "tempo_bpm": 60}, "instrument": "violin"})
    owner.call("PATCH", f"/api/pupils/{filled.pupil_id}", json={"name": "?" * 90})
    owner.get("/api/results.csv")
    owner.post(f"/api/pupils/{filled.pupil_id}/erase", json={"name": filled.pupil_name})
    lines = owner.get("/api/audit").json["lines"]
    assert [(own["act"], own["what"]) for own in lines] == [
        ("erased", "a pupil"), ("exported", "results as CSV"), ("marked", "a take"), ("heard", "a recording"),
    ]  # fmt: skip
    assert (lines[0]["actor_name"], lines[0]["subject_id"]) == ("Teacher", str(filled.pupil_id))
    assert filled.pupil_name not in owner.get("/api/audit").text, "whoever is erased has no name any more"
    later = datetime.now(UTC) + timedelta(days=401)
    assert (forget_old_trails(engine), forget_old_trails(engine, later)) == (0, 4)


def test_nothing_that_changes_leaves_the_trail_without_a_line(app: Any) -> None:
    for method, rule in routes(app):
        line = line_for(method, rule)
        if method == "GET":
            assert line is None or rule in READS
        elif rule not in OPEN and (method, rule) not in CHANGES_NOTHING:
            assert line is not None, (method, rule)
            # A thing of which the trail has no words would be called by its address.
            assert line[1] != rule.split("/")[2], (method, rule)
        elif (method, rule) in CHANGES_NOTHING:
            assert line is None
    known = {rule for _, rule in routes(app)}
    assert set(READS) | set(SAID) | set(TAKEN_BACK) <= known
    assert {rule for _, rule in CHANGES_NOTHING} <= known


def test_everything_of_one_pupil_can_be_read_by_a_person(
    app: Any, engine: Engine, settings: Settings, filled: Filled, violin_take: bytes
) -> None:
    teacher = Visitor(app).teacher(filled)
    take = hand_in(Visitor(app).pupil(filled), filled, violin_take).json["id"]
    check_one(engine, AudioStore(settings.audio_url), uuid.UUID(take))
    teacher.post(f"/api/takes/{take}/marks", json={"verdict": "once_more", "remark": "Softer at the end."})
    teacher.call("PATCH", f"/api/pupils/{filled.pupil_id}", json={"remarks": "Shy of the E string."})
    answer = teacher.get(f"/api/pupils/{filled.pupil_id}/archive.zip")
    package = zipfile.ZipFile(io.BytesIO(answer.data))
    texts = {name: package.read(name).decode() for name in package.namelist() if name.endswith(("txt", "csv"))}
    assert "Shy of the E string." in texts["about.txt"]
    assert "an adult said so on" in texts["about.txt"]
    assert "Pictures of the bow hold: no" in texts["about.txt"]
    with open_session(engine, "tests agree to pictures") as session:
        session.get_one(Pupil, filled.pupil_id).pictures_agreed = True
    agreed = zipfile.ZipFile(io.BytesIO(teacher.get(f"/api/pupils/{filled.pupil_id}/archive.zip").data))
    assert "Pictures of the bow hold: yes" in agreed.read("about.txt").decode()
    said = next(text for name, text in texts.items() if name.startswith("what was said/"))
    assert "The teacher: once more. Softer at the end." in said
    assert said.startswith("D major, one octave, quarters\n\n")
    assert len(texts["results.csv"].splitlines()) == 2
    assert package.read("record.pdf").startswith(b"%PDF")
    sound = next(name for name in package.namelist() if name.startswith("recordings/"))
    samples, rate = read_flac(package.read(sound))
    assert len(samples) / rate > 9
    other = teacher.get(f"/api/pupils/{filled.other_pupil_id}/archive.zip").data
    assert "Softer" not in str(
        [zipfile.ZipFile(io.BytesIO(other)).read(own) for own in zipfile.ZipFile(io.BytesIO(other)).namelist()]
    )
