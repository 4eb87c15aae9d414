"""How high or low the hand stands around a note: what is another place for a steady hand is the finger's own for one that stands off."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.judging.deviations import Deviation
from attentive_owl.core.judging.findings.finding import Evidence
from attentive_owl.core.listening.performance import NoteStatus

Array = NDArray[np.float64]

HALF_WAY_CENTS = 55.0
"""So far from where the hand stands a finger is in its other place: a little nearer to that than to its own."""
_NEIGHBOURS, _LEAST_NEIGHBOURS = 8, 3
"""Notes nearby that tell how high or low the hand stands there, and how few tell nothing."""


def stopped_notes(evidence: Evidence, status: NoteStatus = NoteStatus.PLAYED) -> list[Deviation]:
    """Notes of this status under a finger of which the pitch was heard."""
    return [
        d
        for d in evidence.notes
        if d.heard.status == status and d.tuned_cents is not None and d.note.placement and d.finger
    ]


def landings(own: Sequence[Deviation]) -> int:
    """How often the finger came down for notes of one place: strokes that follow one another are one landing."""
    return min(len(own), 1) + sum(two.note.index - one.note.index > 1 for one, two in pairwise(own))


def leans(of: Sequence[Deviation], around: Sequence[Deviation]) -> Array:
    """Cents by which the hand stands off at each note: the median of those nearest to it among `around`, 0 where they are too few. Shape (of,)."""
    if len(around) < _LEAST_NEIGHBOURS:
        return np.zeros(len(of))
    index = np.array([d.note.index for d in around])
    cents = np.array([d.tuned_cents for d in around], dtype=np.float64)
    nearest = [np.argsort(abs(index - d.note.index), kind="stable")[:_NEIGHBOURS] for d in of]
    return np.array([np.median(cents[near]) for near in nearest])


def from_the_hand(evidence: Evidence, of: Sequence[Deviation]) -> Array:
    """Cents by which each note stands off from where the hand stands by the notes of other letters. Shape (of,)."""
    played = stopped_notes(evidence)
    others = {step: [d for d in played if d.note.pitch.step != step] for step in {d.note.pitch.step for d in of}}
    own = [leans([d], others[d.note.pitch.step])[0] for d in of]
    return np.array([d.tuned_cents for d in of], dtype=np.float64) - np.array(own, dtype=np.float64)
