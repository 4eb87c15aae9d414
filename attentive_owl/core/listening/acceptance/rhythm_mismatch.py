"""Are the notes the exercise's, in another rhythm? Told by the strokes: where they are written and none falls, or where
one falls at the same share of every note in which none is written.

A pattern comes again on every degree, so its places are laid over one another: what scraping, a trembling bow or a click leave
behind falls anywhere, and a stroke falls where the pattern has one. At each place three things are seen: how much surer a stroke is there
than half way to its neighbours, how much further the level falls there, and the same at the cuts that the alignment made, which
follow a pupil who is uneven. Two logistic regressions (`python -m bench.fit_rhythm`) weigh them. In doubt it is this exercise.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from attentive_owl.core.exercises import Score
from attentive_owl.core.listening.alignment.viterbi import Path, Segment
from attentive_owl.core.listening.features.frames import HOP_S, Array
from attentive_owl.core.listening.features.novelty import Boundaries
from attentive_owl.core.listening.weights import STRUCK_WEIGHTS

_MOST_LOG_ODDS = 6.0
NOT_STRUCK, HELD = -3.2, -5.8
"""Mean log-odds, over the less likely half of the places: under the first no stroke can be told there, and the notes are left to the
teacher's ear; under the second one note was held. By hand: samples that ring into one another without a peak go down to -5.6."""
SPLIT_WEIGHTS = (1.0, 1.5)
"""For what `split_measures` has: chosen by hand between 250 true takes and 140 split ones, since a fit leans on the recordings'
own swells."""
_LEAST_OF_EACH = (1.4, 1.0)
_SPLIT_LIMIT, _SLOW_SPLIT_LIMIT, _SLOW_NOTE_S = 5.0, 6.5, 1.2
"""Over it a stroke falls inside every note, where both are there. Slow notes may swell as one, and want more of it."""
_A_NEW_BOW_S = 1.5
"""In notes so long one stroke more, half way, is a bow that ran out."""

_LEAST_RUNS, _LEAST_NOTES, _LEAST_COVERED = 5, 6, 0.4
_REACH = 0.2
"""How far from its place a stroke is looked for, as a share of the time to the nearer neighbour."""
_WITHIN = (0.25, 0.8)
_LEAST_ODDS, _MOST_ODDS, _MOST_DIP_DB = -4.6, 4.0, 12.0
_EDGE_S = 0.12
"""So near the end of a note a peak is of the next bow: where the old one stopped, or where the new one began."""
_SHORTEST_SPLIT_S = 0.3
_SPLITS: tuple[tuple[float, ...], ...] = (
    (1 / 2,),
    (1 / 3, 2 / 3),
    (1 / 4, 1 / 2, 3 / 4),
    (1 / 2, 3 / 4),
    (1 / 4, 1 / 2),
    (3 / 4,),
    (2 / 3,),
    (1 / 4, 3 / 4),
    (1 / 8, 1 / 4, 3 / 8, 1 / 2, 3 / 4),
    (1 / 8, 1 / 4, 3 / 8, 1 / 2, 5 / 8, 3 / 4, 7 / 8),
)
"""Shares of a note at which the strokes of the usual patterns fall."""


Measures = tuple[float, float, float, float, float]


@dataclass(frozen=True)
class Place:
    """One place of the pattern on a degree, over all degrees."""

    notes: tuple[int, ...]
    """Written indices of the notes that begin there."""
    measures: Measures
    """Over half way to the neighbours: log-odds of a stroke, and dB by which the level falls; at the cuts of the alignment: the
    same over what trembles within the notes, and the log-odds alone."""

    @property
    def log_odds(self) -> float:
        constant, *weights = STRUCK_WEIGHTS
        return constant + sum(w * v for w, v in zip(weights, self.measures, strict=True))


@dataclass(frozen=True)
class _Peaks:
    """What is observed in a recording, by time."""

    time: Array
    odds: Array
    dip: Array

    def most(self, values: Array, low: float, high: float, least: float) -> float:
        inside = (self.time >= low) & (self.time <= high)
        return float(values[inside].max(initial=least))

    def contrast(self, places: Sequence[float], at: int) -> tuple[float, float]:
        """How much surer a stroke is at one of some moments than half way to its neighbours, and how much further the level
        falls there."""
        before, here, after = places[at - 1], places[at], places[at + 1]
        reach = _REACH * min(here - before, after - here)
        found = []
        for values, least in ((self.odds, _LEAST_ODDS), (self.dip, 0.0)):
            own, one, two = (
                self.most(values, middle - reach, middle + reach, least)
                for middle in (here, 0.5 * (before + here), 0.5 * (here + after))
            )
            found.append(own - 0.5 * (one + two))
        return found[0], found[1]


def _peaks(boundaries: Boundaries) -> _Peaks:
    odds = np.clip(np.log(boundaries.attack / (1 - boundaries.attack)), _LEAST_ODDS, _MOST_ODDS)
    return _Peaks((boundaries.frame * HOP_S).astype(np.float64), odds, np.minimum(boundaries.dip, _MOST_DIP_DB))


def other_rhythm(path: Path, boundaries: Boundaries, score: Score) -> str | None:
    """long: one note was held where several are written; short: several were struck where one is written; None where neither
    can be told."""
    odds = struck_log_odds(path, boundaries, score)
    if odds is not None and odds < HELD:
        return "long"
    return "short" if is_split(path, boundaries) else None


