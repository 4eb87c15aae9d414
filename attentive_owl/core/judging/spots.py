"""The spots of a take that are worth hearing: what to play to a teacher who has twenty seconds for it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from attentive_owl.core.judging.report import Report, ReportNote
from attentive_owl.core.listening.performance import NoteStatus

_BEFORE_S, _AFTER_S = 0.5, 0.35
"""So much around what is to be heard, that it has a beginning and an end."""
_LONGEST_S = 5.0
"""A teacher with thirty takes hears no longer one."""
_MOST = 4
"""Of one take."""
_OF_ONE_CAUSE = 2
"""Two places are enough to hear a habit."""


@dataclass(frozen=True)
class Spot:
    """A piece of a take that is worth hearing."""

    start_s: float
    end_s: float
    words: str
    """What is to be heard there."""


def spots(report: Report) -> list[Spot]:
    """At most four, in the order of the take; the weightiest are taken first, and what lies in another spot already is not played
    twice. Empty where nothing stands out, and for what was refused."""
    taken: list[Spot] = []
    for spot in _wanted(report):
        if len(taken) == _MOST:
            break
        if all(spot.end_s <= other.start_s or other.end_s <= spot.start_s for other in taken):
            taken.append(spot)
    return sorted(taken, key=lambda spot: spot.start_s)


def _wanted(report: Report) -> Iterator[Spot]:
    if not report.accepted:
        return
    places = {stop.index: stop for stop in report.tempo.stops}
    for cause in report.causes:
        heard = [spot for index in cause.notes if (spot := _around(report, index, index, cause.title))]
        yield from heard[:_OF_ONE_CAUSE]
    for run in _runs(report, NoteStatus.WRONG_PITCH):
        if spot := _around(report, run[0], run[-1], "another note"):
            yield spot
    for index in places:
        if spot := _around(report, max(index - 1, 0), index, "a stop"):
            yield spot
    for extra in report.extras:
        yield _cut(report, extra.onset_s, extra.offset_s, "a note too many")
    for run in _runs(report, NoteStatus.UNCLEAR):
        if spot := _around(report, run[0], run[-1], "not sure"):
            yield spot


def _runs(report: Report, status: str) -> list[list[int]]:
    """Neighbouring notes of one status."""
    runs: list[list[int]] = []
    for note in report.notes:
        if note.status == status:
            if runs and runs[-1][-1] == note.index - 1:
                runs[-1].append(note.index)
            else:
                runs.append([note.index])
    return runs


def _around(report: Report, first: int, last: int, words: str) -> Spot | None:
    """From a note to another, with the air around them; None where the first was not heard."""
    heard: list[ReportNote] = [note for note in report.notes[first : last + 1] if note.onset_s is not None]
    if not heard:
        return None
    start, end = heard[0].onset_s or 0.0, heard[-1].offset_s or heard[-1].onset_s or 0.0
    return _cut(report, start, end, words)


def _cut(report: Report, start_s: float, end_s: float, words: str) -> Spot:
    start = max(start_s - _BEFORE_S, 0.0)
    end = min(end_s + _AFTER_S, start + _LONGEST_S, report.recording.duration_s)
    return Spot(round(start, 2), round(max(end, start + 0.1), 2), words)
