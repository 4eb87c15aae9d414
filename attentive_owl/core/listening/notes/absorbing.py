"""Pieces of an alignment that are no notes of their own go to the note that they belong to.

A note on the pitch of the note before that is very much softer, or wrong and softer with no stroke of its own, is the note
before dying away; one that is wrong and hardly lengthens it, with no stroke of its own, is the note before.

A short stray an octave from the note beside it is that note: two strings sounding together, or a weak fundamental, show
an octave to the ear that no finger played.
"""

from __future__ import annotations

from dataclasses import replace

from attentive_owl.core.listening.alignment.viterbi import Move, Path, Segment
from attentive_owl.core.listening.features.frames import HOP_S, Array
from attentive_owl.core.listening.features.levels import sustained_db
from attentive_owl.core.listening.features.novelty import SURE_STROKE, Boundaries

_LONGEST_OCTAVE_S = 0.2
_TAIL_DB, _ECHO_DB = 6.0, 20.0
_NO_LONGER = 1.5


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
            and boundaries.attack[event.start] < SURE_STROKE
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
    wrong = event.kind == "wrong" and boundaries.attack[event.start] < SURE_STROKE
    return softer > (_TAIL_DB if wrong else _ECHO_DB)


def _is_one(before: Segment, event: Segment, boundaries: Boundaries, expected_s: Array) -> bool:
    """Whether a note on a pitch that was not asked for, with no sure stroke of its own, ends about when the note before it should,
    and not when it should itself."""
    together_s = float(boundaries.frame[event.stop] - boundaries.frame[before.start]) * HOP_S
    unsure = event.kind == "wrong" and boundaries.attack[event.start] < SURE_STROKE
    return unsure and together_s < _NO_LONGER * float(expected_s[before.index])


def _sustained(segment: Segment, boundaries: Boundaries, fine: Array) -> float:
    begin, end = (float(boundaries.frame[at]) * HOP_S for at in (segment.start, segment.stop))
    return sustained_db(begin, end, fine)


def _octave(note: Segment, stray: Segment) -> bool:
    return note.kind != "stray" and note.midi != stray.midi and (note.midi - stray.midi) % 12 == 0
