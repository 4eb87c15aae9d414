"""`kill -9` at each step that a take goes, of who does the step and of PostgreSQL under it; and the power gone after the receipt."""

from __future__ import annotations

import os
import signal
import uuid
import zlib
from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any, NamedTuple

import pytest
from sqlalchemy import Engine, func, select, text
from sqlalchemy.exc import OperationalError

from attentive_owl.core.exercises import Recipe, build
from attentive_owl.formats.audio import flac_bytes
from attentive_owl.ops.cluster import Cluster
from attentive_owl.settings import Settings
from attentive_owl.store.audio import AudioStore
from attentive_owl.store.models import Report, Take
from attentive_owl.store.session import make_engine, open_session
from attentive_owl.web.app import create_app
from tests.conftest import RATE, Filled, Visitor, fill, played
from tests.forked import Step, begin, break_at, work
from tests.ops.houses import new_house, number_of, started
from tests.processes import wait_for
from tests.web.takes import hand_in

_STORE, _HANDING, _CHECKING = (
    "attentive_owl.store.audio:AudioStore", "attentive_owl.web.takes.handing_in", "attentive_owl.jobs.checking",
)  # fmt: skip
OF_THE_WEB = [
    Step(_STORE, "put", False), Step(_STORE, "put", True), Step(_HANDING, "defer_check", False), Step(_HANDING, "defer_check", True),
    Step(_HANDING, "reply", False),
]  # fmt: skip
OF_THE_WORKER = [
    Step("attentive_owl.jobs.worker", "check_one", False), Step(_CHECKING, "samples_of", False), Step(_STORE, "put", False), Step(_STORE, "put", True),
    Step(_CHECKING, "check", False), Step(_CHECKING, "_keep", False), Step(_CHECKING, "_keep", True),
    Step("procrastinate.manager:JobManager", "finish_job", False),
]  # fmt: skip


def send(settings: Settings, filled: Filled, sound: bytes, key: str, step: Step, number: int | None) -> None:
    """A web process that takes one take; it ends with 0 when that was taken, with 3 when it said that it can not just now."""
    app = create_app(settings)
    app.testing = True
    pupil = Visitor(app).pupil(filled)
    break_at(step, number)
    answer = hand_in(pupil, filled, sound, client_key=key)
    away = answer.status_code == 503 and answer.json["error"].startswith("The house")
    os._exit(0 if answer.status_code == 201 else 3 if away else 4)


class House(NamedTuple):
    cluster: Cluster
    settings: Settings
    engine: Engine
    filled: Filled
    app: Any


@pytest.fixture(scope="module")
def house() -> Iterator[House]:
    with new_house() as (cluster, settings):
        engine = make_engine(settings.database_url)
        app = create_app(settings)
        app.testing = True
        yield House(cluster, settings, engine, fill(engine, settings), app)
        app.extensions["owl"].engine.dispose()
        engine.dispose()


def a_sound(of: str) -> bytes:
    """No two are the same: what is here already would not be put again."""
    return flac_bytes(played(build(Recipe("D", tempo_bpm=132), "violin"), seed=zlib.crc32(of.encode())), RATE)


def victim(house: House, who: str) -> int | None:
    return number_of(house.cluster) if who == "postgresql" else None


def settled(house: House, take_id: str) -> bool | None:
    """Checked, and no job is left; None while the database is away."""
    try:
        with open_session(house.engine, "tests look") as session:
            left = session.scalar(text("SELECT count(*) FROM procrastinate_jobs WHERE status IN ('todo', 'doing')"))
            return session.get_one(Take, uuid.UUID(take_id)).state == "checked" and left == 0
    except OperationalError:
        return None


