"""Global guesses before alignment: the tuning against A4 = 440, and whether all of it lies somewhere else."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.listening.features.frames import Array
from attentive_owl.core.listening.features.pitch_candidates import Candidates

SHIFTS = tuple(range(-12, 13))
"""Semitones: every key, and the octaves."""
_SHIFT_GAIN = 0.08
"""Coverage by which a shift has to beat the written place to be worth decoding (by hand)."""
_MOST_SHIFTS = 2
"""Each costs a decoding."""


def tuning_fraction(candidates: Candidates, sounding: NDArray[np.bool_], key_numbers: NDArray[np.int64]) -> float:
    """Deviation from the equal-tempered grid in semitones (-0.5..0.5), of frames of shape (frames,) and a line of shape (notes,): a circular mean over sounding frames, then the
    sign near half a semitone is settled by which side meets more of the written pitches."""
    use = sounding[candidates.frame] & (candidates.dip < 0.25)
    if not use.any():
        return 0.0
    turn = np.exp(2j * np.pi * candidates.midi[use])
    fraction = float(np.angle(np.sum(candidates.probability[use] * turn)) / (2 * np.pi))
    options = [fraction, fraction - np.sign(fraction or 1.0)] if abs(fraction) > 0.25 else [fraction]
    scores = [
        _coverage(candidates, use, key_numbers.astype(np.float64) + option) - 0.02 * abs(option) for option in options
    ]
    return options[int(np.argmax(scores))]


def likely_shifts(
    candidates: Candidates, sounding: NDArray[np.bool_], key_numbers: NDArray[np.int64], fraction: float
) -> list[int]:
    """Shifts worth decoding, no shift first; others only where they meet more of what sounds.

    sounding: shape (frames,); key_numbers: of the line, shape (notes,); fraction: semitones by which all of it lies off."""
    use = sounding[candidates.frame] & (candidates.dip < 0.25)
    coverage = {
        shift: _coverage(candidates, use, key_numbers.astype(np.float64) + shift + fraction) for shift in SHIFTS
    }
    better = [shift for shift in SHIFTS if coverage[shift] > coverage[0] + _SHIFT_GAIN]
    return [0, *sorted(better, key=lambda shift: -coverage[shift])[:_MOST_SHIFTS]]


def met_by(
    candidates: Candidates, sounding: NDArray[np.bool_], key_numbers: NDArray[np.int64], fraction: float
) -> float:
    """How well some pitches meet what sounds, 0..1; shapes as for `likely_shifts` (frames,) and (notes,)."""
    use = sounding[candidates.frame] & (candidates.dip < 0.25)
    return _coverage(candidates, use, key_numbers.astype(np.float64) + fraction)


def _coverage(candidates: Candidates, use: NDArray[np.bool_], targets: Array) -> float:
    """Share of the sounding probability that stands within 35 cents of a written pitch, times the share of the
    written pitches that are met."""
    if not use.any():
        return 0.0
    pitches = np.unique(targets)
    weight = candidates.probability[use]
    distance = np.abs(candidates.midi[use][:, None] - pitches[None, :])
    near = distance < 0.35
    met = (near * weight[:, None]).sum(axis=0) > 0.02 * weight.sum() / len(pitches)
    return float((weight * near.any(axis=1)).sum() / weight.sum() * met.mean())
