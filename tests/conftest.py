"""Fixtures: a throw-away PostgreSQL cluster, a fresh database a test, the application, a filled studio."""

from __future__ import annotations

import os

# Before numpy is imported: the matrices are small, and two workers share two cores.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import shutil
import socket
import tempfile
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from argon2 import PasswordHasher
from hypothesis import settings as hypothesis_settings
from sqlalchemy import Engine

from attentive_owl.core.exercises import Recipe, Score, build, title
from attentive_owl.core.playing import Habits, Room, perform_score, place_in_room, render
from attentive_owl.formats.audio import flac_bytes
from attentive_owl.ops.cluster import Cluster
from attentive_owl.settings import Settings
from attentive_owl.store import passphrases
from attentive_owl.store.audio import AudioStore
from attentive_owl.store.exercises import document_from_recipe
from attentive_owl.store.migrate import migrate
from attentive_owl.store.models import Assignment, ClassGroup, Exercise, Pupil, Studio, Teacher
from attentive_owl.store.passphrases import hash_secret, passphrase_key
from attentive_owl.store.session import make_engine, open_session
from tests.databases import KEPT, TEMPLATE, empty, own_database

# One profile for all: a shared machine is slow when it likes, and a property does not hang on that.
hypothesis_settings.register_profile("owl", deadline=None)
hypothesis_settings.load_profile("owl")

RATE = 44100
ROOT = Path(__file__).resolve().parent.parent
KEY = "a key for tests"
PAGES = ROOT / "frontend" / "dist"


SOUNDING = {
    "test_acceptance", "test_benchmark", "test_metronome", "test_engine", "test_families", "test_known_lines", "test_listening",
    "test_merged_repeats", "test_onsets", "test_played", "test_playing", "test_recording_faults", "test_refusals", "test_single_notes",
    "test_another_machine", "test_every_step", "test_goes", "test_record", "test_start", "test_tuning_known", "test_worker", "test_cli", "test_reading", "test_stranger", "test_judging",
}  # fmt: skip
"""Modules that play and listen, or start the whole program."""

THOROUGH = {
    "test_backup", "test_confined", "test_damaged", "test_deploy", "test_exports", "test_fuzz", "test_hostile", "test_kept",
    "test_migrations", "test_object_store", "test_observing", "test_paper_and_midi", "test_pictures", "test_roles", "test_takes", "test_workshop",
}  # fmt: skip
"""Modules that try very much, or wait: `./test --quick` leaves out these and those that sound."""


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    for item in items:
        if item.path.stem in SOUNDING:
            item.add_marker("sounding")
        if item.path.stem in THOROUGH:
            item.add_marker("thorough")


def pytest_configure() -> None:
    """Hashing that is slow on purpose is not: nearly every test signs somebody in (`test_signing_in` looks at the real one). And each worker compiles librosa's functions into a folder of its own: two that write one cache at a time can leave one that
    crashes whoever reads it."""
    passphrases._hasher = PasswordHasher(time_cost=1, memory_cost=8, parallelism=1)
    worker = os.environ.get("PYTEST_XDIST_WORKER", "main")
    os.environ.setdefault("NUMBA_CACHE_DIR", str(Path(tempfile.gettempdir()) / f"owl-numba-{os.getuid()}-{worker}"))


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@pytest.fixture(scope="session")
def cluster() -> Iterator[Cluster]:
    home = Path(tempfile.mkdtemp(prefix="owl-test-"))
    home.chmod(0o755)
    own = Cluster(home, free_port(), durable=False)
    own.start()
    own.create_database(TEMPLATE)
    engine = make_engine(own.url(TEMPLATE))
    migrate(engine)
    engine.dispose()
    yield own
    own.stop()
    shutil.rmtree((home / "postgres").resolve(), ignore_errors=True)
    shutil.rmtree(home, ignore_errors=True)


@contextmanager
def fresh_settings(cluster: Cluster, folder: Path) -> Iterator[Settings]:
    """Settings with a database of their own, and everything else in a folder."""
    with own_database(cluster) as name:
        yield settings_with(cluster, name, folder)


def settings_with(cluster: Cluster, database: str, folder: Path) -> Settings:
    # The same key for processes that read it from the folder.
    (folder / "secret.key").write_text(KEY)
    return Settings(
        var=folder,
        database_url=cluster.url(database),
        audio_url=f"file://{folder / 'audio'}",
        secret_key=KEY,
        frontend=PAGES,
        secure_cookies=False,
    )


@pytest.fixture(scope="session")
def emptied_database(cluster: Cluster) -> Iterator[str]:
    with own_database(cluster) as name:
        yield name


@pytest.fixture(scope="session")
def kept_engine(cluster: Cluster, emptied_database: str) -> Iterator[Engine]:
    """To the database that is emptied: connections and compiled statements outlive a test."""
    own = make_engine(f"{cluster.url(emptied_database)}?application_name={KEPT}")
    yield own
    own.dispose()


@pytest.fixture
def settings(request: pytest.FixtureRequest, cluster: Cluster, tmp_path: Path) -> Iterator[Settings]:
    """With the database that is emptied after each test; with one of its own for who changes more than rows (marker `own_database`)."""
    if request.node.get_closest_marker("own_database"):
        with fresh_settings(cluster, tmp_path) as own:
            yield own
        return
    name = request.getfixturevalue("emptied_database")
    yield settings_with(cluster, name, tmp_path)
    empty(cluster, name)


