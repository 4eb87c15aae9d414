"""The desk with 200 pupils and 5,000 takes: how long each view takes (median and 95th percentile of one web process, one request at a
time) and how many statements it asks. Makes a database of its own and throws it away: python -m bench.desk [--explain VIEW]"""

from __future__ import annotations

import argparse
import json
import random
import shutil
import statistics
import tempfile
import time
import uuid
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import Any

from sqlalchemy import Engine, event, insert, select, text
from sqlalchemy.engine import Engine as AnyEngine

from attentive_owl.core.exercises import PATHS, title
from attentive_owl.core.judging import ENGINE
from attentive_owl.ops.cluster import Cluster
from attentive_owl.settings import Settings
from attentive_owl.store.exercises import document_from_recipe
from attentive_owl.store.migrate import migrate
from attentive_owl.store.models import (
    Assignment,
    AssignmentPupil,
    ClassGroup,
    Exercise,
    Mark,
    Pupil,
    Report,
    Studio,
    Take,
    Teacher,
)
from attentive_owl.store.passphrases import hash_secret
from attentive_owl.store.session import make_engine, open_session
from tests.conftest import Visitor, free_port
from tests.web.desk import cause, report

_CLASSES, _PUPILS, _TAKES, _WEEKS = 8, 200, 5000, 14
_RUNS = 40
_PASSWORD = "a lamp in the bow"
_VIEWS = (
    "/api/week", "/api/takes", "/api/takes?search=major", "/api/takes?only=all", "/api/takes?only=all&page=100",
    "/api/takes?only=all&instrument=cello", "/api/takes?only=goes", "/api/takes/{take}", "/api/classes", "/api/pupils", "/api/pupils?search=cello",
    "/api/progress",
    "/api/progress?class_id={class}", "/api/together", "/api/suggestions?class_id={class}", "/api/pupils/{pupil}/story",
    "/api/sheets", "/api/calendar", "/api/exercises",
)  # fmt: skip


def _people(session: Any) -> tuple[Studio, list[ClassGroup], list[Pupil]]:
    studio = Studio(name="A large school")
    session.add(studio)
    session.flush()
    session.add(
        Teacher(studio_id=studio.id, email="desk@bench.example", name="T", password_hash=hash_secret(_PASSWORD))
    )
    groups = [ClassGroup(studio_id=studio.id, name=f"Class {at}", code=f"DESK{at}") for at in range(_CLASSES)]
    session.add_all(groups)
    session.flush()
    players = ("violin", "violin", "viola", "cello", "bass")
    pupils = [
        Pupil(
            studio_id=studio.id, group_id=groups[at % _CLASSES].id, name=f"Pupil {at:03d}", size="4/4" if players[at % 5] != "bass" else "3/4",
            instrument=players[at % 5], string_length_mm=328, phrase_key=f"{at:064d}", phrase_hash="x", consent_by="a", consent_at=datetime.now(UTC),
        )
        for at in range(_PUPILS)
    ]  # fmt: skip
    session.add_all(pupils)
    session.flush()
    return studio, groups, pupils


def _fill(engine: Engine) -> dict[str, str]:
    """A school: a week's exercise for everybody, for fourteen weeks; the takes of three of five practise days; the last week waits."""
    drawn = random.Random(5)
    low = cause("finger", (1, 3, 5), finger=2, cents=-18.0, mm=2.8, towards="bridge", title="Second finger stands low")
    documents = [
        report().to_document(), report(good=False, home=11, causes=[low]).to_document(),
        report(good=False, home=9, wrong=["F#4", "F#5"]).to_document(), report(refusal="too_noisy").to_document(),
    ]  # fmt: skip
    with open_session(engine, "a benchmark makes a school") as session:
        studio, groups, pupils = _people(session)
        teacher = session.scalars(select(Teacher)).one()
        assignments = []
        for week in range(_WEEKS):
            recipe = PATHS[0].steps[week]
            exercise = Exercise(studio_id=studio.id, title=title(recipe), recipe=document_from_recipe(recipe))
            session.add(exercise)
            session.flush()
            own = Assignment(
                studio_id=studio.id, exercise_id=exercise.id, due_on=date.today() + timedelta(days=7 * (week - _WEEKS + 1) + 3),
                target_bpm=60, good_repeats=5, created_at=datetime.now(UTC) - timedelta(days=7 * (_WEEKS - week) - 3),
            )  # fmt: skip
            session.add(own)
            session.flush()
            assignments.append(own.id)
            session.execute(
                insert(AssignmentPupil), [{"assignment_id": own.id, "pupil_id": p.id, "ease": "usual"} for p in pupils]
            )
        takes, reports, marks = [], [], []
        for number in range(_TAKES):
            week = number * _WEEKS // _TAKES
            at = datetime.now(UTC) - timedelta(days=7 * (_WEEKS - 1 - week) + drawn.random() * 5)
            document = documents[drawn.choices(range(4), (6, 2, 1, 1))[0]]
            take = {
                "id": uuid.uuid4(), "studio_id": studio.id, "pupil_id": pupils[number % _PUPILS].id, "assignment_id": assignments[week],
                "client_key": f"bench-{number}", "sha256": "0" * 64, "file_name": "t", "size_bytes": 1, "duration_s": 9.0, "recorded_at": at,
                "handed_in_at": at if number % 3 == 0 else None, "state": "checked" if document["accepted"] else "refused",
            }  # fmt: skip
            takes.append(take)
            reports.append(
                {
                    "id": uuid.uuid4(),
                    "studio_id": studio.id,
                    "take_id": take["id"],
                    "engine": ENGINE,
                    "document": document,
                }
            )
            if number % 3 == 0 and week < _WEEKS - 1:
                marks.append(
                    {
                        "id": uuid.uuid4(),
                        "studio_id": studio.id,
                        "take_id": take["id"],
                        "teacher_id": teacher.id,
                        "verdict": "accepted",
                        "remark": "",
                    }
                )
        for model, rows in ((Take, takes), (Report, reports), (Mark, marks)):
            session.execute(insert(model), rows)
        waiting = next(own["id"] for own in reversed(takes) if own["handed_in_at"])
        names = {"take": str(waiting), "class": str(groups[0].id), "pupil": str(pupils[0].id)}
    with engine.connect() as connection:
        connection.execution_options(isolation_level="AUTOCOMMIT").execute(text("ANALYZE"))
    return names


