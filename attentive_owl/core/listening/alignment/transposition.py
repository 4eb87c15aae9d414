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
_FORGOTTEN_COSTS = 0.05
"""Coverage by which a line without its signs has to be met better (by hand)."""
_MOST_SHIFTS = 2
"""Each costs a decoding."""


def tuning_fraction(
    candidates: Candidates, sounding: NDArray[np.bool_], key_numbers: NDArray[np.int64], signs: NDArray[np.int64]
) -> float:
    """Deviation from the equal-tempered grid in semitones (-1..1): a circular mean over sounding frames, then the
    side is settled by which one meets more of the written pitches, or of the same without their signs: a low hand that forgets them is no high one
    that plays them all wrong.

    sounding: shape (frames,); key_numbers, and signs (semitones by which the key signature alters them): of the line, shape (notes,)."""
    use = sounding[candidates.frame] & (candidates.dip < 0.25)
    if not use.any():
        return 0.0
    turn = np.exp(2j * np.pi * candidates.midi[use])
    fraction = float(np.angle(np.sum(candidates.probability[use] * turn)) / (2 * np.pi))
    options = [fraction, fraction - float(np.sign(fraction))] if abs(fraction) > 0.25 else [fraction]
    written, natural = key_numbers.astype(np.float64), (key_numbers - signs).astype(np.float64)

    def met(option: float) -> float:
        forgotten = _coverage(candidates, use, natural + option) - _FORGOTTEN_COSTS
        return max(_coverage(candidates, use, written + option), forgotten) - 0.02 * abs(option)

    return max(options, key=met)


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