@pytest.fixture
def engine(request: pytest.FixtureRequest, settings: Settings) -> Iterator[Engine]:
    if not request.node.get_closest_marker("own_database"):
        kept = request.getfixturevalue("kept_engine")
        yield kept
        assert kept.pool.checkedout() == 0, "a connection is still in use"
        return
    own = make_engine(settings.database_url)
    yield own
    own.dispose()


@dataclass
class Filled:
    """One studio with a teacher, a class, two pupils and an assignment for the first."""

    studio_id: uuid.UUID
    teacher_id: uuid.UUID
    group_id: uuid.UUID
    pupil_id: uuid.UUID
    other_pupil_id: uuid.UUID
    assignment_id: uuid.UUID
    exercise_id: uuid.UUID
    email: str
    class_code: str
    phrase: str
    other_phrase: str
    pupil_name: str
    other_pupil_name: str


PASSWORD = "a good password"
REAL_HASHER = passphrases._hasher


def fill(engine: Engine, settings: Settings, tag: str = "one", instrument: str = "violin") -> Filled:
    with open_session(engine, "tests make a studio") as session:
        studio = Studio(name=f"Studio {tag}")
        session.add(studio)
        session.flush()
        teacher = Teacher(
            studio_id=studio.id,
            email=f"{tag}@test.example",
            name="Teacher",
            password_hash=hash_secret(PASSWORD),
            rank="owner",
        )
        group = ClassGroup(id=uuid.uuid4(), studio_id=studio.id, name="Class", code=f"CODE{tag.upper()}")
        phrases = (f"amber boat {tag}", f"cedar drum {tag}")
        pupils = [
            Pupil(
                studio_id=studio.id, group=group, name=f"Pupil {n} of {tag}", instrument=instrument, size="4/4",
                string_length_mm=328, phrase_key=passphrase_key(settings.secret_key, group.id, phrase),
                phrase_hash=hash_secret(phrase), consent_by="an adult", consent_at=datetime.now(UTC),
            )
            for n, phrase in enumerate(phrases)
        ]  # fmt: skip
        recipe = Recipe("D", tempo_bpm=100)
        exercise = Exercise(studio_id=studio.id, title=title(recipe), recipe=document_from_recipe(recipe))
        session.add_all([teacher, *pupils, exercise])
        session.flush()
        assignment = Assignment(
            studio_id=studio.id, exercise=exercise, due_on=date.today() + timedelta(days=3), target_bpm=100,
            good_repeats=3, level="settling", note="", pupils=[pupils[0]],
        )  # fmt: skip
        session.add(assignment)
        session.flush()
        return Filled(
            studio.id, teacher.id, group.id, pupils[0].id, pupils[1].id, assignment.id, exercise.id, teacher.email,
            group.code, *phrases, *(pupil.name for pupil in pupils),
        )  # fmt: skip


@pytest.fixture
def filled(engine: Engine, settings: Settings) -> Filled:
    return fill(engine, settings)


@pytest.fixture(scope="session")
def one_app() -> Any:
    """Its routes take a tenth of a second to be made, and are the same for all."""
    from attentive_owl.web.app import create_app

    nobody = Settings(
        Path(), "postgresql+psycopg://nobody@127.0.0.1/none", "memory://", KEY, PAGES, secure_cookies=False
    )
    return create_app(nobody)


@pytest.fixture
def app(one_app: Any, settings: Settings, engine: Engine) -> Any:
    """The application with a test's own database and store of recordings."""
    from attentive_owl.web.access import Services

    one_app.testing = True
    one_app.extensions["owl"] = Services(settings, engine, AudioStore(settings.audio_url, settings.store_seen))
    return one_app


class Visitor:
    """A test client that carries the token that every change needs, and asks for it anew where it came in or went out."""

    def __init__(self, app: Any) -> None:
        self.client = app.test_client()
        self.token: str | None = None

    def call(self, method: str, path: str, **arguments: Any) -> Any:
        headers = dict(arguments.pop("headers", {}))
        if method != "GET":
            self.token = self.token or self.client.get("/api/session").json["csrf_token"]
            headers["X-CSRF-Token"] = self.token
            if path.startswith("/api/session"):
                self.token = None
        return self.client.open(path, method=method, headers=headers, **arguments)

    def get(self, path: str, **arguments: Any) -> Any:
        return self.call("GET", path, **arguments)

    def post(self, path: str, **arguments: Any) -> Any:
        return self.call("POST", path, **arguments)

    def teacher(self, filled: Filled) -> Visitor:
        answer = self.post("/api/session/teacher", json={"email": filled.email, "password": PASSWORD})
        assert answer.status_code == 200, answer.json
        return self

    def pupil(self, filled: Filled, phrase: str | None = None, adult: bool = False) -> Visitor:
        body = {"class_code": filled.class_code, "passphrase": phrase or filled.phrase, "adult": adult}
        answer = self.post("/api/session/pupil", json=body)
        assert answer.status_code == 200, answer.json
        return self


@pytest.fixture
def visitor(app: Any) -> Visitor:
    return Visitor(app)


def played(score: Score, habits: Habits | None = None, seed: int = 1, room: Room | None = None) -> np.ndarray:
    """A simulated take at RATE."""
    dry, _ = render(
        perform_score(score, habits or Habits(scatter_cents=4, timing_ms=8), seed), score.instrument_key, RATE, seed
    )
    return place_in_room(dry, RATE, room or Room(40, 0.2), seed)


@pytest.fixture(scope="session")
def violin_take() -> bytes:
    """A good D major scale at 100, as FLAC."""
    return flac_bytes(played(build(Recipe("D", tempo_bpm=100), "violin")), RATE)
