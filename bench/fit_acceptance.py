"""Fits what makes a take a try at the exercise (`LIKENESS_WEIGHTS`): logistic regression of what is measured of a
take. True takes are every family and many poor ones; the others are tunes, singing and speech, and own exercises of the
same key against one another. Run `python -m bench.fit_acceptance`, with the options of other sources of sound for poor takes of
them as well; it prints the weights, writes them with `--write`, and says what they decide on takes that the fit has not seen."""

from __future__ import annotations

import argparse
import os
from concurrent.futures import ProcessPoolExecutor
from difflib import SequenceMatcher
from functools import cache
from itertools import permutations

import numpy as np
from scipy.special import expit

from attentive_owl.core.exercises import FAMILIES as EXERCISES
from attentive_owl.core.exercises import Recipe, RecipeError, Score, build, line_of
from attentive_owl.core.instruments import UnplayableError
from attentive_owl.core.listening import Trace, listen
from attentive_owl.core.playing import Habits, Room, perform_score, place_in_room, render
from bench import sources
from bench.families import BY_STEPS, FAMILIES, INSTRUMENTS, RATE, make_take
from bench.logistic import fit_logistic
from bench.weights import add_option, write

_OTHERS = ("another tune", BY_STEPS, "arpeggio", "singing", "speech")
_ALIKE = 0.6
_POOR_TAKES, _OTHER_TAKES = 16, 6
"""For each seed."""
_PAIRS = 3
"""Of so many pairs of exercises one."""


Shares = tuple[float, ...]


def shares(sound: np.ndarray, score: Score) -> Shares | None:
    """What is measured of a take; None where it is refused before there is a path."""
    trace = Trace()
    listen(sound, RATE, score, trace=trace)
    return trace.likenesses[0].measures if trace.likenesses else None


def of_family(name: str, seed: int) -> Shares | None:
    take = make_take(name, seed)
    return shares(take.sound, take.score)


def alike(one: Score, two: Score) -> bool:
    """Whether much of the one can be heard in the other, on whatever string it begins."""
    first, second = line_of(one), line_of(two)
    return any(
        SequenceMatcher(None, first, [midi + by for midi in second], autojunk=False).ratio() > _ALIKE
        for by in range(-12, 13)
    )


def exercises(tonic: str, instrument: str) -> list[Score]:
    """One of each family that the instrument has in the key."""
    scores = []
    for family in EXERCISES:
        try:
            scores.append(build(Recipe(tonic, "quarters", 80.0, family=family), instrument))
        except (RecipeError, UnplayableError):
            continue
    return scores


def of_other(seed: int) -> list[Shares]:
    """Exercises of one key against one another; pairs that have much in common are left out."""
    instrument, tonic = INSTRUMENTS[seed % 4], "DGAC"[seed // 4 % 4]
    scores = exercises(tonic, instrument)
    rows = []

    @cache
    def sound(number: int) -> np.ndarray:
        performed = perform_score(scores[number], Habits(scatter_cents=8, timing_ms=14), seed)
        return place_in_room(render(performed, instrument, RATE, seed)[0], RATE, Room(38, 0.2), seed)

    for number, (given, asked) in enumerate(permutations(range(len(scores)), 2)):
        if number % _PAIRS != seed % _PAIRS or alike(scores[given], scores[asked]):
            continue
        found = shares(sound(given), scores[asked])
        if found:
            rows.append(found)
    return rows


Rows = list[tuple[Shares, int]]
"""What is measured of takes, and their kinds: 0 a true one, 1 a tune, speech or singing, 2 another exercise."""


def poor(seeds: range) -> list[tuple[str, int]]:
    return [("poor but true", seed) for seed in range(seeds.start * 100, seeds.start * 100 + len(seeds) * _POOR_TAKES)]


def collect(cases: list[tuple[str, int]], kind: int) -> Rows:
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        return [(row, kind) for row in pool.map(of_family, *zip(*cases, strict=True)) if row]


def collect_all(seeds: range) -> Rows:
    others = [(name, seed) for name in _OTHERS for _, seed in poor(seeds)[: len(seeds) * _OTHER_TAKES]]
    rows = collect([(name, seeds.start) for name in FAMILIES] + poor(seeds), 0) + collect(others, 1)
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        return rows + [(row, 2) for found in pool.map(of_other, seeds) for row in found]


def parted(rows: Rows) -> tuple[np.ndarray, np.ndarray]:
    return np.array([row for row, _ in rows]), np.array([kind for _, kind in rows])


def fit(shares_seen: np.ndarray, kinds: np.ndarray) -> np.ndarray:
    """Constant and weights; true takes count half in sum and the two other kinds a quarter each."""
    is_true = kinds == 0
    counts = np.where(is_true, 0.5, 0.25) * len(kinds) / np.bincount(kinds, minlength=3)[kinds]
    return fit_logistic(shares_seen, is_true, counts)


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--seeds", type=int, default=4)
    options.add_argument("--first", type=int, default=700)
    sources.add_options(options)
    add_option(options)
    chosen = options.parse_args()
    seen, unseen = (range(first, first + chosen.seeds) for first in (chosen.first, chosen.first + 40))
    rows, fresh = collect_all(seen), collect_all(unseen)
    for _ in sources.each(chosen):
        rows, fresh = rows + collect(poor(seen), 0), fresh + collect(poor(unseen), 0)
    weights = fit(*parted(rows))
    found = np.round(weights, 1).tolist()
    print("LIKENESS_WEIGHTS =", found)
    if chosen.write:
        write("LIKENESS_WEIGHTS", found)
    measured, kinds = parted(fresh)
    says = expit(weights[0] + measured @ weights[1:])
    print("least of the true ones", np.round(np.sort(says[kinds == 0])[:5], 2).tolist())
    for least in (0.25, 0.4, 0.5):
        refused = int((says[kinds == 0] < least).sum())
        accepted = [f"{int((says[kinds == kind] >= least).sum())} of {int((kinds == kind).sum())}" for kind in (1, 2)]
        print(
            f"at {least}: {refused} of {int((kinds == 0).sum())} true takes under it; over it {accepted[0]} tunes, "
            f"{accepted[1]} other exercises"
        )


if __name__ == "__main__":
    main()
