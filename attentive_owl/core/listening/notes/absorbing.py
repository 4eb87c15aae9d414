"""Pieces of an alignment that are no notes of their own go to the note that they belong to.

A note on the pitch of the note before that is very much softer, or wrong and softer or falling all the way with no stroke of its own, is
the note before dying away; one that is wrong and hardly lengthens it, with no stroke of its own, is the note before.

Where fewer strokes were played on one pitch than are written, an alignment that has a note to place cuts a held one in two. Where
the strokes of the other repeats are clear, the cut is not, and the pace goes far better without it, there was none.

A short stray an octave from the note beside it is that note: two strings sounding together, or a weak fundamental, show
an octave to the ear that no finger played.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import takewhile
from math import inf

import numpy as np

from attentive_owl.core.exercises import Score
from attentive_owl.core.listening.alignment.path import Move, Path, Segment
from attentive_owl.core.listening.features.frames import HOP_S, Array
from attentive_owl.core.listening.features.levels import FINE_HOP_S, sustained_db
from attentive_owl.core.listening.features.novelty import SURE_STROKE, Boundaries
from attentive_owl.core.listening.features.stroke_signs import StrokeSigns
from attentive_owl.core.listening.notes.pace import beats_of, like_notes, neighbours, pace_of, strain

_LONGEST_OCTAVE_S = 0.2
"""A longer one was played."""
_ONE_PITCH_SEMITONES = 0.25
"""What lies no further apart is one pitch; a finger that moves goes further (by hand)."""
_TAIL_DB, _ECHO_DB = 6.0, 20.0
"""Softer than the note before by so much, a wrong pitch with no stroke is its end; by so much, anything on its pitch is (by hand)."""
_FALLS_DB, _FIRST, _LAST = 8.0, (0.0, 0.1), (0.7, 0.9)
"""And so is one that falls so far from its first part to its last but one, as a string and a room ring out (by hand): a note that is bowed
stays within some decibels."""
_NO_LONGER = 1.5
"""Of the time that the first of the two should have: together they are one note up to here."""
_LEAST_REPEATS, _WEAKER = 5, 1.5
"""So many other repeats tell how clear a stroke is in this take; a cut that is none lies so far (log-odds) under the lower quarter of them."""
_LEAST_EASED = 0.7
"""Strain that goes with such a cut. By hand: of 4300 repeats of pupils who are uneven, rush or drag, those that were struck and look so weak
ease 0.64 at most."""
_FAST_S = 0.28
"""Strokes that follow one another faster may melt together: nothing is told of them."""


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


def settle_octaves(path: Path, score: Score) -> Path:
    """Gives a wrong note that stands an octave over what was heard beside it for a like one that pitch: the fundamental of a low string is weak
    until it speaks, and nobody's finger goes that far between two strokes."""

    def an_octave_over(event: Segment | Move, beside: Segment | Move) -> bool:
        if not (isinstance(event, Segment) and isinstance(beside, Segment) and event.kind == beside.kind == "wrong"):
            return False
        like = abs(event.index - beside.index) == 1 and score.notes[event.index].midi == score.notes[beside.index].midi
        return like and event.midi == beside.midi + 12

    events = list(path.events)
    for place, event in enumerate(events):
        for beside in events[max(place - 1, 0) : place] + events[place + 1 : place + 2]:
            if an_octave_over(event, beside):
                events[place] = replace(_segment(event), midi=_segment(beside).midi)
    return replace(path, events=tuple(events))


def absorb_held(path: Path, boundaries: Boundaries, midi: Mapping[int, float] | None = None) -> Path:
    """Gives a stray that goes over without a stroke into a written note on its own pitch to that note: it was held, and none too
    many was played. midi: key number that was heard of what begins at a boundary, where it is known by now; a note half way between two
    of the tuned grid is found now on the one and now on the other."""

    def held(before: Segment, event: Segment) -> Segment | None:
        one_is_written = (event.kind == "stray") != (before.kind == "stray")
        if not one_is_written or boundaries.attack[event.start] >= SURE_STROKE:
            return None
        return replace(before if event.kind == "stray" else event, start=before.start, stop=event.stop)

    if midi is None:
        return _joined(path, held)

    def on_one_pitch(one: Segment, two: Segment) -> bool:
        return abs(midi.get(one.start, inf) - midi.get(two.start, -inf)) <= _ONE_PITCH_SEMITONES

    return _joined(path, held, on_one_pitch)


def absorb_tails(path: Path, boundaries: Boundaries, fine: Array, expected_s: Array) -> Path:
    """Gives what only dies away, or is too short to be a second one, to the note that it is the end of; the note that was to
    come is then missed. expected_s: how long each written note lasts at the pace of the take, shape (notes,)."""

    def with_its_end(before: Segment, event: Segment) -> Segment | None:
        if "stray" in (event.kind, before.kind):
            return None
        over = _dies_away(before, event, boundaries, fine) or _is_one(before, event, boundaries, expected_s)
        return replace(before, stop=event.stop) if over else None

    return _joined(path, with_its_end)


def _on_one_key(one: Segment, two: Segment) -> bool:
    return one.midi == two.midi


def _joined(
    path: Path,
    join: Callable[[Segment, Segment], Segment | None],
    on_one_pitch: Callable[[Segment, Segment], bool] = _on_one_key,
) -> Path:
    """The path with what `join` makes of two segments on one pitch, the one straight after the other, in their place; None leaves them."""
    events: list[Segment | Move] = []
    for event in path.events:
        before, one = events[-1] if events else None, None
        if isinstance(before, Segment) and isinstance(event, Segment):
            one = join(before, event) if before.stop == event.start and on_one_pitch(before, event) else None
        if one is None:
            events.append(event)
        else:
            events[-1] = one
    return replace(path, events=tuple(events))


