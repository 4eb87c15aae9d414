"""What tells of strokes in a recording, laid side by side: the attacks and falls at its boundaries, and the steps of its level."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.listening.features.filters import greatest_within
from attentive_owl.core.listening.features.frames import HOP_S, Array
from attentive_owl.core.listening.features.levels import level_steps_db
from attentive_owl.core.listening.features.novelty import Boundaries

_REACH = 0.2
"""How far from its place a stroke is looked for, as a share of the time to the nearer neighbour."""
LEAST_ODDS = -4.6
"""Log-odds of one in a hundred: less says no more."""
_MOST_ODDS, _MOST_DIP_DB = 4.0, 12.0
"""Nor does more than these: single strokes must not outweigh a pattern."""


@dataclass(frozen=True)
class StrokeSigns:
    """At every boundary its frame, its moment (s), how surely a stroke begins there and how far the level falls, shape (boundaries,);
    at every frame the level and its step, shape (frames,)."""

    frame: NDArray[np.int64]
    time: Array
    odds: Array
    """Log-odds."""
    dip: Array
    """dB."""
    level: Array
    """dB."""
    step: Array
    """dB."""

    def contrast(self, before: Array, here: Array, after: Array) -> Array:
        """How much surer a stroke is at some moments than half way to their neighbours, how much further the level falls there, and how
        much larger its step is. The moments and their neighbours in seconds, all of shape (...); found: shape (..., 3)."""
        reach = _REACH * np.minimum(here - before, after - here)
        own, one, two = (
            self._most(middle - reach, middle + reach) for middle in (here, 0.5 * (before + here), 0.5 * (here + after))
        )
        found: Array = own - 0.5 * (one + two)
        return found

    def _most(self, low: Array, high: Array) -> Array:
        first, stop = np.searchsorted(self.time, low, "left"), np.searchsorted(self.time, high, "right")
        frames = np.maximum((low / HOP_S).astype(np.int64), 0), (high / HOP_S).astype(np.int64) + 2
        return np.stack(
            [
                greatest_within(self.odds, first, stop, LEAST_ODDS),
                greatest_within(self.dip, first, stop, 0.0),
                greatest_within(self.step, *frames, 0.0),
            ],
            axis=-1,
        )

    def level_between(self, begin_s: float, end_s: float) -> Array:
        """dB, shape (frames,), one at least."""
        first = min(int(begin_s / HOP_S), len(self.level) - 1)
        return self.level[first : max(int(end_s / HOP_S), first + 1)]


def stroke_signs(boundaries: Boundaries, level: Array) -> StrokeSigns:
    """level: dB, shape (frames,)."""
    odds = np.clip(np.log(boundaries.attack / (1 - boundaries.attack)), LEAST_ODDS, _MOST_ODDS)
    dip, step = np.minimum(boundaries.dip, _MOST_DIP_DB), np.minimum(level_steps_db(level), _MOST_DIP_DB)
    time = (boundaries.frame * HOP_S).astype(np.float64)
    return StrokeSigns(boundaries.frame, time, odds, dip, level, step)