def struck_log_odds(path: Path, boundaries: Boundaries, score: Score) -> float | None:
    """How surely the less likely half of the places was struck: where every second stroke is left out the others are there."""
    places = places_of(path, boundaries, score)
    repeated = sum(
        two.midi == one.midi and two.start_beats == one.end_beats and not two.legato_from(one)
        for one, two in pairwise(score.notes)
    )
    if not places or sum(len(place.notes) for place in places) < _LEAST_COVERED * repeated:
        return None
    odds = sorted(np.clip([place.log_odds for place in places], -_MOST_LOG_ODDS, _MOST_LOG_ODDS).tolist())
    return float(np.mean(odds[: (len(odds) + 1) // 2]))


def not_struck(path: Path, boundaries: Boundaries, score: Score) -> frozenset[int]:
    """Notes of which no stroke was heard, on any degree: they may have been held over."""
    places = places_of(path, boundaries, score)
    return frozenset(index for place in places if place.log_odds < NOT_STRUCK for index in place.notes)


def places_of(path: Path, boundaries: Boundaries, score: Score) -> list[Place]:
    """The places at which a pattern repeats a pitch with a new stroke, those that come often enough."""
    peaks = _peaks(boundaries)
    seen: dict[tuple[tuple[float, ...], int], list[tuple[int, Measures]]] = {}
    for run in _runs(path, score):
        first = score.notes[run[0].index].start_beats
        notes = [score.notes[segment.index] for segment in run]
        beats = tuple(float(b - first) for b in [*(note.start_beats for note in notes), notes[-1].end_beats])
        begin, end = peaks.time[run[0].start], peaks.time[run[-1].stop]
        moments = [float(begin + (end - begin) * beat / beats[-1]) for beat in beats]
        for at in range(1, len(run)):
            one, two = run[at - 1], run[at]
            cut = peaks.odds[two.start], peaks.dip[two.start]
            within = [
                0.5 * sum(_most_within(segment, boundaries, values, least) for segment in (one, two))
                for values, least in ((peaks.odds, _LEAST_ODDS), (peaks.dip, 0.0))
            ]
            measures = (*peaks.contrast(moments, at), cut[0] - within[0], cut[1] - within[1], cut[0])
            seen.setdefault((beats, at), []).append((two.index, measures))
    return [
        Place(tuple(index for index, _ in own), _mean([measures for _, measures in own]))
        for own in seen.values()
        if len(own) >= _LEAST_RUNS
    ]


def _mean(rows: list[Measures]) -> Measures:
    a, b, c, d, e = np.mean(rows, axis=0).tolist()
    return a, b, c, d, e


def _runs(path: Path, score: Score) -> Iterator[list[Segment]]:
    """Right notes on one pitch that follow one another with new strokes, two and more."""
    run: list[Segment] = []
    for event in path.events:
        goes_on = (
            bool(run)
            and isinstance(event, Segment)
            and event.kind == "note"
            and event.index == run[-1].index + 1
            and event.midi == run[-1].midi
            and event.start == run[-1].stop
            and not score.notes[event.index].legato_from(score.notes[run[-1].index])
        )
        if goes_on and isinstance(event, Segment):
            run.append(event)
            continue
        if len(run) > 1:
            yield run
        run = [event] if isinstance(event, Segment) and event.kind == "note" else []
    if len(run) > 1:
        yield run


def _most_within(segment: Segment, boundaries: Boundaries, observed: Array, least: float) -> float:
    """The most that is observed well inside a segment: the surest sign of a stroke, or the deepest fall."""
    frames = boundaries.frame[segment.start : segment.stop + 1]
    share = (frames - frames[0]) / (frames[-1] - frames[0])
    inside = (share > _WITHIN[0]) & (share < _WITHIN[1])
    return float(observed[segment.start : segment.stop + 1][inside].max(initial=least))


def is_split(path: Path, boundaries: Boundaries) -> bool:
    """Whether the same strokes fall inside the written notes."""
    lengths = [end - begin for begin, end in _spans(path, _peaks(boundaries))]
    if not lengths:
        return False
    limit = _SLOW_SPLIT_LIMIT if np.median(lengths) > _SLOW_NOTE_S else _SPLIT_LIMIT
    return any(
        all(value >= least for value, least in zip(own, _LEAST_OF_EACH, strict=True))
        and sum(w * v for w, v in zip(SPLIT_WEIGHTS, own, strict=True)) > limit
        for own in split_measures(path, boundaries)
    )


def _spans(path: Path, peaks: _Peaks) -> list[tuple[float, float]]:
    """Begin and end (s) of the written notes that are long enough to be split."""
    spans = [
        (float(peaks.time[event.start]), float(peaks.time[event.stop]))
        for event in path.events
        if isinstance(event, Segment) and event.kind != "stray"
    ]
    return [(begin, end) for begin, end in spans if end - begin >= _SHORTEST_SPLIT_S]


def split_measures(path: Path, boundaries: Boundaries) -> list[tuple[float, float]]:
    """For each usual pattern that the notes leave room for, at the weakest of its strokes: how much surer one is than half way
    to its neighbours, and how much further the level falls there."""
    peaks = _peaks(boundaries)
    spans = _spans(path, peaks)
    slow = bool(spans) and np.median([end - begin for begin, end in spans]) > _A_NEW_BOW_S
    found = []
    for shares in _SPLITS:
        if slow and shares == (1 / 2,):
            continue
        strokes: list[list[tuple[float, float]]] = [[] for _ in shares]
        for begin, end in spans:
            moments = [begin, *(begin + share * (end - begin) for share in shares), end]
            shortest = min(two - one for one, two in pairwise(moments))
            if end - moments[-2] < _EDGE_S or shortest < 0.5 * _EDGE_S:
                continue
            for at in range(1, len(moments) - 1):
                strokes[at - 1].append(peaks.contrast(moments, at))
        if len(strokes[0]) >= max(_LEAST_NOTES, 0.5 * len(spans)):
            means = np.array([np.mean(own, axis=0) for own in strokes])
            found.append((float(means[:, 0].min()), float(means[:, 1].min())))
    return found
