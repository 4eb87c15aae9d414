"""Pupils over time: what is kept of them, several classes, leaving, moving, merging, going for good; teachers by link; the demo away."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from sqlalchemy import Engine, func, select, text

from attentive_owl.jobs.reading import samples_of
from attentive_owl.settings import Settings
from attentive_owl.store.audio import AudioStore
from attentive_owl.store.models import Assignment, Base, Invitation, Pupil, Studio, Take
from attentive_owl.store.session import open_session
from tests.conftest import Filled, Visitor, fill
from tests.web.desk import given_take, report
from tests.web.takes import hand_in


def rows(engine: Engine) -> dict[str, int]:
    with engine.connect() as connection:
        return {
            table.name: connection.scalar(select(func.count()).select_from(table)) or 0
            for table in Base.metadata.sorted_tables
        }


def sha256_of(engine: Engine, take_id: str) -> str:
    with open_session(engine, "tests look") as session:
        return session.get_one(Take, uuid.UUID(take_id)).sha256


def files(settings: Settings) -> int:
    root = Path(settings.audio_url.removeprefix("file://"))
    return sum(path.is_file() for kind in root.glob("*/") for path in kind.rglob("*"))


def test_what_teachers_keep_of_a_pupil_no_pupil_sees(app: Any, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    path = teacher.get("/api/paths").json["paths"][0]
    address = f"/api/pupils/{filled.pupil_id}"
    body = {"path_id": path["id"], "path_step": 2, "goal": "The concert", "remarks": "Shy of the E string."}
    teacher.call("PATCH", address, json={"path_id": path["id"]})
    assert teacher.call("PATCH", address, json={**body, "path_id": None}).status_code == 200
    found = teacher.get(address).json
    assert (found["path_name"], found["pupil"]["path_step"], found["pupil"]["goal"]) == (path["name"], 2, "The concert")
    assert found["path_steps"][0] == path["steps"][0]["title"]
    pupil = Visitor(app).pupil(filled)
    for own in ("/api/today", "/api/record", "/api/home", "/api/session"):
        assert b"Shy of" not in pupil.get(own).data
    assert pupil.get(address).status_code == 403
    assert teacher.call("PATCH", address, json={"path_id": ""}).json["path_id"] is None


def test_who_has_left_is_in_no_list_and_comes_back(app: Any, filled: Filled) -> None:
    teacher, pupil = Visitor(app).teacher(filled), Visitor(app).pupil(filled)
    assert teacher.post(f"/api/pupils/{filled.pupil_id}/archive").status_code == 200
    own = teacher.get("/api/classes").json
    assert ([p["name"] for p in own["classes"][0]["pupils"]], own["archived"]) == ([filled.other_pupil_name], 1)
    assert [p["pupil"]["name"] for p in teacher.get("/api/pupils?left=true").json["pupils"]] == [filled.pupil_name]
    assert [row["name"] for row in teacher.get("/api/progress").json["pupils"]] == [filled.other_pupil_name]
    # The page that was open, and the card: neither opens any more.
    assert pupil.get("/api/today").status_code == 401
    body = {"class_code": filled.class_code, "passphrase": filled.phrase}
    assert Visitor(app).post("/api/session/pupil", json=body).status_code == 401
    assert teacher.post(f"/api/pupils/{filled.pupil_id}/restore").json["archived_at"] is None
    assert Visitor(app).post("/api/session/pupil", json=body).status_code == 200


def test_a_move_makes_a_new_card_and_a_guest_keeps_the_old(app: Any, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    other = teacher.post("/api/classes", json={"name": "Second"}).json
    guest = teacher.call("PUT", f"/api/pupils/{filled.pupil_id}/classes", json={"class_ids": [other["id"]]}).json
    assert guest["also_in"] == [other["id"]]
    by_name = {own["name"]: own for own in teacher.get("/api/classes").json["classes"]}
    assert [p["name"] for p in by_name["Second"]["guests"]] == [filled.pupil_name]
    Visitor(app).pupil(filled)
    card = teacher.post(f"/api/pupils/{filled.pupil_id}/move", json={"class_id": other["id"]}).json
    assert card["class_code"] == other["code"]
    old = {"class_code": filled.class_code, "passphrase": filled.phrase}
    assert Visitor(app).post("/api/session/pupil", json=old).status_code == 401
    new = {"class_code": card["class_code"], "passphrase": card["passphrase"]}
    assert Visitor(app).post("/api/session/pupil", json=new).status_code == 200
    assert teacher.get(f"/api/pupils/{filled.pupil_id}").json["also_in"] == []


def test_two_entries_of_one_child_become_one(app: Any, engine: Engine, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    take = given_take(engine, filled, report())
    recipe = {"tonic": "D", "tempo_bpm": 60}
    for own in (filled.pupil_id, filled.other_pupil_id):
        assert teacher.post(f"/api/pupils/{own}/passed", json={"recipe": recipe}).status_code == 201
    teacher.post(f"/api/pupils/{filled.pupil_id}/passed", json={"recipe": {**recipe, "tonic": "G"}})
    merged = teacher.post(f"/api/pupils/{filled.pupil_id}/merge", json={"into": str(filled.other_pupil_id)})
    assert merged.json["pupil"]["name"] == filled.other_pupil_name
    assert teacher.get(f"/api/pupils/{filled.pupil_id}").status_code == 404
    assert teacher.get(f"/api/takes/{take}").json["pupil_name"] == filled.other_pupil_name
    assert len(teacher.get(f"/api/pupils/{filled.other_pupil_id}/story").json["passed"]) == 2
    today = Visitor(app).pupil(filled, filled.other_phrase).get("/api/today").json["items"]
    assert [own["assignment_id"] for own in today] == [str(filled.assignment_id)]


def test_who_is_not_merged_stays_in_every_class(app: Any, filled: Filled) -> None:
    """Several bystanders: whatever the order of their keys, one of them lies on either side."""
    teacher = Visitor(app).teacher(filled)
    second = teacher.post("/api/classes", json={"name": "Second"}).json["id"]
    bodies = [
        {"name": f"Bystander {n}", "instrument": "cello", "size": "4/4", "class_id": str(filled.group_id)}
        for n in range(6)
    ]
    bystanders = [teacher.post("/api/pupils", json=body).json["pupil"]["id"] for body in bodies]
    for own in bystanders:
        teacher.call("PUT", f"/api/pupils/{own}/classes", json={"class_ids": [second]})
    teacher.post(f"/api/pupils/{filled.pupil_id}/merge", json={"into": str(filled.other_pupil_id)})
    assert [teacher.get(f"/api/pupils/{own}").json["also_in"] for own in bystanders] == [[second]] * 6


def test_what_can_not_be_merged_says_why(app: Any, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    body = {"class_id": str(filled.group_id), "name": "Cello", "instrument": "cello", "size": "4/4"}
    cello = teacher.post("/api/pupils", json=body).json["pupil"]["id"]
    address = f"/api/pupils/{filled.pupil_id}/merge"
    assert teacher.post(address, json={"into": cello}).json["error"].startswith("They play different instruments")
    assert teacher.post(address, json={"into": str(filled.pupil_id)}).status_code == 422


def test_erasing_leaves_no_row_no_file_and_no_job(
    app: Any, engine: Engine, settings: Settings, filled: Filled, violin_take: bytes
) -> None:
    teacher, pupil = Visitor(app).teacher(filled), Visitor(app).pupil(filled)
    before = rows(engine)
    take = hand_in(pupil, filled, violin_take).json["id"]
    teacher.post(f"/api/takes/{take}/marks", json={"verdict": "accepted", "remark": "Lovely."})
    teacher.post(f"/api/takes/{take}/overrules", json={"cause": "drift", "says": "not_so"})
    address = f"/api/pupils/{filled.pupil_id}/erase"
    assert files(settings) == 1
    samples_of(AudioStore(settings.audio_url), sha256_of(engine, take), None)
    assert files(settings) == 2
    assert teacher.post(address, json={"name": "Somebody"}).status_code == 422
    assert files(settings) == 2
    assert teacher.post(address, json={"name": filled.pupil_name.upper()}).status_code == 200
    after = rows(engine)
    assert files(settings) == 0
    # What was done stays in the trail, without a name.
    trail = after.pop("audit_entry")
    assert trail == before.pop("audit_entry") + 3
    assert after == {**before, "pupil": before["pupil"] - 1, "assignment": 0, "assignment_pupil": 0}
    with engine.connect() as connection:
        assert connection.scalar(text("SELECT count(*) FROM procrastinate_jobs")) == 0


def test_a_recording_that_two_pupils_handed_in_stays_for_the_other(
    app: Any, engine: Engine, settings: Settings, filled: Filled, violin_take: bytes
) -> None:
    teacher = Visitor(app).teacher(filled)
    first = hand_in(Visitor(app).pupil(filled), filled, violin_take).json["sha256"]
    with open_session(engine, "tests set it to both") as session:
        own = session.get_one(Assignment, filled.assignment_id)
        own.pupils = list(session.scalars(select(Pupil)))
    second = hand_in(Visitor(app).pupil(filled, filled.other_phrase), filled, violin_take).json
    assert second["sha256"] == first
    teacher.post(f"/api/pupils/{filled.pupil_id}/erase", json={"name": filled.pupil_name})
    samples_of(AudioStore(settings.audio_url), first, None)
    assert teacher.get(f"/api/takes/{second['id']}/audio").status_code == 200
    teacher.post(f"/api/pupils/{filled.other_pupil_id}/erase", json={"name": filled.other_pupil_name})
    assert not AudioStore(settings.audio_url).exists(first, "playback")


def test_a_recording_that_another_studio_holds_too_stays_there(
    app: Any, engine: Engine, settings: Settings, filled: Filled, violin_take: bytes
) -> None:
    """One studio can not see the other's takes: the question who else holds a file is asked over all of them."""
    stranger = fill(engine, settings, "two")
    sha256 = hand_in(Visitor(app).pupil(filled), filled, violin_take).json["sha256"]
    other = hand_in(Visitor(app).pupil(stranger), stranger, violin_take).json
    assert other["sha256"] == sha256
    body = {"name": filled.pupil_name}
    assert Visitor(app).teacher(filled).post(f"/api/pupils/{filled.pupil_id}/erase", json=body).status_code == 200
    assert AudioStore(settings.audio_url).exists(sha256, "original")
    body = {"name": stranger.pupil_name}
    Visitor(app).teacher(stranger).post(f"/api/pupils/{stranger.pupil_id}/erase", json=body)
    assert not AudioStore(settings.audio_url).exists(sha256, "original")


