"""The real worker process: checks what is queued, and survives being killed outright."""

from __future__ import annotations

import asyncio
import uuid
from typing import Any, cast

import pytest
from sqlalchemy import Engine, text

from attentive_owl.core.checking import check
from attentive_owl.core.exercises import Recipe, build
from attentive_owl.core.playing import Habits
from attentive_owl.formats.audio import flac_bytes
from attentive_owl.jobs import checking
from attentive_owl.jobs.worker import rescue_for_ever
from attentive_owl.settings import Settings
from attentive_owl.store.audio import AudioStore
from tests.conftest import RATE, Filled, Visitor, played
from tests.forked import forked_worker
from tests.processes import wait_for
from tests.web.takes import hand_in, state


def test_a_take_that_can_not_be_checked_is_given_up_and_says_so(
    app: Any, engine: Engine, filled: Filled, settings: Settings, violin_take: bytes
) -> None:
    receipt = hand_in(Visitor(app).pupil(filled), filled, violin_take).json
    # The sound is lost behind our back.
    (settings.var / "audio" / "original" / receipt["sha256"][:2] / receipt["sha256"]).unlink()
    with forked_worker(settings):
        wait_for(lambda: state(engine, receipt["id"]) == "stuck")


def test_a_store_that_is_away_is_waited_for(
    app: Any, engine: Engine, filled: Filled, settings: Settings, violin_take: bytes
) -> None:
    pupil = Visitor(app).pupil(filled)
    take_id = hand_in(pupil, filled, violin_take).json["id"]
    store, away = settings.var / "audio", settings.var / "elsewhere"
    store.rename(away)
    store.mkdir()
    refused = hand_in(pupil, filled, violin_take)
    assert (refused.status_code, "goes by itself later" in refused.json["error"]) == (503, True)
    assert list(store.iterdir()) == [], "nothing is written where it would vanish"
    with forked_worker(settings):
        # Longer than three tries would last.
        wait_for(lambda: attempts(engine) >= 4)
        assert state(engine, take_id) != "stuck"
        store.rmdir()
        away.rename(store)
        wait_for(lambda: state(engine, take_id) == "checked")
    assert hand_in(pupil, filled, violin_take).status_code == 201


def attempts(engine: Engine) -> int:
    with engine.connect() as connection:
        return int(connection.scalar(text("SELECT max(attempts) FROM procrastinate_jobs")) or 0)


def test_a_take_that_kills_its_worker_is_given_up_after_three(
    app: Any, engine: Engine, filled: Filled, settings: Settings
) -> None:
    score = build(Recipe("D", tempo_bpm=100), "violin")
    long_take = flac_bytes(played(score, Habits(passes=10)), RATE)
    take_id = hand_in(Visitor(app).pupil(filled), filled, long_take).json["id"]
    for tried in range(3):
        with forked_worker(settings) as own:
            wait_for(lambda tried=tried: state(engine, take_id) == "checking" and doing(engine) == [tried])
            own.kill()
            own.join()
    with forked_worker(settings):
        wait_for(lambda: state(engine, take_id) == "stuck")
        # The take says so a moment before its job is put away.
        wait_for(lambda: not doing(engine))


def doing(engine: Engine) -> list[int]:
    """How often each job that a worker has now was begun before. Asked in one statement: between two, a dead worker's job can be put
    back, and nobody has it."""
    with engine.connect() as connection:
        return list(connection.scalars(text("SELECT attempts FROM procrastinate_jobs WHERE status = 'doing'")))


def test_what_is_erased_while_it_is_listened_to_leaves_nothing(
    app: Any, engine: Engine, filled: Filled, settings: Settings, violin_take: bytes, monkeypatch: pytest.MonkeyPatch
) -> None:
    teacher = Visitor(app).teacher(filled)
    take_id = hand_in(Visitor(app).pupil(filled), filled, violin_take).json["id"]

    def erased_in_between(*arguments: Any) -> Any:
        body = {"name": filled.pupil_name}
        assert teacher.post(f"/api/pupils/{filled.pupil_id}/erase", json=body).status_code == 200
        return check(*arguments)

    monkeypatch.setattr(checking, "check", erased_in_between)
    checking.check_one(engine, AudioStore(settings.audio_url), uuid.UUID(take_id))
    kinds = (settings.var / "audio").glob("*/*/*")
    assert [path for path in kinds if path.is_file()] == []


def test_looking_for_the_jobs_of_dead_workers_outlives_a_fault() -> None:
    looks = []

    class Manager:
        async def get_stalled_jobs(self, **_: Any) -> list[Any]:
            looks.append(len(looks))
            if len(looks) == 1:
                raise ConnectionError("the database is away for a moment")
            return []

    class App:
        job_manager = Manager()

    async def look() -> None:
        looking = asyncio.create_task(rescue_for_ever(cast(Any, App()), cast(Any, None), every_s=0.01))
        while len(looks) < 3:
            assert not looking.done(), "it looks no more, and nobody knows"
            await asyncio.sleep(0.01)
        looking.cancel()

    asyncio.run(look())
