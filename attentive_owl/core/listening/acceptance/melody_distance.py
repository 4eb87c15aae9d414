"""What a melody is nearest to: the line that was asked for, or another of the same key.

A poor try is far from its own line, and further from every other; another exercise is as far from the line that was asked
for, and very near its own. (Edit distance with costs for what fingers do, after Sellers, "The theory and computation of
evolutionary distances: pattern recognition", Journal of Algorithms 1, 1980: the line is looked for in the melody, which
may begin anywhere in it, break off and begin again.)
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.exercises import Line
from attentive_owl.core.listening.features.frames import Array

NEAR_SEMITONES = 2
"""So far a finger slips."""
SLIP_COSTS = 0.5
"""A note beside the right one costs half of what a wrong or missing one does (by hand)."""
_NO_PITCH = 10**6
"""Stands for no key number: it is far from all of them."""


def distances(melody: NDArray[np.int64], lines: Sequence[Line]) -> Array:
    """How far a melody is from each of several lines, in mistakes a note of it, shape (lines,). Both in key numbers, repeats of
    a pitch taken together.

    A note more, less or far away is one mistake, one up to two semitones away half a one; so is each of: beginning later in
    the line, breaking off, and beginning again before its end. Raises ValueError where there is no melody or no line.
    """
    if not len(melody) or not len(lines):
        raise ValueError("there is nothing to compare")
    lengths = np.array([len(line) for line in lines])
    written = np.full((len(lines), int(lengths.max())), _NO_PITCH)
    for row, line in enumerate(lines):
        written[row, : len(line)] = line
    rows, places = np.arange(len(lines)), np.arange(written.shape[1] + 1)
    # The entry at (line, place): the fewest mistakes with which so many of its notes are behind.
    beyond = np.where(places[None, :] > lengths[:, None], np.inf, 0.0)
    fewest = np.minimum(places, 1.0) + beyond
    for midi in melody:
        away = np.abs(written - midi)
        costs = np.where(away == 0, 0.0, np.where(away <= NEAR_SEMITONES, SLIP_COSTS, 1.0))
        following = fewest + 1.0
        following[:, 1:] = np.minimum(following[:, 1:], fewest[:, :-1] + costs)
        following += beyond
        again = np.minimum(following[rows, lengths], following.min(axis=1) + 1.0)
        following[:, 0] = np.minimum(following[:, 0], again)
        fewest = np.minimum.accumulate(following - places, axis=1) + places + beyond
    return np.asarray(np.minimum(fewest[rows, lengths], fewest.min(axis=1) + 1.0) / len(melody))
