"""The judge on pupils with known habits: `python -m bench.judging [--seeds N] [--write docs/benchmark.md]`.

Each seed is another instrument, key, pattern and size of habit. The performance goes to the judge with the ear's own
errors added to the truth (cents and onsets of docs/benchmark.md), so that thousands of takes cost seconds.
"""

from __future__ import annotations

import argparse
from collections import Counter
from collections.abc import Callable
from dataclasses import replace
from datetime import date
from pathlib import Path

import numpy as np

from attentive_owl.core.exercises import Bowing, Recipe, Score, ScoreNote, build, moves
from attentive_owl.core.instruments import UnplayableError
from attentive_owl.core.judging import LEVELS, Expectations, judge
from attentive_owl.core.listening.performance import Go, HeardNote, Performance
from attentive_owl.core.playing import Habits, perform_score
from bench.document import write_part

EAR_CENTS, EAR_ONSET_S = 2.0, 0.008
INSTRUMENTS = ("violin", "viola", "cello", "bass")
TONICS = ("D", "G", "A", "C", "F", "Bb")
PATTERNS = ("quarters", "eighths", "sixteenths-eighths", "quarter-eighths", "eighths-rest")
BOWINGS = (Bowing.DETACHED, Bowing.DETACHED, Bowing.SLUR_4, Bowing.STACCATO)

Make = Callable[[np.random.Generator, Score], dict[str, object] | None]
"""Habits for a score, or None where the score can not show this habit."""


def _sign(rng: np.random.Generator, low: float, high: float) -> float:
    return float(rng.choice([-1, 1]) * rng.uniform(low, high))


def _used_finger(rng: np.random.Generator, score: Score) -> int | None:
    """A finger that is used often enough to be called a habit, and is not the only one."""
    used = Counter(n.placement.finger for n in score.notes if n.placement and n.placement.finger)
    fit = [finger for finger, count in used.items() if count >= 4]
    return int(rng.choice(fit)) if fit and len(used) > 1 else None


def _finger(rng: np.random.Generator, score: Score) -> dict[str, object] | None:
    finger = _used_finger(rng, score)
    return None if finger is None else {"finger_cents": {finger: _sign(rng, 30, 42)}}


def _string(rng: np.random.Generator, score: Score) -> dict[str, object] | None:
    """One string of several out of tune, with its open note and stopped ones played."""
    strings = {n.placement.string for n in score.notes if n.placement}
    both = [
        string
        for string in sorted(strings)
        if {n.placement.finger == 0 for n in score.notes if n.placement and n.placement.string == string}
        == {True, False}
    ]
    return {"string_cents": {str(rng.choice(both)): _sign(rng, 25, 40)}} if both and len(strings) > 1 else None


def _key(rng: np.random.Generator, score: Score) -> dict[str, object] | None:
    return {"forgets_key": True} if any(n.pitch.alter for n in score.notes) else None


def _dragging(rng: np.random.Generator, score: Score) -> dict[str, object] | None:
    values = {float(n.duration_beats) for n in score.notes}
    return {"dragging": {"eighth": float(rng.uniform(0.15, 0.3))}} if 0.5 in values and len(values) > 1 else None


def _half_steps(rng: np.random.Generator, score: Score) -> dict[str, object] | None:
    """Wide half steps, where more than one finger closes them."""
    stopped = {(n.placement.string, n.placement.semitones): n.placement.finger for n in _stopped(score)}
    upper = {finger for (string, semitones), finger in stopped.items() if (string, semitones - 1) in stopped}
    return {"half_step_cents": float(rng.uniform(30, 42))} if len(upper) > 1 else None


def _octaves(rng: np.random.Generator, score: Score) -> dict[str, object] | None:
    strings = score.instrument.strings
    ringing = [n for n in _stopped(score) if any((n.midi - s.pitch.midi) % 12 == 0 for s in strings)]
    others = len(_stopped(score)) - len(ringing)
    several = len({n.placement.finger for n in ringing if n.placement}) > 1
    return {"octave_cents": _sign(rng, 32, 42)} if several and len(ringing) >= 3 and others >= 3 else None


def _stopped(score: Score) -> list[ScoreNote]:
    return [n for n in score.notes if n.placement and n.placement.finger]


def _late(place: str) -> Make:
    def make(rng: np.random.Generator, score: Score) -> dict[str, object] | None:
        own = list(moves(score).values()).count(place)
        return {"late_before": {place: float(rng.uniform(0.2, 0.3))}} if own >= 4 else None

    return make


def _rests(score: Score) -> bool:
    """Rests enough, and enough notes that simply follow; short notes would hide what the bow does in a rest."""
    rests = list(moves(score).values()).count("rest")
    return rests >= 4 and len(score.notes) - rests >= 8 and not score.notes[0].staccato


