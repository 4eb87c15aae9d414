"""What alignment alone can not tell.

Where notes of one pitch follow one another and one is missed, every choice of the missing one explains the sound
equally well. The choice whose onsets lie nearest to the pulse of the notes around them is taken.

Under noise, a note that was not heard where there was time for it may well have been played. So may one in whose time
something was struck that no note explains.

A note on the pitch of the note before that is very much softer, or wrong and softer with no stroke of its own, is the note
before dying away.

Where a note is left out and the next is wrong, the pulse tells which notes the heard ones are.

A short stray an octave from the note beside it is that note: two strings sounding together, or a weak fundamental, show
an octave to the ear that no finger played.
"""

from __future__ import annotations

from dataclasses import replace
from itertools import combinations, groupby, pairwise
from typing import Protocol, TypeVar

import numpy as np

from attentive_owl.core.exercises import Score
from attentive_owl.core.listening.change import Boundaries
from attentive_owl.core.listening.decoding import Move, Path, Segment
from attentive_owl.core.listening.emission import Emission
from attentive_owl.core.listening.frames import HOP_S, Array
from attentive_owl.core.listening.onsets import sustained_db

_MOST_CHOICES = 2000
_LONGEST_OCTAVE_S = 0.2
_ROOM = 0.7
_SURE_STROKE = 0.5
_SOUND_FOLLOWS_S = 0.15
_LEAST_QUIET = 0.3
_AHEAD_S = 0.08
_TAIL_DB, _ECHO_DB = 6.0, 20.0
_LONGEST_BLOCK = 4
_OFF_PULSE, _ON_PULSE = 0.6, 0.2
"""Shares of the time between two notes."""
_OTHER_SEMITONES = 0.7


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


