"""What ./start runs: up, answering, down with nothing left; and one line where a port is taken."""

from __future__ import annotations

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
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/health", timeout=5) as answer:
            return bool(answer.status == 200)
    except OSError:
        return False


def test_a_second_one_leaves_the_first_alone_and_a_killed_database_comes_back(home: Path) -> None:
    port, database_port = free_port(), free_port()
    first = serve(home, port, database_port)
    try:
        wait_until_open(first)
        second = serve(home, free_port(), database_port)
        said, _ = second.communicate(timeout=60)
        assert (second.returncode, said.strip().startswith("Attentive Owl runs already from")) == (1, True), said
        assert answers(port)
        number = int(((home / "postgres").resolve() / "postmaster.pid").read_text().splitlines()[0])
        os.kill(number, signal.SIGKILL)
        wait_for(lambda: not answers(port), 30)
        wait_for(lambda: answers(port), 60)
    finally:
        first.send_signal(signal.SIGINT)
        assert first.wait(30) == 0
    assert port_is_free(database_port)


def test_the_number_of_a_dead_server_that_is_a_strangers_now_is_no_server(home: Path) -> None:
    data = home / "postgres"
    data.mkdir()
    own = Cluster(home, free_port())
    (data / "postmaster.pid").write_text(f"{os.getpid()}\n{data}\n1\n{own.port}\n")
    assert own.running_port() is None


def test_up_and_down_with_nothing_left_behind(home: Path) -> None:
    port, database_port = free_port(), free_port()
    process = serve(home, port, database_port)
    wait_until_open(process)
    with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/health") as answer:
        assert answer.status == 200
    assert oct((home / "database.url").stat().st_mode)[-3:] == "600"
    process.send_signal(signal.SIGINT)
    assert process.wait(30) == 0
    assert port_is_free(port)
    assert port_is_free(database_port)
    # Nothing that was started with this folder is still running.
    left = subprocess.run(["pgrep", "-f", str(home)], capture_output=True, text=True).stdout
    assert left == ""


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
