"""A week's sheet: written, copied, looked at, sent to whom it is for, taken back."""

from __future__ import annotations

import io
from datetime import date, timedelta
from typing import Any

import pytest
from pypdf import PdfReader
from sqlalchemy import Engine

from attentive_owl.settings import Settings
from tests.conftest import Filled, Visitor, fill
from tests.web.desk import given_take, report

D = {"tonic": "D", "pattern": "quarters", "tempo_bpm": 72}
RHYTHM = {"tonic": "D", "family": "open-string", "pattern": "quarter-eighths", "string": "A", "tempo_bpm": 66}
SOON = (date.today() + timedelta(days=5)).isoformat()


def item(recipe: dict[str, Any] = D, **more: Any) -> dict[str, Any]:
    return {"recipe": recipe, "target_bpm": 72, "good_repeats": 4, **more}


@pytest.fixture
def teacher(app: Any, filled: Filled) -> Visitor:
    """With a second class of a cello, who comes to the first class as well."""
    own = Visitor(app).teacher(filled)
    other = own.post("/api/classes", json={"name": "Second"}).json["id"]
    body = {"class_id": other, "name": "Cello", "instrument": "cello", "size": "4/4"}
    cello = own.post("/api/pupils", json=body).json["pupil"]["id"]
    own.call("PUT", f"/api/pupils/{cello}/classes", json={"class_ids": [str(filled.group_id)]})
    own.second, own.cello = other, cello  # type: ignore[attr-defined]
    return own


def begin(teacher: Visitor, *items: dict[str, Any], **more: Any) -> dict[str, Any]:
    made = teacher.post("/api/sheets", json={"due_on": SOON, "items": list(items), **more})
    assert made.status_code == 201, made.json
    return dict(made.json)


def names(teacher: Visitor, sheet: dict[str, Any]) -> dict[str, list[str]]:
    pages = teacher.get(f"/api/sheets/{sheet['id']}/pages").json["pages"]
    return {page["name"]: [own["title"] for own in page["items"]] for page in pages}


def test_it_goes_to_whom_it_is_for(teacher: Visitor, filled: Filled) -> None:
    scale = "D major, one octave, quarters"
    sheet = begin(
        teacher,
        item(),
        item(RHYTHM, audience={"instruments": ["cello"]}),
        item(RHYTHM, audience={"class_ids": [teacher.second]}),  # type: ignore[attr-defined]
        item(RHYTHM, audience={"pupil_ids": [str(filled.other_pupil_id)]}),
    )
    found = names(teacher, sheet)
    assert list(found) == ["Cello", "Pupil 0 of one", "Pupil 1 of one"]
    assert found["Pupil 0 of one"] == [found["Cello"][0]] == [scale]
    assert (len(found["Cello"]), len(found["Pupil 1 of one"])) == (3, 2)
    assert found["Cello"][1] == "Pattern on an open string, quarter, two eighths"
    # A guest is of the class as well.
    guests = begin(teacher, item(audience={"class_ids": [str(filled.group_id)]}))
    assert len(names(teacher, guests)) == 3


def test_what_is_different_for_one_pupil_is_their_own_assignment(app: Any, teacher: Visitor, filled: Filled) -> None:
    changes = [
        {"pupil_id": str(filled.pupil_id), "target_bpm": 60, "note": "Slower for you."},
        {"pupil_id": teacher.cello, "left_out": True},  # type: ignore[attr-defined]
    ]
    sheet = begin(teacher, item(note="For all.", ladder_from_bpm=66, changes=changes))
    sent = teacher.post(f"/api/sheets/{sheet['id']}/send")
    assert (sent.status_code, sent.json["pupils"], sent.json["exercises"]) == (200, 2, 1), sent.json
    own = [own for own in teacher.get("/api/week").json["assignments"] if own["sheet_id"] == sheet["id"]]
    by_pupil = {standing["pupil_name"]: one for one in own for standing in one["standings"]}
    assert set(by_pupil) == {"Pupil 0 of one", "Pupil 1 of one"}
    slow, usual = by_pupil["Pupil 0 of one"], by_pupil["Pupil 1 of one"]
    assert (slow["target_bpm"], slow["note"], slow["ladder_from_bpm"]) == (60, "Slower for you.", 60)
    assert (usual["target_bpm"], usual["note"], usual["ladder_from_bpm"]) == (72, "For all.", 66)
    today = Visitor(app).pupil(filled).get("/api/today").json["items"]
    assert {one["note"] for one in today} == {"", "Slower for you."}
    assert teacher.post(f"/api/sheets/{sheet['id']}/send").status_code == 409


