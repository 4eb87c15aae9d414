"""From one heard note to the next: what was written, how long it took, and what stands between. Tempo, stops and habits of
time are all read off these steps."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence, Set
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from attentive_owl.core.exercises import Score, moves
from attentive_owl.core.listening.performance import Doubt, HeardNote, HeardPass

_FURTHEST = 1.45
"""A step that takes more than so many times its share, or less than the inverse of it, says nothing of its value."""
_LEAST_GUESSES, _GUESS_WITHIN_S, _GUESSES_AGREE = 6, 0.045, 0.7
"""So many guesses of one kind, and so near to the middle one, and so many of them so near, are no guesses (by hand)."""
_GUESSES_OFF_S = 0.03
"""So far from where they are written."""
_LEAST_OF_VALUE = 3
"""So few notes of a value have no length of their own."""
_RUSHED_SHARE, _STEADY_SHARE = 0.12, 0.07
"""By how much a measure has to be faster, and within what all others have to keep the pace."""
_LEAST_IN_MEASURE = 2
"""One step is no measure."""
_LEAST_KNOWN = 0.5
"""Of a measure, so much has to be known: of uneven pairs it may be the short notes alone that were heard in time."""
_LEAST_MEASURES = 3
"""Of fewer none stands out."""
_MOST_RUSHED = 1 / 3
"""Where more are fast, that is the pace."""
_EACH_RUSHED, _MOST_STEPS, _LEAST_PACE = 0.04, 0.77, 0.5
"""A measure is rushed all along: so much faster are its steps, so many of them, and none by more than this (a note that is half as long was
cut)."""


@dataclass(frozen=True)
class Step:
    """From one note that was heard to the next."""

    index: int
    """Of the note with which it begins."""
    after: int
    """Of the note with which it ends."""
    value: float
    """Written length of the first note, in beats."""
    beats: float
    """Written time from one to the other."""
    seconds: float
    before: str | None
    """What stands before the second note (see `exercises.moves`)."""
    measure: int
    unbroken: bool
    """Whether no written note was left out between the two."""

    @property
    def rest_share(self) -> float:
        """Share of the written time that is a rest."""
        return 1.0 - self.value / self.beats

    @property
    def beat_s(self) -> float:
        """Seconds a beat, as this step has it."""
        return self.seconds / self.beats


def steps_of(score: Score, notes: Sequence[HeardNote]) -> tuple[Step, ...]:
    """`notes`: those with an onset, in written order."""
    between = moves(score)
    steps = []
    for one, two in pairwise(notes):
        first, second = score.notes[one.index], score.notes[two.index]
        if one.onset_s is None or two.onset_s is None:
            continue
        steps.append(
            Step(
                one.index,
                two.index,
                float(first.duration_beats),
                float(second.start_beats - first.start_beats),
                two.onset_s - one.onset_s,
                between.get(two.index),
                first.measure,
                two.index == one.index + 1,
            )
        )
    return tuple(steps)


def played_in_time(score: Score, heard_pass: HeardPass) -> tuple[HeardNote, ...]:
    """Notes with an onset, up to a written ritardando: from there on the tempo is the player's own."""
    free = score.slows_from
    return tuple(
        note
        for note in heard_pass.notes
        if note.onset_s is not None and (free is None or score.notes[note.index].start_beats < free)
    )


def heard_in_time(score: Score, heard_pass: HeardPass) -> tuple[HeardNote, ...]:
    """Those of them of which it is known when: of a faint one something else may have made the onset. Of one whose stroke was hardly heard it is
    a guess; but where such guesses at the same place of a pattern agree with one another, they are none."""
    played = [note for note in played_in_time(score, heard_pass) if note.reason not in (Doubt.FAINT, Doubt.HELD)]
    agreeing = _guesses_that_agree(score, played)
    return tuple(note for note in played if note.moment_sure or note.index in agreeing)


def _guesses_that_agree(score: Score, played: Sequence[HeardNote]) -> set[int]:
    """Of the notes whose moment is a guess those that stand where the middle one of their kind stands between the known notes before and after
    it, where these guesses hardly scatter. Where that is the place at which the note is written the ear may have put them there itself."""
    starts = {note.index: float(note.start_beats) for note in score.notes}
    known = [(note.index, note.onset_s) for note in played if note.moment_sure and note.onset_s is not None]
    kinds: dict[tuple[float, float], list[tuple[int, float, float]]] = defaultdict(list)
    for (one, one_s), (two, two_s) in pairwise(known):
        beats = starts[two] - starts[one]
        for note in played:
            if one < note.index < two and note.onset_s is not None and two_s > one_s:
                place = (note.onset_s - one_s) / (two_s - one_s)
                kinds[beats, starts[note.index] - starts[one]].append((note.index, place, two_s - one_s))
    agreeing: set[int] = set()
    for (beats, own_beats), guesses in kinds.items():
        if len(guesses) < _LEAST_GUESSES:
            continue
        middle = float(np.median([place for _, place, _ in guesses]))
        if abs(middle - own_beats / beats) * float(np.median([span_s for _, _, span_s in guesses])) < _GUESSES_OFF_S:
            continue
        near = {index for index, place, span_s in guesses if abs(place - middle) * span_s <= _GUESS_WITHIN_S}
        if len(near) >= _GUESSES_AGREE * len(guesses):
            agreeing |= near
    return agreeing


