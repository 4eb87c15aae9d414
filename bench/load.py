"""A school hands in on one evening: pupils over some minutes, each signing in, handing in a take of half a minute and waiting for what was
heard, while teachers, who come in within the first minute, go through their lists, listen and mark. In a house of its own that is thrown away.

    python -m bench.load [--pupils 300] [--minutes 10] [--teachers 20] [--web 2] [--workers 1] [--elsewhere]

Said at the end: how many takes were refused, how long each kind of request took (median, 95th percentile), how long a pupil waited for the
report, when the queue was empty, and what a take costs in processor seconds.
"""

from __future__ import annotations

import argparse
import hashlib
import json
import os
import random
import shutil
import signal
import statistics
import subprocess
import sys
import tempfile
import threading
import time
import uuid
from collections import defaultdict
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor, ThreadPoolExecutor
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass, field, replace
from datetime import UTC, date, datetime, timedelta
from http.client import HTTPConnection
from pathlib import Path
from typing import Any

from sqlalchemy import Engine, text

from attentive_owl.core.exercises import Recipe, build, title
from attentive_owl.core.playing import Habits
from attentive_owl.formats.audio import flac_bytes
from attentive_owl.ops.cluster import Cluster, port_is_free
from attentive_owl.settings import Settings
from attentive_owl.store.exercises import document_from_recipe
from attentive_owl.store.migrate import migrate
from attentive_owl.store.models import Assignment, AssignmentPupil, ClassGroup, Exercise, Pupil, Studio, Teacher
from attentive_owl.store.passphrases import hash_secret, passphrase_key
from attentive_owl.store.session import make_engine, open_session
from tests.conftest import PASSWORD, RATE, free_port, played
from tests.object_store import BUCKET, reached_at
from tests.processes import running, wait_for, web
from tests.relay import apart

_CLASS_OF = 15
_TEACHERS_READ_S = 5.0
_PUPILS_ASK_S = 2.0
_KEY = "a key for a benchmark"


@dataclass
class Seen:
    """What was answered, by kind of request: seconds, and every status that was none of the good ones."""

    times: dict[str, list[float]] = field(default_factory=lambda: defaultdict(list))
    faults: dict[str, int] = field(default_factory=lambda: defaultdict(int))
    waited: list[float] = field(default_factory=list)
    lock: threading.Lock = field(default_factory=threading.Lock)

    def add(self, kind: str, seconds: float, status: int) -> None:
        with self.lock:
            self.times[kind].append(seconds)
            # A take that a colleague has marked in the meantime is told as that.
            if status >= 400 and (kind, status) != ("mark", 409):
                self.faults[f"{kind}: {status}"] += 1


class Browser:
    """One line to the house, that is kept; cookies and the token as a page would."""

    def __init__(self, port: int, seen: Seen) -> None:
        self._line, self._seen = HTTPConnection("127.0.0.1", port, timeout=120), seen
        self._cookie, self._token = "", ""

    def ask(self, kind: str, method: str, path: str, body: Any = None, head: dict[str, str] | None = None) -> Any:
        heads = {"Cookie": self._cookie, "X-CSRF-Token": self._token, **(head or {})}
        if isinstance(body, dict):
            body, heads["Content-Type"] = json.dumps(body), "application/json"
        begun = time.perf_counter()
        self._line.request(method, path, body, heads)
        answer = self._line.getresponse()
        data = answer.read()
        self._seen.add(kind, time.perf_counter() - begun, answer.status)
        if "Set-Cookie" in answer.headers:
            self._cookie = answer.headers["Set-Cookie"].split(";")[0]
        found = json.loads(data) if "json" in (answer.headers["Content-Type"] or "") else None
        if isinstance(found, dict) and "csrf_token" in found:
            self._token = found["csrf_token"]
        return found

    def enter(self, door: str, body: dict[str, str]) -> None:
        self.ask("open the page", "GET", "/api/session")
        self.ask("sign in", "POST", f"/api/session/{door}", body)

    def hand_in(self, assignment: str, sound: bytes) -> Any:
        fields = {
            "assignment_id": assignment, "client_key": uuid.uuid4().hex, "sha256": hashlib.sha256(sound).hexdigest(),
            "hand_in": "true", "recorded_at": datetime.now(UTC).isoformat(),
        }  # fmt: skip
        edge = uuid.uuid4().hex
        parts = [
            f'--{edge}\r\nContent-Disposition: form-data; name="{name}"\r\n\r\n{value}\r\n'
            for name, value in fields.items()
        ]
        parts.append(
            f'--{edge}\r\nContent-Disposition: form-data; name="sound"; filename="t.flac"\r\nContent-Type: audio/flac\r\n\r\n'
        )
        body = "".join(parts).encode() + sound + f"\r\n--{edge}--\r\n".encode()
        return self.ask(
            "hand in", "POST", "/api/takes", body, {"Content-Type": f"multipart/form-data; boundary={edge}"}
        )


def _phrase(number: int) -> str:
    return f"ferry {number} lamp"


