"""Fits what tells another rhythm of the same pitches (`another_rhythm.py`) on one source of sound: logistic regression of the
three means at repeated notes, and where true takes and others lie on it and among the strokes inside long notes. Run
`python -m bench.fit_rhythm [--soundfont FILE | --recorded FOLDER | --waveguide]`; no true take may lie over a limit, on any
source."""

from __future__ import annotations

import argparse
import os
from concurrent.futures import ProcessPoolExecutor

import numpy as np

from attentive_owl.core.exercises import Score
from attentive_owl.core.listening import another_rhythm, listen, listener
from attentive_owl.core.listening.change import Boundaries
from attentive_owl.core.listening.decoding import Path
from bench import sources
from bench.families import RATE, make_take
from bench.logistic import fit_logistic

_REPEATING = ("repeated, re-bowed", "sixteenths at 112", "poor but true")
_PLAIN = ("plain quarters", "long tones", "vibrato", "hesitations", "metronome heard", "noise 18 dB", "ringing room")
_HELD, _SPLIT = "longer notes", "shorter notes"

Seen = tuple[tuple[float, float, float] | None, float | None]


def seen_in(name: str, seed: int) -> Seen:
    """What is measured at repeats, and inside notes; None where the take never comes so far."""
    take = make_take(name, seed)
    found: list[Seen] = []

    def noted(path: Path, boundaries: Boundaries, score: Score) -> bool:
        at_repeats = another_rhythm.seen_at_repeats(path, boundaries, score)
        found.append((at_repeats, another_rhythm.strokes_within(path, boundaries)))
        return False

    real, listener.another_rhythm = listener.another_rhythm, noted
    try:
        listen(take.sound, RATE, take.score)
    finally:
        listener.another_rhythm = real
    return found[0] if found else (None, None)


def fit(rows: np.ndarray, held: np.ndarray) -> np.ndarray:
    """Constant and the weights of the three means; both kinds count the same in sum."""
    return fit_logistic(rows, held, np.where(held, 0.5 / held.sum(), 0.5 / (~held).sum()) * len(held))


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--seeds", type=int, default=8)
    options.add_argument("--first", type=int, default=760)
    sources.add_options(options)
    chosen = options.parse_args()
    sources.choose(chosen)
    seeds = range(chosen.first, chosen.first + chosen.seeds)
    cases = [(name, seed) for name in (*_REPEATING, *_PLAIN, _HELD, _SPLIT) for seed in seeds]
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        seen = list(pool.map(seen_in, *zip(*cases, strict=True)))
    named = [(name, *one) for (name, _), one in zip(cases, seen, strict=True)]

    rows = [(at_repeats, name == _HELD) for name, at_repeats, _ in named if at_repeats]
    means, held = np.array([row for row, _ in rows]), np.array([is_held for _, is_held in rows])
    print("constant, weights =", np.round(fit(means, held), 1).tolist())
    now = np.array([another_rhythm.held_odds(*row) for row in means])
    print(f"as it stands: true takes up to {now[~held].max():.2f}, held ones", np.round(np.sort(now[held]), 2).tolist())

    within = [(value, name == _SPLIT) for name, _, value in named if value is not None]
    true = [value for value, is_split in within if not is_split]
    split = sorted(round(value, 2) for value, is_split in within if is_split)
    print(f"strokes inside notes: true takes up to {max(true):.2f}, split ones", split)


if __name__ == "__main__":
    main()
