"""Files that commands take and make, and what they say of bad ones."""

from __future__ import annotations

import tempfile
from pathlib import Path

import click
import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.exercises import Score
from attentive_owl.formats.audio import AudioFileError, decode_to_flac, read_flac, read_plain
from attentive_owl.formats.musicxml import ScoreFileError, read_musicxml

EXIT_REFUSED = 3


class Sentence(click.ClickException):
    """Bad input: one clear line, exit code 2."""

    exit_code = 2


def read_score(path: Path, instrument: str | None = None) -> Score:
    try:
        return read_musicxml(path, instrument)
    except ScoreFileError as error:
        raise Sentence(str(error)) from error


def read_take(path: Path) -> tuple[NDArray[np.float32], int]:
    if not path.is_file():
        raise Sentence(f"There is no file {path.name}.")
    if (plain := read_plain(path)) is not None:
        return plain
    with tempfile.TemporaryDirectory() as folder:
        decoded = Path(folder, "take.flac")
        try:
            decode_to_flac(path, decoded)
        except AudioFileError as error:
            raise Sentence(str(error)) from error
        return read_flac(decoded)


def write_file(path: Path, data: bytes) -> None:
    try:
        path.write_bytes(data)
    except OSError as error:
        raise Sentence(f"{path} could not be written ({error.strerror}).") from error
