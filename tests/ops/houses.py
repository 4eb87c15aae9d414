"""Houses with a database of their own, to be broken."""

from __future__ import annotations

import os
import shutil
import signal
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from attentive_owl.ops.cluster import Cluster, OpsError
from attentive_owl.settings import Settings
from attentive_owl.store.migrate import migrate
from attentive_owl.store.session import make_engine
from tests.conftest import free_port


@contextmanager
def new_house() -> Iterator[tuple[Cluster, Settings]]:
    """A database that writes through to the disk as a real one does."""
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


def number_of(cluster: Cluster) -> int:
    """Of PostgreSQL's first process."""
    return int(((cluster.home / "postgres").resolve() / "postmaster.pid").read_text().splitlines()[0])


def children_of(number: int) -> list[int]:
    return [int(own) for own in Path(f"/proc/{number}/task/{number}/children").read_text().split()]


def kill_outright(number: int) -> None:
    """As a power cut would: nothing is said to anybody, and nothing that it had started goes on."""
    for own in (*children_of(number), number):
        with suppress(ProcessLookupError):
            os.kill(own, signal.SIGKILL)


def started(cluster: Cluster) -> bool:
    """What a killed server leaves behind may be in the way for a while."""
    try:
        cluster.start()
    except OpsError:
        return False
    return True