def test_it_is_taken_back_until_somebody_has_recorded(teacher: Visitor, engine: Engine, filled: Filled) -> None:
    sheet = begin(teacher, item())
    address = f"/api/sheets/{sheet['id']}/send"
    teacher.post(address)
    assert teacher.call("DELETE", address).json["kind"] == "draft"
    assert not any(own["sheet_id"] for own in teacher.get("/api/week").json["assignments"])
    teacher.post(address)
    assignment = next(own["id"] for own in teacher.get("/api/week").json["assignments"] if own["sheet_id"])
    given_take(engine, filled, report(), assignment_id=assignment)
    assert teacher.call("DELETE", address).status_code == 409
    assert teacher.get(f"/api/sheets/{sheet['id']}").json["kind"] == "sent"


@pytest.mark.parametrize(("was_due", "is_due"), [(-8, 6), (-7, 7), (-1, 6), (0, 7), (1, 1)])
def test_a_copy_is_due_on_the_same_weekday_that_lies_ahead(
    teacher: Visitor, filled: Filled, was_due: int, is_due: int
) -> None:
    was, due = ((date.today() + timedelta(days=days)).isoformat() for days in (was_due, is_due))
    sheet = begin(teacher, item(), due_on=was)
    assert teacher.post("/api/sheets", json={"copy_of": sheet["id"]}).json["due_on"] == due


def test_last_week_is_copied_with_its_day_a_week_on(teacher: Visitor, filled: Filled) -> None:
    sheet = begin(teacher, item(), name="Harbour week")
    copy = teacher.post("/api/sheets", json={"copy_of": sheet["id"]}).json
    assert (copy["name"], copy["items"], copy["due_on"]) == ("Harbour week", sheet["items"], SOON)
    kept = teacher.post(f"/api/sheets/{sheet['id']}/template", json={"name": "First weeks"}).json
    assert (kept["kind"], kept["due_on"]) == ("template", None)
    from_it = teacher.post("/api/sheets", json={"copy_of": kept["id"]}).json
    assert from_it["due_on"] == (date.today() + timedelta(days=7)).isoformat()
    teacher.post(f"/api/sheets/{sheet['id']}/send")
    assert [own["kind"] for own in teacher.get("/api/sheets").json["sheets"]] == ["draft", "draft", "template", "sent"]
    assert teacher.call("DELETE", f"/api/sheets/{sheet['id']}").status_code == 409
    assert teacher.call("DELETE", f"/api/sheets/{kept['id']}").status_code == 200


def test_a_template_names_nobody(teacher: Visitor, filled: Filled) -> None:
    own = {"audience": {"pupil_ids": [str(filled.pupil_id)], "instruments": ["violin"]}, "changes": [{"pupil_id": str(filled.pupil_id), "left_out": True}]}  # fmt: skip
    sheet = begin(teacher, item(**own))
    kept = teacher.post(f"/api/sheets/{sheet['id']}/template", json={"name": "T"}).json["items"][0]
    assert kept["audience"] == {"class_ids": [], "instruments": ["violin"], "pupil_ids": []}
    assert kept["changes"] == []


def test_two_writers_do_not_write_over_each_other(teacher: Visitor) -> None:
    sheet = begin(teacher, item())
    body = {"name": "Mine", "due_on": SOON, "items": [item()], "seen": sheet["changed_at"]}
    saved = teacher.call("PUT", f"/api/sheets/{sheet['id']}", json=body)
    assert (saved.status_code, saved.json["name"]) == (200, "Mine")
    late = teacher.call("PUT", f"/api/sheets/{sheet['id']}", json={**body, "name": "Late"})
    assert late.status_code == 409
    assert teacher.get(f"/api/sheets/{sheet['id']}").json["name"] == "Mine"


@pytest.mark.parametrize(
    ("changes", "sentence"),
    [
        ({"due_on": None}, "Say until when: the sheet has no day yet."),
        ({"due_on": "2020-01-01"}, "The due day lies in the past."),
        ({"items": []}, "There is nothing on the sheet for anybody yet."),
    ],
)
def test_what_can_not_be_sent_says_why(teacher: Visitor, changes: dict[str, Any], sentence: str) -> None:
    sheet = (
        begin(teacher, **{"due_on": SOON, "items": [item()], **changes})
        if "items" in changes
        else begin(teacher, item(), **changes)
    )
    answer = teacher.post(f"/api/sheets/{sheet['id']}/send")
    assert (answer.status_code, answer.json["error"]) == (422, sentence)


def test_only_a_draft_is_sent(teacher: Visitor) -> None:
    sheet = begin(teacher, item())["id"]
    template = teacher.post(f"/api/sheets/{sheet}/template", json={"name": "Often"}).json["id"]
    assert teacher.post(f"/api/sheets/{sheet}/send").status_code == 200
    for own, sentence in ((sheet, "This sheet was sent already."), (template, "A template is copied, then sent.")):
        answer = teacher.post(f"/api/sheets/{own}/send")
        assert (answer.status_code, answer.json["error"]) == (409, sentence)


