"""Fits how the ear's raw strength becomes a confidence (`CONFIDENCE_WEIGHTS`): logistic regression of right or wrong on
the strength. Ordinary takes have hardly a wrong note among the definite ones, so they are made hard to hear first: every
family under noise from 14 dB below the playing to 6 dB above it. Run `python -m bench.fit_confidence`; it prints the two
figures, writes them with `--write`, and says what the figures in use would have said against what was right."""

from __future__ import annotations

import argparse
import os
from concurrent.futures import ProcessPoolExecutor

import numpy as np
from scipy.optimize import minimize
from scipy.special import logit

from attentive_owl.core.listening.notes.statuses import MISSED_CONFIDENCE
from attentive_owl.core.listening.weights import CONFIDENCE_WEIGHTS
from bench.families import FAMILIES, make_take
from bench.listening import Tally, calibration, ear, score_take
from bench.weights import add_option, write

_LEAST_SNR_DB, _MOST_SNR_DB = -6.0, 14.0


def hard(name: str, seed: int) -> Tally:
    """One take of a family under much noise, heard and scored."""
    take = make_take(name, seed)
    rng = np.random.default_rng([seed, 77])
    level = float(np.sqrt(np.mean(take.sound**2))) * 10 ** (-rng.uniform(_LEAST_SNR_DB, _MOST_SNR_DB) / 20)
    take.sound = (take.sound + rng.normal(0, level, len(take.sound))).astype(np.float32)
    tally = Tally()
    score_take(tally, take, ear)
    return tally


def fit(strength: np.ndarray, right: np.ndarray) -> np.ndarray:
    """Constant and slope; a weak prior keeps the slope at one where nothing speaks against it."""

    def loss(weights: np.ndarray) -> float:
        odds = weights[0] + weights[1] * strength
        return float(np.sum(np.logaddexp(0.0, odds) - right * odds) + (weights[1] - 1.0) ** 2)

    return minimize(loss, np.array([0.0, 1.0])).x


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--seeds", type=int, default=4)
    options.add_argument("--first", type=int, default=600)
    add_option(options)
    chosen = options.parse_args()
    seeds = range(chosen.first, chosen.first + chosen.seeds)
    whole = Tally()
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        for tally in pool.map(hard, *zip(*((name, seed) for name in FAMILIES for seed in seeds), strict=True)):
            whole.confidence += tally.confidence
    pairs = np.array(whole.confidence, dtype=float)
    said = pairs[pairs[:, 0] != MISSED_CONFIDENCE]
    constant, slope = CONFIDENCE_WEIGHTS
    strength = (logit(np.clip(said[:, 0], 1e-4, 1 - 1e-4)) - constant) / slope
    found = np.round(fit(strength, said[:, 1]), 2).tolist()
    print("CONFIDENCE_WEIGHTS =", found)
    if chosen.write:
        write("CONFIDENCE_WEIGHTS", found)
    missed = pairs[pairs[:, 0] == MISSED_CONFIDENCE][:, 1]
    print(
        f"notes: {len(said)}, right {said[:, 1].mean():.4f}; said to be missed: {len(missed)}, right {missed.sum():.0f}"
    )
    print("\n".join(calibration(whole)))


if __name__ == "__main__":
    main()
