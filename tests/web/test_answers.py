"""All that the house answers about four weeks of a class, kept in `answers.txt`: it changes on purpose, or not at all.

OWL_KEEP_ANSWERS=1 ./test tests/web/test_answers.py      writes it anew: read the difference before it is committed
"""

from __future__ import annotations

import csv
import io
import json
import os
import re
import uuid
import zipfile
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import psycopg
import time_machine
from psycopg import sql
from pypdf import PdfReader
from sqlalchemy import Engine

from attentive_owl.core.exercises import Recipe
from attentive_owl.core.instruments import INSTRUMENTS
from attentive_owl.core.judging import ENGINE
from attentive_owl.ops.cluster import Cluster
from attentive_owl.settings import Settings
from attentive_owl.store.audio import AudioStore
from attentive_owl.store.exercises import document_from_recipe
from attentive_owl.store.session import make_engine
from attentive_owl.web.access import Services
from tests.conftest import Filled, Visitor, fill, fresh_settings
from tests.web.desk import cause, given_take, report

FILE = Path(__file__).with_name("answers.txt")
_UUID = re.compile(r"[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}")
_CHANCE = re.compile(r"(?<=\d\d:\d\d:\d\d)\.\d+(?=Z)|(?<= )[0-9a-f]{4}(?=\.txt$)")
"""Parts of a second, and what tells two files of one name apart."""
_LONGEST = 200
_USUAL = document_from_recipe(Recipe())
"""Of a recipe only what is unusual is kept."""
_BEGIN = datetime(2026, 3, 2, 16, 0, tzinfo=UTC)
"""A Monday."""
G = {"tonic": "G", "pattern": "eighths", "tempo_bpm": 80, "octaves": 2}
LOW = cause("finger", finger=2, cents=-24.0, mm=4.0, towards="bridge", title="Second finger stands low")
LATE = cause("crossing_late", notes=(4, 8), title="String crossings come late")


