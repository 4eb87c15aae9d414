"""Fits what makes a take a try at the exercise (`acceptance.LIKENESS_WEIGHTS`): logistic regression of the three shares of a
take. True takes are every family and many poor ones; the others are tunes, singing and speech, and own exercises of the
same key against one another. Run `python -m bench.fit_acceptance`; it prints the weights to paste, and what they decide
on takes that the fit has not seen."""

from __future__ import annotations

import argparse
import os
from concurrent.futures import ProcessPoolExecutor
from difflib import SequenceMatcher
from functools import cache
from itertools import permutations

import numpy as np
from scipy.optimize import minimize
from scipy.special import expit

from attentive_owl.core.exercises import Recipe, Score, build
from attentive_owl.core.listening import acceptance, listen
from attentive_owl.core.playing import Habits, Room, perform_score, place_in_room, render
from bench.families import FAMILIES, INSTRUMENTS, POOR_EXERCISES, RATE, make_take

_OTHERS = ("another tune", "arpeggio", "singing", "speech")
_EXERCISES = (*POOR_EXERCISES, "upper-half", "echo", "crossings", "open-string")
_ALIKE = 0.6
_POOR_TAKES, _OTHER_TAKES = 12, 10
"""For each take of another family."""


def shares(sound: np.ndarray, score: Score) -> tuple[float, float, float] | None:
    """The three shares of a take; None where it is refused before there is a path."""
    seen: list[acceptance.Likeness] = []
    real = acceptance.likeness

    def noted(*given: object) -> acceptance.Likeness:
        seen.append(real(*given))  # type: ignore[arg-type]
        return seen[-1]

    acceptance.likeness = noted  # type: ignore[assignment]
    try:
        listen(sound, RATE, score)
    finally:
        acceptance.likeness = real
    return (seen[0].agreement, seen[0].coverage, seen[0].explained) if seen else None


def of_family(name: str, seed: int) -> tuple[float, float, float] | None:
    take = make_take(name, seed)
    return shares(take.sound, take.score)


def alike(one: Score, two: Score) -> bool:
    """Whether much of the one can be heard in the other, on whatever string it begins."""
    first, second = ([note.midi for note in score.notes] for score in (one, two))
    return any(
        SequenceMatcher(None, first, [midi + by for midi in second], autojunk=False).ratio() > _ALIKE
        for by in range(-12, 13)
    )


def of_other(seed: int) -> list[tuple[float, float, float]]:
    """Exercises of one key against one another; pairs that have much in common are left out."""
    instrument, tonic = INSTRUMENTS[seed % 4], "DGAC"[seed // 4 % 4]
    scores = [build(Recipe(tonic, "quarters", 80.0, family=family), instrument) for family in _EXERCISES]
    rows = []

    @cache
    def sound(number: int) -> np.ndarray:
        performed = perform_score(scores[number], Habits(scatter_cents=8, timing_ms=14), seed)
        return place_in_room(render(performed, instrument, RATE, seed)[0], RATE, Room(38, 0.2), seed)

    for number, (given, asked) in enumerate(permutations(range(len(scores)), 2)):
        if number % 6 != seed % 6 or alike(scores[given], scores[asked]):
            continue
        found = shares(sound(given), scores[asked])
        if found:
            rows.append(found)
    return rows


def collect(seeds: range) -> tuple[np.ndarray, np.ndarray]:
    """Shares, shape (takes, 3), and whether the take is a true one."""
    many = range(seeds.start * 100, seeds.start * 100 + len(seeds) * _POOR_TAKES)
    true = [(name, seed) for name in FAMILIES for seed in seeds] + [("poor but true", seed) for seed in many]
    other = [(name, seed) for name in _OTHERS for seed in many[: len(seeds) * _OTHER_TAKES]]
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        good = [row for row in pool.map(of_family, *zip(*true, strict=True)) if row]
        bad = [row for row in pool.map(of_family, *zip(*other, strict=True)) if row]
        bad += [row for rows in pool.map(of_other, seeds) for row in rows]
    return np.array(good + bad), np.array([1.0] * len(good) + [0.0] * len(bad))


def fit(rows: np.ndarray, labels: np.ndarray) -> np.ndarray:
    """Constant and weights; both kinds of takes count the same in sum, and a small ridge keeps the weights tame."""
    design = np.concatenate([np.ones((len(rows), 1)), rows], axis=1)
    weight = np.where(labels == 1, 0.5 / labels.sum(), 0.5 / (len(labels) - labels.sum())) * len(labels)

    def loss(weights: np.ndarray) -> float:
        odds = design @ weights
        return float(np.sum(weight * (np.logaddexp(0.0, odds) - labels * odds)) + 0.02 * np.sum(weights[1:] ** 2))

    return minimize(loss, np.zeros(design.shape[1])).x


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--seeds", type=int, default=4)
    options.add_argument("--first", type=int, default=700)
    chosen = options.parse_args()
    weights = fit(*collect(range(chosen.first, chosen.first + chosen.seeds)))
    print("weights =", np.round(weights, 1).tolist())
    rows, labels = collect(range(chosen.first + 40, chosen.first + 40 + chosen.seeds))
    says = expit(weights[0] + rows @ weights[1:])
    for least in (0.1, 0.25, 0.5):
        refused, accepted = int((says[labels == 1] < least).sum()), int((says[labels == 0] >= least).sum())
        print(
            f"at {least}: {refused} of {int(labels.sum())} true takes under it, "
            f"{accepted} of {int((1 - labels).sum())} others over it"
        )


if __name__ == "__main__":
    main()