def test_an_instrument_that_can_not_play_it_is_told_and_left_out(teacher: Visitor, filled: Filled) -> None:
    e_string = {**RHYTHM, "string": "E", "pattern": "quarters"}
    sheet = begin(teacher, item(e_string))
    pages = {page["name"]: page for page in teacher.get(f"/api/sheets/{sheet['id']}/pages").json["pages"]}
    assert pages["Cello"]["items"] == []
    assert "E" in pages["Cello"]["can_not"][0]
    teacher.post(f"/api/sheets/{sheet['id']}/send")
    sent = [own for own in teacher.get("/api/week").json["assignments"] if own["sheet_id"]]
    assert [own["pupil_name"] for own in sent[0]["standings"]] == ["Pupil 0 of one", "Pupil 1 of one"]


def test_on_paper_everybody_has_a_page(teacher: Visitor, filled: Filled) -> None:
    sheet = begin(teacher, item(note="Slow and ringing."))
    whole = PdfReader(io.BytesIO(teacher.get(f"/api/sheets/{sheet['id']}/paper.pdf").data))
    assert len(whole.pages) == 3
    text = whole.pages[1].extract_text()
    assert "Pupil 0 of one" in text
    assert "4 good goes a day, on 5 days, up to 72" in text
    assert "Slow and ringing." in text
    # Four goes of sixteen quarters at 72 (13 s) with 25 s about each, and three minutes to get ready: 5.6 minutes.
    assert "About 10 minutes a day" in " ".join(text.split())
    one = teacher.get(f"/api/sheets/{sheet['id']}/paper.pdf?pupil_id={filled.pupil_id}").data
    assert len(PdfReader(io.BytesIO(one)).pages) == 1
    nobody = teacher.get(f"/api/sheets/{begin(teacher)['id']}/paper.pdf")
    assert (nobody.status_code, nobody.json["error"]) == (422, "There is nothing on the sheet for anybody yet.")


def test_another_studio_sees_no_sheet(app: Any, engine: Engine, settings: Settings, teacher: Visitor) -> None:
    sheet = begin(teacher, item())
    stranger = Visitor(app).teacher(fill(engine, settings, "two"))
    assert stranger.get("/api/sheets").json["sheets"] == []
    for method, end in (("GET", ""), ("GET", "/pages"), ("POST", "/send"), ("DELETE", ""), ("GET", "/paper.pdf")):
        assert stranger.call(method, f"/api/sheets/{sheet['id']}{end}").status_code == 404
    assert stranger.post("/api/sheets", json={"copy_of": sheet["id"]}).status_code == 404


def test_a_press_puts_a_warm_up_on_the_sheet_that_is_being_written(teacher: Visitor, filled: Filled) -> None:
    one = teacher.post("/api/sheets/add", json={"recipe": D, "pupil_ids": [str(filled.pupil_id)]}).json
    assert (one["kind"], one["due_on"]) == ("draft", (date.today() + timedelta(days=7)).isoformat())
    assert (one["items"][0]["target_bpm"], one["items"][0]["ladder_from_bpm"]) == (72, 54)
    # For another pupil it is the same exercise for two.
    two = teacher.post("/api/sheets/add", json={"recipe": D, "pupil_ids": [str(filled.other_pupil_id)]}).json
    assert two["id"] == one["id"]
    assert [set(own["audience"]["pupil_ids"]) for own in two["items"]] == [
        {str(filled.pupil_id), str(filled.other_pupil_id)}
    ]
    three = teacher.post("/api/sheets/add", json={"recipe": RHYTHM, "class_ids": [str(filled.group_id)]}).json
    assert (len(three["items"]), three["items"][1]["audience"]["class_ids"]) == (2, [str(filled.group_id)])
    lesson = {"class_id": str(filled.group_id), "day": SOON, "starts": "10:00", "minutes": 45}
    teacher.post("/api/lessons", json=lesson)
    teacher.post(f"/api/sheets/{one['id']}/send")
    fresh = teacher.post("/api/sheets/add", json={"recipe": D}).json
    assert (fresh["id"] != one["id"], fresh["due_on"]) == (True, SOON)


def test_sheets_and_the_shelf_are_paged_and_searched(teacher: Visitor) -> None:
    for number in range(27):
        begin(teacher, name=f"Week {number:02d}")
    first, last = teacher.get("/api/sheets").json, teacher.get("/api/sheets?page=9").json
    assert (len(first["sheets"]), len(last["sheets"]), last["page"], last["pages"]) == (25, 2, 2, 2)
    assert [own["name"] for own in teacher.get("/api/sheets?search=week%2007").json["sheets"]] == ["Week 07"]
    assert teacher.get("/api/sheets?search=%25").json["sheets"] == []
    for bpm in range(60, 111):
        teacher.post("/api/exercises", json={"recipe": {**D, "tempo_bpm": bpm}, "title": f"At {bpm}"})
    pages = [teacher.get(f"/api/exercises?page={page}").json for page in (1, 2)]
    assert [len(own["exercises"]) for own in pages] == [50, 1]
    assert {own["pages"] for own in pages} == {2}
    assert len({own["id"] for page in pages for own in page["exercises"]}) == 51
