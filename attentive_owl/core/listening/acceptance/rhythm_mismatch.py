"""Are the notes the exercise's, in another rhythm? Told by the strokes: where they are written and none falls, or where
one falls at the same share of every note in which none is written.

A pattern comes again on every degree, so its places are laid over one another: what scraping, a trembling bow or a click leave
behind falls anywhere, and a stroke falls where the pattern has one: where it is written, or where it comes in this take. At each place is
seen how much surer a stroke is there than half way to its neighbours, how much further the level falls there, how much more it stands at
another place than just before, and the first two at the cuts that the alignment made, which follow a pupil who is uneven. Where a stroke is written a logistic
regression (`python -m bench.fit_rhythm`) weighs them, inside the notes weights by hand. In doubt it is this exercise.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import groupby, pairwise

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.exercises import Score
from attentive_owl.core.listening.alignment.path import Path, Segment
from attentive_owl.core.listening.features.frames import Array
from attentive_owl.core.listening.features.ordered import middle, percentile
from attentive_owl.core.listening.features.stroke_signs import LEAST_ODDS, StrokeSigns
from attentive_owl.core.listening.weights import STRUCK_WEIGHTS

_MOST_LOG_ODDS = 6.0
"""No single place counts for more, either way."""
NOT_STRUCK, HELD = -2.7, -5.0
"""Log-odds of a place: under the first no stroke can be told there, and its notes are left to the teacher's ear. Mean log-odds, over the
less likely half of the places: under the second one note was held. By hand: of places where a stroke fell one in sixty lies under the
first; true takes on slow samples that swell into one another go down to -4.3."""
_HELD_AND_FAST = -2.0
"""Where the line goes by as if each run were one note at the beat that is set, this is little enough."""
FAST, _AS_LONG = 0.62, 0.8
"""So much of the time that is set, or less: nobody plays that much too fast, and without a stroke that can be heard. And so much of the longest written
note each run takes at least: what is shorter is no long note. By hand."""
SPLIT_WEIGHTS = (1.0, 1.5, 2.5)
"""For what `strokes_within` has: chosen by hand between true takes and split ones, since a fit leans on the recordings' own swells."""
SPLIT_LIMIT = 6.0
"""Over it a stroke falls inside every note. By hand: true takes of four sources reach 3.3, but slow samples that swell twice 5.3 (of the mean of all
notes; what is measured now is the middle one)."""
_LEAST_ODDS_INSIDE, _LEAST_LEVEL_INSIDE = 0.05, 1.5
"""At the weakest stroke: where none is surer than half way to its neighbours the level moves for another reason, and a click leaves
the level (both contrasts of it, weighted) as it is."""
A_NEW_BOW_S = 1.5
"""In notes so long one stroke more, half way, is a bow that ran out."""

_LEAST_RUNS, _LEAST_NOTES, _LEAST_COVERED = 5, 6, 0.4
"""A place counts where so many runs have it; a pattern inside the notes, where so many notes leave room for it; and all together speak for
a line where they are so much of its repeats (by hand)."""
_LEAST_OF_WRITTEN = 0.7
"""A note that is played too short takes so much of its share of a run at least (by hand): of fewer strokes than are written two cuts take one."""
_WITHIN = (0.25, 0.8)
"""Shares of a note between which it trembles by itself: the attack before and the end after are left out."""
_SOUNDS_DB, _MOST_STILL = 12.0, 0.3
"""A stroke sounds until the next: in the second half of its time the level lies no further under the loud part of the note, but for this
share of the notes. Else a bow stopped there."""
_EDGE_S = 0.12
"""So near the end of a note a peak is of the next bow: where the old one stopped, or where the new one began."""
_SHORTEST_SPLIT_S = 0.3
"""Strokes inside shorter notes melt together."""
Shares = tuple[float, ...]
"""Where strokes fall in a time that begins with one, from 0 to 1."""
SPLITS: tuple[Shares, ...] = (
    (1 / 2,),
    (1 / 3, 2 / 3),
    (1 / 4, 1 / 2, 3 / 4),
    (1 / 2, 3 / 4),
    (1 / 4, 1 / 2),
    (3 / 4,),
    (2 / 3,),
    (1 / 4, 3 / 4),
    (1 / 8, 1 / 4, 3 / 8, 1 / 2, 3 / 4),
    (1 / 4, 1 / 2, 5 / 8, 3 / 4, 7 / 8),
    (1 / 8, 1 / 4, 3 / 8, 1 / 2, 5 / 8, 3 / 4, 7 / 8),
)
"""Shares of a note at which the strokes of the usual patterns fall."""


Measures = tuple[float, ...]


