"""What ./start runs: the cluster, migrations, the demo once, the web server and a worker; all ended together."""

from __future__ import annotations

import ctypes
import fcntl
import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from types import FrameType
from typing import IO

import psycopg

from attentive_owl.demo import scenario
from attentive_owl.demo.load import load_demo
from attentive_owl.ops.cluster import Cluster, OpsError, port_is_free
from attentive_owl.ops.own_user import hand_over, own_user
from attentive_owl.settings import ROOT, load_settings
from attentive_owl.store.migrate import migrate
from attentive_owl.store.session import make_engine

_READY_S = 60.0
_STOP_S = 20.0
_LOG_BYTES, _LOGS_KEPT = 10 * 1024**2, 5
_PR_SET_PDEATHSIG = 1


@dataclass
class _Child:
    name: str
    command: list[str]
    log: Path
    user: str | None = None
    """As whom; None: as ourselves."""
    process: subprocess.Popen[bytes] | None = None
    started: float = 0.0
    restarts: list[float] = field(default_factory=list)

    def start(self) -> None:
        with open(os.open(self.log, os.O_WRONLY | os.O_CREAT | os.O_APPEND, 0o600), "ab") as handle:
            self.process = subprocess.Popen(
                self.command,
                stdout=handle,
                stderr=subprocess.STDOUT,
                stdin=subprocess.DEVNULL,
                # A group of its own: Ctrl-C comes to us, and we end it in order.
                start_new_session=True,
                preexec_fn=_die_with_parent,
                user=self.user,
                group=self.user,
                extra_groups=[] if self.user else None,
            )
        self.started = time.monotonic()


def _die_with_parent() -> None:
    """Linux: if the supervisor is killed outright, its children get SIGTERM."""
    ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGTERM)


def supervise() -> int:
    """Runs until SIGINT or SIGTERM. Raises OpsError where something on the machine is in the way."""
    port = _port("OWL_PORT", 8420)
    var = Path(os.environ.get("OWL_VAR", ROOT / "var")).resolve()
    var.mkdir(parents=True, exist_ok=True)
    (var / "log").mkdir(exist_ok=True)
    if not port_is_free(port):
        raise OpsError(f"Port {port} is taken by another program; set OWL_PORT to a free one.")
    cluster = Cluster(var, _port("OWL_PG_PORT", 54320))
    held = _hold(var)
    stopping = _StopFlag()
    children: list[_Child] = []
    try:
        cluster.start()
        # From here on what is written is for its owner alone: recordings, logs, keys. (The database's folder is its own user's.)
        os.umask(0o077)
        _close(var)
        _prepare(cluster, var)
        user = _as_whom(var)
        children = [
            _Child("web", _WEB_COMMAND, var / "log" / "web.log", user),
            _Child("worker", [sys.executable, "-m", "attentive_owl.cli", "worker"], var / "log" / "worker.log", user),
        ]
        for child in children:
            child.start()
        _wait_for("the web server", lambda: _web_answers(port), children, stopping)
        _wait_for("the worker", lambda: _worker_answers(cluster), children, stopping)
        if not stopping.asked:
            _greet(port, _has_demo(cluster))
        while not stopping.asked:
            time.sleep(0.2)
            if cluster.running_port() is None:
                _revive_database(cluster, stopping)
            for child in children:
                _revive(child)
                _turn(child.log)
        return 0
    finally:
        for child in children:
            _end(child)
        cluster.stop()
        held.close()


def _as_whom(var: Path) -> str | None:
    try:
        user = own_user(var)
    except LookupError as error:
        print(error, flush=True)
        return None
    if user is not None:
        hand_over(var, user)
    return user


def _close(var: Path) -> None:
    """What an earlier program left open to others."""
    for folder in (var / "audio", var / "log"):
        if folder.is_dir():
            folder.chmod(0o700)
    for log in (var / "log").glob("*.log*"):
        log.chmod(0o600)