def _measure(visitor: Visitor, address: str) -> tuple[list[float], int, int]:
    statements: list[str] = []

    def note_down(*arguments: Any) -> None:
        statements.append(arguments[2])

    event.listen(AnyEngine, "before_cursor_execute", note_down)
    answer = visitor.client.get(address)
    event.remove(AnyEngine, "before_cursor_execute", note_down)
    assert answer.status_code == 200, (address, answer.json)
    times = []
    for _ in range(_RUNS):
        begin = time.perf_counter()
        visitor.client.get(address)
        times.append(1000 * (time.perf_counter() - begin))
    return sorted(times), len(statements), len(answer.data)


def _explain(engine: Engine, visitor: Visitor, address: str) -> None:
    """The plan of the slowest statement of a view."""
    slowest: tuple[float, str, Any] = (0.0, "", None)
    begun: list[float] = []

    def before(*_: Any) -> None:
        begun.append(time.perf_counter())

    def after(_: Any, __: Any, statement: str, parameters: Any, *___: Any) -> None:
        nonlocal slowest
        slowest = max(slowest, (time.perf_counter() - begun[-1], statement, parameters), key=lambda own: own[0])

    event.listen(AnyEngine, "before_cursor_execute", before)
    event.listen(AnyEngine, "after_cursor_execute", after)
    visitor.client.get(address)
    event.remove(AnyEngine, "before_cursor_execute", before)
    event.remove(AnyEngine, "after_cursor_execute", after)
    with engine.connect() as connection:
        print(f"{1000 * slowest[0]:.1f} ms: {slowest[1]}")
        for row in connection.exec_driver_sql(f"EXPLAIN (ANALYZE, BUFFERS) {slowest[1]}", slowest[2]):
            print(row[0])


def main() -> None:
    from attentive_owl.web.app import create_app, settle

    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--explain", metavar="VIEW", help="the plan of the slowest statement of one view")
    wanted = parser.parse_args().explain
    home = Path(tempfile.mkdtemp(prefix="owl-desk-"))
    home.chmod(0o755)
    cluster = Cluster(home, free_port(), durable=False)
    cluster.start()
    try:
        cluster.create_database("desk")
        engine = make_engine(cluster.url("desk"))
        migrate(engine)
        names = _fill(engine)
        settings = Settings(home, cluster.url("desk"), f"file://{home}/audio", "a key", home, False)
        visitor = Visitor(create_app(settings))
        settle()
        answer = visitor.post("/api/session/teacher", json={"email": "desk@bench.example", "password": _PASSWORD})
        assert answer.status_code == 200, answer.json
        if wanted:
            _explain(engine, visitor, wanted.format(**names))
            return
        print(f"{_PUPILS} pupils, {_TAKES} takes; ms of one process\n")
        print("| view | median | 95th | statements | kB |\n|---|---|---|---|---|")
        for view in _VIEWS:
            times, count, size = _measure(visitor, view.format(**names))
            print(
                f"| {view} | {statistics.median(times):.0f} | {times[int(0.95 * len(times))]:.0f} | {count} | {size // 1024} |"
            )
        print(json.dumps({"engine": ENGINE}))
    finally:
        cluster.stop()
        shutil.rmtree((home / "postgres").resolve(), ignore_errors=True)
        shutil.rmtree(home, ignore_errors=True)


if __name__ == "__main__":
    main()
