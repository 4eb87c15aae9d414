"""Files of strangers are read in a process of their own, with limits on time and memory and nothing to write but its own folder.

A child is a module with `main(arguments)`; it answers with one line of JSON. Whatever happens to it, its parent goes on.
"""

from __future__ import annotations

import json
import os
import resource
import subprocess
import sys
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any

_TIMEOUT_S = 90
_AT_ONCE = threading.BoundedSemaphore(2)
_PATIENCE_S = 1.0
"""Whoever sends slow files, many at a time, must not hold all threads of a web process: in each two are held, others wait so long and are told."""
_MOST_WRITTEN_BYTES = 256 * 1024**2


class BusyError(RuntimeError):
    """Other files are being read, and go on for a while."""


class UnusableError(Exception):
    """In a child: the file can not be used; the message is one sentence for its owner."""


def read_confined(module: str, arguments: list[str], folder: Path) -> dict[str, Any]:
    """What the child says of the file. `folder` is where it may leave something, and what it leaves there is its parent's to take
    away. Raises TimeoutError, and BusyError before anything is done; a child that dies in any other way has said nothing: {}."""
    if not _AT_ONCE.acquire(timeout=_PATIENCE_S):
        raise BusyError("other files are being read")
    try:
        return _answer_of(module, arguments, folder)
    finally:
        _AT_ONCE.release()


def _answer_of(module: str, arguments: list[str], folder: Path) -> dict[str, Any]:
    kept_out = {"HOME": str(folder), "TMPDIR": str(folder)}
    command = [sys.executable, "-m", module, *arguments]
    try:
        child = subprocess.run(
            command, capture_output=True, timeout=_TIMEOUT_S, check=False, env={**os.environ, **kept_out}
        )
    except subprocess.TimeoutExpired as error:
        raise TimeoutError from error
    try:
        answer = json.loads(child.stdout or b"{}")
    except ValueError:
        return {}
    return answer if isinstance(answer, dict) else {}


def answer(read: Callable[[], dict[str, Any]], memory_bytes: int, cpu_s: int, otherwise: str) -> int:
    """In a child: reads under limits, prints the answer, gives the exit code. Damaged files raise many types, or nothing at all:
    everything is caught here, and only here."""
    resource.setrlimit(resource.RLIMIT_AS, (memory_bytes, memory_bytes))
    resource.setrlimit(resource.RLIMIT_CPU, (cpu_s, cpu_s))
    resource.setrlimit(resource.RLIMIT_FSIZE, (_MOST_WRITTEN_BYTES, _MOST_WRITTEN_BYTES))
    try:
        found = read()
    except UnusableError as error:
        found = {"error": str(error)}
    except Exception as error:  # noqa: BLE001 - any type may come out of a damaged file; the parent gets one sentence
        found = {"error": otherwise, "type": type(error).__name__}
    print(json.dumps(found))
    return 1 if "error" in found else 0
