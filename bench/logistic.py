"""Logistic regression, as the scripts that fit a rule of the ear use it."""

from __future__ import annotations

import numpy as np
from scipy.optimize import minimize

_RIDGE = 0.02


def fit_logistic(rows: np.ndarray, labels: np.ndarray, counts: np.ndarray) -> np.ndarray:
    """Constant and weights, shape (columns + 1,). rows: shape (takes, columns); labels: true or not; counts: how much each take
    counts. A small ridge keeps the weights tame."""
    design = np.concatenate([np.ones((len(rows), 1)), rows], axis=1)

    def loss(weights: np.ndarray) -> float:
        odds = design @ weights
        return float(np.sum(counts * (np.logaddexp(0.0, odds) - labels * odds)) + _RIDGE * np.sum(weights[1:] ** 2))

    return minimize(loss, np.zeros(design.shape[1])).x