def beat_of_values(steps: Iterable[Step]) -> dict[float, float]:
    """Written length -> seconds a beat at which such notes are played: a mean without what is far from its median, so that
    long-short pairs count as what they are together. Only lengths that come often enough."""
    by_value: dict[float, list[float]] = {}
    for step in steps:
        if step.unbroken and step.before in (None, "bow"):
            by_value.setdefault(step.value, []).append(step.beat_s)
    return {value: _middle(own) for value, own in by_value.items() if len(own) >= _LEAST_OF_VALUE}


def _middle(beats_s: Sequence[float]) -> float:
    values = np.array(beats_s)
    ratio = values / np.median(values)
    near = (ratio < _FURTHEST) & (ratio > 1 / _FURTHEST)
    # Where half are far longer than the others their median is like none of them.
    return float(values[near if near.any() else slice(None)].mean())


def rushed_measures(
    steps: Iterable[Step], beats_s: dict[float, float], usual_s: float, torn: Set[int] = frozenset()
) -> tuple[int, ...]:
    """Measures whose notes follow one another too soon while the others keep their pace. `torn`: measures in which a note was left
    out, which are never told: which of like notes it was is a guess, and a rest may have gone with it."""
    taken: dict[int, list[Step]] = {}
    written: dict[int, float] = defaultdict(float)

    def due_s(step: Step) -> float:
        return step.beats * beats_s.get(step.value, usual_s)

    def paces(own: Iterable[Step]) -> list[float]:
        return [step.seconds / due_s(step) for step in own]

    for step in steps:
        written[step.measure] += step.beats
        if not step.unbroken or step.measure in torn:
            continue
        if step.seconds < _FURTHEST * due_s(step):
            taken.setdefault(step.measure, []).append(step)
    rates = {
        measure: sum(s.seconds for s in own) / sum(due_s(s) for s in own)
        for measure, own in taken.items()
        if len(own) >= _LEAST_IN_MEASURE and sum(s.beats for s in own) >= _LEAST_KNOWN * written[measure]
    }
    if len(rates) < _LEAST_MEASURES:
        return ()
    middle = float(np.median(list(rates.values())))
    away = {measure: rate / middle - 1.0 for measure, rate in rates.items()}
    rushed = [measure for measure, share in away.items() if share < -_RUSHED_SHARE]
    others = [abs(share) for measure, share in away.items() if measure not in rushed]
    each = all(_all_along([pace / middle for pace in paces(taken[measure])]) for measure in rushed)
    if not rushed or len(rushed) > _MOST_RUSHED * len(rates) or max(others) > _STEADY_SHARE or not each:
        return ()
    # Where the others wait at every new string, a measure that has none to come to is no faster.
    plain = [paces(s for m in own for s in taken[m] if s.before is None) for own in (rushed, rates.keys() - rushed)]
    if all(plain) and np.median(plain[0]) > (1 - _RUSHED_SHARE) * np.median(plain[1]):
        return ()
    return tuple(sorted(rushed))


def _all_along(paces: Sequence[float]) -> bool:
    """Whether a measure is rushed as a whole, and not one step of it: most steps are short, in the middle by enough, and none by so
    much that a note, or a rest, must be missing there."""
    short = float(np.mean([pace < 1 - _EACH_RUSHED for pace in paces]))
    return short > _MOST_STEPS and float(np.median(paces)) < 1 - _RUSHED_SHARE and min(paces) > _LEAST_PACE


def pairs_of(steps: Sequence[Step], starts: dict[int, float]) -> list[tuple[int, float]]:
    """(index of the first, its share of their time) of each two equal notes that share a beat. `starts`: index of a note ->
    where it begins, in beats."""
    found = []
    for one, two in pairwise(steps):
        joined = one.after == two.index and one.unbroken and two.unbroken
        equal = one.value == two.value == one.beats == two.beats and one.value <= 0.5
        if joined and equal and (starts[one.index] / (2 * one.value)) % 1.0 == 0.0:
            found.append((one.index, one.seconds / (one.seconds + two.seconds)))
    return found
