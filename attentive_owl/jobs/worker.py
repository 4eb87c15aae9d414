"""The worker process: takes checks from the queue until it is told to stop."""

from __future__ import annotations

import asyncio
import logging
import os
import uuid

import procrastinate
from procrastinate import JobContext

from attentive_owl.jobs.checking import check_one, give_up
from attentive_owl.jobs.upkeep import let_go_of_sounds, remind
from attentive_owl.settings import Settings
from attentive_owl.store.audio import AudioStore
from attentive_owl.store.queue import CHECK_TASK, TAKES_QUEUE
from attentive_owl.store.session import make_engine

_log = logging.getLogger(__name__)
_ATTEMPTS = 3
UPKEEP_QUEUE = "upkeep"
_DAILY = "10 4 * * *"
_HEARTBEAT_S = 5.0
_STALLED_S = float(os.environ.get("OWL_STALLED_S", "30"))
"""A worker that was silent this long is taken for dead, and its job is done again."""


def make_worker_app(settings: Settings) -> procrastinate.App:
    app = procrastinate.App(
        connector=procrastinate.PsycopgConnector(conninfo=settings.conninfo, min_size=1, max_size=4)
    )
    engine = make_engine(settings.database_url, pool_size=3)
    audio = AudioStore(settings.audio_url)

    @app.task(
        name=CHECK_TASK,
        queue=TAKES_QUEUE,
        retry=procrastinate.RetryStrategy(max_attempts=_ATTEMPTS, wait=2),
        pass_context=True,
    )
    def check_take(context: JobContext, take_id: str) -> None:
        try:
            check_one(engine, audio, uuid.UUID(take_id))
        except Exception:
            if context.job.attempts + 1 >= _ATTEMPTS:
                give_up(engine, uuid.UUID(take_id))
            raise

    @app.periodic(cron=_DAILY)
    @app.task(name="upkeep", queue=UPKEEP_QUEUE, queueing_lock="upkeep", retry=2)
    def upkeep(timestamp: int) -> None:
        said, gone = remind(engine), let_go_of_sounds(engine, audio)
        _log.info("upkeep: %s messages, %s recordings let go", said, gone)

    return app


async def _rescue(app: procrastinate.App, every_s: float) -> None:
    """Put jobs of dead workers back into the queue."""
    while True:
        for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=_STALLED_S):
            _log.warning("job %s was left by a dead worker; it is done again", job.id)
            await app.job_manager.retry_job(job)
        await asyncio.sleep(every_s)


async def _work(app: procrastinate.App) -> None:
    async with app.open_async():
        rescue = asyncio.create_task(_rescue(app, min(5.0, _STALLED_S / 2)))
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
    asyncio.run(_work(make_worker_app(settings)))


def _warm_up() -> None:
    """The first check of a process pays for imports and FFT plans: do one before the first pupil waits for it."""
    from attentive_owl.core.checking import check
    from attentive_owl.core.exercises import Recipe, build
    from attentive_owl.core.judging import Expectations
    from attentive_owl.core.playing import demonstrate

    score = build(Recipe("D", tempo_bpm=132), "violin")
    sound = demonstrate(score)
    check(sound.samples, sound.sample_rate, score, Expectations(132))
