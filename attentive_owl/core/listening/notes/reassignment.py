"""What alignment alone can not tell.

Where notes of one pitch follow one another and one is missed, every choice of the missing one explains the sound
equally well. The choice that keeps the pace best is taken; a stop, however long, costs no more than a note that is somewhat
more than twice as long.

Under noise, a note that was not heard where there was time for it may well have been played. So may one in whose time
something was struck that no note explains.

Where the note before sounds on, on its pitch, a new stroke may have been made that left no trace.

A note on the pitch of the note before that is very much softer, or wrong and softer with no stroke of its own, is the note
before dying away; one that is wrong and hardly lengthens it, with no stroke of its own, is the note before.

Where a note is left out and the next is wrong, the pace tells which notes the heard ones are.

A short stray an octave from the note beside it is that note: two strings sounding together, or a weak fundamental, show
an octave to the ear that no finger played.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import combinations, groupby, pairwise
from typing import Protocol, TypeVar

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.exercises import Score
from attentive_owl.core.listening.alignment.observations import Emission
from attentive_owl.core.listening.alignment.viterbi import Move, Path, Segment
from attentive_owl.core.listening.features.frames import HOP_S, Array
from attentive_owl.core.listening.features.levels import sustained_db
from attentive_owl.core.listening.features.novelty import Boundaries

_MOST_CHOICES = 2000
_MOST_ROUNDS = 4
_LONGEST_OCTAVE_S = 0.2
_ROOM = 0.7
_SURE_STROKE = 0.5
_SOUND_FOLLOWS_S = 0.15
_LEAST_QUIET = 0.3
_SOUNDED_SHARE = 0.5
_AHEAD_S = 0.08
_TAIL_DB, _ECHO_DB = 6.0, 20.0
_NO_LONGER = 1.5
_LONGEST_BLOCK = 4
_STOP = 0.8
_LEAST_EASED, _EASED_FOR_WRONG = 0.7, 0.2
"""Strain: log ratio of a time to what the pace gives, summed over notes. A stop has no more than `_STOP`. Notes are moved
where that takes away so much of it: so much more for a note that is then wrong, and so much less where one is right."""
_TOLD = 0.35
"""Strain by which of two readings the one is told from the other, where it is not moved."""
_OTHER_SEMITONES = 0.7
_MELTS_S = 0.3


class Timed(Protocol):
    @property
    def onset_s(self) -> float: ...
    @property
    def offset_s(self) -> float: ...
    @property
    def midi(self) -> float | None: ...


T = TypeVar("T", bound=Timed)


def absorb_octaves(path: Path, boundaries: Boundaries) -> Path:
    """Gives short octave strays to the written note that begins where they end, else to the one that they follow."""
    events: list[Segment | Move] = list(path.events)
    place = 0
    while place < len(events):
        stray = events[place]
        if (
            isinstance(stray, Segment)
            and stray.kind == "stray"
            and (boundaries.frame[stray.stop] - boundaries.frame[stray.start]) * HOP_S <= _LONGEST_OCTAVE_S
        ):
            following = events[place + 1] if place + 1 < len(events) else None
            before = events[place - 1] if place else None
            if isinstance(following, Segment) and following.start == stray.stop and _octave(following, stray):
                events[place : place + 2] = [replace(following, start=stray.start)]
                continue
            if isinstance(before, Segment) and before.stop == stray.start and _octave(before, stray):
                events[place - 1 : place + 1] = [replace(before, stop=stray.stop)]
                continue
        place += 1
    return replace(path, events=tuple(events))


def absorb_held(path: Path, boundaries: Boundaries) -> Path:
    """Gives a stray that goes over without a stroke into a written note on its own pitch to that note: it was held, and none too
    many was played."""
    events: list[Segment | Move] = []
    for event in path.events:
        before = events[-1] if events else None
        if (
            isinstance(event, Segment)
            and isinstance(before, Segment)
            and (before.stop, before.midi) == (event.start, event.midi)
            and (event.kind == "stray") != (before.kind == "stray")
            and boundaries.attack[event.start] < _SURE_STROKE
        ):
            written = before if event.kind == "stray" else event
            events[-1] = replace(written, start=before.start, stop=event.stop)
        else:
            events.append(event)
    return replace(path, events=tuple(events))


def absorb_tails(path: Path, boundaries: Boundaries, fine: Array, expected_s: Array) -> Path:
    """Gives what only dies away, or is too short to be a second one, to the note that it is the end of; the note that was to
    come is then missed. expected_s: how long each written note lasts at the pace of the take, shape (notes,)."""
    events: list[Segment | Move] = []
    for event in path.events:
        before = events[-1] if events else None
        if (
            isinstance(event, Segment)
            and isinstance(before, Segment)
            and "stray" not in (event.kind, before.kind)
            and (before.stop, before.midi) == (event.start, event.midi)
            and (_dies_away(before, event, boundaries, fine) or _is_one(before, event, boundaries, expected_s))
        ):
            events[-1] = replace(before, stop=event.stop)
        else:
            events.append(event)
    return replace(path, events=tuple(events))


def _dies_away(before: Segment, event: Segment, boundaries: Boundaries, fine: Array) -> bool:
    """So much softer as no stroke is; or softer, with no sure stroke, and on a pitch that was not asked for."""
    softer = _sustained(before, boundaries, fine) - _sustained(event, boundaries, fine)
    wrong = event.kind == "wrong" and boundaries.attack[event.start] < _SURE_STROKE
    return softer > (_TAIL_DB if wrong else _ECHO_DB)


def _is_one(before: Segment, event: Segment, boundaries: Boundaries, expected_s: Array) -> bool:
    """Whether a note on a pitch that was not asked for, with no sure stroke of its own, ends about when the note before it should,
    and not when it should itself."""
    together_s = float(boundaries.frame[event.stop] - boundaries.frame[before.start]) * HOP_S
    unsure = event.kind == "wrong" and boundaries.attack[event.start] < _SURE_STROKE
    return unsure and together_s < _NO_LONGER * float(expected_s[before.index])


def _sustained(segment: Segment, boundaries: Boundaries, fine: Array) -> float:
    begin, end = (float(boundaries.frame[at]) * HOP_S for at in (segment.start, segment.stop))
    return sustained_db(begin, end, fine)


def _octave(note: Segment, stray: Segment) -> bool:
    return note.kind != "stray" and note.midi != stray.midi and (note.midi - stray.midi) % 12 == 0


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
    choices = list(combinations(run, len(found)))
    if len(choices) > _MOST_CHOICES:
        return
    before, after = _neighbours(settled, run[0], run[-1])
    around = [np.tile(part, (len(choices), 1)).astype(np.int64) for part in (before, after)]
    options = np.concatenate([around[0], np.array(choices), around[1]], axis=1)
    onsets = [item.onset_s for item in [*(settled[i] for i in before), *found, *(settled[i] for i in after)]]
    best = choices[int(np.argmin(_strain(options, np.array(onsets), pace, score)))]
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
    """Indices of notes that are right in one reading and wrong or missed in another, where both keep the pace about as well and
    have as many wrong notes: a note left out and wrong ones that happen to have the pitches of their neighbours."""
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
            if move is None or move.more_wrong != 0 or move.eased < -_TOLD:
                continue
            other = dict(settled)
            other |= {index + step: other.pop(index) for index in block}
            for index in (*block, missing):
                midi = score.notes[index].midi + tuning_semitones
                if _is_right(settled.get(index), midi) != _is_right(other.get(index), midi):
                    unsure.add(index)
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
        return self.more_wrong <= 1 and self.eased > _LEAST_EASED + _EASED_FOR_WRONG * max(self.more_wrong, -1)

    def is_near(self, moments_s: list[float], pace: float) -> bool:
        reach_s = _LONGEST_BLOCK * pace
        return any(self.begin_s - reach_s < at < self.end_s + reach_s for at in moments_s)


def _moved(
    block: list[int], step: int, settled: dict[int, T], pace: float, score: Score, tuning_semitones: float
) -> _Move | None:
    """What moving a block by `step` would do; None where it stands alone, or where an open end leaves the pace too little to
    say for a note more that is wrong."""
    stays = sorted(block)
    before, after = _neighbours(settled, stays[0], stays[-1])
    if not before and not after:
        return None
    moves = [index + step for index in stays]
    onsets = np.array([settled[index].onset_s for index in [*before, *stays, *after]])
    strain = _strain(np.array([[*before, *own, *after] for own in (stays, moves)]), onsets, pace, score)
    wrong = [
        sum(_is_other(settled[index], score.notes[index + by].midi + tuning_semitones) for index in block)
        for by in (0, step)
    ]
    more = wrong[1] - wrong[0]
    if more > 0 and not (before and after):
        return None
    return _Move(more, float(strain[0] - strain[1]), float(onsets[0]), float(onsets[-1]))


def _is_other(heard: Timed, midi: float) -> bool:
    return heard.midi is None or abs(heard.midi - midi) > _OTHER_SEMITONES


def _is_right(heard: Timed | None, midi: float) -> bool:
    return heard is not None and not _is_other(heard, midi)


def _neighbours(settled: dict[int, T], first: int, last: int) -> tuple[list[int], list[int]]:
    """The nearest note that was heard before `first` and the nearest after `last`; empty where there is none."""
    before = max((index for index in settled if index < first), default=None)
    after = min((index for index in settled if index > last), default=None)
    return [] if before is None else [before], [] if after is None else [after]


def pace_of(heard: dict[int, T], score: Score) -> float | None:
    """Seconds a beat: the median over notes that follow one another; None for fewer than two notes."""
    order = sorted(heard)
    beats = np.diff([float(score.notes[index].start_beats) for index in order])
    times = np.diff([heard[index].onset_s for index in order])
    # A note that was kept from before a return comes earlier than its neighbour.
    onward = times > 0
    return float(np.median(times[onward] / beats[onward])) if onward.any() else None


def _strain(options: np.ndarray, onsets_s: np.ndarray, pace: float, score: Score) -> np.ndarray:
    """How far each option, one row of written indices for the onsets, is from the pace. Shape (options,)."""
    starts = np.array([float(note.start_beats) for note in score.notes])
    times = np.maximum(np.diff(onsets_s), 1e-3)
    ratio = np.log(times / (pace * np.diff(starts[options], axis=1)))
    found: Array = np.where(ratio > 0, np.minimum(ratio, _STOP), -ratio).sum(axis=1)
    return found


def had_room(missing: int, heard: dict[int, T], score: Score) -> bool:
    """Whether the notes around a missing one left it its time: 70 % at least of what the pace of the pass would give.
    True where nothing was heard on one side of it."""
    before, after = _neighbours(heard, missing, missing)
    if not before or not after:
        return True
    beats = float(score.notes[after[0]].start_beats - score.notes[before[0]].start_beats)
    pace = pace_of(heard, score)
    return pace is None or heard[after[0]].onset_s - heard[before[0]].onset_s >= _ROOM * pace * beats


def held_over(missing: int, heard: dict[int, T], score: Score, tuning_semitones: float) -> bool:
    """Whether the note before a missing one sounds on its pitch, and through half its time or more: the bow may have changed
    without a sound. Of a run on one pitch that was played on another one, too."""
    before, _ = _neighbours(heard, missing, missing)
    pace, note = pace_of(heard, score), score.notes[missing]
    if not before or pace is None:
        return False
    alike = before[0] in like_notes(missing, score)
    if not alike and _is_other(heard[before[0]], note.midi + tuning_semitones):
        return False
    middle = float(note.start_beats + note.duration_beats / 2 - score.notes[before[0]].start_beats)
    return heard[before[0]].offset_s - heard[before[0]].onset_s >= pace * middle


def like_notes(index: int, score: Score) -> range:
    """Indices of the run of notes on one pitch in which a note stands."""
    first, last = index, index + 1
    while first and score.notes[first - 1].midi == score.notes[index].midi:
        first -= 1
    while last < len(score.notes) and score.notes[last].midi == score.notes[index].midi:
        last += 1
    return range(first, last)


def unexplained_strokes(path: Path, boundaries: Boundaries, heard: Emission) -> Array:
    """Moments (s), shape (n,), in the gaps between segments at which a stroke surely begins and sound follows."""
    bare = _between_segments(path, boundaries)[boundaries.frame]
    reach = int(_SOUND_FOLLOWS_S / HOP_S)
    return np.array(
        [
            frame * HOP_S
            for frame, attack in zip(boundaries.frame[bare], boundaries.attack[bare], strict=True)
            if attack > _SURE_STROKE and heard.quiet[frame : frame + reach].mean() < _LEAST_QUIET
        ]
    )


def unexplained_sound(path: Path, boundaries: Boundaries, heard: Emission) -> Array:
    """Moments (s), shape (n,), a frame each, in the gaps between segments at which something sounds that has no pitch of its own: two
    strings at once, or a bow that scrapes."""
    bare = _between_segments(path, boundaries)[: len(heard.quiet)]
    moments: Array = np.flatnonzero(bare & (heard.quiet < _LEAST_QUIET)).astype(np.float64) * HOP_S
    return moments


def _between_segments(path: Path, boundaries: Boundaries) -> NDArray[np.bool_]:
    """Which frames no segment fills, shape (frames + 1,): the end of the recording is one more."""
    bare = np.ones(int(boundaries.frame[-1]) + 1, bool)
    for event in path.events:
        if isinstance(event, Segment):
            bare[boundaries.frame[event.start] : boundaries.frame[event.stop]] = False
    return bare


def sounding_near(missing: int, heard: dict[int, T], score: Score, sounding_s: Array) -> bool:
    """Whether something that no note explains (`unexplained_sound`, shape (n,)) sounded for half a missing note's time between the notes around it."""
    before, after = _neighbours(heard, missing, missing)
    pace = pace_of(heard, score)
    if not before or not after or pace is None:
        return False
    inside = (sounding_s > heard[before[0]].offset_s) & (sounding_s < heard[after[0]].onset_s)
    return float(inside.sum()) * HOP_S > _SOUNDED_SHARE * pace * float(score.notes[missing].duration_beats)


def stroke_near(missing: int, heard: dict[int, T], score: Score, strokes_s: Array) -> bool:
    """Whether something that no note explains (`unexplained_strokes`, shape (n,)) was struck between the notes around a missing one, or around the run of
    notes on its pitch: which of them is missing is a guess."""
    run = like_notes(missing, score)
    before = max((item.offset_s for index, item in heard.items() if index < run.start), default=-np.inf)
    after = min((item.onset_s for index, item in heard.items() if index >= run.stop), default=np.inf)
    # What is struck just before a note that was heard, or while it sounds, is that note's.
    others = [~((strokes_s > item.onset_s - _AHEAD_S) & (strokes_s < item.offset_s)) for item in heard.values()]
    return bool(np.any((strokes_s > before) & (strokes_s < after) & np.all(others, axis=0)))