def checked_in_the_end(house: House, take_id: str, broken: Step | None, who: str) -> None:
    """Workers, one after the other: the first is broken, each that ends is started again."""
    server = number_of(house.cluster)
    own = first = begin(work, house.settings, broken, victim(house, who))

    def over() -> bool:
        nonlocal own
        if who == "postgresql" and not house.cluster.running_port():
            started(house.cluster)
        if not own.is_alive():
            own = begin(work, house.settings)
        return bool(settled(house, take_id))

    try:
        wait_for(over, 90)
    finally:
        own.terminate()
        own.join(20)
    # What was to be killed was killed.
    assert (first.exitcode == -signal.SIGKILL, number_of(house.cluster) != server) == (
        who == "itself", who == "postgresql"
    )  # fmt: skip


def looked_over(house: House, key: str, sound: bytes) -> None:
    """One take, one report, its sound whole, and no half beside it that the nightly sweep would not take."""
    with open_session(house.engine, "tests look") as session:
        take = session.scalars(select(Take).where(Take.client_key == key)).one()
        reports = session.scalar(select(func.count()).select_from(Report).where(Report.take_id == take.id))
        assert (take.state, reports) == ("checked", 1)
        sha256 = take.sha256
    audio = AudioStore(house.settings.audio_url, house.settings.store_seen)
    assert audio.read(sha256, "original") == sound
    audio.sweep(datetime.now(UTC) + timedelta(minutes=1))
    assert not list(house.settings.var.glob("audio/**/*.part"))
    assert audio.read(sha256, "playback")[:4] == b"fLaC"


@pytest.mark.parametrize("who", ["itself", "postgresql"])
@pytest.mark.parametrize("step", OF_THE_WEB, ids=str)
def test_the_web_is_killed(house: House, step: Step, who: str) -> None:
    key, sound = uuid.uuid4().hex, a_sound(f"the web {step} {who}")
    own = begin(send, house.settings, house.filled, sound, key, step, victim(house, who))
    own.join(60)
    assert own.exitcode in ({-signal.SIGKILL} if who == "itself" else {0, 3})
    if who == "postgresql":
        wait_for(lambda: house.cluster.running_port() or started(house.cluster))
    # The device has no receipt that it believes: it sends the same again.
    pupil = Visitor(house.app)
    wait_for(lambda: pupil.client.get("/api/session").status_code == 200)
    receipt = hand_in(pupil.pupil(house.filled), house.filled, sound, client_key=key)
    assert receipt.status_code in (200, 201)
    checked_in_the_end(house, receipt.json["id"], None, "nobody")
    looked_over(house, key, sound)


@pytest.mark.parametrize("who", ["itself", "postgresql"])
@pytest.mark.parametrize("step", OF_THE_WORKER, ids=str)
def test_the_worker_is_killed(house: House, step: Step, who: str) -> None:
    key, sound = uuid.uuid4().hex, a_sound(f"the worker {step} {who}")
    receipt = hand_in(Visitor(house.app).pupil(house.filled), house.filled, sound, client_key=key)
    checked_in_the_end(house, receipt.json["id"], step, who)
    looked_over(house, key, sound)


def test_what_was_answered_for_is_on_the_disk(house: House, monkeypatch: pytest.MonkeyPatch) -> None:
    """What a disk holds when the power goes: of a file what it was when it was last synchronised, of a folder the names that it had then."""
    files: dict[int, bytes] = {}
    folders: dict[int, dict[str, int]] = {}
    real: Callable[[int], None] = os.fsync

    def noted(descriptor: int) -> None:
        path = Path(os.readlink(f"/proc/self/fd/{descriptor}"))
        if path.is_dir():
            folders[path.stat().st_ino] = {own.name: own.stat().st_ino for own in path.iterdir()}
        else:
            files[path.stat().st_ino] = path.read_bytes()
        real(descriptor)

    monkeypatch.setattr(os, "fsync", noted)
    sound = a_sound("on the disk")
    sha256 = hand_in(Visitor(house.app).pupil(house.filled), house.filled, sound).json["sha256"]
    at = (house.settings.var / "audio").stat().st_ino
    for name in ("original", sha256[:2], sha256):
        at = folders[at][name]
    assert files[at] == sound
    with house.engine.connect() as connection:
        for setting in ("fsync", "synchronous_commit", "full_page_writes"):
            assert connection.scalar(text(f"SHOW {setting}")) == "on", setting
