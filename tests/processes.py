"""Starting the project's real processes for tests, and ending them by their own handle."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from typing import Any

from attentive_owl.settings import Settings


def environment(settings: Settings, **more: str) -> dict[str, str]:
    return {
        **os.environ,
        "OWL_VAR": str(settings.var),
        "OWL_DATABASE_URL": settings.database_url,
        "OWL_AUDIO_URL": settings.audio_url,
        **more,
    }


@contextmanager
def running(
    settings: Settings, name: str, *module: str, behind: Sequence[str] = (), **more: str
) -> Iterator[subprocess.Popen[bytes]]:
    """`behind`: a program that starts it, with its arguments."""
    with open(settings.var / f"{name}.log", "ab") as log:
        process = subprocess.Popen(
            [*behind, sys.executable, "-m", *module], env=environment(settings, **more), stdout=log, stderr=log
        )
    try:
        yield process
    finally:
        if process.poll() is None:
            process.terminate()
            process.wait(20)


def worker(settings: Settings) -> Any:
    return running(settings, "worker", "attentive_owl.cli", "worker", OWL_STALLED_S="3")


def web(settings: Settings, port: int, **more: str) -> Any:
    return running(
        settings, "web", "gunicorn", "-c", "python:attentive_owl.ops.gunicorn_conf",
        **{"OWL_PORT": str(port), "OWL_WEB_WORKERS": "1", **more},
    )  # fmt: skip


def wait_for(what: Callable[[], Any], seconds: float = 60) -> Any:
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        found = what()
        if found:
            return found
        time.sleep(0.02)
    raise AssertionError("it did not come")
