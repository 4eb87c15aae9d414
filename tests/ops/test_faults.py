"""Faults of the machine, on real processes: nothing is lost, nothing comes twice, and all goes on by itself."""

from __future__ import annotations

import errno
import os
import shutil
import signal
import tempfile
import uuid
from collections.abc import Iterator
from contextlib import ExitStack
from pathlib import Path
from typing import Any

import pytest
from sqlalchemy import Engine, func, select
from sqlalchemy.exc import OperationalError

from attentive_owl.ops.cluster import Cluster, OpsError
from attentive_owl.settings import Settings
from attentive_owl.store.audio import AudioStore
from attentive_owl.store.migrate import migrate
from attentive_owl.store.models import Report, Take
from attentive_owl.store.session import make_engine, open_session
from attentive_owl.web.app import create_app
from tests.conftest import Filled, Visitor, fill, free_port
from tests.processes import wait_for, worker
from tests.web.takes import hand_in


@pytest.fixture
def house() -> Iterator[tuple[Cluster, Settings]]:
    """A database of its own, that writes through to the disk as a real one does."""
    home = Path(tempfile.mkdtemp(prefix="owl-faults-"))
    home.chmod(0o755)
    cluster = Cluster(home, free_port())
    cluster.start()
    cluster.create_database("faults")
    (home / "secret.key").write_text("a key for tests")
    url = cluster.url("faults")
    engine = make_engine(url)
    migrate(engine)
    engine.dispose()
    yield cluster, Settings(home, url, f"file://{home}/audio", "a key for tests", home, False)
    cluster.stop()
    shutil.rmtree((home / "postgres").resolve(), ignore_errors=True)
    shutil.rmtree(home, ignore_errors=True)


def kill_database(cluster: Cluster) -> None:
    """As a power cut would: nothing is said to anybody."""
    number = int(((cluster.home / "postgres").resolve() / "postmaster.pid").read_text().splitlines()[0])
    os.kill(number, signal.SIGKILL)


def started(cluster: Cluster) -> bool:
    """What a killed server leaves behind may be in the way for a while."""
    try:
        cluster.start()
    except OpsError:
        return False
    return True


def states(engine: Engine) -> dict[uuid.UUID, str] | None:
    try:
        with open_session(engine, "tests look") as session:
            return {own.id: own.state for own in session.execute(select(Take.id, Take.state))}
    except OperationalError:
        return None


def test_a_database_that_is_killed_loses_no_take_and_the_worker_goes_on(
    house: tuple[Cluster, Settings], violin_take: bytes
) -> None:
    cluster, settings = house
    engine = make_engine(settings.database_url)
    filled = fill(engine, settings)
    app = create_app(settings)
    pupil = Visitor(app).pupil(filled)
    with ExitStack() as stack:
        own = stack.enter_context(worker(settings))
        first = hand_in(pupil, filled, violin_take).json["id"]
        # With its receipt out, and in the middle of whatever the worker does.
        kill_database(cluster)
        away = pupil.client.get("/api/today")
        assert (away.status_code, away.json["error"][:9]) == (503, "The house")
        wait_for(lambda: started(cluster), 60)
        # Connections of before are found dead, one after the other.
        wait_for(lambda: pupil.client.get("/api/today").status_code == 200, 60)
        second = hand_in(pupil, filled, violin_take).json["id"]

        def both_checked() -> bool:
            nonlocal own
            if own.poll() is not None:
                # What `./start` and systemd do.
                own = stack.enter_context(worker(settings))
            found = states(engine) or {}
            return {found.get(uuid.UUID(take)) for take in (first, second)} == {"checked"}

        wait_for(both_checked, 90)
    with open_session(engine, "tests look") as session:
        assert session.scalar(select(func.count()).select_from(Report)) == 2
    app.extensions["owl"].engine.dispose()
    engine.dispose()


def test_a_full_disk_is_said_and_the_take_is_taken_when_there_is_room(
    app: Any, engine: Engine, settings: Settings, filled: Filled, violin_take: bytes, monkeypatch: pytest.MonkeyPatch
) -> None:
    pupil = Visitor(app).pupil(filled)

    def full(*_: Any) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(AudioStore, "put", full)
    key = uuid.uuid4().hex
    refused = hand_in(pupil, filled, violin_take, client_key=key)
    assert (refused.status_code, "goes by itself later" in refused.json["error"]) == (507, True)
    assert states(engine) == {}
    monkeypatch.undo()
    assert hand_in(pupil, filled, violin_take, client_key=key).status_code == 201


def test_a_clock_that_was_set_back_neither_ends_nor_lengthens_a_session(app: Any, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    ahead = 4102444800.0
    with teacher.client.session_transaction() as cookie:
        cookie["begun"] = cookie["used"] = ahead
    assert teacher.get("/api/week").status_code == 200
    with teacher.client.session_transaction() as cookie:
        assert max(cookie["begun"], cookie["used"]) < ahead