class Term:
    """Four weeks that a teacher, three pupils and a parent have had; at the end it is a Thursday."""

    def __init__(self, app: Any, engine: Engine, settings: Settings, clock: Any) -> None:
        self.engine, self.clock = engine, clock
        self.address = settings.database_url.replace("+psycopg", "")
        self.filled: Filled = fill(engine, settings)
        self.teacher = Visitor(app).teacher(self.filled)
        self.ids: dict[str, str] = {}
        self.takes = 0
        self._begin()
        self._weeks()

    def on(self, day: int) -> None:
        """So many days later; what the database has stamped until now was stamped on the day that was."""
        self._stamp()
        self.clock.move_to(_BEGIN + timedelta(days=day))

    def _stamp(self) -> None:
        now = datetime.now(UTC)
        with psycopg.connect(self.address, autocommit=True) as connection:
            connection.execute("SET session_replication_role = replica")
            columns = connection.execute(
                "SELECT table_name, column_name FROM information_schema.columns WHERE table_schema = 'public'"
                " AND column_name IN ('created_at', 'changed_at', 'at') AND table_name NOT LIKE 'procrastinate%'"
            ).fetchall()
            for table, column in columns:
                # In their order, and within one second.
                change = sql.SQL(
                    "UPDATE {} SET {} = %s + ({} - now() + interval '1 hour') / 5000 WHERE {} > now() - interval '1 hour'"
                )
                connection.execute(change.format(*map(sql.Identifier, (table, column, column, column))), (now,))

    def ask(self, method: str, path: str, body: dict[str, Any] | None = None) -> Any:
        answer = self.teacher.call(method, f"/api/{path}", **({} if body is None else {"json": body}))
        assert answer.status_code < 300, (path, answer.json)
        return answer.json

    def _begin(self) -> None:
        own = self.filled
        second = self.ask("POST", "classes", {"name": "Second"})["id"]
        with psycopg.connect(self.address, autocommit=True) as connection:
            connection.execute("UPDATE class_group SET code = 'SECOND' WHERE id = %s", (second,))
        cello = {"class_id": second, "name": "Cella", "instrument": "cello", "size": "1/2"}
        self.cello = self.ask("POST", "pupils", cello)["pupil"]["id"]
        self.ask("PUT", f"pupils/{self.cello}/classes", {"class_ids": [str(own.group_id)]})
        path = self.ask("GET", "paths")["paths"][0]
        self.ask(
            "PATCH", f"pupils/{own.pupil_id}", {"path_id": path["id"], "goal": "The concert in June", "remarks": "Shy."}
        )
        lesson = {
            "class_id": str(own.group_id),
            "day": "2026-03-07",
            "until": "2026-06-27",
            "starts": "10:00",
            "minutes": 45,
        }
        self.ids["lessons"] = self.ask("POST", "lessons", lesson)["id"]
        self.ask("POST", "breaks", {"name": "Spring", "first_day": "2026-04-03", "last_day": "2026-04-11"})
        shelf = {"recipe": {**G, "cue": ["a", "b"]}, "title": "Rope and tide", "tags": ["warm", "G"]}
        self.ids["exercises"] = self.ask("POST", "exercises", shelf)["id"]
        gone = self.ask("POST", "exercises", {"recipe": {**G, "tonic": "A"}, "title": "No more"})["id"]
        self.ask("POST", f"exercises/{gone}/retire")

    def _take(self, made: Any, **changes: Any) -> str:
        # No two in the same second: which of them is the later one would be chance.
        self.takes += 1
        return str(given_take(self.engine, self.filled, made, seconds_ago=3600 - 60 * self.takes, **changes))

    def _weeks(self) -> None:
        own = self.filled
        self.on(1)
        first = self._take(report(good=False, home=9, causes=[LOW, LATE]), felt="too_hard")
        self.ask("POST", f"takes/{first}/marks", {"verdict": "once_more", "remark": "Second finger, further up."})
        self._take(report(good=False, home=4, refusal="another_key"))
        self.on(8)
        for home in (11, 12, 14):
            self._take(report(good=home > 13, home=home, causes=[LOW]))
        audience = {"pupil_ids": [str(own.pupil_id), str(own.other_pupil_id), self.cello]}
        terms = {"recipe": G, "target_bpm": 84, "good_repeats": 2, "due_on": "2026-03-28", "note": "Long bows."}
        self.given = self.ask("POST", "assignments", {**terms, **audience})["id"]
        self.on(15)
        other = {"pupil_id": own.other_pupil_id, "assignment_id": uuid.UUID(self.given)}
        wrong = self._take(report(good=False, home=10, wrong=("C5", "F4"), causes=[LATE]), **other)
        self.ask("POST", f"takes/{wrong}/marks", {"verdict": "come_and_see_me", "remark": "Bring it on Saturday."})
        self.ids["takes"] = self._take(report(good=False, home=12, unclear=1, causes=[LOW]), felt="right")
        overruled = {"cause": LOW.key, "says": "not_so", "remark": "It was the string."}
        self.ask("POST", f"takes/{self.ids['takes']}/overrules", overruled)
        self.ask(
            "POST", f"pupils/{own.pupil_id}/passed", {"recipe": {"tonic": "D", "tempo_bpm": 60}, "remark": "Well held."}
        )
        self.on(22)
        good = self._take(report(causes=[LATE]), felt="easy")
        self.ask("POST", f"takes/{good}/marks", {"verdict": "accepted", "remark": "Lovely."})
        self._take(report(causes=[LATE]), **other)
        self._take(None, **other)
        item = {"recipe": {"tonic": "A", "tempo_bpm": 70}, "target_bpm": 76, "good_repeats": 3}
        change = {"pupil_id": str(own.pupil_id), "target_bpm": 60, "note": "Slower."}
        sent = self.ask("POST", "sheets", {"due_on": "2026-04-02", "items": [{**item, "changes": [change]}]})["id"]
        self.ask("POST", f"sheets/{sent}/send")
        self.ids["sheets"] = self.ask("POST", "sheets", {"name": "Next", "items": [item, {**item, "recipe": G}]})["id"]
        self.on(24)
        self.ids |= {
            "pupils": str(own.pupil_id), "assignments": self.given, "classes": str(own.group_id),
        }  # fmt: skip


def _lines(kind: str, data: bytes) -> Any:
    """What a person would read of an answer."""
    if kind == "application/json":
        return json.loads(data)
    if kind == "application/pdf":
        return [page.extract_text().splitlines() for page in PdfReader(io.BytesIO(data)).pages]
    if kind == "application/zip":
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            return sorted(_UUID.sub("id", name) for name in archive.namelist())
    if kind == "text/csv":
        return list(csv.reader(io.StringIO(data.decode("utf-8-sig"))))
    return data.decode().splitlines() if kind.startswith("text/") else f"{kind}, {len(data)} bytes"


