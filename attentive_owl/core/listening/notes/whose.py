"""Whose are the strokes that were heard of a run on one pitch, where others of it are doubtful?

The alignment gives each note of a run a stroke. Where one of them was hardly heard, or is the note before ringing on, the plain ones beside
it may be its neighbours': only the pace of the pass tells.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from itertools import combinations, groupby, pairwise
from math import comb
from typing import Generic

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.exercises import Score
from attentive_owl.core.listening.features.frames import Array
from attentive_owl.core.listening.notes.pace import T, beats_of, is_other, neighbours, pace_of, strain
from attentive_owl.core.listening.notes.reassignment import LEAST_EASED, MOST_CHOICES, TOLD


@dataclass(frozen=True)
class Dealt(Generic[T]):
    """What was heard, given to the notes that keep the pace."""

    heard: dict[int, T]
    """By written index, in time order."""
    unsure: frozenset[int] = frozenset()
    """Notes whose stroke may as well be that of a neighbour on their pitch."""
    moved: frozenset[int] = frozenset()
    """Notes that got another one's stroke."""
    lost: frozenset[int] = frozenset()
    """Notes that have nothing any more: what was theirs is a neighbour's, or was no stroke."""


def deal_by_plain_strokes(
    current: dict[int, T], guessed: Collection[int], doubtful: Collection[int], score: Score, tuning_semitones: float
) -> Dealt[T]:
    """`current`: written index -> what was heard for it; of the notes `guessed` the stroke is a guess, of those `doubtful` it may be none. The plain
    strokes of each run with doubtful notes go to those of its notes that keep the pace clearly better, if there are. Whose they are where that is
    not told, or where the others are guesses, is said."""
    pace = pace_of(current, score)
    dealt = Dealt(dict(current))
    if pace is None:
        return dealt
    plain = {index: item for index, item in current.items() if index not in {*guessed, *doubtful}}
    for _, group in groupby(score.notes, key=lambda note: note.midi):
        run = [note.index for note in group]
        heard = [index for index in run if index in current]
        own = [index for index in heard if index in plain]
        wrong = any(is_other(current[index], score.notes[index].midi + tuning_semitones) for index in own)
        if wrong or not 0 < len(own) < len(heard) or not (readings := _readings(run, own, plain, pace, score)):
            continue
        taken = readings.clearly_best(own) if any(index in doubtful for index in heard) else own
        fewer = [_readings(run, [i for i in own if i != none], plain, pace, score) for none in own[1:]]
        if any(other and other.strain.min() < readings.strain_of(taken) - LEAST_EASED for other in fewer):
            # One of the plain strokes is none either: which, and whose the others are, is a guess.
            dealt = replace(dealt, unsure=dealt.unsure.union(own) - {run[0]})
        else:
            dealt = _dealt(replace(dealt, unsure=dealt.unsure | readings.unsure(taken)), heard, own, taken)
    return dealt


@dataclass(frozen=True)
class _Readings:
    """Which notes of a run its plain strokes could be, shape (readings, strokes), and how far each reading is from the pace, shape (readings,)."""

    notes: NDArray[np.int64]
    strain: Array

    def clearly_best(self, own: Sequence[int]) -> list[int]:
        """The notes that keep the pace best, where they do so clearly better than `own`; else those."""
        best = int(np.argmin(self.strain))
        return self.notes[best].tolist() if self.strain[best] < self.strain_of(own) - TOLD else list(own)

    def strain_of(self, own: Sequence[int]) -> float:
        return float(self.strain[(self.notes == own).all(axis=1)][0])

    def unsure(self, own: Sequence[int]) -> set[int]:
        """Those of `own` whose stroke is another note's in a reading that keeps the pace about as well."""
        near = self.notes[self.strain < self.strain_of(own) + TOLD]
        return {index for place, index in enumerate(own) if (near[:, place] != index).any()}


def _readings(run: list[int], own: list[int], plain: dict[int, T], pace: float, score: Score) -> _Readings | None:
    """A plain stroke on a new pitch is that of its first note. None where there are too many, or where the strokes are in no order."""
    if any(plain[b].onset_s <= plain[a].onset_s for a, b in pairwise(own)):
        return None
    fixed = [run[0]] if own[0] == run[0] else []
    free = len(run) - len(fixed), len(own) - len(fixed)
    if comb(*free) > MOST_CHOICES:
        return None
    choices = [(*fixed, *others) for others in combinations(run[len(fixed) :], free[1])]
    before, after = neighbours(plain, run[0], run[-1])
    onsets = np.array([plain[index].onset_s for index in (*before, *own, *after)])
    beats = beats_of(score)[[[*before, *choice, *after] for choice in choices]]
    return _Readings(np.array(choices), strain(beats, onsets, pace))


def _dealt(dealt: Dealt[T], heard: list[int], own: list[int], taken: list[int]) -> Dealt[T]:
    """With one run dealt out: `heard` of its notes had something, `own` of them a plain stroke, which is now that of those `taken`."""
    if taken == own:
        return dealt
    items = {index: dealt.heard[index] for index in heard}
    given = dict(zip(taken, (items[index] for index in own), strict=True))
    given = _with_doubtful(given, {index: item for index, item in items.items() if index not in own})
    others = {index: item for index, item in dealt.heard.items() if index not in items}
    return Dealt(
        dict(sorted((others | given).items())),
        dealt.unsure,
        dealt.moved | {index for index, was in zip(taken, own, strict=True) if index != was},
        dealt.lost | (items.keys() - given.keys()),
    )


def _with_doubtful(given: dict[int, T], doubtful: dict[int, T]) -> dict[int, T]:
    """With the doubtful ones whose notes are still free, and whose order in time is the written one."""
    kept = dict(given)
    for index, item in doubtful.items():
        before, after = neighbours(kept, index, index)
        in_order = all(kept[i].onset_s < item.onset_s for i in before) and all(
            item.onset_s < kept[i].onset_s for i in after
        )
        if index not in kept and in_order:
            kept[index] = item
    return kept
