"""Where the sound stops repeating itself.

A new stroke does not go on in the phase of the old one. When the sound of one period ago is taken away (a comb filter),
a held note all but vanishes, and a stroke is left standing at once: also one on the same pitch, long before the level
tells of it, and where the level hardly dips. A swelling bow or a swaying room breaks nothing. (Prediction error as a sign
of a new note: Bello et al., "A tutorial on onset detection in music signals", IEEE Trans. Speech and Audio Processing 13,
2005, section on probability models and phase; here with a predictor of one known period.)
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.listening.features.frames import HOP, RATE_HZ, Array, Samples, decibels, running_power
from attentive_owl.core.listening.features.pitch_candidates import Candidates

WINDOWS_S = (0.03, 0.015)
"""How long is looked before and after a moment; a period at least."""
_HOLD_FRAMES = 8
"""40 ms: the pitch of before the stroke, while a frame that lies over it hears both."""
_BLOCK = 6000
"""Frames at a time."""
_FLOOR = 1e-3
"""What lies 30 dB under the sound is no change."""


def windows(period: Array) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Samples to look at before and after a moment, for periods in samples; each of shape (n,)."""
    before, after = (np.maximum(least * RATE_HZ, period).astype(np.int64) for least in WINDOWS_S)
    return before, after


def residue(samples: Samples, period: Array) -> Samples:
    """`samples` without the sound of one period ago, shape (n,). period: in samples, of one value or shape (n,)."""
    whole = period.astype(np.int32)
    share = (period - whole).astype(np.float32)
    back = np.maximum(np.arange(len(samples), dtype=np.int32) - whole, 1)
    found: Samples = samples - samples[back] + share * (samples[back] - samples[back - 1])
    return found


def step_db(
    left: Array, at: NDArray[np.int64], before: NDArray[np.int64], after: NDArray[np.int64], floor: Array
) -> Array:
    """How much louder what is left is after each moment than before it, in dB. left: `running_power` of a residue; `at` and
    the windows in samples, shape (moments,); floor: power under which nothing counts."""
    low, high = np.maximum(at - before, 0), np.minimum(at + after, len(left) - 1)
    later = (left[high] - left[at]) / np.maximum(high - at, 1)
    earlier = (left[at] - left[low]) / np.maximum(at - low, 1)
    return decibels(later + floor) - decibels(earlier + floor)


def period_break(samples: Samples, candidates: Candidates) -> Array:
    """How far the sound stops repeating itself at each frame, in dB, shape (frames,); by the pitch of 40 ms before."""
    period = candidates.latest_period(RATE_HZ, _HOLD_FRAMES)
    blocks = [
        _block_break(samples, period, first, min(first + _BLOCK, len(period)))
        for first in range(0, len(period), _BLOCK)
    ]
    return np.concatenate(blocks)


def _block_break(samples: Samples, period: Array, first: int, stop: int) -> Array:
    """The breaks of some frames: long recordings are taken piece by piece, so that memory stays small."""
    before, after = windows(period[first:stop])
    begin = max(first * HOP - int(before.max()) - int(period.max()) - 1, 0)
    piece = samples[begin : min(stop * HOP + int(after.max()), len(samples))]
    of_sample = period[np.minimum((begin + np.arange(len(piece))) // HOP, len(period) - 1)]
    left, sound = running_power(residue(piece, of_sample)), running_power(piece)
    at = np.minimum(np.arange(first, stop) * HOP - begin, len(piece))
    low, high = np.maximum(at - before, 0), np.minimum(at + after, len(piece))
    floor = _FLOOR * (sound[high] - sound[low]) / np.maximum(high - low, 1) + 1e-10
    return step_db(left, at, before, after, floor)