def _school(engine: Engine, pupils: int, teachers: int) -> str:
    """Gives the id of the assignment that all of them have."""
    with ThreadPoolExecutor() as pool:
        hashes = list(pool.map(hash_secret, map(_phrase, range(pupils))))
    secret = hash_secret(PASSWORD)
    with open_session(engine, "a benchmark makes a school") as session:
        studio = Studio(name="A large school")
        session.add(studio)
        session.flush()
        session.add_all(
            Teacher(studio_id=studio.id, email=f"t{at}@load.example", name=f"T{at}", password_hash=secret, rank="owner")
            for at in range(teachers)
        )
        groups = [
            ClassGroup(id=uuid.uuid4(), studio_id=studio.id, name=f"Class {at}", code=f"LOAD{at}")
            for at in range(-(-pupils // _CLASS_OF))
        ]
        session.add_all(groups)
        recipe = Recipe("D", tempo_bpm=60)
        exercise = Exercise(studio_id=studio.id, title=title(recipe), recipe=document_from_recipe(recipe))
        session.add(exercise)
        session.flush()
        own = Assignment(
            studio_id=studio.id, exercise_id=exercise.id, due_on=date.today() + timedelta(days=3), target_bpm=60, good_repeats=3
        )  # fmt: skip
        session.add(own)
        session.flush()
        for number in range(pupils):
            group = groups[number // _CLASS_OF]
            pupil = Pupil(
                studio_id=studio.id, group_id=group.id, name=f"Pupil {number:03d}", instrument="violin", size="4/4", string_length_mm=328,
                phrase_key=passphrase_key(_KEY, group.id, _phrase(number)), phrase_hash=hashes[number], consent_by="a", consent_at=datetime.now(UTC),
            )  # fmt: skip
            session.add(pupil)
            session.flush()
            session.add(AssignmentPupil(assignment_id=own.id, pupil_id=pupil.id))
        return str(own.id)


def _record(number: int, folder: Path) -> None:
    """Half a minute: a scale at 60, twice; no two are the same."""
    score = build(Recipe("D", tempo_bpm=60), "violin")
    sound = played(score, Habits(passes=2, scatter_cents=6, timing_ms=12), number)
    (folder / str(number)).write_bytes(flac_bytes(sound, RATE))


def _pupil(number: int, at_s: float, port: int, seen: Seen, assignment: str, recording: Path) -> None:
    sound = recording.read_bytes()
    time.sleep(max(at_s - time.monotonic(), 0))
    own = Browser(port, seen)
    own.enter("pupil", {"class_code": f"LOAD{number // _CLASS_OF}", "passphrase": _phrase(number)})
    own.ask("today", "GET", "/api/today")
    begun = time.monotonic()
    receipt = own.hand_in(assignment, sound)
    while receipt and "id" in receipt:
        take = own.ask("own take", "GET", f"/api/takes/{receipt['id']}")
        if take["state"] not in ("waiting", "checking"):
            seen.waited.append(time.monotonic() - begun)
            return
        time.sleep(_PUPILS_ASK_S)


def _teacher(number: int, port: int, seen: Seen, over: threading.Event) -> None:
    drawn = random.Random(number)
    time.sleep(60 * drawn.random())
    own = Browser(port, seen)
    own.enter("teacher", {"email": f"t{number}@load.example", "password": PASSWORD})
    while not over.wait(_TEACHERS_READ_S * (0.5 + drawn.random())):
        own.ask("week", "GET", "/api/week")
        rows = own.ask("list of takes", "GET", "/api/takes")["takes"]
        ready = [row for row in rows if row["state"] not in ("waiting", "checking")]
        if ready:
            take = drawn.choice(ready)["id"]
            own.ask("one take", "GET", f"/api/takes/{take}")
            own.ask("its score", "GET", f"/api/takes/{take}/score?width=900")
            own.ask("its sound", "GET", f"/api/takes/{take}/audio")
            own.ask("mark", "POST", f"/api/takes/{take}/marks", {"verdict": "accepted"})


def _cpu_s(pids: list[int]) -> float:
    ticks = 0
    for pid in pids:
        ticks += sum(map(int, Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[11:15]))
    return ticks / os.sysconf("SC_CLK_TCK")


@contextmanager
def _store_of_its_own() -> Iterator[int]:
    """An object store, in another process than the visitors. Gives the port."""
    port = free_port()
    with subprocess.Popen(
        [sys.executable, "-c", f"from moto.server import main; main(['-H', '127.0.0.1', '-p', '{port}'])"],
        stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
    ) as own:  # fmt: skip
        try:
            wait_for(lambda: not port_is_free(port))
            with reached_at(port):
                yield port
        finally:
            own.terminate()


def _innermost(pid: int) -> int:
    """The process that another started, and so on: the one that does the work."""
    while found := Path(f"/proc/{pid}/task/{pid}/children").read_text().split():
        pid = int(found[0])
    return pid


@contextmanager
def _house(processes: int, workers: int, elsewhere: bool) -> Iterator[tuple[Engine, int, list[int]]]:
    """The engine, the port, and the workers' numbers. `elsewhere`: recordings in an object store, and workers in network namespaces that
    reach it and the database alone."""
    home = Path(tempfile.mkdtemp(prefix="owl-load-"))
    home.chmod(0o755)
    cluster, port = Cluster(home, free_port()), free_port()
    cluster.start()
    try:
        cluster.create_database("load")
        engine = make_engine(cluster.url("load"))
        migrate(engine)
        (home / "secret.key").write_text(_KEY)
        settings = Settings(home, cluster.url("load"), f"file://{home}/audio", _KEY, home, False)
        with ExitStack() as stack:
            behind: list[str] = []
            if elsewhere:
                store = stack.enter_context(_store_of_its_own())
                settings = replace(settings, audio_url=f"s3://{BUCKET}/recordings")
                behind = apart(home, [store, cluster.port])
            stack.enter_context(web(settings, port, OWL_WEB_WORKERS=str(processes)))
            started = [
                stack.enter_context(running(settings, f"worker-{at}", "attentive_owl.cli", "worker", behind=behind)).pid
                for at in range(workers)
            ]
            wait_for(lambda: _answers(port))
            yield engine, port, [_innermost(pid) for pid in started]
        engine.dispose()
    finally:
        cluster.stop()
        shutil.rmtree((home / "postgres").resolve(), ignore_errors=True)
        shutil.rmtree(home, ignore_errors=True)


def _answers(port: int) -> bool:
    try:
        line = HTTPConnection("127.0.0.1", port, timeout=5)
        line.request("GET", "/api/ready")
        return line.getresponse().status == 200
    except OSError:
        return False


def _waiting(engine: Engine) -> int:
    with engine.connect() as connection:
        return int(
            connection.execute(text("SELECT count(*) FROM take WHERE state IN ('waiting', 'checking')")).scalar() or 0
        )


def main() -> None:
    # Ended from outside, it takes its house down all the same.
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(1))
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    for name, usual in (("pupils", 300), ("teachers", 20), ("web", 2), ("workers", 1)):
        parser.add_argument(f"--{name}", type=int, default=usual)
    parser.add_argument("--minutes", type=float, default=10.0)
    parser.add_argument(
        "--elsewhere", action="store_true", help="recordings in an object store, workers in another network namespace"
    )
    told = parser.parse_args()
    seen, over, drawn = Seen(), threading.Event(), random.Random(1)
    with tempfile.TemporaryDirectory() as made, _house(told.web, told.workers, told.elsewhere) as (engine, port, pids):
        recordings = Path(made)
        with ProcessPoolExecutor() as pool:
            list(pool.map(_record, range(told.pupils), [recordings] * told.pupils))
        assignment = _school(engine, told.pupils, told.teachers)
        cpu, begun = _cpu_s(pids), time.monotonic()
        moments = sorted(begun + 2 + drawn.random() * 60 * told.minutes for _ in range(told.pupils))
        staff = [threading.Thread(target=_teacher, args=(at, port, seen, over)) for at in range(told.teachers)]
        children = [
            threading.Thread(target=_pupil, args=(at, moments[at], port, seen, assignment, recordings / str(at)))
            for at in range(told.pupils)
        ]
        for own in (*staff, *children):
            own.start()
        deepest = 0
        while any(own.is_alive() for own in children):
            deepest = max(deepest, _waiting(engine))
            time.sleep(1)
        empty = time.monotonic() - moments[-1]
        over.set()
        for own in staff:
            own.join()
        cost = (_cpu_s(pids) - cpu) / max(told.pupils, 1)
        with engine.connect() as connection:
            states = dict(connection.execute(text("SELECT state, count(*) FROM take GROUP BY 1")).all())
    _tell(told, seen, states, deepest, empty, cost)


def _tell(told: Any, seen: Seen, states: dict[str, int], deepest: int, empty: float, cost: float) -> None:
    print(
        f"{told.pupils} pupils in {told.minutes:g} min, {told.teachers} teachers, {told.web} web processes, {told.workers} workers{', elsewhere' if told.elsewhere else ''}\n"
    )
    print("| request | how many | median ms | 95th ms |\n|---|---|---|---|")
    for kind, times in seen.times.items():
        ordered = sorted(times)
        print(
            f"| {kind} | {len(times)} | {1000 * statistics.median(ordered):.0f} | {1000 * ordered[int(0.95 * len(ordered))]:.0f} |"
        )
    waited = sorted(seen.waited)
    print(f"\ntakes: {states}; answers that were none: {dict(seen.faults)}")
    print(
        f"report after {statistics.median(waited):.1f} s in the median, {waited[int(0.95 * len(waited))]:.1f} at the 95th percentile"
    )
    print(
        f"deepest queue {deepest}; empty {empty:.1f} s after the last came; {cost:.2f} s of a worker's processor a take"
    )


if __name__ == "__main__":
    main()