def test_a_teacher_comes_by_a_link_once(app: Any, engine: Engine, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    link = teacher.post("/api/invitations", json={}).json["path"]
    token = link.rsplit("/", 1)[1]
    with open_session(engine, "tests look") as session:
        assert token not in session.scalars(select(Invitation)).one().token_hash
    newcomer = Visitor(app)
    assert newcomer.get(f"/api/session/invitation?token={token}").json["studio"] == "Studio one"
    account = {"token": token, "name": "Ida", "email": "ida@test.example", "password": "a lamp in the bow"}
    taken = newcomer.post("/api/session/invitation", json={**account, "email": filled.email.upper()})
    assert (taken.status_code, taken.json["error"]) == (422, "This e-mail has an account already.")
    come = newcomer.post("/api/session/invitation", json=account)
    assert (come.status_code, come.json["person"]["studio"]) == (201, "Studio one")
    assert {own["name"] for own in teacher.get("/api/teachers").json["teachers"]} == {"Teacher", "Ida"}
    assert Visitor(app).post("/api/session/invitation", json={**account, "email": "b@test.example"}).status_code == 404
    assert Visitor(app).get(f"/api/session/invitation?token={token}").status_code == 404


def test_a_link_that_is_old_or_withdrawn_does_not_open(app: Any, engine: Engine, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    old, gone = (teacher.post("/api/invitations", json={}).json for _ in range(2))
    assert teacher.call("DELETE", f"/api/invitations/{gone['id']}").status_code == 200
    with open_session(engine, "tests wait a week") as session:
        session.scalars(select(Invitation)).one().expires_at = datetime.now(UTC) - timedelta(seconds=1)
    for link in (old, gone):
        token = link["path"].rsplit("/", 1)[1]
        assert Visitor(app).get(f"/api/session/invitation?token={token}").status_code == 404
    assert teacher.get("/api/teachers").json["open"] == []


@pytest.mark.parametrize("demo", [True, False])
def test_only_the_demo_is_thrown_away(
    app: Any, engine: Engine, settings: Settings, filled: Filled, violin_take: bytes, demo: bool
) -> None:
    stranger = fill(engine, settings, "two")
    hand_in(Visitor(app).pupil(filled), filled, violin_take)
    other = hand_in(Visitor(app).pupil(stranger), stranger, violin_take).json["id"]
    samples_of(AudioStore(settings.audio_url), sha256_of(engine, other), None)
    with open_session(engine, "tests make it a demo") as session:
        session.get_one(Studio, filled.studio_id).demo = demo
    teacher = Visitor(app).teacher(filled)
    answer = teacher.call("DELETE", "/api/studio")
    with open_session(engine, "tests look") as session:
        left = {own.name for own in session.scalars(select(Studio))}
        takes = session.scalar(select(func.count()).select_from(Take))
    if not demo:
        assert (answer.status_code, left) == (409, {"Studio one", "Studio two"})
        return
    assert (answer.json["person"], left, takes) == (None, {"Studio two"}, 1)
    # The same recording is another studio's too: it stays.
    assert Visitor(app).teacher(stranger).get(f"/api/takes/{other}/audio").status_code == 200
    assert teacher.get("/api/week").status_code == 401


def test_a_long_list_comes_in_pages_and_is_searched_by_the_database(app: Any, engine: Engine, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    second = teacher.post("/api/classes", json={"name": "A first one"}).json["id"]
    with open_session(engine, "tests make many pupils") as session:
        session.add_all(
            Pupil(
                studio_id=filled.studio_id, group_id=second, name=f"Nora {at:03d}", size="4/4", string_length_mm=690,
                instrument="cello" if at % 2 else "viola", phrase_key=f"{at:064d}", phrase_hash="x",
            )
            for at in range(90)
        )  # fmt: skip
    pages = [teacher.get(f"/api/pupils?page={page}").json for page in (1, 2, 3)]
    names = [own["pupil"]["name"] for page in pages for own in page["pupils"]]
    # Class by class, and by name.
    assert names == [f"Nora {at:03d}" for at in range(90)] + sorted([filled.pupil_name, filled.other_pupil_name])
    assert (pages[0]["pages"], pages[0]["total"], len(pages[2]["pupils"])) == (3, 92, 12)
    assert teacher.get("/api/pupils?page=9").json["page"] == 3
    found = teacher.get("/api/pupils?search=nora+cello").json
    assert (found["total"], {own["pupil"]["instrument"] for own in found["pupils"]}) == (45, {"cello"})
    assert teacher.get("/api/pupils?search=%25").json["total"] == 0
    assert teacher.get(f"/api/pupils?class_id={filled.group_id}").json["total"] == 2
    guest = teacher.get("/api/pupils?search=007").json["pupils"][0]["pupil"]["id"]
    teacher.call("PUT", f"/api/pupils/{guest}/classes", json={"class_ids": [str(filled.group_id)]})
    assert teacher.get(f"/api/pupils?class_id={filled.group_id}").json["total"] == 3
    assert Visitor(app).pupil(filled).get("/api/pupils").status_code == 403


def test_of_several_mistakes_the_first_is_told(app: Any, filled: Filled) -> None:
    """In the order of the form, so that it is put right from its top."""
    body = {"class_id": str(filled.group_id), "name": "", "instrument": "drum", "size": "4/4"}
    told = Visitor(app).teacher(filled).post("/api/pupils", json=body)
    assert (told.status_code, told.json["error"].split(":")[0]) == (422, "Name")
    body["name"] = "Wen"
    assert Visitor(app).teacher(filled).post("/api/pupils", json=body).json["error"].startswith("Instrument: ")
