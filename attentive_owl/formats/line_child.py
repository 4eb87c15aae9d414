"""Runs as a process of its own: reads one file as a line of notes, prints it as JSON."""

from __future__ import annotations

import sys
from dataclasses import asdict
from pathlib import Path
from typing import Any

from attentive_owl.formats.confined import UnusableError, answer
from attentive_owl.formats.musicxml import ScoreFileError
from attentive_owl.formats.own_line import read_line

# music21 takes some 200 MB for a page of notes.
_MEMORY_BYTES = 1536 * 1024**2


def _read(path: str, name: str) -> dict[str, Any]:
    try:
        return {"line": asdict(read_line(Path(path), name))}
    except ScoreFileError as error:
        raise UnusableError(str(error)) from error


if __name__ == "__main__":
    _path, _name, _cpu_s = sys.argv[1:4]
    raise SystemExit(
        answer(
            lambda: _read(_path, _name), _MEMORY_BYTES, int(_cpu_s), f"{_name} could not be read as a line of notes."
        )
    )
