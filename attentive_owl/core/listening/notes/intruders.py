"""A note too many on a pitch of its own, among strokes on one pitch.

An alignment that has so many notes to place takes it for one of the written ones, on another pitch, and two of the strokes that follow for
one long note. Where one of the like notes holds a sure stroke that no note explains, and the pace is kept better when that is the
next of them and the other pitch is none, nothing was wrong: something came in between.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from attentive_owl.core.exercises import Score
from attentive_owl.core.listening.alignment.path import Move, Path, Segment
from attentive_owl.core.listening.features.frames import HOP_S
from attentive_owl.core.listening.features.novelty import SURE_STROKE, Boundaries
from attentive_owl.core.listening.notes.pace import beats_of, like_notes, strain

_LEAST_LIKE = 2
"""Of two like notes the one on another pitch has nothing around it."""
_LEAST_EASED = 0.15
"""Strain that goes with it. By hand: of 25 notes that were played on another pitch among like ones, on samples and by the simulated pupil, none eased
any by whatever stroke, and each but one strained the pace by 0.6 and more."""


@dataclass(frozen=True)
class _Run:
    """Like notes that follow one another in a path, of which one is on another pitch."""

    first: int
    """Place of the first among the events."""
    segments: tuple[Segment, ...]
    odd: int
    """Of the segments, the one on another pitch."""


def free_intruders(path: Path, boundaries: Boundaries, score: Score, beat_s: float) -> Path:
    """The path with such notes as strays. beat_s: seconds a beat, at the pace of the take."""
    events = list(path.events)
    for place in [at for at, event in enumerate(events) if isinstance(event, Segment) and event.kind == "wrong"]:
        run = _run_around(place, events, score)
        if run is None:
            continue
        stroke = _unexplained_stroke(run, events, boundaries, score, beat_s)
        if stroke is not None:
            events[run.first : run.first + len(run.segments)] = _freed(run, stroke)
    return replace(path, events=tuple(events))


def _run_around(place: int, events: list[Segment | Move], score: Score) -> _Run | None:
    """The run in which the event at a place stands, where all of it was heard and only that is on another pitch."""
    odd = events[place]
    assert isinstance(odd, Segment)
    like = like_notes(odd.index, score)
    first = place - (odd.index - like.start)
    segments = tuple(event for event in events[max(first, 0) : first + len(like)] if isinstance(event, Segment))
    whole = [segment.index for segment in segments] == list(like)
    others = [segment for segment in segments if segment is not odd]
    if not whole or len(like) < _LEAST_LIKE or any(segment.kind != "note" for segment in others):
        return None
    return _Run(first, segments, odd.index - like.start)


def _unexplained_stroke(
    run: _Run, events: list[Segment | Move], boundaries: Boundaries, score: Score, beat_s: float
) -> int | None:
    """The boundary of a stroke inside one of the like notes with which the pace is kept best, where it is kept better than as it is."""
    time = boundaries.frame * HOP_S
    odd = run.segments[run.odd]
    before, after = _beside(run, events)
    known = [*before, *run.segments, *after]
    beats = beats_of(score)[[segment.index for segment in known]][None]
    took_s = float(time[odd.stop] - time[odd.start])

    def strained(starts: list[int], without_s: float) -> float:
        onsets = time[[*(s.start for s in before), *starts, *(s.start for s in after)]]
        return float(strain(beats, np.where(onsets > time[odd.start], onsets - without_s, onsets), beat_s)[0])

    others = [segment for segment in run.segments if segment is not odd]
    strokes = [at for own in others for at in range(own.start + 1, own.stop) if boundaries.attack[at] >= SURE_STROKE]
    if not strokes:
        return None
    readings = {at: strained(sorted([*(own.start for own in others), at]), took_s) for at in strokes}
    best = min(readings, key=lambda at: readings[at])
    return best if readings[best] < strained([own.start for own in run.segments], 0.0) - _LEAST_EASED else None


def _beside(run: _Run, events: list[Segment | Move]) -> tuple[list[Segment], list[Segment]]:
    """The written notes right before and right after the run, where there are any."""
    wanted = run.segments[0].index - 1, run.segments[-1].index + 1
    around = events[max(run.first - 1, 0) : run.first], events[run.first + len(run.segments) :][:1]
    before, after = (
        [e for e in own if isinstance(e, Segment) and e.kind != "stray" and e.index == index]
        for own, index in zip(around, wanted, strict=True)
    )
    return before, after


def _freed(run: _Run, stroke: int) -> list[Segment]:
    """The run with its odd note as a stray, and the note that holds the stroke as two."""
    pieces: list[Segment] = []
    for segment in run.segments:
        if segment.start < stroke < segment.stop:
            pieces += [replace(segment, stop=stroke), replace(segment, start=stroke)]
        else:
            pieces.append(segment)
    index = run.segments[0].index
    out = []
    for piece in pieces:
        if piece is run.segments[run.odd]:
            out.append(replace(piece, kind="stray", index=index))
        else:
            out.append(replace(piece, index=index))
            index += 1
    return out
