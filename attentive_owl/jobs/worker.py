"""The worker process: takes checks from the queue until it is told to stop."""

from __future__ import annotations

import asyncio
import logging
import os
import uuid
from datetime import UTC, datetime, timedelta

import procrastinate
from procrastinate import JobContext
from procrastinate.jobs import Job, Status
from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError

from attentive_owl.jobs.checking import check_one, give_up
from attentive_owl.jobs.upkeep import forget_old_trails, let_go_of_sounds, remind
from attentive_owl.settings import Settings
from attentive_owl.store.audio import AudioStore, StoreAwayError
from attentive_owl.store.queue import CHECK_TASK, TAKES_QUEUE
from attentive_owl.store.session import make_engine

_log = logging.getLogger(__name__)
_ATTEMPTS = 3
_AGAIN_S = 2
_STORE_AGAIN_S = int(os.environ.get("OWL_STORE_AGAIN_S", "20"))
_LEFT_BEHIND = timedelta(days=1)
UPKEEP_QUEUE = "upkeep"
_DAILY = "10 4 * * *"
_HEARTBEAT_S = 5.0
_STALLED_S = float(os.environ.get("OWL_STALLED_S", "30"))
"""A worker that was silent this long is taken for dead, and its job is done again."""


class _Patience(procrastinate.BaseRetryStrategy):
    """Three tries; but a store that is away is waited for, however long it takes."""

    def get_retry_decision(self, *, exception: BaseException, job: Job) -> procrastinate.RetryDecision | None:
        if isinstance(exception, StoreAwayError):
            return procrastinate.RetryDecision(retry_in={"seconds": _STORE_AGAIN_S})
        if job.attempts + 1 >= _ATTEMPTS:
            return None
        return procrastinate.RetryDecision(retry_in={"seconds": _AGAIN_S})


def make_worker_app(settings: Settings, engine: Engine) -> procrastinate.App:
    app = procrastinate.App(
        connector=procrastinate.PsycopgConnector(conninfo=settings.conninfo, min_size=1, max_size=4)
    )
    audio = AudioStore(settings.audio_url, settings.store_seen)

    @app.task(
        name=CHECK_TASK,
        queue=TAKES_QUEUE,
        retry=_Patience(),
        pass_context=True,
    )
    def check_take(context: JobContext, take_id: str) -> None:
        try:
            check_one(engine, audio, uuid.UUID(take_id))
        except StoreAwayError:
            # No fault of the take's: it waits for the store.
            raise
        except Exception:
            if context.job.attempts + 1 >= _ATTEMPTS:
                give_up(engine, uuid.UUID(take_id))
            raise

    @app.periodic(cron=_DAILY)
    @app.task(name="upkeep", queue=UPKEEP_QUEUE, queueing_lock="upkeep", retry=2)
    def upkeep(timestamp: int) -> None:
        said, gone = remind(engine), let_go_of_sounds(engine, audio)
        forget_old_trails(engine)
        swept = audio.sweep(datetime.now(UTC) - _LEFT_BEHIND)
        _log.info("upkeep: %s messages, %s recordings let go, %s halves swept", said, gone, swept)

    return app


_PASSING = (procrastinate.exceptions.ProcrastinateException, SQLAlchemyError, OSError)


async def rescue_for_ever(app: procrastinate.App, engine: Engine, every_s: float) -> None:
    """For as long as the worker lives: a database that is away for a moment, or a job that another worker has just put back, ends one
    look and not the looking."""
    while True:
        try:
            await _rescue(app, engine)
        except _PASSING:
            _log.exception("jobs of dead workers could not be looked for; tried again")
        await asyncio.sleep(every_s)


async def _rescue(app: procrastinate.App, engine: Engine) -> None:
    """Put jobs of dead workers back into the queue. One that has killed as many workers as there are tries is given up: it would kill
    them all."""
    for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=_STALLED_S):
        take_id = job.task_kwargs.get("take_id")
        if job.attempts + 1 >= _ATTEMPTS and take_id is not None:
            _log.error("job %s was left by a dead worker %s times; it is given up", job.id, job.attempts + 1)
            await asyncio.to_thread(give_up, engine, uuid.UUID(str(take_id)))
            await app.job_manager.finish_job(job, status=Status.FAILED, delete_job=False)
        else:
            _log.warning("job %s was left by a dead worker; it is done again", job.id)
            await app.job_manager.retry_job(job)


async def _work(app: procrastinate.App, engine: Engine) -> None:
    async with app.open_async():
        rescue = asyncio.create_task(rescue_for_ever(app, engine, min(5.0, _STALLED_S / 2)))
        try:
            await app.run_worker_async(
                queues=[TAKES_QUEUE, UPKEEP_QUEUE],
                concurrency=1,
                update_heartbeat_interval=min(_HEARTBEAT_S, _STALLED_S / 3),
                stalled_worker_timeout=_STALLED_S,
                fetch_job_polling_interval=2.0,
                delete_jobs="successful",
            )
        finally:
            rescue.cancel()


def run_worker(settings: Settings) -> None:
    """Runs until SIGTERM or SIGINT; the job at hand is finished first."""
    _warm_up()
    engine = make_engine(settings.database_url, pool_size=3)
    asyncio.run(_work(make_worker_app(settings, engine), engine))


def _warm_up() -> None:
    """The first check of a process pays for imports and FFT plans: do one before the first pupil waits for it."""
    from attentive_owl.core.checking import check
    from attentive_owl.core.exercises import Recipe, build
    from attentive_owl.core.judging import Expectations
    from attentive_owl.core.playing import demonstrate

    score = build(Recipe("D", tempo_bpm=132), "violin")
    sound = demonstrate(score)
    check(sound.samples, sound.sample_rate, score, Expectations(132))
