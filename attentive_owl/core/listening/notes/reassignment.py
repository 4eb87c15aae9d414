"""Which written notes the heard ones are, where alignment alone can not tell.

Where notes of one pitch follow one another and one is missed, every choice of the missing one explains the sound
equally well. The choice that keeps the pace best is taken; a stop, however long, costs no more than a note that is somewhat
more than twice as long. Where a note is left out and the next is wrong, the pace tells as well.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import combinations, groupby, pairwise
from math import comb

import numpy as np

from attentive_owl.core.exercises import Score
from attentive_owl.core.listening.alignment.path import Move, Segment
from attentive_owl.core.listening.notes.pace import T, Timed, beats_of, is_other, neighbours, pace_of, strain

MOST_CHOICES = 2000
"""Longer runs are left as they are: which is missing is then nobody's guess."""
_MOST_ROUNDS = 4
"""After so many, runs that lean on one another are left as they are."""
_LONGEST_BLOCK = 4
"""So many notes are moved together at most."""
LEAST_EASED, _EASED_FOR_WRONG = 0.7, 0.2
"""Notes are moved where that takes away so much strain: so much more for a note that is then wrong, and so much less where one is right."""
TOLD = 0.35
"""Strain by which of two readings the one is told from the other, where it is not moved."""
_LEAST_OF_OTHERS = 2
"""One wrong note beside one unheard is looked at with its pace; so is one beside several, unless they are fast."""
_MELTS_S = 0.3
"""Strokes on one pitch that follow one another so fast may have melted together."""


def last_heard(events: list[tuple[int, Segment | Move]], heard: dict[int, T]) -> dict[int, T]:
    """What was heard last for each written note of a pass, by its index. `events` and `heard` by place in the path. Where the
    pupil went back and on, what came before counts no more for the notes that were come to again, whether they were played
    again or left out."""
    attempts: list[tuple[int, dict[int, T]]] = [(0, {})]
    for place, event in events:
        if isinstance(event, Move):
            attempts.append((event.target, {}))
        elif event.kind != "stray":
            attempts[-1][1][event.index] = heard[place]
    last: dict[int, T] = {}
    come_to: set[int] = set()
    for first, attempt in reversed(attempts):
        last |= {index: item for index, item in attempt.items() if index not in come_to}
        if attempt:
            come_to |= set(range(first, max(attempt) + 1))
    return last


def settle(current: dict[int, T], score: Score, tuning_semitones: float, strays: Sequence[Timed] = ()) -> dict[int, T]:
    """`current`: written index -> what was heard for it, in time order. Returns it with the missing notes where the pace
    wants them. What was moved can leave a run of like notes to be dealt out anew."""
    moved = settle_shifted(settle_missed(current, score), score, tuning_semitones, strays)
    return settle_missed(moved, score)


def settle_missed(current: dict[int, T], score: Score) -> dict[int, T]:
    """`current`: written index -> what was heard for it, in time order. Returns it with like notes dealt out anew."""
    settled = dict(current)
    pace = pace_of(current, score)
    if pace is None:
        return settled
    # Runs that lie side by side lean on one another: they are dealt out again until they stay.
    for _ in range(_MOST_ROUNDS):
        before = dict(settled)
        for _, group in groupby(score.notes, key=lambda note: note.midi):
            _deal_out([note.index for note in group], settled, pace, score)
        if settled == before:
            break
    return dict(sorted(settled.items()))


def _deal_out(run: list[int], settled: dict[int, T], pace: float, score: Score) -> None:
    """Gives what was heard of a run of like notes, where some are missing, to those that keep the pace best."""
    heard = [index for index in run if index in settled]
    if not heard or len(heard) == len(run):
        return
    found = [settled[index] for index in heard]
    if any(b.onset_s <= a.onset_s for a, b in pairwise(found)):
        return
    if comb(len(run), len(found)) > MOST_CHOICES:
        return
    choices = list(combinations(run, len(found)))
    before, after = neighbours(settled, run[0], run[-1])
    around = [np.tile(part, (len(choices), 1)).astype(np.int64) for part in (before, after)]
    options = np.concatenate([around[0], np.array(choices), around[1]], axis=1)
    onsets = [item.onset_s for item in [*(settled[i] for i in before), *found, *(settled[i] for i in after)]]
    best = choices[int(np.argmin(strain(beats_of(score)[options], np.array(onsets), pace)))]
    for index in heard:
        del settled[index]
    settled |= dict(zip(best, found, strict=True))


def settle_shifted(
    current: dict[int, T], score: Score, tuning_semitones: float, strays: Sequence[Timed] = ()
) -> dict[int, T]:
    """`current` with blocks of notes moved by one where the pace says so: a note left out and then a wrong note that
    happens to have its pitch look like a stop and a note left out later, but only the first keeps the pace. Where one of
    `strays` as long as a note sounds nearby there is a third reading, and no right note is made wrong."""
    settled = dict(current)
    pace = pace_of(current, score)
    if pace is None:
        return settled
    shortest = min(float(note.duration_beats) for note in score.notes)
    doubtful = [stray.onset_s for stray in strays if stray.offset_s - stray.onset_s > 0.5 * pace * shortest]
    for missing in [note.index for note in score.notes if note.index not in settled]:
        for block, step in _blocks_beside(missing):
            if missing in settled or not all(index in settled for index in block):
                continue
            move = _moved(block, step, settled, pace, score, tuning_semitones)
            if move is not None and move.eases and not (move.more_wrong > 0 and move.is_near(doubtful, pace)):
                moved = {index + step: settled.pop(index) for index in block}
                settled |= moved
    return dict(sorted(settled.items()))


