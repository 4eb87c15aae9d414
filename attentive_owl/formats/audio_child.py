"""Runs as a process of its own: decodes one file with PyAV under limits into FLAC, prints one line of JSON. Bad packets are
counted."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

from attentive_owl.formats.confined import UnusableError, answer
from attentive_owl.formats.limits import LOWEST_RATE, MAX_SECONDS, SHORTEST_S

_MEMORY_BYTES = 2 * 1024**3
_CPU_S = 60
_MOST_BAD_SHARE = 0.05
_NEARLY_ALL = 0.97
_PART_ONLY = "Only a part of this file is there."


def _finite(frame: Any) -> Any:
    """Samples stored as floats may be no numbers at all: those are silence."""
    import av
    import numpy as np

    clean = av.AudioFrame.from_ndarray(
        np.nan_to_num(frame.to_ndarray(), posinf=1.0, neginf=-1.0), frame.format.name, frame.layout.name
    )
    clean.sample_rate, clean.pts, clean.time_base = frame.sample_rate, frame.pts, frame.time_base
    return clean


def cut_wav(source: Path) -> bool:
    """Whether less sound is in a WAV than its header says: the decoder takes what is there without a word. (RIFF: chunks of a name, a
    length and as many bytes; a length of nothing or of all ones was written before the sound was known.)"""
    size = source.stat().st_size
    with open(source, "rb") as file:
        head = file.read(12)
        if head[:4] != b"RIFF" or head[8:] != b"WAVE":
            return False
        while len(chunk := file.read(8)) == 8:
            length = int.from_bytes(chunk[4:], "little")
            if chunk[:4] == b"data":
                return length not in (0, 0xFFFFFFFF) and size - file.tell() < _NEARLY_ALL * length
            file.seek(length + length % 2, 1)
    return False


def _decode(source: str, target: str) -> dict[str, Any]:
    # numpy is hardly ever needed here, and would take longer to import than a take to decode.
    import av

    if Path(source).stat().st_size == 0:
        raise UnusableError("This file is empty.")
    if cut_wav(Path(source)):
        raise UnusableError(_PART_ONLY)
    with av.open(source) as container:
        if not container.streams.audio:
            raise UnusableError("There is no sound in this file.")
        if container.format.name == "aac":
            raise UnusableError("Raw AAC files start late; please send m4a, wav or flac.")
        stream = container.streams.audio[0]
        rate = stream.rate or 48000
        if rate < LOWEST_RATE:
            raise UnusableError("This file has too little sound in it (its sample rate is under 8 kHz).")
        written = good = bad = 0
        with av.open(target, "w", format="flac") as kept:
            out = kept.add_stream("flac", rate=rate, layout="mono", format="s16")
            out.codec_context.open()
            resampler = av.AudioResampler(
                format="s16", layout="mono", rate=rate, frame_size=out.codec_context.frame_size
            )

            def keep(frame: Any) -> None:
                nonlocal written
                for piece in resampler.resample(frame):
                    piece.pts = written
                    written += piece.samples
                    kept.mux(out.encode(piece))
                if written > MAX_SECONDS * rate:
                    raise UnusableError("A recording can be ten minutes long at most.")

            for packet in container.demux(stream):
                try:
                    frames = packet.decode()
                except (av.error.FFmpegError, ValueError):
                    bad += 1
                    continue
                good += 1
                for frame in frames:
                    keep(_finite(frame) if stream.codec_context.name.startswith("pcm_f") else frame)
            keep(None)
            kept.mux(out.encode(None))
        promised = stream.duration and stream.time_base and float(stream.duration * stream.time_base)
    if promised and written / rate < promised - max(0.5, 0.03 * promised):
        raise UnusableError(_PART_ONLY)
    if bad > _MOST_BAD_SHARE * max(good, 1):
        raise UnusableError("This file is damaged.")
    if written < SHORTEST_S * rate:
        raise UnusableError("There is no sound in this file.")
    return {"duration_s": written / rate, "sample_rate": rate}


if __name__ == "__main__":
    _source, _target = sys.argv[1:3]
    raise SystemExit(
        answer(lambda: _decode(_source, _target), _MEMORY_BYTES, _CPU_S, "This file could not be read as sound.")
    )
