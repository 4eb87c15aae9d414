"""What ./start runs: up, answering, down with nothing left; and one line where a port is taken."""

from __future__ import annotations

import json
import os
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest

from attentive_owl.ops import own_user, supervise
from attentive_owl.ops.cluster import Cluster, OpsError, port_is_free
from tests.conftest import free_port
from tests.processes import wait_for


@pytest.fixture
def home() -> Iterator[Path]:
    folder = Path(tempfile.mkdtemp(prefix="owl-start-"))
    folder.chmod(0o755)
    yield folder
    shutil.rmtree((folder / "postgres").resolve(), ignore_errors=True)
    shutil.rmtree(folder, ignore_errors=True)


def serve(home: Path, port: int, database_port: int) -> subprocess.Popen[str]:
    environment = {
        **os.environ,
        "OWL_VAR": str(home),
        "OWL_PORT": str(port),
        "OWL_PG_PORT": str(database_port),
        "OWL_DEMO": "0",
    }
    return subprocess.Popen(
        [sys.executable, "-m", "attentive_owl.cli", "serve"],
        env=environment, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, start_new_session=True,
    )  # fmt: skip


def wait_until_open(process: subprocess.Popen[str]) -> None:
    assert process.stdout is not None
    line = ""
    while "is open at" not in line:
        line = process.stdout.readline()
        assert line, "it ended before it was open"


def answers(port: int) -> bool:
    try:
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/ready", timeout=5) as answer:
            return bool(answer.status == 200)
    except OSError:
        return False


def test_up_beside_a_second_one_over_a_killed_database_and_down_with_nothing_left_behind(home: Path) -> None:
    """One start for all of it: it takes a quarter of a minute."""
    port, database_port = free_port(), free_port()
    process = serve(home, port, database_port)
    try:
        wait_until_open(process)
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/health") as answer:
            assert answer.status == 200
        assert answers(port)
        for name in ("database.url", "secret.key", "log/web.log", "log/worker.log", "store.seen"):
            assert oct((home / name).stat().st_mode)[-3:] == "600", name
        assert oct((home / "audio").stat().st_mode)[-3:] == "700"
        requests = [json.loads(line) for line in (home / "log" / "web.log").read_text().splitlines()]
        assert "/api/ready" in {own.get("route") for own in requests}
        second = serve(home, free_port(), database_port)
        said, _ = second.communicate(timeout=60)
        assert (second.returncode, said.strip().startswith("Attentive Owl runs already from")) == (1, True), said
        assert answers(port)
        number = int(((home / "postgres").resolve() / "postmaster.pid").read_text().splitlines()[0])
        os.kill(number, signal.SIGKILL)
        wait_for(lambda: not answers(port), 30)
        wait_for(lambda: answers(port), 60)
    finally:
        process.send_signal(signal.SIGINT)
        assert process.wait(30) == 0
    assert port_is_free(port)
    assert port_is_free(database_port)
    # Nothing that was started with this folder is still running.
    left = subprocess.run(["pgrep", "-f", str(home)], capture_output=True, text=True).stdout
    assert left == ""


def test_the_number_of_a_dead_server_that_is_a_strangers_now_is_no_server(home: Path) -> None:
    data = home / "postgres"
    data.mkdir()
    own = Cluster(home, free_port())
    (data / "postmaster.pid").write_text(f"{os.getpid()}\n{data}\n1\n{own.port}\n")
    assert own.running_port() is None


def test_a_log_that_has_grown_is_begun_anew_and_its_writer_goes_on(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(supervise, "_LOG_BYTES", 100)
    log = tmp_path / "web.log"
    with open(log, "ab", buffering=0) as writer:
        for turn in range(7):
            writer.write(f"turn {turn}".ljust(120).encode())
            supervise._turn(log)
            supervise._turn(log)
        writer.write(b"and on")
    assert log.read_bytes() == b"and on"
    kept = sorted(path.name for path in tmp_path.iterdir())
    assert kept == ["web.log", *(f"web.log.{number}" for number in range(1, 6))]
    assert [(tmp_path / name).read_text()[:6] for name in kept[1:]] == [f"turn {turn}" for turn in (6, 5, 4, 3, 2)]
    assert oct((tmp_path / "web.log.1").stat().st_mode)[-3:] == "600"


@pytest.mark.skipif(os.geteuid() != 0, reason="only root can become somebody else")
def test_what_root_starts_is_somebody_else_who_owns_its_folder(home: Path) -> None:
    """With a program that everybody can read, which ours need not be."""
    for name in ("audio/original/ab", "log"):
        (home / name).mkdir(parents=True)
    (home / "database.password").write_text("root's own")
    (home / "audio" / "original" / "ab" / "sound").write_text("x")
    own_user.hand_over(home, "daemon")
    log = home / "log" / "web.log"
    child = supervise._Child("web", ["/usr/bin/id"], log, "daemon")
    child.start()
    assert child.process is not None
    assert child.process.wait(20) == 0
    assert log.read_text().split() == ["uid=1(daemon)", "gid=1(daemon)", "groups=1(daemon)"]
    assert (home / "audio" / "original" / "ab" / "sound").owner() == "daemon"
    assert (home / "database.password").owner() == "root"
    assert own_user.can_run("daemon", ["test", "-x", str(home)])
    home.chmod(0o700)
    shutil.chown(home, "root")
    assert not own_user.can_run("daemon", ["test", "-x", str(home)])


def test_a_taken_port_is_said_in_one_line(home: Path) -> None:
    with socket.socket() as other:
        other.bind(("127.0.0.1", 0))
        other.listen()
        port = other.getsockname()[1]
        process = serve(home, port, free_port())
        output, _ = process.communicate(timeout=60)
    assert process.returncode == 1
    assert output.strip() == f"Port {port} is taken by another program; set OWL_PORT to a free one."


def test_a_taken_database_port_is_said_in_one_line(home: Path) -> None:
    with socket.socket() as other:
        other.bind(("127.0.0.1", 0))
        other.listen()
        with pytest.raises(OpsError, match="set OWL_PG_PORT"):
            Cluster(home, other.getsockname()[1]).start()


def test_a_cluster_left_running_is_taken_over(home: Path) -> None:
    port = free_port()
    Cluster(home, port, durable=False).start()
    again = Cluster(home, port, durable=False)
    again.start()
    assert again.running_port() == port
    moved = Cluster(home, free_port(), durable=False)
    moved.start()
    wait_for(lambda: moved.running_port() == moved.port)
    moved.stop()
    assert moved.running_port() is None
