"""How well each written pitch, and each other one, explains the sound between any two boundaries."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.listening.alignment.observations import PARTIAL_SPEAKS, Emission
from attentive_owl.core.listening.alignment.path import Segment
from attentive_owl.core.listening.features.frames import Array
from attentive_owl.core.listening.features.novelty import Boundaries

FAR = -1e9
"""Log-probability of what can not be: finite, so that sums stay numbers."""
_PARTIAL_OVER = 6.0
"""Log-likelihood by which an octave or a twelfth must be heard better than the note."""


@dataclass(frozen=True)
class Costs:
    """Log-probabilities of what may happen; of the order of what beginners do."""

    missed: float = -6.0
    wrong: float = -5.0
    wrong_per_semitone: float = -0.35
    octave: float = -8.0
    whistle: float = -6.0
    """A string that sounds an octave or a twelfth high all through a note, as it does under a light bow."""
    stray: float = -8.5
    gap: float = -1.2
    jump: float = -9.0
    after_silence: float = 3.0
    """So much likelier where nothing sounds before it: who goes back mostly stops first."""
    after_pause: float = 5.0
    """And so much where it is silent for half a second: between strokes that melt together are short gaps."""
    again: float = -4.0
    turn: float = -10.0
    """Turning round before the top of a line that goes up and comes down the same way."""
    unfinished: float = -12.0
    joined: float = -13.0
    """Beginning at a measure further on, however many notes lie before it."""
    legato_attack: float = 0.15
    """Least probability of an attack where the pitch changes: a beginner's new note may glide in."""
    same_pitch_attack: float = 0.012
    interior: float = 0.8
    """How much of an unexplained attack inside a note counts."""


class Evidence:
    """How well each written pitch explains the sound between any two boundaries. It holds at any pace, so one is made for
    all decodings of a take on one grid of pitches."""

    def __init__(
        self, sound: Emission, boundaries: Boundaries, midi: NDArray[np.int64], costs: Costs | None = None
    ) -> None:
        self.costs = costs or Costs()
        self.boundaries = boundaries
        self._lowest = sound.lowest
        frame = boundaries.frame
        self.cumulative = _summed(sound.note_log)[frame]
        self.gaps = _summed(sound.gap_log[:, None])[frame, 0]
        self._column = midi - sound.lowest
        distinct, self.own = np.unique(self._column, return_inverse=True)
        self._written = _summed(sound.written_log(distinct))[frame]
        self._whistled = _summed(sound.written_log(distinct, whistling=True))[frame]
        semitones = np.arange(self.cumulative.shape[1])
        above = semitones[None, :] - distinct[:, None]
        away = np.abs(above)
        self._wrong_prior = np.where(away == 0, FAR, self.costs.wrong + self.costs.wrong_per_semitone * away)
        # An octave or a twelfth is what an ear mistakes, not what a finger does.
        mistaken = (away > 0) & ((away % 12 == 0) | np.isin(above, list(PARTIAL_SPEAKS)))
        self._wrong_prior[mistaken] += self.costs.octave
        self._before: list[tuple[int, Array, Array] | None] = [None] * len(frame)

    def up_to(self, at: int, low: int) -> tuple[Array, Array]:
        """For the sound from each of the boundaries low..at-1 to `at`: the log-likelihood of each distinct written pitch,
        right or wrong, shape (at - low, pitches), and that of the likeliest semitone, shape (at - low,)."""
        known = self._before[at]
        if known is None or known[0] > low:
            gain = self.cumulative[at] - self.cumulative[low:at]
            wrong = (gain[:, None, :] + self._wrong_prior[None, :, :]).max(axis=2)
            known = low, np.maximum(self._right(slice(low, at), at), wrong), gain.max(axis=1)
            self._before[at] = known
        return known[1][low - known[0] :], known[2][low - known[0] :]

    def _right(self, start: int | slice, at: int) -> Array:
        """Log-likelihood of each distinct written pitch, played right."""
        steady = self._written[at] - self._written[start]
        best: Array = np.maximum(steady, self._whistled[at] - self._whistled[start] + self.costs.whistle)
        return best

    def note(self, index: int, start: int, at: int) -> Segment:
        """What a written note was played as between two boundaries: on its own pitch or on another."""
        gain = self.cumulative[at] - self.cumulative[start]
        wrong = gain + self._wrong_prior[self.own[index]]
        other, column = int(np.argmax(wrong)), int(self._column[index])
        right = float(self._right(start, at)[self.own[index]])
        is_right = right >= wrong[other]
        partials = column + np.array(list(PARTIAL_SPEAKS))
        partials = partials[(partials >= 0) & (partials < len(gain))]
        at_partial = bool(is_right and gain[partials].max(initial=FAR) > gain[column] + _PARTIAL_OVER)
        gain[column] = max(gain[column], right)
        pick = column if is_right else other
        return Segment(
            "note" if is_right else "wrong", index, start, at, pick + self._lowest, _margin(gain, pick), at_partial
        )

    def stray(self, index: int, start: int, at: int) -> Segment:
        """What sounds between two boundaries where no written note is; `index` is to come."""
        gain = self.cumulative[at] - self.cumulative[start]
        pick = int(np.argmax(gain))
        return Segment("stray", index, start, at, pick + self._lowest, _margin(gain, pick))


def _summed(log: Array) -> Array:
    return np.concatenate([np.zeros((1, log.shape[1])), np.cumsum(log, axis=0)])


def _margin(gain: Array, pick: int) -> float:
    places = np.arange(len(gain))
    apart = places - pick
    others = gain[(np.abs(apart) > 1) & (apart != -12) & ~np.isin(apart, list(PARTIAL_SPEAKS))]
    return float(gain[pick] - others.max())
