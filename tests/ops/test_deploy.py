"""The files for running it for real: the proxy's is run in front of the real web, the units go through systemd's own check."""

from __future__ import annotations

import http.client
import json
import re
import shutil
import socket
import ssl
import subprocess
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from sqlalchemy import Engine, text

from attentive_owl.settings import Settings
from tests.conftest import ROOT, Filled, free_port
from tests.processes import wait_for, web

DEPLOY = ROOT / "deploy"
PASSWORD = {"email": "nobody@test.example", "password": "a wrong password"}


@pytest.fixture
def proxy(settings: Settings, tmp_path: Path) -> Iterator[int]:
    """nginx with the shipped file, in front of the web: its port for TLS."""
    port, plain, behind = free_port(), free_port(), free_port()
    subprocess.run(
        ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2", "-subj", "/CN=localhost", "-keyout",
         str(tmp_path / "tls.key"), "-out", str(tmp_path / "tls.crt")],
        check=True, capture_output=True,
    )  # fmt: skip
    shipped = (DEPLOY / "nginx.conf").read_text()
    for ours, here in (
        ("/etc/attentive-owl", str(tmp_path)), ("listen 443", f"listen 127.0.0.1:{port}"),
        ("listen 80", f"listen 127.0.0.1:{plain}"), ("127.0.0.1:8420", f"127.0.0.1:{behind}"),
    ):  # fmt: skip
        assert ours in shipped
        shipped = shipped.replace(ours, here)
    (tmp_path / "owl.conf").write_text(shipped)
    paths = "".join(
        f"{name}_temp_path {tmp_path}/{name};" for name in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
    )
    (tmp_path / "nginx.conf").write_text(
        f"pid {tmp_path}/pid; error_log {tmp_path}/error.log; events {{}} http {{ {paths} include {tmp_path}/owl.conf; }}"
    )
    with web(settings, behind, OWL_PROXIES="1", OWL_SECURE_COOKIES="1"):
        process = subprocess.Popen(
            ["nginx", "-p", str(tmp_path), "-c", str(tmp_path / "nginx.conf"), "-g", "daemon off;"]
        )
        try:
            wait_for(lambda: answers(port))
            yield port
        finally:
            process.terminate()
            process.wait(10)


def line_to(port: int) -> http.client.HTTPSConnection:
    # Made for this test alone: there is nobody to vouch for it.
    return http.client.HTTPSConnection("127.0.0.1", port, timeout=20, context=ssl._create_unverified_context())


def answers(port: int) -> bool:
    try:
        own = line_to(port)
        own.request("GET", "/api/health")
        return own.getresponse().status == 200
    except OSError:
        return False


def test_tls_and_a_proxy_that_buffers(engine: Engine, filled: Filled, settings: Settings, proxy: int) -> None:
    own = line_to(proxy)
    own.request("GET", "/api/session", headers={"X-Forwarded-For": "203.0.113.9"})
    answer = own.getresponse()
    token = json.loads(answer.read())["csrf_token"]
    cookie = answer.headers["Set-Cookie"]
    assert "Secure" in cookie
    assert "max-age" in answer.headers["Strict-Transport-Security"]
    own.request(
        "POST", "/api/session/teacher", json.dumps(PASSWORD),
        {"Content-Type": "application/json", "X-CSRF-Token": token, "Cookie": cookie.split(";")[0], "Referer": f"https://127.0.0.1:{proxy}/",
         "X-Forwarded-For": "203.0.113.9"},
    )  # fmt: skip
    said = own.getresponse()
    assert said.status == 401, said.read()
    said.read()
    # The address that counts is the one that reached the proxy, whatever the visitor claims.
    with engine.connect() as connection:
        subjects = connection.execute(text("SELECT subject FROM sign_in_attempt")).scalars().all()
    assert subjects
    assert not any("203.0.113.9" in own for own in subjects)
    own.request("GET", "/api/metrics")
    assert own.getresponse().status == 404
    # Fourteen who send nothing more hold the proxy, not the threads behind it.
    slow = []
    for _ in range(14):
        raw = ssl._create_unverified_context().wrap_socket(socket.create_connection(("127.0.0.1", proxy)))
        raw.sendall(b"POST /api/takes HTTP/1.1\r\nHost: x\r\nContent-Length: 50000000\r\n\r\nabc")
        slow.append(raw)
    begun = time.perf_counter()
    assert answers(proxy)
    assert time.perf_counter() - begun < 5
    for raw in slow:
        raw.close()


@pytest.mark.parametrize("unit", sorted(path.name for path in DEPLOY.glob("*.service")))
def test_a_unit_is_one_that_systemd_takes(unit: str, tmp_path: Path) -> None:
    program = shutil.which("systemd-analyze")
    if program is None:
        pytest.skip("systemd is not on this machine")
    told = (DEPLOY / unit).read_text()
    told = re.sub(r"/opt/attentive-owl(\S*)", lambda found: "/bin/true" if found[1] else "/", told)
    place = tmp_path / unit.replace("@", "@1")
    place.write_text(told)
    done = subprocess.run([program, "verify", str(place)], capture_output=True, text=True, check=False)
    ours = [line for line in done.stderr.splitlines() if unit.split("@")[0].split(".")[0] in line and "Unknown" in line]
    assert (done.returncode, ours) == (0, []), done.stderr


def test_what_the_container_is_made_of_is_there() -> None:
    """Its lines are of the kinds that the format knows (reference of the OCI build file, from memory), it copies what is there, names
    versions, and does not end as root."""
    steps = re.sub(r"\\\n", " ", (DEPLOY / "Containerfile").read_text())
    lines = [line.split(None, 1) for line in steps.splitlines() if line.strip() and not line.startswith("#")]
    kinds = {kind for kind, _ in lines}
    assert kinds <= {"FROM", "RUN", "COPY", "ENV", "WORKDIR", "USER", "VOLUME", "EXPOSE", "HEALTHCHECK", "CMD"}
    assert lines[0][0] == "FROM"
    for kind, rest in lines:
        if kind == "FROM":
            assert re.search(r":\d", rest), "a version is named"
        if kind == "COPY" and not rest.startswith("--from"):
            assert all((ROOT / own).exists() for own in rest.split()[:-1]), rest
    last = [rest for kind, rest in lines if kind == "USER"][-1]
    assert last == "attentive-owl"
    assert [kind for kind, _ in lines].index("USER") < [kind for kind, _ in lines].index("CMD")


def test_every_setting_stands_in_the_documents() -> None:
    told = (ROOT / "docs" / "operations.md").read_text()
    used: set[Any] = set()
    for path in (ROOT / "attentive_owl").rglob("*.py"):
        used |= set(re.findall(r"OWL_[A-Z_]+", path.read_text()))
    assert {own for own in used if own not in told} == set()
