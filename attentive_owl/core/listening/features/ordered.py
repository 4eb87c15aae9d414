"""Order statistics of as many values as a note has, straight between neighbours as numpy's: numpy itself, which asks for shapes and axes first, takes
five times as long for some hundred values, and there are some for every note."""

from __future__ import annotations

import numpy as np

from attentive_owl.core.listening.features.frames import Array


def middle(values: Array) -> float:
    """The median of values of shape (n,), one at least."""
    return _at(np.sort(values), 50.0)


def percentile(values: Array, percent: float) -> float:
    """Of values of shape (n,), one at least; percent from 0 to 100."""
    return _at(np.sort(values), percent)


def between_percentiles(values: Array, low: float, high: float) -> float:
    """How far the upper percentile lies over the lower one; values of shape (n,), one at least; low and high from 0 to 100."""
    ordered = np.sort(values)
    return _at(ordered, high) - _at(ordered, low)


def _at(ordered: Array, percent: float) -> float:
    place = percent / 100.0 * (len(ordered) - 1)
    below = int(place)
    above = min(below + 1, len(ordered) - 1)
    return float(ordered[below] + (place - below) * (ordered[above] - ordered[below]))