class Plain:
    """Answers as they are each time: ids by the order in which they come, long texts by their first signs."""

    def __init__(self) -> None:
        self.known: dict[str, str] = {}

    def of(self, value: Any) -> Any:
        if isinstance(value, dict):
            return {
                self.of(name): self.of(own)
                for name, own in value.items()
                if not (value.keys() >= _USUAL.keys() and own == _USUAL.get(name))
            }
        if isinstance(value, list):
            return [self.of(own) for own in value]
        if not isinstance(value, str):
            return value
        if value.startswith("<svg"):
            return "an engraving"
        value = value.replace(ENGINE, "the engine")
        value = _CHANCE.sub(
            "", _UUID.sub(lambda found: self.known.setdefault(found[0], f"id-{len(self.known) + 1}"), value)
        )
        return value[:_LONGEST]


ASKED = {
    "teacher": (
        "week", "takes", "takes?only=all", "takes?only=goes", "classes", "pupils", "pupils?search=cel", "pupils/{pupils}", "pupils/{pupils}/story", "progress",
        "progress?class_id={classes}", "together", "suggestions", "exercises", "exercises?retired=true", "paths", "sheets", "sheets/{sheets}",
        "sheets/{sheets}/pages", "sheets/{sheets}/paper.pdf", "calendar", "calendar.ics", "teachers", "audit", "outbox", "studio/settings", "results.csv",
        "recheck", "takes/{takes}", "takes/{takes}/drafts", "takes/{takes}/report.pdf", "pupils/{pupils}/record.pdf", "records.pdf", "class.pdf",
        "pupils/{pupils}/archive.zip", "studio/archive.zip", "tapes?instrument=violin&size=4/4&string_length_mm=328",
    ),
    "pupil": ("today", "record", "home", "home.pdf", "takes/{takes}", "assignments/{assignments}/score?width=600", "studio/settings", "own-calendar.ics"),
    "adult": ("today", "home", "record"),
    "guest": ("today", "record"),
}  # fmt: skip


def lines_of(answer: Any) -> list[str]:
    """A line for each part, and for each part of a list."""
    parts = answer.items() if isinstance(answer, dict) else [("", answer)]
    found = []
    for name, own in parts:
        rows = enumerate(own) if isinstance(own, list) and own else [("", own)]
        found += [f"  {name} {at} {json.dumps(row, ensure_ascii=False)}" for at, row in rows]
    return found


def answered(app: Any, term: Term) -> list[str]:
    own, plain = term.filled, Plain()
    visitors = {
        "teacher": term.teacher, "pupil": Visitor(app).pupil(own), "adult": Visitor(app).pupil(own, adult=True),
        "guest": Visitor(app).pupil(own, own.other_phrase),
    }  # fmt: skip
    found = []
    for who, addresses in ASKED.items():
        for address in addresses:
            answer = visitors[who].get(f"/api/{address.format(**term.ids)}")
            assert answer.status_code == 200, (who, address, answer.text[:300])
            found += [f"{who}: {address}", *lines_of(plain.of(_lines(answer.mimetype, answer.data)))]
    for instrument in INSTRUMENTS:
        looked_at = term.ask("POST", "preview", {"recipe": {"tonic": "D", "tempo_bpm": 60}, "instrument": instrument})
        found += [f"teacher: preview, {instrument}", *lines_of(plain.of(looked_at["part"]["insight"]))]
    return found


def test_what_the_house_answers_is_what_was_kept(one_app: Any, cluster: Cluster, tmp_path: Path) -> None:
    with fresh_settings(cluster, tmp_path) as settings, time_machine.travel(_BEGIN, tick=False) as clock:
        engine = make_engine(settings.database_url)
        one_app.testing = True
        one_app.extensions["owl"] = Services(settings, engine, AudioStore(settings.audio_url, settings.store_seen))
        found = answered(one_app, Term(one_app, engine, settings, clock))
        engine.dispose()
    if os.environ.get("OWL_KEEP_ANSWERS"):
        FILE.write_text("\n".join(found) + "\n", encoding="utf-8")
    assert found == FILE.read_text(encoding="utf-8").splitlines()