def absorb_tails(path: Path, boundaries: Boundaries, fine: Array) -> Path:
    """Gives what only dies away to the note that it is the end of; the note that was to come is then missed."""
    events: list[Segment | Move] = []
    for event in path.events:
        before = events[-1] if events else None
        if (
            isinstance(event, Segment)
            and isinstance(before, Segment)
            and "stray" not in (event.kind, before.kind)
            and (before.stop, before.midi) == (event.start, event.midi)
            and _dies_away(before, event, boundaries, fine)
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


def _sustained(segment: Segment, boundaries: Boundaries, fine: Array) -> float:
    begin, end = (float(boundaries.frame[at]) * HOP_S for at in (segment.start, segment.stop))
    return sustained_db(begin, end, fine)


def _octave(note: Segment, stray: Segment) -> bool:
    return note.kind != "stray" and note.midi != stray.midi and (note.midi - stray.midi) % 12 == 0


def settle_missed(current: dict[int, T], score: Score) -> dict[int, T]:
    """`current`: written index -> what was heard for it, in time order. Returns it with like notes dealt out anew."""
    settled = dict(current)
    for _, group in groupby(score.notes, key=lambda note: note.midi):
        run = [note.index for note in group]
        heard = [index for index in run if index in settled]
        if not heard or len(heard) == len(run):
            continue
        found = [settled[index] for index in heard]
        if any(b.onset_s <= a.onset_s for a, b in pairwise(found)):
            continue
        expected = _expected(run, settled, score)
        if expected is None:
            continue
        choices = list(combinations(range(len(run)), len(found)))
        if len(choices) > _MOST_CHOICES:
            continue
        onsets = np.array([item.onset_s for item in found])
        costs = [float(np.abs(onsets - expected[list(choice)]).sum()) for choice in choices]
        best = choices[int(np.argmin(costs))]
        for index in heard:
            del settled[index]
        settled |= {run[place]: item for place, item in zip(best, found, strict=True)}
    return dict(sorted(settled.items()))


def settle_shifted(current: dict[int, T], score: Score, tuning_semitones: float) -> dict[int, T]:
    """`current` with blocks of notes moved by one where the pulse says so: a note left out and then a wrong note that
    happens to have its pitch look like a stop and a note left out later, but only the first keeps the pulse."""
    settled = dict(current)
    for missing in [note.index for note in score.notes if note.index not in settled]:
        for step in (1, -1):
            for length in range(1, _LONGEST_BLOCK + 1):
                block = [missing - step * place for place in range(length, 0, -1)]
                if not all(index in settled for index in block) or missing in settled:
                    break
                if _keeps_pulse(block, step, settled, score, tuning_semitones):
                    moved = {index + step: settled.pop(index) for index in block}
                    settled |= moved
    return dict(sorted(settled.items()))


def _keeps_pulse(block: list[int], step: int, settled: dict[int, T], score: Score, tuning_semitones: float) -> bool:
    """Whether a block of notes lies on the pulse when moved by one, far from it as it stands, and at most one note more is
    then on another pitch."""
    touched = sorted({*block, *(index + step for index in block)})
    before = [index for index in settled if index < touched[0]]
    after = [index for index in settled if index > touched[-1]]
    expected = _expected(touched, settled, score) if before and after else None
    if expected is None:
        return False
    at = dict(zip(touched, expected, strict=True))
    apart = float(np.median(np.diff(expected)))
    onsets = np.array([settled[index].onset_s for index in block])
    stays = np.abs(onsets - [at[index] for index in block]).mean()
    moves = np.abs(onsets - [at[index + step] for index in block]).mean()
    if stays < _OFF_PULSE * apart or moves > _ON_PULSE * apart:
        return False
    wrong = [
        sum(_is_other(settled[index], score.notes[index + by].midi + tuning_semitones) for index in block)
        for by in (0, step)
    ]
    return wrong[1] - wrong[0] <= 1


def _is_other(heard: Timed, midi: float) -> bool:
    return heard.midi is None or abs(heard.midi - midi) > _OTHER_SEMITONES


def _expected(run: list[int], settled: dict[int, T], score: Score) -> np.ndarray | None:
    """Where the notes of the run should start, by the notes just outside it; None with nothing to go by."""
    outside_before = [index for index in settled if index < run[0]][-2:]
    outside_after = [index for index in settled if index > run[-1]][:2]
    anchors = [*outside_before, *outside_after]
    if len(anchors) < 2:
        return None
    beats = np.array([float(score.notes[index].start_beats) for index in anchors])
    times = np.array([settled[index].onset_s for index in anchors])
    wanted = np.array([float(score.notes[index].start_beats) for index in run])
    if outside_before and outside_after:
        return np.interp(wanted, beats, times)
    slope = (times[-1] - times[0]) / (beats[-1] - beats[0])
    anchor = -1 if outside_before else 0
    return times[anchor] + slope * (wanted - beats[anchor])


def had_room(missing: int, heard: dict[int, T], score: Score) -> bool:
    """Whether the notes around a missing one left it its time: 70 % at least of what the pace of the go would give.
    True where nothing was heard on one side of it."""
    before = max((index for index in heard if index < missing), default=None)
    after = min((index for index in heard if index > missing), default=None)
    if before is None or after is None:
        return True
    starts = [float(note.start_beats) for note in score.notes]
    pace = np.median(
        [(heard[b].onset_s - heard[a].onset_s) / (starts[b] - starts[a]) for a, b in pairwise(sorted(heard))]
    )
    return heard[after].onset_s - heard[before].onset_s >= _ROOM * float(pace) * (starts[after] - starts[before])


def like_notes(index: int, score: Score) -> range:
    """Indices of the run of notes on one pitch in which a note stands."""
    first, last = index, index + 1
    while first and score.notes[first - 1].midi == score.notes[index].midi:
        first -= 1
    while last < len(score.notes) and score.notes[last].midi == score.notes[index].midi:
        last += 1
    return range(first, last)


def unexplained_strokes(path: Path, boundaries: Boundaries, heard: Emission) -> Array:
    """Moments (s) in the gaps between segments at which a stroke surely begins and sound follows."""
    covered = np.zeros(len(boundaries.frame), bool)
    for event in path.events:
        if isinstance(event, Segment):
            covered[event.start : event.stop] = True
    reach = int(_SOUND_FOLLOWS_S / HOP_S)
    return np.array(
        [
            frame * HOP_S
            for frame, attack in zip(boundaries.frame[~covered], boundaries.attack[~covered], strict=True)
            if attack > _SURE_STROKE and heard.quiet[frame : frame + reach].mean() < _LEAST_QUIET
        ]
    )


def stroke_near(missing: int, heard: dict[int, T], score: Score, strokes_s: Array) -> bool:
    """Whether something that no note explains was struck between the notes around a missing one, or around the run of
    notes on its pitch: which of them is missing is a guess."""
    run = like_notes(missing, score)
    before = max((item.offset_s for index, item in heard.items() if index < run.start), default=-np.inf)
    after = min((item.onset_s for index, item in heard.items() if index >= run.stop), default=np.inf)
    return bool(np.any((strokes_s > before) & (strokes_s < after - _AHEAD_S)))
