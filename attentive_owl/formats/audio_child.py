"""Runs as a process of its own: decodes one file with PyAV under limits, prints one line of JSON.

Damaged files raise many types, or nothing at all: everything is caught here, and only here; bad packets are counted.
"""

from __future__ import annotations

import json
import resource
import sys
from pathlib import Path
from typing import Any

_MEMORY_BYTES = 2 * 1024**3
_CPU_S = 60
_SHORTEST_S = 0.2
_MOST_BAD_SHARE = 0.05


class _Unusable(Exception):
    pass


def _decode(source: str, target: str) -> dict[str, Any]:
    import av
    import numpy as np
    import soundfile

    from attentive_owl.formats.audio import MAX_SECONDS

    if Path(source).stat().st_size == 0:
        raise _Unusable("This file is empty.")
    with av.open(source) as container:
        if not container.streams.audio:
            raise _Unusable("There is no sound in this file.")
        if container.format.name == "aac":
            raise _Unusable("Raw AAC files start late; please send m4a, wav or flac.")
        stream = container.streams.audio[0]
        rate = stream.rate or 48000
        if rate < 8000:
            raise _Unusable("This file has too little sound in it (its sample rate is under 8 kHz).")
        resampler = av.AudioResampler(format="flt", layout="mono", rate=rate)
        written = good = bad = 0
        with soundfile.SoundFile(target, "w", rate, 1, "PCM_16", format="FLAC") as out:
            for packet in container.demux(stream):
                try:
                    frames = packet.decode()
                except (av.error.FFmpegError, ValueError):
                    bad += 1
                    continue
                good += 1
                for frame in frames:
                    for piece in resampler.resample(frame):
                        data = piece.to_ndarray().reshape(-1)
                        out.write(np.nan_to_num(np.clip(data, -1.0, 1.0)))
                        written += len(data)
                        if written > MAX_SECONDS * rate:
                            raise _Unusable("A recording can be ten minutes long at most.")
            for piece in resampler.resample(None):
                data = piece.to_ndarray().reshape(-1)
                out.write(np.nan_to_num(np.clip(data, -1.0, 1.0)))
                written += len(data)
        promised = stream.duration and stream.time_base and float(stream.duration * stream.time_base)
    if promised and written / rate < promised - max(0.5, 0.03 * promised):
        raise _Unusable("Only a part of this file is there; please send it again.")
    if bad > _MOST_BAD_SHARE * max(good, 1):
        raise _Unusable("This file is damaged.")
    if written < _SHORTEST_S * rate:
        raise _Unusable("There is no sound in this file.")
    return {"duration_s": written / rate, "sample_rate": rate}


def main() -> int:
    resource.setrlimit(resource.RLIMIT_AS, (_MEMORY_BYTES, _MEMORY_BYTES))
    resource.setrlimit(resource.RLIMIT_CPU, (_CPU_S, _CPU_S))
    try:
        answer = _decode(sys.argv[1], sys.argv[2])
    except _Unusable as error:
        answer = {"error": str(error)}
    except Exception as error:  # noqa: BLE001 - any type may come out of a damaged file; the parent gets one sentence
        answer = {"error": "This file could not be read as sound.", "type": type(error).__name__}
    print(json.dumps(answer))
    return 0 if "error" not in answer else 1


if __name__ == "__main__":
    raise SystemExit(main())
