"""From a file to its report as whole processes, and as the worker does it, beside peers that only find the pitches:
`python -m bench.starting [--runs N] [--write docs/benchmark.md]`. Processor time, the least of the runs (others use the machine too)."""

from __future__ import annotations

import argparse
import os
import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from datetime import date
from functools import partial
from pathlib import Path

import soundfile
from threadpoolctl import threadpool_limits

from attentive_owl.core.checking import check
from attentive_owl.core.exercises import Recipe, build
from attentive_owl.core.judging import Expectations
from attentive_owl.core.playing import Habits, Room, perform_score, place_in_room, render
from attentive_owl.formats.audio import decode_to_flac, read_flac
from attentive_owl.formats.musicxml import read_musicxml, write_musicxml
from bench.document import write_part

RATE = 44100
_OWL = str(Path(sys.executable).with_name("owl"))
_PYIN = "import librosa, sys; y, r = librosa.load(sys.argv[1], sr=22050); librosa.pyin(y, fmin=60, fmax=1500, sr=r); librosa.onset.onset_detect(y=y, sr=r)"  # fmt: skip
_PRAAT = "import parselmouth, sys; s = parselmouth.Sound(sys.argv[1]); s.to_pitch(); s.to_intensity()"


def _make(folder: Path, key: str) -> tuple[Path, Path]:
    score = build(Recipe("D", "quarters", 62, octaves=2), key)
    dry, _ = render(perform_score(score, Habits(scatter_cents=6, timing_ms=12), 3), key, RATE, 3)
    take, written = folder / f"{key}.wav", folder / f"{key}.musicxml"
    soundfile.write(take, place_in_room(dry, RATE, Room(38, 0.25), 3), RATE)
    written.write_bytes(write_musicxml(score))
    return written, take


def _process(byte_code: Path, *command: str) -> float:
    """`byte_code`: folder in which Python keeps what it compiled, as it does wherever it may write beside a program."""
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    own = {**os.environ, "PYTHONDONTWRITEBYTECODE": "", "PYTHONPYCACHEPREFIX": str(byte_code)}
    subprocess.run(command, check=True, capture_output=True, env=own)
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    return after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime


def _in_worker(written: Path, take: Path) -> float:
    """What the worker does a take: read, listen, judge (it was decoded when it came in)."""
    with tempfile.TemporaryDirectory() as folder:
        kept = Path(folder, "take.flac")
        decode_to_flac(take, kept)
        score = read_musicxml(written)
        begin = time.process_time()
        check(*read_flac(kept), score, Expectations(score.tempo_bpm))
        return time.process_time() - begin


def rows(runs: int) -> list[str]:
    with tempfile.TemporaryDirectory() as name:
        files = {key: _make(Path(name), key) for key in ("violin", "bass")}
        violin = str(files["violin"][1])
        process = partial(_process, Path(name, "byte_code"))
        timed: dict[str, Callable[[], float]] = {
            "Python and numpy, nothing else": lambda: process(sys.executable, "-c", "import numpy"),
            "`owl --help`": lambda: process(_OWL, "--help"),
            "the server's addresses, before they answer": lambda: process(
                sys.executable, "-c", "import attentive_owl.web.app"
            ),
            **{
                f"`owl check`, {key}": lambda paths=paths: process(_OWL, "check", *map(str, paths))
                for key, paths in files.items()
            },
            **{f"in the worker, {key}": lambda paths=paths: _in_worker(*paths) for key, paths in files.items()},
            "librosa, pYIN and onsets (pitches only)": lambda: process(sys.executable, "-c", _PYIN, violin),
            "Praat, pitch and intensity (frames only)": lambda: process(sys.executable, "-c", _PRAAT, violin),
        }
        # Each in turn, again and again: what the machine does besides falls on all of them alike.
        took = [{what: measure() for what, measure in timed.items()} for _ in range(runs)]
    least = {what: min(run[what] for run in took) for what in timed}
    base = least["Python and numpy, nothing else"]
    return [f"| {what} | {seconds:.2f} | {seconds / base:.1f} |" for what, seconds in least.items()]


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--runs", type=int, default=5)
    options.add_argument("--write", type=Path)
    chosen = options.parse_args()
    text = "\n".join(rows(chosen.runs))
    print(text)
    if chosen.write:
        write_part(
            chosen.write,
            "How long does a take need?",
            f"""`python -m bench.starting --runs {chosen.runs} --write docs/benchmark.md`, {date.today()}: 30 s of sound at 44.1 kHz (a scale of two octaves in a
room), one thread. Seconds of processor time, the least of {chosen.runs} runs in turn on a shared machine, and how many times an
empty Python with numpy.

| | s | times |
|---|---|---|
{text}
""",
        )


if __name__ == "__main__":
    # As the command line has it.
    with threadpool_limits(1):
        main()
