"""The picture of a class, what is wrong together, what comes next, one pupil's story, and what is passed."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from sqlalchemy import Engine, event, update
from sqlalchemy.engine import Engine as SqlEngine

from attentive_owl.store.models import Assignment, DeclinedSuggestion, PassedStep, Pupil
from attentive_owl.store.session import open_session
from tests.conftest import Filled, Visitor
from tests.web.desk import cause, given_take, report

SCALE = {"tonic": "D", "tempo_bpm": 60}


@pytest.fixture
def teacher(app: Any, engine: Engine, filled: Filled) -> Visitor:
    """The scale was set two weeks ago, to both."""
    with open_session(engine, "tests set it earlier") as session:
        own = session.get_one(Assignment, filled.assignment_id)
        own.created_at = datetime.now(UTC) - timedelta(days=14)
        own.pupils = [session.get_one(Pupil, one) for one in (filled.pupil_id, filled.other_pupil_id)]
    return Visitor(app).teacher(filled)


def states(teacher: Visitor, query: str = "") -> dict[str, list[str]]:
    found = teacher.get(f"/api/progress{query}").json
    return {row["name"]: [cell["state"] for cell in row["cells"]] for row in found["pupils"]}


def test_the_class_by_what_was_set(teacher: Visitor, engine: Engine, filled: Filled) -> None:
    assert states(teacher) == {"Pupil 0 of one": ["not_practised"], "Pupil 1 of one": ["not_practised"]}
    given_take(engine, filled, report(), days_ago=2, bpm=80)
    given_take(engine, filled, report(), days_ago=1)
    given_take(engine, filled, report(good=False, home=6), pupil_id=filled.other_pupil_id, days_ago=1)
    own = teacher.get("/api/progress").json
    assert [step["title"] for step in own["steps"]] == ["D major, one octave, quarters"]
    ready, on_the_way = (row["cells"][0] for row in own["pupils"])
    assert (ready["state"], ready["best_bpm"], ready["goes"]) == ("ready", 100, 2)
    assert (on_the_way["state"], on_the_way["best_bpm"]) == ("on_the_way", None)
    passed = teacher.post(f"/api/pupils/{filled.pupil_id}/passed", json={"recipe": SCALE})
    assert states(teacher)["Pupil 0 of one"] == ["passed"]
    teacher.call("DELETE", f"/api/passed/{passed.json['id']}")
    assert states(teacher)["Pupil 0 of one"] == ["ready"]


def test_the_class_by_a_path_knows_a_step_at_whatever_tempo(teacher: Visitor, engine: Engine, filled: Filled) -> None:
    path = teacher.get("/api/paths").json["paths"][0]
    steps = teacher.get(f"/api/progress?path_id={path['id']}").json["steps"]
    at = next(at for at, step in enumerate(steps) if step["title"].startswith("D major, one octave, quarters"))
    # The path has it at 60; it was set at 100.
    assert states(teacher, f"?path_id={path['id']}")["Pupil 0 of one"][at] == "not_practised"
    assert set(states(teacher, f"?path_id={path['id']}")["Pupil 0 of one"]) == {"not_practised", "not_set"}
    assert teacher.get("/api/progress?class_id=00000000-0000-0000-0000-000000000000").status_code == 404


def test_stuck_says_since_when(teacher: Visitor, engine: Engine, filled: Filled) -> None:
    for ago in (10, 9, 7, 4, 2, 1):
        given_take(engine, filled, report(good=False, home=9), days_ago=ago)
    cell = teacher.get("/api/progress").json["pupils"][0]["cells"][0]
    story = teacher.get(f"/api/pupils/{filled.pupil_id}/story").json["steps"][0]
    assert (cell["state"], cell["since"]) == ("stuck", story["goes"][0]["recorded_at"][:10])


def test_a_teachers_ear_counts_in_the_picture(teacher: Visitor, engine: Engine, filled: Filled) -> None:
    """An overruled take is read whole: what a list says is what the take says."""
    take = given_take(engine, filled, report())
    assert states(teacher)["Pupil 0 of one"] == ["ready"]
    teacher.post(f"/api/takes/{take}/overrules", json={"note_index": 3, "says": "missed"})
    assert teacher.get(f"/api/takes/{take}").json["report"]["good_go"]["good"] is False
    assert states(teacher)["Pupil 0 of one"] == ["on_the_way"]


def test_what_is_wrong_together_is_a_warm_up_by_one_press(teacher: Visitor, engine: Engine, filled: Filled) -> None:
    low = cause("finger", finger=2, cents=-20.0, mm=3.1, towards="bridge", title="Second finger stands low")
    for pupil in (filled.pupil_id, filled.other_pupil_id):
        given_take(engine, filled, report(good=False, causes=[low], wrong=["F#4", "F#5"]), pupil_id=pupil)
    given_take(engine, filled, report(good=False, causes=[cause("drift")]))
    found = teacher.get("/api/together").json
    assert (found["of"], [(own["title"], len(own["pupils"])) for own in found["shared"]]) == (
        2, [("F sharp on another pitch", 2), ("Second finger stands low", 2)],
    )  # fmt: skip
    note, finger = found["shared"]
    assert {own["name"] for own in note["warm_up"]["line"]} == {"E4", "F#4", "G4"}
    assert (finger["warm_up"]["family"], finger["warm_up"]["finger"]) == ("one-finger", 2)
    sheet = teacher.post("/api/sheets/add", json={"recipe": note["warm_up"]}).json
    assert len(teacher.get(f"/api/sheets/{sheet['id']}/pages").json["pages"]) == 2
    given_take(engine, filled, report(good=False, causes=[cause("stop")]), days_ago=20)
    assert "Stop" not in [own["title"] for own in teacher.get("/api/together").json["shared"]]


def test_what_might_come_next(teacher: Visitor, engine: Engine, filled: Filled) -> None:
    path = teacher.get("/api/paths").json["paths"][0]
    teacher.call("PATCH", f"/api/pupils/{filled.pupil_id}", json={"path_id": path["id"]})
    own = next(p for p in teacher.get("/api/suggestions").json["pupils"] if p["pupil_id"] == str(filled.pupil_id))
    # Something that is set and not practised comes first: nothing new beside it.
    assert own["suggestions"] == []
    given_take(engine, filled, report(good=False, causes=[cause("scatter", finger=1)]), days_ago=3)
    given_take(engine, filled, report(good=False, causes=[cause("scatter", finger=1)]), days_ago=1)
    own = next(p for p in teacher.get("/api/suggestions").json["pupils"] if p["pupil_id"] == str(filled.pupil_id))
    assert [(one["kind"], one["reason"]) for one in own["suggestions"]] == [
        ("repair", "Scatter: twice in the last two weeks"), ("next", "the first step of the path"),
    ]  # fmt: skip
    assert own["suggestions"][1]["title"] == path["steps"][0]["title"]
    assert teacher.get(f"/api/suggestions?pupil_id={filled.pupil_id}").json["pupils"] == [own]
    assert teacher.get("/api/suggestions?pupil_id=00000000-0000-0000-0000-000000000000").status_code == 404


def test_a_pass_moves_the_place_on_the_path_over_what_is_passed(teacher: Visitor, filled: Filled, app: Any) -> None:
    path = teacher.get("/api/paths").json["paths"][0]
    address = f"/api/pupils/{filled.pupil_id}"
    teacher.call("PATCH", address, json={"path_id": path["id"]})
    steps = [step["recipe"] for step in path["steps"]]
    for at, place in ((1, 0), (0, 2), (2, 3)):
        body = {"recipe": steps[at], "rubric": [{"line": "Bow hold", "word": "nearly"}], "remark": "Well held."}
        assert teacher.post(f"{address}/passed", json=body).status_code == 201
        assert teacher.get(address).json["pupil"]["path_step"] == place
    again = teacher.post(f"{address}/passed", json={"recipe": {**steps[0], "tempo_bpm": 100}})
    assert (again.status_code, "passed already" in again.json["error"]) == (409, True)
    story = teacher.get(f"{address}/story").json
    assert (story["keys"], len(story["patterns"])) == ([], 3)
    assert story["passed"][0]["rubric"] == [{"line": "Bow hold", "word": "nearly"}]
    record = Visitor(app).pupil(filled).get("/api/record").json
    assert [own["title"] for own in record["passed"]] == [own["title"] for own in story["passed"]]


def test_a_path_that_was_shortened_behind_a_pupil_holds_no_pass_up(teacher: Visitor, filled: Filled) -> None:
    path = teacher.get("/api/paths").json["paths"][0]
    address = f"/api/pupils/{filled.pupil_id}"
    teacher.call("PATCH", address, json={"path_id": path["id"], "path_step": len(path["steps"])})
    shorter = {"name": path["name"], "about": path["about"], "steps": path["steps"][:2]}
    assert teacher.call("PUT", f"/api/paths/{path['id']}", json=shorter).status_code == 200
    assert teacher.post(f"{address}/passed", json={"recipe": path["steps"][2]["recipe"]}).status_code == 201


def test_a_take_of_another_pupil_passes_nobody(teacher: Visitor, engine: Engine, filled: Filled) -> None:
    take = given_take(engine, filled, report(), pupil_id=filled.other_pupil_id)
    body = {"recipe": SCALE, "take_id": str(take)}
    assert teacher.post(f"/api/pupils/{filled.pupil_id}/passed", json=body).status_code == 404
    own = teacher.post(f"/api/pupils/{filled.other_pupil_id}/passed", json=body)
    assert (own.status_code, own.json["at_lesson"], own.json["title"]) == (201, False, "D major, one octave, quarters")
    assert teacher.get(f"/api/pupils/{filled.other_pupil_id}/story").json["keys"] == ["D major"]


def test_habits_come_and_go_in_millimetres(teacher: Visitor, engine: Engine, filled: Filled) -> None:
    for ago, mm in ((22, 6.0), (21, 5.0), (8, 2.0)):
        low = cause("finger", finger=2, cents=-20.0, mm=mm, towards="bridge", title="Second finger stands low")
        given_take(engine, filled, report(good=False, causes=[low]), days_ago=ago)
    given_take(engine, filled, report(), days_ago=0)
    habit = teacher.get(f"/api/pupils/{filled.pupil_id}/story").json["habits"][0]
    weeks = {week["monday"]: (week["takes"], week["of"], week["mm"]) for week in habit["weeks"]}
    assert habit["title"] == "Second finger stands low"
    assert sum(takes for takes, *_ in weeks.values()) == 3
    # It stands towards the scroll; and in the last week it was not heard.
    assert list(weeks.values())[-1] == (0, 1, None)
    assert all(mm < 0 for *_, mm in weeks.values() if mm is not None)
    assert list(weeks.values())[-2][2] == -2.0


def test_two_fingers_are_two_habits(teacher: Visitor, engine: Engine, filled: Filled) -> None:
    for finger in (2, 2, 3, 3):
        own = cause("finger", finger=finger, mm=4.0, towards="bridge", title=f"Finger {finger} stands low")
        given_take(engine, filled, report(good=False, causes=[own]), days_ago=3)
    habits = teacher.get(f"/api/pupils/{filled.pupil_id}/story").json["habits"]
    assert {habit["title"]: sum(week["takes"] for week in habit["weeks"]) for habit in habits} == {
        "Finger 2 stands low": 2,
        "Finger 3 stands low": 2,
    }


@pytest.mark.parametrize(
    "address",
    [
        "/api/takes",
        "/api/takes?only=all",
        "/api/progress",
        "/api/together",
        "/api/suggestions",
        "/api/week",
        "/api/classes",
        "/api/pupils",
        "/api/records.pdf",
        "/api/results.csv",
        "/api/sheets",
    ],
)
def test_no_view_asks_once_for_each_row(teacher: Visitor, engine: Engine, filled: Filled, address: str) -> None:
    """The same number of statements for two pupils with three takes and one sheet as for twelve with thirty and four."""

    def counted() -> int:
        statements: list[str] = []

        def note_down(*arguments: Any) -> None:
            statements.append(arguments[2])

        event.listen(SqlEngine, "before_cursor_execute", note_down)
        try:
            assert teacher.get(address).status_code == 200
        finally:
            event.remove(SqlEngine, "before_cursor_execute", note_down)
        return len(statements)

    for _ in range(3):
        given_take(engine, filled, report())
    teacher.post("/api/sheets/add", json={"recipe": SCALE})
    # The first one leaves a line in the audit trail, the next ones none.
    counted()
    few = counted()
    with open_session(engine, "tests make a class grow") as session:
        further = [
            Pupil(
                studio_id=filled.studio_id, group_id=filled.group_id, name=f"Further {at}", instrument="viola", size="4/4",
                string_length_mm=370, phrase_key=f"{at:064d}", phrase_hash="x",
            )
            for at in range(10)
        ]  # fmt: skip
        session.get_one(Assignment, filled.assignment_id).pupils += further
    everybody = [filled.pupil_id, filled.other_pupil_id, *(own.id for own in further)]
    for at in range(27):
        given_take(engine, filled, report(good=at % 2 == 0), pupil_id=everybody[at % 12])
    for _ in range(3):
        assert teacher.post("/api/sheets", json={"name": "Another", "items": []}).status_code == 201
    assert counted() == few
    assert few < 16


def test_not_now_holds_for_three_weeks_and_can_be_taken_back(teacher: Visitor, engine: Engine, filled: Filled) -> None:
    path = teacher.get("/api/paths").json["paths"][0]
    teacher.call("PATCH", f"/api/pupils/{filled.pupil_id}", json={"path_id": path["id"]})
    for days in (3, 1):
        given_take(engine, filled, report(good=False, causes=[cause("scatter", finger=1)]), days_ago=days)

    def kinds() -> list[str]:
        own = teacher.get(f"/api/suggestions?pupil_id={filled.pupil_id}").json["pupils"][0]
        return [one["kind"] for one in own["suggestions"]]

    made = teacher.get(f"/api/suggestions?pupil_id={filled.pupil_id}").json["pupils"][0]["suggestions"]
    address = f"/api/pupils/{filled.pupil_id}/declined"
    for own in made:
        # At another tempo it is the same step.
        recipe = {**own["recipe"], "tempo_bpm": own["recipe"]["tempo_bpm"] + 7}
        for _ in range(2):
            assert teacher.call("PUT", address, json={"recipe": recipe}).status_code == 200
    assert kinds() == []
    assert teacher.call("PUT", address, json={"recipe": made[1]["recipe"], "rests": False}).status_code == 200
    assert kinds() == ["next"]
    with open_session(engine, "tests let time pass") as session:
        session.execute(update(DeclinedSuggestion).values(created_at=datetime.now(UTC) - timedelta(days=22)))
    assert kinds() == ["repair", "next"]


def test_what_was_passed_long_ago_comes_back(teacher: Visitor, engine: Engine, filled: Filled) -> None:
    teacher.post(f"/api/pupils/{filled.pupil_id}/passed", json={"recipe": {"tonic": "G", "tempo_bpm": 60}})

    def suggested() -> list[str]:
        own = teacher.get(f"/api/suggestions?pupil_id={filled.pupil_id}").json["pupils"][0]
        return [one["reason"] for one in own["suggestions"] if one["kind"] == "again"]

    for weeks, reasons in ((3, []), (8, ["passed, and not played for 8 weeks"])):
        with open_session(engine, "tests let time pass") as session:
            session.execute(update(PassedStep).values(created_at=datetime.now(UTC) - timedelta(weeks=weeks, hours=1)))
        assert suggested() == reasons


def test_of_several_words_on_a_take_the_newest_counts(teacher: Visitor, engine: Engine, filled: Filled) -> None:
    take, seen = given_take(engine, filled, report(good=False, home=12), days_ago=1), None
    for verdict, state in (("accepted", "ready"), ("once_more", "on_the_way"), ("accepted", "ready")):
        word = {"verdict": verdict, "remark": "", "after": seen}
        seen = teacher.post(f"/api/takes/{take}/marks", json=word).json["id"]
        assert states(teacher)["Pupil 0 of one"] == [state]


def test_what_was_played_lately_is_not_asked_for_again(teacher: Visitor, engine: Engine, filled: Filled) -> None:
    """Of two goes the later one counts."""
    recipe = teacher.get("/api/exercises").json["exercises"][0]["recipe"]
    teacher.post(f"/api/pupils/{filled.pupil_id}/passed", json={"recipe": recipe})
    with open_session(engine, "tests let time pass") as session:
        session.execute(update(PassedStep).values(created_at=datetime.now(UTC) - timedelta(weeks=9, hours=1)))

    def again() -> list[str]:
        own = teacher.get(f"/api/suggestions?pupil_id={filled.pupil_id}").json["pupils"][0]
        return [one["reason"] for one in own["suggestions"] if one["kind"] == "again"]

    given_take(engine, filled, report(), days_ago=8 * 7)
    assert again() == ["passed, and not played for 8 weeks"]
    given_take(engine, filled, report(), days_ago=2)
    assert again() == []
