"""Fits how the ear's raw strength becomes a confidence (`listener.CONFIDENCE`): logistic regression of right or wrong on
the strength, over all families. Run `python -m bench.fit_confidence`; it prints the two figures to paste."""

from __future__ import annotations

import argparse

import numpy as np
from scipy.optimize import minimize
from scipy.special import logit

from attentive_owl.core.listening.listener import CONFIDENCE
from bench.families import FAMILIES
from bench.listening import run, total


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
    chosen = options.parse_args()
    seeds = range(chosen.first, chosen.first + chosen.seeds)
    pairs = np.array(total(run(list(FAMILIES), seeds, verbose=False)).confidence, dtype=float)
    said = pairs[pairs[:, 0] != CONFIDENCE.missed]
    constant, slope = CONFIDENCE.constant, CONFIDENCE.slope
    strength = (logit(np.clip(said[:, 0], 1e-4, 1 - 1e-4)) - constant) / slope
    print("constant, slope =", np.round(fit(strength, said[:, 1]), 2))
    missed = pairs[pairs[:, 0] == CONFIDENCE.missed][:, 1]
    print(f"missed: {missed.mean():.3f} of {len(missed)}; notes: {len(said)}, right {said[:, 1].mean():.4f}")


if __name__ == "__main__":
    main()
