"""The list that waits: in the order of need, marked together, and by two teachers at one time."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from sqlalchemy import Engine, select

from attentive_owl.settings import Settings
from attentive_owl.store.models import Pupil, Report, Take, Teacher
from attentive_owl.store.passphrases import hash_secret
from attentive_owl.store.session import open_session
from attentive_owl.web.summaries import TakeSummary, _read_whole, summaries
from tests.conftest import PASSWORD, Filled, Visitor, fill
from tests.web.desk import cause, given_take, report


def listed(teacher: Visitor, query: str = "") -> list[tuple[str, str]]:
    return [(row["id"], row["need"]) for row in teacher.get(f"/api/takes{query}").json["takes"]]


def second_teacher(app: Any, engine: Engine, filled: Filled) -> Visitor:
    with open_session(engine, "tests add a teacher") as session:
        session.add(
            Teacher(
                studio_id=filled.studio_id, email="two@test.example", name="Second", password_hash=hash_secret(PASSWORD)
            )
        )
    visitor = Visitor(app)
    assert (
        visitor.post("/api/session/teacher", json={"email": "two@test.example", "password": PASSWORD}).status_code
        == 200
    )
    return visitor


def test_what_wants_an_ear_comes_first_and_says_why(app: Any, engine: Engine, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    plain = given_take(engine, filled, report(), seconds_ago=90)
    look = given_take(
        engine, filled, report(good=False, causes=[cause("drift", title="The tempo falls")]), seconds_ago=80
    )
    wrong = given_take(engine, filled, report(good=False, causes=[cause("key_signature")]), seconds_ago=70)
    refused = given_take(engine, filled, report(refusal="too_noisy"), seconds_ago=60)
    unclear = given_take(engine, filled, report(good=False, unclear=6), seconds_ago=50)
    untimed = given_take(engine, filled, report(good=False, untimed=6), seconds_ago=45)
    hard = given_take(engine, filled, report(), seconds_ago=40, felt="too_hard")
    rows = teacher.get("/api/takes").json["takes"]
    assert [row["id"] for row in rows] == [str(own) for own in (hard, unclear, untimed, refused, wrong, look, plain)]
    assert [row["need"] for row in rows] == ["help", "unclear", "unclear", "refused", "wrong_notes", "look", "plain"]
    assert [row["why"] for row in rows] == [
        "too hard, they say", "6 of 16 notes not sure", "6 notes could not be timed", "not judged: too noisy", "Key signature", "The tempo falls", "",
    ]  # fmt: skip
    # From the page of one take the way goes on in the same order, and at the end back to the first.
    assert teacher.get(f"/api/takes/{refused}").json["next_unmarked_id"] == str(wrong)
    last = teacher.get(f"/api/takes/{plain}").json
    assert (last["next_unmarked_id"], last["left"], last["need"]) == (str(hard), 6, "plain")


def test_a_class_has_the_takes_of_its_own_and_of_its_guests(app: Any, engine: Engine, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    own = str(given_take(engine, filled, report()))
    # Whichever way their keys are sorted: a guest of one class is no guest of the other.
    classes = [teacher.post("/api/classes", json={"name": f"Class {n}"}).json["id"] for n in range(8)]
    for guested in classes[:2]:
        teacher.call("PUT", f"/api/pupils/{filled.pupil_id}/classes", json={"class_ids": [guested]})
        for query in ("", "&only=all"):
            found = {key for key in (str(filled.group_id), *classes) if listed(teacher, f"?class_id={key}{query}")}
            assert found == {str(filled.group_id), guested}
            assert [take for take, _ in listed(teacher, f"?class_id={guested}{query}")] == [own]


def test_a_figure_of_a_list_is_the_same_from_its_column_and_from_the_whole_report(
    engine: Engine, filled: Filled
) -> None:
    """A list reads columns; where a teacher overruled the check it reads the report as it stands. Nobody may tell the two apart."""
    for own in (
        report(),
        report(good=False, unclear=3, causes=[cause("drift"), cause("key_signature")]),
        report(refusal="too_noisy"),
        report(good=False, untimed=7),
        report(untimed=5, mode="pauses"),
    ):
        given_take(engine, filled, own)
    with open_session(engine, "tests read a list") as session:
        by_columns = summaries(session, select(Take))
        rows = [TakeSummary(row.take, row.mark, False, None, None, None, None, None) for row in by_columns]
        _read_whole(session, {row.take.id: row for row in rows}, {row.take.id for row in rows})
        assert rows == by_columns
        assert {row.refusal for row in rows} == {None, "too noisy"}
        assert [len(row.causes) for row in rows].count(2) == 1
        assert sorted(row.untimed for row in rows) == [0, 0, 0, 0, 7]


def test_beside_a_take_lie_the_last_twenty_of_the_same_exercise(app: Any, engine: Engine, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    takes = [str(given_take(engine, filled, report(), seconds_ago=60 * ago)) for ago in range(23)]
    given_take(engine, filled, report(refusal="too_noisy"), seconds_ago=5)
    others = [other["id"] for other in teacher.get(f"/api/takes/{takes[1]}").json["others"]]
    assert others == [takes[0], *takes[2:21]]


def test_the_spots_worth_hearing_are_the_teacher_s(app: Any, engine: Engine, filled: Filled) -> None:
    take = given_take(engine, filled, report(good=False, causes=[cause("finger", notes=(4, 8, 12), title="Low")]))
    seen = [
        visitor.get(f"/api/takes/{take}").json["spots"]
        for visitor in (Visitor(app).teacher(filled), Visitor(app).pupil(filled))
    ]
    assert [[spot["words"] for spot in spots] for spots in seen] == [["Low", "Low"], []]


def test_far_from_the_usual_is_told_either_way(app: Any, engine: Engine, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    for day in range(3, 9):
        take = given_take(engine, filled, report(home=15), days_ago=day)
        teacher.post(f"/api/takes/{take}/marks", json={"verdict": "accepted"})
    given_take(engine, filled, report(home=13))
    assert [need for _, need in listed(teacher)] == ["plain"]
    given_take(engine, filled, report(home=6))
    row = teacher.get("/api/takes").json["takes"][0]
    assert row["need"] == "unusual"
    assert row["why"] == "far below the usual: 38 % of the notes at home, 94 % as a rule"


def test_of_a_take_that_was_checked_again_the_newest_report_is_usual(app: Any, engine: Engine, filled: Filled) -> None:
    """The old ones said that hardly a note was home; their keys stand after those of the new ones."""
    teacher = Visitor(app).teacher(filled)
    for day in range(3, 9):
        take = given_take(engine, filled, report(home=15), days_ago=day)
        with open_session(engine, "tests make an older report") as session:
            now = session.scalars(select(Report).where(Report.take_id == take)).one()
            older = report(home=2).to_document()
            session.add(Report(id=uuid.UUID(int=2**128 - day), studio_id=filled.studio_id, take_id=take, engine="ear-0",
                               document=older, created_at=now.created_at - timedelta(days=1)))  # fmt: skip
        teacher.post(f"/api/takes/{take}/marks", json={"verdict": "accepted"})
    given_take(engine, filled, report(home=6))
    assert [row["why"] for row in teacher.get("/api/takes").json["takes"]] == [
        "far below the usual: 38 % of the notes at home, 94 % as a rule"
    ]


@pytest.mark.parametrize(("seconds", "need"), [(-600, "unusual"), (600, "plain")])
def test_what_lies_sixty_days_back_is_usual_no_more(
    app: Any, engine: Engine, filled: Filled, seconds: int, need: str
) -> None:
    teacher = Visitor(app).teacher(filled)
    for number in range(6):
        take = given_take(engine, filled, report(home=15), days_ago=60, seconds_ago=seconds + number)
        teacher.post(f"/api/takes/{take}/marks", json={"verdict": "accepted"})
    given_take(engine, filled, report(home=6))
    assert [needs for _, needs in listed(teacher)] == [need]


def test_filters_are_the_databases(app: Any, engine: Engine, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    one, two = (
        given_take(engine, filled, report()),
        given_take(engine, filled, report(), pupil_id=filled.other_pupil_id),
    )
    for query in ("", "&only=all"):
        assert {own for own, _ in listed(teacher, f"?search=Pupil%200{query}")} == {str(one)}
        assert {own for own, _ in listed(teacher, f"?pupil_id={filled.other_pupil_id}{query}")} == {str(two)}
        assert {own for own, _ in listed(teacher, f"?class_id={filled.group_id}&search=scale{query}")} == set()
        assert len(listed(teacher, f"?class_id={filled.group_id}&search=D%20major{query}")) == 2
        assert listed(teacher, f"?instrument=cello{query}") == []
        # A sign that means something to the database means itself.
        assert listed(teacher, f"?search=%25{query}") == []


def test_plain_ones_are_accepted_together_and_taken_back(app: Any, engine: Engine, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    takes = [given_take(engine, filled, report()) for _ in range(3)]
    checking = given_take(engine, filled)
    teacher.post(f"/api/takes/{takes[0]}/marks", json={"verdict": "once_more", "remark": "Mine."})
    body = {"take_ids": [str(own) for own in (*takes, checking)], "verdict": "accepted", "remark": "Good."}
    made = teacher.post("/api/marks", json=body)
    assert (made.status_code, len(made.json["marks"]), made.json["left_out"]) == (201, 2, 2)
    assert teacher.get(f"/api/takes/{takes[0]}").json["marks"][-1]["remark"] == "Mine."
    for mark in made.json["marks"]:
        assert teacher.call("DELETE", f"/api/marks/{mark['id']}").status_code == 200
    assert {own for own, _ in listed(teacher)} == {str(own) for own in (*takes[1:], checking)}


def test_two_teachers_do_not_write_over_each_other(app: Any, engine: Engine, filled: Filled) -> None:
    first, second = Visitor(app).teacher(filled), second_teacher(app, engine, filled)
    take = given_take(engine, filled, report())
    said = first.post(f"/api/takes/{take}/marks", json={"verdict": "accepted", "remark": "Lovely."}).json
    late = second.post(f"/api/takes/{take}/marks", json={"verdict": "once_more", "remark": "No."})
    assert late.status_code == 409
    assert late.json["error"].startswith("Teacher has said something of this take in the meantime: “accepted”.")
    assert [own["remark"] for own in second.get(f"/api/takes/{take}").json["marks"]] == ["Lovely."]
    seen = second.post(
        f"/api/takes/{take}/marks", json={"verdict": "once_more", "remark": "And yet.", "after": said["id"]}
    )
    assert seen.status_code == 201


def test_the_teachers_own_words_on_the_same_thing_are_drafted(
    app: Any, engine: Engine, filled: Filled, settings: Settings
) -> None:
    teacher = Visitor(app).teacher(filled)
    low = cause("finger", finger=2, string=None, cents=-20.0, towards="bridge")
    high = cause("finger", finger=2, string=None, cents=20.0, towards="scroll")
    for made, words in (
        (low, "Let the second finger lean on the third."),
        (high, "Lower, please."),
        (low, "Well, Pupil, higher!"),
    ):
        own = given_take(engine, filled, report(good=False, causes=[made]))
        teacher.post(f"/api/takes/{own}/marks", json={"verdict": "once_more", "remark": words})
    fresh = given_take(engine, filled, report(good=False, causes=[low]))
    drafts = teacher.get(f"/api/takes/{fresh}/drafts").json["drafts"]
    assert [own["text"] for own in drafts if own["source"] == "own"] == ["Let the second finger lean on the third."]
    # Each teacher's own words, whichever way their keys are sorted.
    second = second_teacher(app, engine, filled)
    assert [own for own in second.get(f"/api/takes/{fresh}/drafts").json["drafts"] if own["source"] == "own"] == []
    own = given_take(engine, filled, report(good=False, causes=[low]))
    second.post(f"/api/takes/{own}/marks", json={"verdict": "once_more", "remark": "Up a little."})
    for visitor, words in ((second, ["Up a little."]), (teacher, ["Let the second finger lean on the third."])):
        drafts = visitor.get(f"/api/takes/{fresh}/drafts").json["drafts"]
        assert [own["text"] for own in drafts if own["source"] == "own"] == words
    stranger = fill(engine, settings, "three")
    assert Visitor(app).teacher(stranger).get(f"/api/takes/{fresh}/drafts").status_code == 404


def test_who_has_left_does_not_wait(app: Any, engine: Engine, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    given_take(engine, filled, report())
    with open_session(engine, "tests archive") as session:
        session.get_one(Pupil, filled.pupil_id).archived_at = datetime.now(UTC)
    assert listed(teacher) == []
    assert len(listed(teacher, "?only=all")) == 1


def test_a_take_of_nobody_is_not_marked(app: Any, engine: Engine, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    answer = teacher.post("/api/marks", json={"take_ids": [str(uuid.uuid4())], "verdict": "accepted"})
    assert (answer.status_code, answer.json) == (201, {"marks": [], "left_out": 1})


def test_what_the_teacher_says_of_a_note_changes_what_it_needs(app: Any, engine: Engine, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    take = given_take(engine, filled, report())
    assert [need for _, need in listed(teacher)] == ["plain"]
    teacher.post(f"/api/takes/{take}/overrules", json={"note_index": 3, "says": "missed"})
    row = teacher.get("/api/takes").json["takes"][0]
    assert (row["need"], row["good"]) == ("look", False)