def told_by_neither(settled: dict[int, T], score: Score, tuning_semitones: float) -> set[int]:
    """Indices of notes that are right in one reading and wrong or missed in another, which keeps the pace about as well and has no more
    wrong notes: a note left out and wrong ones that happen to have the pitches of their neighbours. And those that may be others,
    unheard beside them."""
    pace = pace_of(settled, score)
    unsure: set[int] = set()
    if pace is None:
        return unsure
    for missing in [note.index for note in score.notes if note.index not in settled]:
        for block, step in _blocks_beside(missing):
            if not all(index in settled for index in block):
                continue
            own = [score.notes[index] for index in (*block, missing)]
            slow = min(float(note.duration_beats) for note in own) * pace > _MELTS_S
            if slow and len({note.midi for note in own}) == 1:
                # Which of like notes was left out changes nothing: one was. Fast ones may have melted together.
                continue
            move = _moved(block, step, settled, pace, score, tuning_semitones)
            if move is None or move.more_wrong > 0 or move.eased < -TOLD:
                continue
            other = dict(settled)
            other |= {index + step: other.pop(index) for index in block}
            for index in (*block, missing):
                midi = score.notes[index].midi + tuning_semitones
                differs = _is_right(settled.get(index), midi) != _is_right(other.get(index), midi)
                if differs or (move.more_wrong < 0 and (index in settled) != (index in other)):
                    unsure.add(index)
    return unsure | _those_of_others(settled, score, tuning_semitones, pace)


def _those_of_others(settled: dict[int, T], score: Score, tuning_semitones: float, pace: float) -> set[int]:
    """Wrong notes, several in a row, that have one after the other the pitches of unheard ones next to them, and those: the strokes of fast notes
    melt together, and what is left of them can stand anywhere. Of fast ones a single wrong note is enough."""
    kinds = [
        "unheard" if (own := settled.get(note.index)) is None else "wrong" if is_other(own, note.midi + tuning_semitones) else "right"
        for note in score.notes
    ]  # fmt: skip
    runs = [(kind, [at for at, _ in group]) for kind, group in groupby(enumerate(kinds), key=lambda pair: pair[1])]
    unsure: set[int] = set()
    for (kind, run), (other_kind, others) in [*pairwise(runs), *((b, a) for a, b in pairwise(runs))]:
        if kind != "wrong" or other_kind != "unheard" or len(others) < _LEAST_OF_OTHERS:
            continue
        fast = pace * min(float(score.notes[index].duration_beats) for index in others) <= _MELTS_S
        if fast or len(run) >= _LEAST_OF_OTHERS:
            unheard = iter(others)
            # `any` goes on where it stopped: the pitches have to come in their order.
            if all(
                any(_is_right(settled[index], score.notes[other].midi + tuning_semitones) for other in unheard)
                for index in run
            ):
                unsure |= {*run, *others}
    return unsure


def _blocks_beside(missing: int) -> Iterator[tuple[list[int], int]]:
    """Blocks of notes before a missing one and after it that it could be moved past, with the step that they would take."""
    for step in (1, -1):
        for length in range(1, _LONGEST_BLOCK + 1):
            yield [missing - step * place for place in range(length, 0, -1)], step


@dataclass(frozen=True)
class _Move:
    """What moving a block of notes by one would do."""

    more_wrong: int
    """Notes on another pitch, more than before."""
    eased: float
    """Strain taken away."""
    begin_s: float
    end_s: float
    """Onsets of the notes around the block."""

    @property
    def eases(self) -> bool:
        """Whether the pace is kept much better, with at most one note more that is then on another pitch."""
        return self.more_wrong <= 1 and self.eased > LEAST_EASED + _EASED_FOR_WRONG * max(self.more_wrong, -1)

    def is_near(self, moments_s: list[float], pace: float) -> bool:
        reach_s = _LONGEST_BLOCK * pace
        return any(self.begin_s - reach_s < at < self.end_s + reach_s for at in moments_s)


def _moved(
    block: list[int], step: int, settled: dict[int, T], pace: float, score: Score, tuning_semitones: float
) -> _Move | None:
    """What moving a block by `step` would do; None where it stands alone, or where an open end leaves the pace too little to
    say for a note more that is wrong."""
    stays = sorted(block)
    before, after = neighbours(settled, stays[0], stays[-1])
    if not before and not after:
        return None
    moves = [index + step for index in stays]
    onsets = np.array([settled[index].onset_s for index in [*before, *stays, *after]])
    strained = strain(beats_of(score)[[[*before, *own, *after] for own in (stays, moves)]], onsets, pace)
    wrong = [
        sum(is_other(settled[index], score.notes[index + by].midi + tuning_semitones) for index in block)
        for by in (0, step)
    ]
    more = wrong[1] - wrong[0]
    if more > 0 and not (before and after):
        return None
    return _Move(more, float(strained[0] - strained[1]), float(onsets[0]), float(onsets[-1]))


def _is_right(heard: Timed | None, midi: float) -> bool:
    return heard is not None and not is_other(heard, midi)
