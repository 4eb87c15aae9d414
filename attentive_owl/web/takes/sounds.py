"""Sound in and out: what was sent is decoded in a limited child and kept by its hash; what is played is one channel of FLAC."""

from __future__ import annotations

import io
import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from flask import send_file
from flask_openapi3 import FileStorage

from attentive_owl.formats.audio import AudioFileError, decode_to_flac
from attentive_owl.store.audio import file_sha256
from attentive_owl.web.access import services
from attentive_owl.web.problems import ProblemError


@dataclass(frozen=True)
class KeptSound:
    sha256: str
    size_bytes: int
    duration_s: float


def keep_sound(
    sound: FileStorage, sha256: str | None = None, claimed_s: float | None = None, longest_s: float | None = None
) -> KeptSound:
    """Both the original and the copy to play are kept when this returns, so that a row never points at a file that is not there.

    `sha256`, `claimed_s`: what the sender says of it. Raises ProblemError 422 with one sentence.
    """
    with tempfile.TemporaryDirectory() as folder:
        original, playback = Path(folder, "original"), Path(folder, "playback.flac")
        sound.save(original)
        found = file_sha256(original)
        if sha256 is not None and found != sha256:
            raise ProblemError(422, "The recording was damaged on the way; please send it again.")
        try:
            decoded = decode_to_flac(original, playback, claimed_s)
        except AudioFileError as error:
            raise ProblemError(422, str(error)) from error
        if longest_s is not None and decoded.duration_s > longest_s:
            raise ProblemError(422, f"That was longer than {longest_s:.0f} seconds. Say it in fewer words.")
        services().audio.put(original, found, "original")
        services().audio.put(playback, found, "playback")
        return KeptSound(found, original.stat().st_size, decoded.duration_s)


def play(sha256: str) -> Any:
    """The copy to play; ranges are served."""
    try:
        data = services().audio.read(sha256, "playback")
    except FileNotFoundError as error:
        raise ProblemError(410, "This recording is not there any more.") from error
    return send_file(io.BytesIO(data), mimetype="audio/flac", conditional=True, etag=sha256, max_age=0)