def absorb_unstruck(path: Path, signs: StrokeSigns, score: Score) -> Path:
    """Gives the second half of a held note, which was taken for the next on its pitch, to the first. Which note was passed over is not
    told by this."""
    events = list(path.events)
    repeats = [place for place in range(1, len(events)) if repeats_pitch(events[place - 1], events[place], score)]
    odds = {place: float(signs.odds[_segment(events[place]).start]) for place in repeats}
    for place in reversed(repeats):
        others = [own for other, own in odds.items() if other != place]
        if len(others) < _LEAST_REPEATS or odds[place] > np.quantile(others, 0.25) - _WEAKER:
            continue
        if _eased(place, events, signs, score) > _LEAST_EASED:
            events[place - 1 : place + 1] = [replace(_segment(events[place - 1]), stop=_segment(events[place]).stop)]
    return replace(path, events=tuple(events))


def _segment(event: Segment | Move) -> Segment:
    assert isinstance(event, Segment)
    return event


def on_one_pitch(before: Segment | Move, event: Segment | Move, score: Score) -> bool:
    """Whether one written note follows another on its pitch, with a stroke of its own."""
    if not (isinstance(before, Segment) and isinstance(event, Segment)):
        return False
    if (before.kind, before.index + 1, before.midi) != (event.kind, event.index, event.midi):
        return False
    return event.kind == "note" and not score.notes[event.index].legato_from(score.notes[before.index])


def repeats_pitch(before: Segment | Move, event: Segment | Move, score: Score) -> bool:
    """Whether one written note follows another on its pitch without a gap, with a stroke of its own."""
    touches = isinstance(before, Segment) and isinstance(event, Segment) and before.stop == event.start
    return touches and on_one_pitch(before, event, score)


@dataclass(frozen=True)
class _Begun:
    """A segment, as its pace is asked for."""

    onset_s: float
    offset_s: float
    midi: float


def _eased(place: int, events: Sequence[Segment | Move], signs: StrokeSigns, score: Score) -> float:
    """Strain that goes where the note at a place goes to the one before it, whichever note of the run is then the missing one; 0 in a fast
    run, and where nothing follows on it."""
    begun = {
        event.index: _Begun(float(signs.time[event.start]), float(signs.time[event.stop]), float(event.midi))
        for event in _stretch(place, events)
    }
    gone = _segment(events[place]).index
    run, pace = like_notes(gone, score), pace_of(begun, score)
    before, after = neighbours(begun, run.start, run.stop - 1)
    if pace is None or not after or pace * min(float(score.notes[index].duration_beats) for index in run) < _FAST_S:
        return 0.0
    beats = beats_of(score)
    heard = [*before, *(index for index in run if index in begun), *after]
    left = [index for index in heard if index != gone]
    onsets = np.array([begun[index].onset_s for index in heard])
    readings = []
    for missing in set(run) & set(heard):
        own = beats[[index for index in heard if index != missing]]
        # Whoever passes a note over mostly goes on at once, as if it were not there.
        length = beats[missing + 1] - beats[missing]
        readings += [own, np.where(own > beats[missing], own - length, own)]
    without = strain(np.array(readings), np.array([begun[index].onset_s for index in left]), pace).min()
    return float(strain(beats[heard][None], onsets, pace)[0] - without)


def _stretch(place: int, events: Sequence[Segment | Move]) -> Iterator[Segment]:
    """The written notes around a place that were played on without going back or on."""
    before = takewhile(lambda event: isinstance(event, Segment), reversed(events[:place]))
    onward = takewhile(lambda event: isinstance(event, Segment), events[place:])
    return (event for event in [*before, *onward] if isinstance(event, Segment) and event.kind != "stray")


def _dies_away(before: Segment, event: Segment, boundaries: Boundaries, fine: Array) -> bool:
    """So much softer as no stroke is; or softer, or falling as no bow does, with no sure stroke, and on a pitch that was not asked for."""
    softer = _sustained(before, boundaries, fine) - _sustained(event, boundaries, fine)
    if event.kind != "wrong" or boundaries.attack[event.start] >= SURE_STROKE:
        return softer > _ECHO_DB
    return softer > _TAIL_DB or _falls_db(event, boundaries, fine) > _FALLS_DB


def _is_one(before: Segment, event: Segment, boundaries: Boundaries, expected_s: Array) -> bool:
    """Whether a note on a pitch that was not asked for, with no sure stroke of its own, ends about when the note before it should,
    and not when it should itself."""
    together_s = float(boundaries.frame[event.stop] - boundaries.frame[before.start]) * HOP_S
    unsure = event.kind == "wrong" and boundaries.attack[event.start] < SURE_STROKE
    return unsure and together_s < _NO_LONGER * float(expected_s[before.index])


def _sustained(segment: Segment, boundaries: Boundaries, fine: Array) -> float:
    begin, end = (float(boundaries.frame[at]) * HOP_S for at in (segment.start, segment.stop))
    return sustained_db(begin, end, fine)


def _falls_db(segment: Segment, boundaries: Boundaries, fine: Array) -> float:
    """From the level at its beginning to that near its end."""
    begin, end = (float(boundaries.frame[at]) * HOP_S for at in (segment.start, segment.stop))
    at_first, at_last = (
        fine[int((begin + low * (end - begin)) / FINE_HOP_S) : int((begin + high * (end - begin)) / FINE_HOP_S) + 1]
        for low, high in (_FIRST, _LAST)
    )
    return float(at_first.mean() - at_last.mean()) if len(at_first) and len(at_last) else 0.0


def _octave(note: Segment, stray: Segment) -> bool:
    return note.kind != "stray" and note.midi != stray.midi and (note.midi - stray.midi) % 12 == 0