@dataclass(frozen=True)
class Place:
    """One place of the pattern on a degree, over all degrees."""

    notes: tuple[int, ...]
    """Written indices of the notes that begin there."""
    measures: Measures
    """Over half way to the neighbours: log-odds of a stroke, dB by which the level falls, and dB of its step; at the cuts of the
    alignment: the first two over what trembles within the notes, and the log-odds alone."""

    @property
    def log_odds(self) -> float:
        constant, *weights = STRUCK_WEIGHTS
        return constant + sum(w * v for w, v in zip(weights, self.measures, strict=True))


def other_rhythm(path: Path, signs: StrokeSigns, places: Sequence[Place], score: Score, pace: float) -> str | None:
    """long: one note was held where several are written; short: several were struck where one is written; None where neither
    can be told. places: those of `places_of`; pace: how much slower (above 1) than written the notes follow one another."""
    odds = struck_log_odds(places, score)
    if odds is not None and odds < (_HELD_AND_FAST if as_if_held(pace, score) else HELD):
        return "long"
    return "short" if is_split(path, signs) else None


def as_if_held(pace: float, score: Score) -> bool:
    """Whether a line goes by as if one long note were played for each run on one pitch, at about the beat that is set. pace: how much slower
    (above 1) than written the notes follow one another."""
    runs = [[float(note.duration_beats) for note in run] for _, run in groupby(score.notes, key=lambda note: note.midi)]
    notes_long = [sum(run) / max(run) for run in runs if len(run) > 1]
    return bool(notes_long) and pace <= FAST and pace * float(np.median(notes_long)) >= _AS_LONG