def _turn(log: Path) -> None:
    """A log that has grown is begun anew, and the last ones are kept. Its writer goes on in the same file, which it always writes at
    the end of."""
    if not log.exists() or log.stat().st_size < _LOG_BYTES:
        return
    for number in range(_LOGS_KEPT, 1, -1):
        older = log.with_name(f"{log.name}.{number - 1}")
        if older.exists():
            older.replace(log.with_name(f"{log.name}.{number}"))
    with open(os.open(log.with_name(f"{log.name}.1"), os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "wb") as copy:
        copy.write(log.read_bytes())
    os.truncate(log, 0)


def _hold(var: Path) -> IO[str]:
    """One of us for a folder: a second one would end the first one's database. The lock goes with the process, however it ends."""
    handle = open(var / "running.lock", "w")  # noqa: SIM115 - it is held as long as we run
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError as error:
        handle.close()
        raise OpsError(
            f"Attentive Owl runs already from {var}; end that one first, or set OWL_VAR to another folder."
        ) from error
    return handle


class _StopFlag:
    def __init__(self) -> None:
        self.asked = False
        signal.signal(signal.SIGINT, self._stop)
        signal.signal(signal.SIGTERM, self._stop)

    def _stop(self, number: int, frame: FrameType | None) -> None:
        self.asked = True


def _port(name: str, default: int) -> int:
    text = os.environ.get(name, str(default))
    if not text.isdigit() or not 1024 <= int(text) <= 65535:
        raise OpsError(f"{name} is {text!r}; a port is a number from 1024 to 65535.")
    return int(text)


def _prepare(cluster: Cluster, var: Path) -> None:
    cluster.create_database("owl")
    descriptor = os.open(var / "database.url", os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    with open(descriptor, "w") as handle:
        handle.write(cluster.url("owl"))
    os.environ["OWL_VAR"] = str(var)
    os.environ.pop("OWL_DATABASE_URL", None)
    settings = load_settings()
    engine = make_engine(settings.database_url)
    migrate(engine)
    engine.dispose()
    if os.environ.get("OWL_DEMO", "1") == "1" and _is_empty(cluster):
        print("Playing and checking three months of demo takes (a minute or two, once) ...", flush=True)
        load_demo(settings)


def _is_empty(cluster: Cluster) -> bool:
    with psycopg.connect(cluster.conninfo("owl")) as connection:
        return connection.execute("SELECT 1 FROM studio LIMIT 1").fetchone() is None


_WEB_COMMAND = [sys.executable, "-m", "gunicorn", "-c", "python:attentive_owl.ops.gunicorn_conf"]


def _web_answers(port: int) -> bool:
    try:
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/health", timeout=2) as answer:
            return bool(answer.status == 200)
    except (urllib.error.URLError, OSError):
        return False


def _worker_answers(cluster: Cluster) -> bool:
    with psycopg.connect(cluster.conninfo("owl")) as connection:
        question = "SELECT 1 FROM procrastinate_workers WHERE last_heartbeat > now() - interval '15 seconds' LIMIT 1"
        return connection.execute(question).fetchone() is not None


def _wait_for(what: str, answers: Callable[[], bool], children: list[_Child], stopping: _StopFlag) -> None:
    until = time.monotonic() + _READY_S
    while time.monotonic() < until and not stopping.asked:
        if answers():
            return
        for child in children:
            if child.process is not None and child.process.poll() is not None:
                raise OpsError(f"The {child.name} did not start; its log is {child.log}.")
        time.sleep(0.1)
    if not stopping.asked:
        raise OpsError(f"{what.capitalize()} did not answer within {_READY_S:.0f} s; the logs are in var/log.")


def _revive_database(cluster: Cluster, stopping: _StopFlag) -> None:
    """What it left behind (its own processes, which end one by one) may be in the way for a while."""
    print("The database stopped and is started again.", flush=True)
    until = time.monotonic() + _READY_S
    while not stopping.asked:
        try:
            cluster.start()
            return
        except OpsError:
            if time.monotonic() > until:
                raise
            time.sleep(0.5)


def _revive(child: _Child) -> None:
    """A child that died is started again, at most five times in a minute."""
    if child.process is None or child.process.poll() is None:
        return
    now = time.monotonic()
    child.restarts = [at for at in child.restarts if now - at < 60] + [now]
    if len(child.restarts) > 5:
        raise OpsError(f"The {child.name} keeps stopping; its log is {child.log}.")
    print(f"The {child.name} stopped ({child.process.returncode}) and is started again.", flush=True)
    child.start()


def _end(child: _Child) -> None:
    if child.process is None or child.process.poll() is not None:
        return
    child.process.terminate()
    try:
        child.process.wait(_STOP_S)
    except subprocess.TimeoutExpired:
        os.killpg(child.process.pid, signal.SIGKILL)
        child.process.wait()


def _greet(port: int, demo: bool) -> None:
    print(f"\nAttentive Owl is open at http://127.0.0.1:{port}   (Ctrl-C ends it)\n")
    if demo:
        print(f"  Teacher   {scenario.TEACHER_EMAIL}   password: {scenario.TEACHER_PASSWORD}")
        print(f"  Assistant {scenario.ASSISTANT_EMAIL}   password: {scenario.ASSISTANT_PASSWORD}")
        for name, code in (scenario.FIRST, scenario.SECOND):
            begins = f"  Pupil     class code {code}   words: "
            for pupil in scenario.PUPILS:
                if pupil.group == (name, code):
                    print(f"{begins}{pupil.passphrase}   ({pupil.name}, {pupil.instrument})")
                    begins = " " * 30 + "words: "
    print(flush=True)


def _has_demo(cluster: Cluster) -> bool:
    with psycopg.connect(cluster.conninfo("owl")) as connection:
        return connection.execute("SELECT 1 FROM studio WHERE demo LIMIT 1").fetchone() is not None
