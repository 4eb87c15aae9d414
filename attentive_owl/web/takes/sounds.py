"""Sound in and out: what was sent is kept by its hash, and read by a worker; what is played is one channel of FLAC."""

from __future__ import annotations

import io
import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from flask import send_file
from flask_openapi3 import FileStorage

from attentive_owl.formats.audio import AudioFileError, decode_to_flac, refuse_what_is_no_sound
from attentive_owl.store.audio import file_sha256
from attentive_owl.web.access import services
from attentive_owl.web.problems import ProblemError


@dataclass(frozen=True)
class KeptSound:
    sha256: str
    size_bytes: int


def receive(sound: FileStorage, sha256: str | None) -> KeptSound:
    """The bytes as they were sent are kept when this returns, so that a row never points at a file that is not there; they are not
    read here. `sha256`: what the sender says. Raises ProblemError 422 with one sentence."""
    with tempfile.TemporaryDirectory() as folder:
        original = Path(folder, "original")
        sound.save(original)
        found = file_sha256(original)
        if sha256 is not None and found != sha256:
            raise ProblemError(422, "The recording was damaged on the way; please send it again.")
        try:
            refuse_what_is_no_sound(original)
        except AudioFileError as error:
            raise ProblemError(422, str(error)) from error
        services().audio.put(original, found, "original")
        return KeptSound(found, original.stat().st_size)


def keep_spoken(sound: FileStorage, longest_s: float) -> str:
    """A few spoken words, read at once in a limited child: its hash; they can be played when this returns. Raises ProblemError 422
    with one sentence."""
    with tempfile.TemporaryDirectory() as folder:
        original, playback = Path(folder, "original"), Path(folder, "playback.flac")
        sound.save(original)
        found = file_sha256(original)
        try:
            decoded = decode_to_flac(original, playback)
        except AudioFileError as error:
            raise ProblemError(422, str(error)) from error
        if decoded.duration_s > longest_s:
            raise ProblemError(422, f"That was longer than {longest_s:.0f} seconds. Say it in fewer words.")
        services().audio.put(original, found, "original")
        services().audio.put(playback, found, "playback")
        return found


def can_be_played(sha256: str) -> bool:
    """Not yet as long as no worker has read it."""
    return services().audio.exists(sha256, "playback")


def play(sha256: str) -> Any:
    """The copy to play; ranges are served."""
    try:
        data = services().audio.read(sha256, "playback")
    except FileNotFoundError as error:
        raise ProblemError(410, "This recording is not there any more.") from error
    return send_file(io.BytesIO(data), mimetype="audio/flac", conditional=True, etag=sha256, max_age=0)
