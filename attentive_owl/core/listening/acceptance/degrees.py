"""The degrees of a line with a pattern, as they were played: the time of each, however the alignment dealt its strokes out to the written notes."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import zip_longest

import numpy as np

from attentive_owl.core.exercises import Score
from attentive_owl.core.listening.acceptance.rhythm_mismatch import Shares
from attentive_owl.core.listening.alignment.path import Path, Segment
from attentive_owl.core.listening.features.frames import Array
from attentive_owl.core.listening.features.stroke_signs import StrokeSigns

LEAST_DEGREES = 6
"""With the same pattern: fewer are no habit."""
_PASSED_OVER = 0.7
"""Of the degrees: a written note that is passed over on so many was not left out by mistake. By hand."""


@dataclass
class Degree:
    """One degree as it was played on its pitch."""

    place: int
    """Among the degrees of the line."""
    begin_s: float
    end_s: float
    """Until the next one."""
    sound_end_s: float
    """Until its bow stopped."""
    struck: set[int]
    """Written indices of the notes that were struck in it."""


@dataclass(frozen=True)
class Degrees:
    """All degrees of a line with the same pattern, as they were played."""

    written: Shares
    """Where its strokes are written, as shares of a degree's time, but for the first."""
    values: tuple[float, ...]
    """Its notes and rests as they are written, in beats; a rest is below zero."""
    beat_s: float
    """At the tempo that is set."""
    spans: Array
    """Begin and end (s), shape (degrees, 2)."""
    sound_ends: Array
    """Until when each sounds (s), shape (degrees,)."""
    passed_over: bool
    """Whether one of the written strokes, the first with them, was passed over on most degrees."""
    notes: frozenset[int]
    """Written indices of all their notes."""

    @property
    def pace(self) -> float:
        """How much slower (above 1) than is set the degrees follow one another."""
        return float(np.median(np.diff(self.spans)) / self.beat_s / self.beats)

    @property
    def beats(self) -> float:
        """From one degree to the next."""
        return sum(map(abs, self.values))


def alike(degrees: Sequence[Degree], score: Score, runs: Sequence[range]) -> list[Degrees]:
    """Those that come often enough, by their pattern. runs: written indices of each degree's notes."""
    groups: dict[tuple[float, ...], list[Degree]] = defaultdict(list)
    for degree in degrees:
        groups[_values(degree.place, score, runs)].append(degree)
    found = []
    for values, own in groups.items():
        if len(own) < LEAST_DEGREES:
            continue
        starts = np.cumsum(np.abs(values)) / np.sum(np.abs(values))
        firsts = [runs[degree.place].start for degree in own]
        count = len(runs[own[0].place])
        struck = [
            np.mean([first + at in degree.struck for degree, first in zip(own, firsts, strict=True)])
            for at in range(count)
        ]
        found.append(
            Degrees(
                tuple(starts[: count - 1].tolist()),
                values,
                60.0 / score.tempo_bpm,
                np.array([(degree.begin_s, degree.end_s) for degree in own]),
                np.array([degree.sound_end_s for degree in own]),
                any(share <= 1.0 - _PASSED_OVER for share in struck),
                frozenset(index for degree in own for index in runs[degree.place]),
            )
        )
    return found


def _values(place: int, score: Score, runs: Sequence[range]) -> tuple[float, ...]:
    """The notes of a degree, and the rest after them, in beats; a rest is below zero."""
    notes = [score.notes[index] for index in runs[place]]
    following = score.notes[runs[place + 1].start].start_beats if place + 1 < len(runs) else score.end_beats
    rest = float(following - notes[-1].end_beats)
    values = [float(note.duration_beats) for note in notes]
    return tuple([*values, -rest] if rest > 0 else values)


def played_degrees(path: Path, signs: StrokeSigns, runs: Sequence[range]) -> list[Degree]:
    """In the order in which they were played. runs: written indices of each degree's notes. What is played on a degree's pitch right before or
    after it is part of it, a note that is wrong with them: of another pattern some strokes are taken for those of the next degree."""
    place_of = {index: place for place, run in enumerate(runs) for index in run}
    found: list[Degree] = []
    latest_midi: int | None = None
    """Of the degree that goes on; None where the line was left."""
    begun: int | None = None
    """Where a stray, or a wrong note, on the pitch of the next note began."""
    for event, follows in zip_longest(path.events, path.events[1:]):
        if not isinstance(event, Segment):
            latest_midi = begun = None
        elif event.kind != "note":
            belongs = isinstance(follows, Segment) and follows.midi == event.midi
            begun = (event.start if begun is None else begun) if belongs else None
            if event.midi == latest_midi:
                found[-1].end_s = found[-1].sound_end_s = float(signs.time[event.stop])
            elif not belongs:
                latest_midi = None
        else:
            place, begin_s = place_of[event.index], float(signs.time[event.start if begun is None else begun])
            begun = None
            goes_on = latest_midi is not None and found[-1].place == place
            if latest_midi is not None and found[-1].place + 1 == place:
                found[-1].end_s = begin_s
            if not goes_on:
                found.append(Degree(place, begin_s, begin_s, begin_s, set()))
            found[-1].end_s = found[-1].sound_end_s = float(signs.time[event.stop])
            found[-1].struck.add(event.index)
            latest_midi = event.midi
    return found