def struck_log_odds(places: Sequence[Place], score: Score) -> float | None:
    """How surely the less likely half of the places was struck: where every second stroke is left out the others are there."""
    repeated = sum(
        two.midi == one.midi and two.start_beats == one.end_beats and not two.legato_from(one)
        for one, two in pairwise(score.notes)
    )
    if not places or sum(len(place.notes) for place in places) < _LEAST_COVERED * repeated:
        return None
    odds = sorted(np.clip([place.log_odds for place in places], -_MOST_LOG_ODDS, _MOST_LOG_ODDS).tolist())
    return float(np.mean(odds[: (len(odds) + 1) // 2]))


def not_struck(places: Sequence[Place]) -> frozenset[int]:
    """Notes of which no stroke was heard, on any degree: they may have been held over."""
    return frozenset(index for place in places if place.log_odds < NOT_STRUCK for index in place.notes)


def places_of(path: Path, signs: StrokeSigns, score: Score) -> list[Place]:
    """The places at which a pattern repeats a pitch with a new stroke, those that come often enough."""
    alike: dict[tuple[float, ...], list[list[Segment]]] = {}
    for run in _runs(path, score):
        notes = [score.notes[segment.index] for segment in run]
        first = notes[0].start_beats
        beats = tuple(float(b - first) for b in [*(note.start_beats for note in notes), notes[-1].end_beats])
        alike.setdefault(beats, []).append(run)
    found = []
    for beats, runs in alike.items():
        if len(runs) < _LEAST_RUNS:
            continue
        written = np.array(beats) / beats[-1]
        cuts = np.mean([_at_cuts(run, signs) for run in runs], axis=0)
        # Whoever takes the eighths too long strikes none where it is written, and the cuts of a faint stroke lie anywhere.
        played = _shares_played(runs, signs, written)
        ways = [
            np.concatenate([np.mean([_contrasts(run, shares, signs) for run in runs], axis=0), cuts], axis=1)
            for shares in ((written,) if played is None else (written, played))
        ]
        for at, seen in enumerate(zip(*ways, strict=True), start=1):
            notes_there = tuple(run[at].index for run in runs)
            found.append(max((Place(notes_there, tuple(own.tolist())) for own in seen), key=lambda own: own.log_odds))
    return found


def _contrasts(run: Sequence[Segment], shares: Array, signs: StrokeSigns) -> Array:
    """At these shares of a run's time, both ends with them: shape (strokes, 3)."""
    begin, end = signs.time[run[0].start], signs.time[run[-1].stop]
    moments = begin + (end - begin) * shares
    return signs.contrast(moments[:-2], moments[1:-1], moments[2:])


def _at_cuts(run: Sequence[Segment], signs: StrokeSigns) -> list[tuple[float, float, float]]:
    """At each cut: how much surer a stroke is and how much further the level falls there than within the notes beside it, and the first alone."""
    found = []
    for one, two in pairwise(run):
        odds, dip = float(signs.odds[two.start]), float(signs.dip[two.start])
        within = [
            0.5 * sum(_most_within(segment, signs.frame, values, least) for segment in (one, two))
            for values, least in ((signs.odds, LEAST_ODDS), (signs.dip, 0.0))
        ]
        found.append((odds - within[0], dip - within[1], odds))
    return found


def _shares_played(runs: Sequence[Sequence[Segment]], signs: StrokeSigns, written: Array) -> Array | None:
    """Where the strokes of a pattern fall in its time, from 0 to 1: the alignment's cuts, the middle one of all runs; None where they crowd."""
    cuts = np.array([[signs.time[at] for at in [*(own.start for own in run), run[-1].stop]] for run in runs])
    shares: Array = np.median((cuts - cuts[:, :1]) / (cuts[:, -1:] - cuts[:, :1]), axis=0)
    crowd = np.any(np.diff(shares) < _LEAST_OF_WRITTEN * np.diff(written))
    return None if crowd else shares


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


def _most_within(segment: Segment, frame: NDArray[np.int64], observed: Array, least: float) -> float:
    """The most that is observed well inside a segment: the surest sign of a stroke, or the deepest fall."""
    frames = frame[segment.start : segment.stop + 1]
    share = (frames - frames[0]) / (frames[-1] - frames[0])
    inside = (share > _WITHIN[0]) & (share < _WITHIN[1])
    return float(observed[segment.start : segment.stop + 1][inside].max(initial=least))


def is_split(path: Path, signs: StrokeSigns) -> bool:
    """Whether the same strokes fall inside the written notes."""
    return any(split_score(contrasts) > SPLIT_LIMIT for contrasts in split_measures(path, signs))


def split_score(contrasts: Array) -> float:
    """How surely the strokes of a pattern fell, of its contrasts (`strokes_within`), shape (strokes, 3): the weakest counts as much as
    all together. 0 where one of them is none, whatever the others are."""
    strokes = contrasts * np.array(SPLIT_WEIGHTS)
    by_odds, by_level = strokes[:, 0], strokes[:, 1:].sum(axis=1)
    if by_odds.min() < _LEAST_ODDS_INSIDE or by_level.min() < _LEAST_LEVEL_INSIDE:
        return 0.0
    both = by_odds + by_level
    return float(0.5 * (both.min() + both.mean()))


def _spans(path: Path, signs: StrokeSigns) -> Array:
    """Begin and end (s) of the written notes that are long enough to be split, shape (notes, 2)."""
    spans: Array = np.array(
        [
            (signs.time[event.start], signs.time[event.stop])
            for event in path.events
            if isinstance(event, Segment) and event.kind != "stray"
        ],
        dtype=np.float64,
    ).reshape(-1, 2)
    long_enough: Array = spans[spans[:, 1] - spans[:, 0] >= _SHORTEST_SPLIT_S]
    return long_enough


def split_measures(path: Path, signs: StrokeSigns) -> list[Array]:
    """For each usual pattern that the notes leave room for, the contrasts of each of its strokes, (strokes, 3)."""
    spans = _spans(path, signs)
    slow = len(spans) and np.median(np.diff(spans)) > A_NEW_BOW_S
    least = max(_LEAST_NOTES, 0.5 * len(spans))
    patterns = [shares for shares in SPLITS if not (slow and shares == (1 / 2,))]
    return [own for _, own in strokes_within(spans, spans[:, 1], patterns, signs, least)]


def strokes_within(
    spans: Array, sound_ends: Array, patterns: Sequence[Shares], signs: StrokeSigns, least: float
) -> list[tuple[Shares, Array]]:
    """The contrasts of the strokes of some patterns in spans of time (s), shape (spans, 2), of which each sounds until so long, shape
    (spans,): how much surer one is than half way to its neighbours, how much further the level falls there, and how much larger its step
    is, shape (strokes, 3). Without the patterns for which fewer than so many spans leave room, or for which a bow stopped. Of the
    middle span: a gap in a recording is plainer than any stroke, and falls anywhere."""
    length = np.diff(spans)
    found = []
    for shares in patterns:
        moments = np.column_stack([spans[:, 0], spans[:, :1] + length * np.array(shares), spans[:, 1]])
        room = (sound_ends - moments[:, -2] >= _EDGE_S) & (np.diff(moments).min(axis=1) >= 0.5 * _EDGE_S)
        if room.sum() < least:
            continue
        moments = moments[room]
        contrasts = np.median(signs.contrast(moments[:, :-2], moments[:, 1:-1], moments[:, 2:]), axis=0)
        # Where there is no stroke it does not matter what came after it.
        if split_score(contrasts) == 0.0 or not _stops(moments, signs):
            found.append((shares, contrasts))
    return found


def _stops(moments: Array, signs: StrokeSigns) -> bool:
    """Whether the bow stops after one of some strokes in most spans. Begins, strokes and ends (s), shape (spans, strokes + 2)."""
    faint = [percentile(signs.level_between(span[0], span[-1]), 90) - _SOUNDS_DB for span in moments]
    after = moments[:, 2:]
    still = [
        [middle(signs.level_between(*ending)) < limit for ending in zip(middles, ends, strict=True)]
        for middles, ends, limit in zip(0.5 * (moments[:, 1:-1] + after), after, faint, strict=True)
    ]
    return bool(np.sum(still, axis=0).max() > _MOST_STILL * len(moments))
