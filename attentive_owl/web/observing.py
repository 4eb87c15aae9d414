"""For whoever runs it: whether it lives, whether it is ready, figures for Prometheus, and a line in the log for every request. A request is
told by its route: what was searched for, or the token of a link, stands in addresses."""

from __future__ import annotations

import hmac
import logging
import os
import time
from collections.abc import Callable, Iterator
from typing import Any

from flask import Flask, Response, g, request
from prometheus_client import CollectorRegistry, Counter, Histogram, generate_latest
from prometheus_client.core import GaugeMetricFamily, Metric
from prometheus_client.exposition import CONTENT_TYPE_LATEST
from prometheus_client.multiprocess import MultiProcessCollector
from prometheus_client.registry import REGISTRY, Collector
from sqlalchemy import text
from sqlalchemy.exc import SQLAlchemyError

from attentive_owl.store.audio import StoreAwayError
from attentive_owl.store.migrate import is_newest
from attentive_owl.web.access import services
from attentive_owl.web.areas import Area
from attentive_owl.web.problems import not_found
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.common import Done, Problem
from attentive_owl.web.schemas.observing import Readiness

api = Area("observing", __name__)
_log = logging.getLogger("attentive_owl.requests")
_ALIVE = "last_heartbeat > now() - interval '30 seconds'"
_SECONDS = Histogram(
    "owl_request_seconds", "How long a request took", ["method", "route"],
    buckets=(0.025, 0.05, 0.1, 0.15, 0.25, 0.5, 1.0, 2.5, 10.0),
)  # fmt: skip
_REQUESTS = Counter("owl_requests", "Requests that were answered", ["method", "route", "status"])


def observe(app: Flask) -> None:
    @app.before_request
    def begin() -> None:
        g.begun = time.perf_counter()

    @app.after_request
    def note_down(answer: Response) -> Response:
        route = request.url_rule.rule if request.url_rule else "none"
        seconds = time.perf_counter() - g.get("begun", time.perf_counter())
        _SECONDS.labels(request.method, route).observe(seconds)
        _REQUESTS.labels(request.method, route, answer.status_code).inc()
        if route.startswith("/api/") and route != "/api/health":
            about = {"method": request.method, "route": route, "status": answer.status_code}
            _log.info("request", extra={**about, "ms": round(1000 * seconds, 1)})
        return answer


@api.get("/health", responses={200: Done})
def health() -> Any:
    """Whether the web lives. It asks nobody else, so that it is not ended for what others lack."""
    return reply(Done())


@api.get("/ready", responses={200: Readiness, 503: Readiness})
def ready() -> Any:
    """Whether all that is needed is there."""
    database = _holds(lambda: _ask("SELECT true"))
    found = Readiness(
        database=database,
        newest_form=database and _holds(lambda: is_newest(services().engine)),
        store=_holds(_store),
        worker=database and _holds(lambda: _ask(f"SELECT EXISTS (SELECT FROM procrastinate_workers WHERE {_ALIVE})")),
    )
    return reply(found, 200 if all(found.model_dump().values()) else 503)


def _ask(question: str) -> bool:
    with services().engine.connect() as connection:
        return bool(connection.execute(text(question)).scalar())


def _store() -> bool:
    services().audio.check()
    return True


def _holds(asked: Callable[[], bool]) -> bool:
    """What can not be asked is not there; why not stands in the log."""
    try:
        return asked()
    except (SQLAlchemyError, StoreAwayError, OSError):
        _log.exception("not ready")
        return False


@api.get("/metrics", responses={404: Problem})
def metrics() -> Any:
    """In the text format of Prometheus, with the token of OWL_METRICS_TOKEN; without that setting there is nothing here."""
    token = os.environ.get("OWL_METRICS_TOKEN", "")
    given = request.headers.get("Authorization", "")
    if not token or not hmac.compare_digest(given.encode(), f"Bearer {token}".encode()):
        raise not_found()
    figures = CollectorRegistry()
    if "PROMETHEUS_MULTIPROC_DIR" in os.environ:
        MultiProcessCollector(figures)  # type: ignore[no-untyped-call]
    else:
        figures.register(REGISTRY)
    figures.register(_Queue())
    return Response(generate_latest(figures), content_type=CONTENT_TYPE_LATEST)


class _Queue(Collector):
    """Asked of the database when the figures are asked for."""

    def collect(self) -> Iterator[Metric]:
        with services().engine.connect() as connection:
            jobs = connection.execute(
                text("SELECT status::text, count(*) FROM procrastinate_jobs WHERE queue_name = 'takes' GROUP BY 1")
            ).all()
            states = connection.execute(text("SELECT state, count(*) FROM take GROUP BY 1")).all()
            oldest = connection.execute(
                text(
                    "SELECT extract(epoch FROM now() - min(created_at)) FROM take WHERE state IN ('waiting', 'checking')"
                )
            ).scalar()
            workers = connection.execute(text(f"SELECT count(*) FROM procrastinate_workers WHERE {_ALIVE}")).scalar()
        yield _gauge("owl_jobs", "Checks in the queue", "status", dict(jobs))
        yield _gauge("owl_takes", "Takes", "state", dict(states))
        yield GaugeMetricFamily("owl_oldest_wait_seconds", "Of the take that waits longest", value=float(oldest or 0))
        yield GaugeMetricFamily("owl_workers", "Workers that gave a sign within 30 s", value=float(workers or 0))


def _gauge(name: str, words: str, label: str, values: dict[str, int]) -> Metric:
    family = GaugeMetricFamily(name, words, labels=[label])
    for key, value in values.items():
        family.add_metric([key], value)
    return family
