"""The real worker process: checks what is queued, and survives being killed outright."""

from __future__ import annotations

import os
import signal
import uuid
from typing import Any

from sqlalchemy import Engine, func, select, text

from attentive_owl.core.exercises import Recipe, build
from attentive_owl.core.playing import Habits
from attentive_owl.formats.audio import flac_bytes
from attentive_owl.settings import Settings
from attentive_owl.store.models import Report, Take
from attentive_owl.store.session import open_session
from tests.conftest import RATE, Filled, Visitor, played
from tests.processes import wait_for, worker
from tests.web.takes import hand_in


def state(engine: Engine, take_id: str) -> str:
    with open_session(engine, "tests look") as session:
        return session.scalars(select(Take.state).where(Take.id == uuid.UUID(take_id))).one()


def test_a_worker_killed_in_the_middle_of_a_check_checks_it_once_after_the_restart(
    app: Any, engine: Engine, filled: Filled, settings: Settings
) -> None:
    # Ten goes make the check long enough to be caught in the middle.
    score = build(Recipe("D", tempo_bpm=100), "violin")
    long_take = flac_bytes(played(score, Habits(passes=10)), RATE)
    take_id = hand_in(Visitor(app).pupil(filled), filled, long_take).json["id"]
    with worker(settings) as first:
        wait_for(lambda: state(engine, take_id) == "checking")
        os.kill(first.pid, signal.SIGKILL)
        first.wait()
    assert state(engine, take_id) == "checking"
    with worker(settings):
        wait_for(lambda: state(engine, take_id) == "checked")
    with open_session(engine, "tests look") as session:
        assert session.scalar(select(func.count()).select_from(Report)) == 1
    with engine.connect() as connection:
        left = connection.execute(
            text("SELECT count(*) FROM procrastinate_jobs WHERE status IN ('todo', 'doing')")
        ).scalar()
    assert left == 0


def test_a_take_that_can_not_be_checked_is_given_up_and_says_so(
    app: Any, engine: Engine, filled: Filled, settings: Settings, violin_take: bytes
) -> None:
    receipt = hand_in(Visitor(app).pupil(filled), filled, violin_take).json
    # The sound is lost behind our back.
    for kind in ("playback", "original"):
        (settings.var / "audio" / kind / receipt["sha256"][:2] / receipt["sha256"]).unlink()
    with worker(settings):
        wait_for(lambda: state(engine, receipt["id"]) == "stuck")
