"""What this engine makes of a few fixed takes, in short: `python -m bench.digest --write`. A test compares it with what is made now,
so that a result can not change while the version stays: raise `EAR` or `JUDGE`, then write it anew."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from attentive_owl.core.checking import check
from attentive_owl.core.exercises import Bowing, Recipe, build
from attentive_owl.core.judging import ENGINE, Expectations
from attentive_owl.core.playing import Habits, Room, perform_score, place_in_room, render

FILE = Path(__file__).resolve().parent / "digest.json"
RATE = 44100
TAKES: dict[str, tuple[str, Recipe, Habits, float]] = {
    "a clean scale": ("violin", Recipe("D", tempo_bpm=96), Habits(scatter_cents=5, timing_ms=8), 40),
    "a low finger, and a stop": ("viola", Recipe("G", "eighths", 84), Habits(finger_cents={2: -34}, stops={9: 1.1}), 32),
    "a string out, with air": ("cello", Recipe("D", "sixteenths-eighths", 72), Habits(string_cents={"A": 30}, air_ms=40), 36),
    "slurred, sinking": ("violin", Recipe("G", octaves=2, tempo_bpm=90, bowing=Bowing.SLUR_2), Habits(sinking_cents=45), 38),
    "a try with slips": ("bass", Recipe("A", tempo_bpm=76), Habits(wrong={3: -1, 9: 2}, missed=(6,), restarts={5: 4}), 30),
    "another key": ("violin", Recipe("D", tempo_bpm=90), Habits(shift_semitones=2), 40),
}  # fmt: skip


def made_now() -> dict[str, Any]:
    return {"engine": ENGINE, "takes": {name: _made(*take) for name, take in TAKES.items()}}


def _made(key: str, recipe: Recipe, habits: Habits, snr_db: float) -> dict[str, Any]:
    score = build(recipe, key)
    dry, _ = render(perform_score(score, habits, 4), key, RATE, 4)
    sound = place_in_room(dry, RATE, Room(snr_db, 0.2), 4)
    report = check(sound, RATE, score, Expectations(score.tempo_bpm))
    return {
        "refused": report.refusal.code if report.refusal else None,
        "statuses": "".join(note.status[0] for note in report.notes),
        "cents": [note.tuned_cents for note in report.notes],
        "onsets_s": [note.onset_s for note in report.notes],
        "causes": [cause.key for cause in report.causes],
        "says": [advice.text for advice in report.advice],
        "good": report.good_go.reasons if report.good_go else None,
        "bpm": report.tempo.played_bpm,
    }


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--write", action="store_true")
    text = json.dumps(made_now(), indent=1, ensure_ascii=False) + "\n"
    if options.parse_args().write:
        FILE.write_text(text, encoding="utf-8")
    else:
        print(text)


if __name__ == "__main__":
    main()
