"""Reading what was sent: once, in a limited child, into the copy that is heard and played."""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from attentive_owl.formats.audio import decode_to_flac, read_flac
from attentive_owl.store.audio import AudioStore


def samples_of(audio: AudioStore, sha256: str, claimed_s: float | None) -> tuple[NDArray[np.float32], int]:
    """Samples (n,) and their rate. `claimed_s`: how long the sender said it is. Raises AudioFileError for what can not be used,
    FileNotFoundError, and StoreAwayError."""
    if not audio.exists(sha256, "playback"):
        with tempfile.TemporaryDirectory() as folder:
            original, playback = Path(folder, "original"), Path(folder, "playback.flac")
            original.write_bytes(audio.read(sha256, "original"))
            decode_to_flac(original, playback, claimed_s)
            audio.put(playback, sha256, "playback")
    return read_flac(audio.read(sha256, "playback"))
