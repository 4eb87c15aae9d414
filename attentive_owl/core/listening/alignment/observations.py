"""Frame by frame: how well does each semitone, and silence, explain what is heard."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.listening.features.filters import moving_mean
from attentive_owl.core.listening.features.frames import Array
from attentive_owl.core.listening.features.pitch_candidates import Candidates
from attentive_owl.core.listening.features.recording_quality import Gate
from attentive_owl.core.listening.logistic import logistic

_KERNEL_CENTS = 42.0
"""Deviation of the bell by which a candidate speaks for a semitone. By hand: a finger that is a third of a semitone off still plays its note."""
_FLOOR = 0.03
"""Likelihood of any pitch in a frame whose own was not found: a frame may be misheard, whatever it says."""
PARTIAL_SPEAKS = {12: 0.85, 19: 0.7, -12: 0.7, -19: 0.7}
"""Semitones from a written note at which it may be heard, and how much that counts: its partials, the octave below of a string
whose every second period differs, as when it starts to speak, and the twelfth below of two strings a fifth apart that sound
together (their common period)."""
_QUIET_WITHIN_NOTE = 0.7
"""Likelihood of a silent frame inside a note: bows stop early, and staccato stops half way."""
_FRAME_WEIGHT = 0.35
"""Neighbouring frames share most of their samples; each counts for about a third of an independent look."""


@dataclass(frozen=True)
class Emission:
    """How well silence, and each semitone of the tuned grid, explains each frame."""

    lowest: int
    """Key number of the first column."""
    pitch: Array
    """Probability mass near each semitone, shape (frames, semitones)."""
    quiet: Array
    """Probability of silence, shape (frames,)."""
    note_log: Array
    """Log-likelihood of each semitone sounding, shape (frames, semitones)."""
    gap_log: Array
    """Log-likelihood of nothing being played, shape (frames,)."""

    def written_log(self, columns: NDArray[np.int64], *, whistling: bool = False) -> Array:
        """Log-likelihood of written notes, shape (frames, columns): where a fundamental is weak, `PARTIAL_SPEAKS` for the
        note that is expected (and for no other); of a string that whistles as much as the note itself."""
        heard = self.pitch[:, columns]
        for partial, share in PARTIAL_SPEAKS.items():
            above = columns + partial
            inside = (above >= 0) & (above < self.pitch.shape[1])
            counts = 1.0 if whistling else share
            heard[:, inside] = np.maximum(heard[:, inside], counts * self.pitch[:, above[inside]])
        return _note_log(heard, self.quiet)


def _note_log(pitch: Array, quiet: Array) -> Array:
    sounding = (1.0 - quiet)[:, None]
    likelihood = sounding * (_FLOOR + (1.0 - _FLOOR) * pitch) + quiet[:, None] * _QUIET_WITHIN_NOTE
    return _FRAME_WEIGHT * np.log(likelihood)


def quiet_probability(level: Array, gate: Gate) -> Array:
    """Silence by level (dB), shape (frames,): between the floor and the playing, nearer the floor (a logistic of 2 dB)."""
    middle = max(gate.floor_db + min(8.0, 0.4 * gate.snr_db), gate.loud_db - 32.0)
    smooth = moving_mean(level, 1, 1)
    return logistic((middle - smooth) / 2.0)


def emission(
    candidates: Candidates, level: Array, gate: Gate, lowest: int, highest: int, tuning_semitones: float
) -> Emission:
    """Emission, (frames, semitones), for the semitones lowest..highest of an instrument that stands `tuning_semitones` from A4 = 440."""
    count = highest - lowest + 1
    frames = candidates.frames
    position = candidates.midi - tuning_semitones - lowest
    mass = np.zeros(frames * count)
    nearest = np.rint(position).astype(np.int64)
    for step in (-1, 0, 1):
        column = nearest + step
        inside = (column >= 0) & (column < count)
        distance = 100.0 * np.abs(position[inside] - column[inside])
        weight = candidates.probability[inside] * np.exp(-0.5 * (distance / _KERNEL_CENTS) ** 2)
        mass += np.bincount(candidates.frame[inside] * count + column[inside], weight, frames * count)
    pitch = np.minimum(mass.reshape(frames, count), 1.0)
    quiet = quiet_probability(level, gate)
    unvoiced = np.maximum(1.0 - candidates.voiced(), 0.0)
    gap = quiet + (1.0 - quiet) * (0.02 + 0.35 * unvoiced)
    return Emission(lowest, pitch, quiet, _note_log(pitch, quiet), _FRAME_WEIGHT * np.log(gap))
