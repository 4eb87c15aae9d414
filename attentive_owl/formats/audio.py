"""Sound files out, and in through a child process (the decoder of strangers' files never runs in ours; a plain recording of one's own is read at once)."""

from __future__ import annotations

import io
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray

from attentive_owl.formats.audio_child import cut_wav
from attentive_owl.formats.confined import read_confined
from attentive_owl.formats.limits import LOWEST_RATE, MAX_SECONDS, SHORTEST_S


class AudioFileError(ValueError):
    """The file can not be used; the message is one sentence for its owner."""


@dataclass(frozen=True)
class DecodedFile:
    duration_s: float
    sample_rate: int


_BEGINNINGS = (
    b"RIFF",
    b"RF64",
    b"fLaC",
    b"OggS",
    b"\x1aE\xdf\xa3",
    b"ID3",
    b"FORM",
    b"caff",
    b".snd",
    b"#!AMR",
    b"0&\xb2u",
)
"""Of WAV, FLAC, Ogg, WebM, MP3 with a title, AIFF, CAF, AU, AMR and WMA, as their formats lay down; MP4 names its kind after four
bytes, and bare MPEG begins with eleven ones."""


def refuse_what_is_no_sound(path: Path) -> None:
    """A page or a picture that was chosen in the place of a recording, told by its first bytes; whether there is sound in it is not
    known by that. Raises AudioFileError."""
    with open(path, "rb") as file:
        head = file.read(12)
    if not head:
        raise AudioFileError("This file is empty.")
    bare = head[0] == 0xFF and len(head) > 1 and head[1] >= 0xE0
    if not (head.startswith(_BEGINNINGS) or head[4:8] == b"ftyp" or bare):
        raise AudioFileError("This file could not be read as sound.")


def decode_to_flac(source: Path, target: Path, claimed_s: float | None = None) -> DecodedFile:
    """Decode any accepted file to one channel of 16-bit FLAC, in a child with limits on time and memory.

    claimed_s: how long the sender says it is; a file that comes out much shorter was cut on the way.
    Raises AudioFileError; the target is then not there.
    """
    try:
        answer = read_confined("attentive_owl.formats.audio_child", [str(source), str(target)], target.parent)
    except TimeoutError as error:
        target.unlink(missing_ok=True)
        raise AudioFileError("This file took too long to read.") from error
    if "error" in answer or "duration_s" not in answer:
        target.unlink(missing_ok=True)
        raise AudioFileError(answer.get("error", "This file could not be read as sound."))
    decoded = DecodedFile(float(answer["duration_s"]), int(answer["sample_rate"]))
    if claimed_s is not None and decoded.duration_s < claimed_s - max(0.5, 0.05 * claimed_s):
        target.unlink(missing_ok=True)
        raise AudioFileError("Only a part of the recording is there.")
    return decoded


def read_flac(path_or_bytes: Path | bytes) -> tuple[NDArray[np.float32], int]:
    """Samples (n,) and rate of a file that we wrote ourselves."""
    source = io.BytesIO(path_or_bytes) if isinstance(path_or_bytes, bytes) else path_or_bytes
    samples, rate = soundfile.read(source, dtype="float32", always_2d=True)
    return samples.mean(axis=1), rate


def read_plain(path: Path) -> tuple[NDArray[np.float32], int] | None:
    """Samples (n,) and rate of one's own recording, read here and now, where it is one channel of 16 bits, WAV or FLAC, and whole; None for whatever
    else. What decoding it would give is the same; the decoder is a process of its own, which has to start."""
    try:
        with soundfile.SoundFile(path) as file:
            fits = SHORTEST_S * file.samplerate <= file.frames <= MAX_SECONDS * file.samplerate
            if (file.subtype, file.channels) != ("PCM_16", 1) or file.format not in ("WAV", "FLAC") or not fits:
                return None
            samples, rate, promised = file.read(dtype="float32"), file.samplerate, file.frames
    except soundfile.LibsndfileError:
        return None
    return None if len(samples) < promised or rate < LOWEST_RATE or cut_wav(path) else (samples, rate)


def flac_bytes(samples: NDArray[np.floating], sample_rate: int) -> bytes:
    buffer = io.BytesIO()
    soundfile.write(buffer, samples, sample_rate, format="FLAC", subtype="PCM_16")
    return buffer.getvalue()