HABITS: dict[str, Make] = {
    "none": lambda r, s: {},
    "instrument": lambda r, s: {"tuning_cents": _sign(r, 22, 45)},
    "string": _string,
    "hand": lambda r, s: {"hand_cents": _sign(r, 30, 42)},
    "finger": _finger,
    "scatter": lambda r, s: {"scatter_cents": float(r.uniform(28, 36))},
    "direction": lambda r, s: {"descending_cents": _sign(r, 34, 44)},
    "key_signature": _key,
    "wrong_string": lambda r, s: {"shift_semitones": int(r.choice([-7, -5, 5, 7]))},
    "stop": lambda r, s: {"stops": {int(r.integers(2, len(s.notes) - 1)): float(r.uniform(0.9, 1.8))}},
    "drift": lambda r, s: {"drift": _sign(r, 0.2, 0.3)},
    "note_value": _dragging,
    "half_step": _half_steps,
    "octave": _octaves,
    "crossing_late": _late("crossing"),
    "shift_late": _late("shift"),
    "bow_late": _late("bow"),
    "rest_short": lambda r, s: {"rests_cut": float(r.uniform(0.3, 0.5))} if _rests(s) else None,
    "rest": lambda r, s: {"rests_sound": True} if _rests(s) else None,
    "staccato": lambda r, s: {"staccato_held": True} if s.notes[0].staccato else None,
}


def performance(score: Score, habits: Habits, seed: int) -> Performance:
    """What the ear would hear: the truth with the ear's own errors."""
    rng = np.random.default_rng([seed, 7])
    played = perform_score(score, habits, seed)
    truth = played.last_go()
    notes = []
    for note in score.notes:
        own = truth.get(note.index)
        if own is None:
            notes.append(HeardNote(note.index, "missed", None, None, None, 0.9))
            continue
        midi = own.midi + rng.normal(0, EAR_CENTS) / 100
        status = (
            "wrong_pitch"
            if abs(midi - habits.tuning_cents / 100 - habits.shift_semitones - note.midi) > 0.7
            else "played"
        )
        onset = own.start_s + rng.normal(0, EAR_ONSET_S)
        notes.append(HeardNote(note.index, status, midi, onset, max(own.end_s, onset + 0.04), 0.98))
    quiet = tuple(not habits.rests_sound for _ in score.rests)
    go = Go(tuple(notes), notes[0].onset_s or 0.0, played.duration_s, True, rests_quiet=quiet)
    return Performance((go,), (), habits.tuning_cents, habits.shift_semitones, duration_s=played.duration_s)


def case(name: str, seed: int) -> tuple[Score, Habits] | None:
    rng = np.random.default_rng([seed, sum(map(ord, name))])
    recipe = Recipe(
        str(rng.choice(TONICS)),
        str(rng.choice(PATTERNS)),
        float(rng.integers(56, 92)),
        octaves=int(rng.integers(1, 3)),
        bowing=BOWINGS[rng.integers(len(BOWINGS))],
    )
    key = str(rng.choice(INSTRUMENTS))
    try:
        score = build(recipe, key)
    except UnplayableError:
        score = build(replace(recipe, octaves=1), key)
    parts = [HABITS[part](rng, score) for part in name.split(" + ")]
    if any(part is None for part in parts):
        return None
    own: dict[str, object] = {"scatter_cents": 5.0, "timing_ms": 10.0}
    for part in parts:
        own |= part or {}
    return score, Habits(**own)  # type: ignore[arg-type]


def named(name: str, seed: int) -> set[str] | None:
    """Kinds of cause that the judge gives; None where the seed's score can not show the habit."""
    made = case(name, seed)
    if made is None:
        return None
    score, habits = made
    report = judge(performance(score, habits, seed), score, Expectations(score.tempo_bpm, LEVELS["settling"]))
    return {cause.kind for cause in report.causes}


PAIRS = ("finger + note_value", "instrument + finger", "hand + stop", "string + drift", "key_signature + stop")


def table(seeds: int) -> tuple[list[str], dict[str, tuple[float, float]]]:
    """The confusion table as lines of Markdown, and for each habit (share named, share with something else named)."""
    kinds = [name for name in HABITS if name != "none"]
    lines = ["habit | takes | " + " | ".join(kinds) + " | just that", "---|" * (len(kinds) + 3)]
    rates = {}
    for name in (*HABITS, *PAIRS):
        found = [kinds_ for seed in range(seeds) if (kinds_ := named(name, seed)) is not None]
        wanted = set(name.split(" + ")) - {"none"}
        counts = Counter(kind for own in found for kind in own)
        exact = float(np.mean([own == wanted for own in found]))
        rates[name] = (
            float(np.mean([wanted <= own for own in found])),
            float(np.mean([bool(own - wanted) for own in found])),
        )
        cells = [f"{counts[kind] / len(found):.3f}" if counts[kind] else "" for kind in kinds]
        lines.append(f"{name} | {len(found)} | " + " | ".join(cells) + f" | {exact:.3f}")
    return lines, rates


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--seeds", type=int, default=200)
    options.add_argument("--write", type=Path)
    chosen = options.parse_args()
    lines, _ = table(chosen.seeds)
    text = "\n".join(f"| {line.strip('|')} |" for line in lines)
    print(text)
    if chosen.write:
        write_part(
            chosen.write,
            "Does it name the cause?",
            f"""`python -m bench.judging --seeds {chosen.seeds} --write docs/benchmark.md`, {date.today()}. Each row is a simulated pupil with
one known habit (the last rows: two), over up to {chosen.seeds} seeds of instrument, key, pattern and size of habit (seeds
whose line can not show the habit are left out). A cell is the share of takes in which that cause was named; the last column
the share in which just the true cause was named and nothing else.

{text}
""",
        )


if __name__ == "__main__":
    main()
