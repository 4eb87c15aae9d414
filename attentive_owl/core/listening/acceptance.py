"""Is this a try at the exercise at all? A poor but true try is never refused; something else is never scored."""

from __future__ import annotations

from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.exercises import Score
from attentive_owl.core.listening.change import BOW_DIP_DB, Boundaries
from attentive_owl.core.listening.decoding import Move, Path, Segment
from attentive_owl.core.listening.emission import Emission
from attentive_owl.core.listening.frames import HOP_S
from attentive_owl.core.listening.gate import Gate
from attentive_owl.core.listening.periods import Candidates
from attentive_owl.core.listening.refining import Refined

_LEAST_PITCHED_SHARE = 0.12
_LEAST_RIGHT_SHARE = 0.45
_LEAST_EXPLAINED = 0.4
_LEAST_STROKE_LOG = -2.3
"""Mean log-probability of an attack where a pitch is repeated. Takes of written repetitions have -2.0 and more, on the slowest
speaking strings too; held notes -1 to -4."""
_LEAST_REPEATS = 6
_LEAST_OTHERS = 4
_MOST_BETWEEN, _MOST_SKIPPED = 0.3, 0.4
_LEAST_SPLIT_S = 0.3
_LEAST_SPLIT_NOTES = 6
_LEAST_SPLIT_SHARE = 0.7
_LEAST_AT_PLACE = 0.55
_MORE_THAN_A_BOW = 1.6
_SLOW_NOTE_S = 1.5
_STROKE_SURE, _STROKE_AT_PLACE = 0.5, 0.4
_PLACES = np.linspace(0.14, 0.88, 75)
_PLACE_WIDTH = 0.04
"""Shares of a note at which a stroke may fall, and how far to either side it counts."""


def has_pitch(candidates: Candidates, sounding: NDArray[np.bool_]) -> bool:
    """Whether enough of the sounding frames have a clear pitch."""
    if not sounding.any():
        return False
    clear = np.bincount(candidates.frame[candidates.dip < 0.2], minlength=candidates.frames) > 0
    return bool(clear[sounding].mean() >= _LEAST_PITCHED_SHARE and (clear & sounding).sum() > 40)


def measures(
    path: Path, refined: dict[int, Refined], heard: Emission, boundaries: Boundaries, notes: int
) -> dict[str, float]:
    """What the decision rests on: share of the written notes that were heard right in the best go, and of the sounding
    time that right notes explain. (Right on the grid that was decoded: a scale on the wrong string is right here.)"""
    sounding = 1.0 - heard.quiet
    explained = 0.0
    best, right = 0, set[int]()
    for place, event in enumerate(path.events):
        if isinstance(event, Move):
            if event.target == 0:
                right = set()
        elif event.kind == "note":
            start, stop = boundaries.frame[event.start], boundaries.frame[event.stop]
            explained += float(sounding[start:stop].sum())
            if refined[place].support > 0.3:
                right.add(event.index)
            best = max(best, len(right))
    return {"right": best / notes, "explained": explained / max(float(sounding.sum()), 1.0)}


def long_for_short(path: Path, boundaries: Boundaries, score: Score) -> bool:
    """Whether the pitches are the exercise's, but long notes were played where it repeats short ones: hardly any written
    repetition of a pitch shows a new stroke."""
    strokes = [
        boundaries.attack[two.start]
        for one, two in pairwise(path.events)
        if isinstance(one, Segment)
        and isinstance(two, Segment)
        and one.kind == two.kind == "note"
        and two.index == one.index + 1
        and one.midi == two.midi
        and one.stop == two.start
        and not score.notes[two.index].slurred_from(score.notes[one.index])
    ]
    return len(strokes) >= _LEAST_REPEATS and float(np.mean(np.log(strokes))) < _LEAST_STROKE_LOG


def short_for_long(path: Path, boundaries: Boundaries) -> bool:
    """Whether short strokes were played inside the written notes: a pattern on every degree where one note is asked for.

    A pattern strikes at the same share of every note; scraping, a trembling bow and beating strings strike anywhere. So
    strokes inside the notes are laid over one another, each note stretched to the same length, and most notes must have
    one at one place. One stroke more in a slow note is a bow that ran out, and no other rhythm. A click that is heard
    lets no level fall, and is no stroke.
    """
    bowed = np.where(boundaries.dip >= BOW_DIP_DB, boundaries.attack, 0.0)
    lengths, counts, laid = [], [], []
    for event in path.events:
        if not isinstance(event, Segment) or event.kind == "stray":
            continue
        frames = boundaries.frame[event.start : event.stop + 1]
        length_s = float(frames[-1] - frames[0]) * HOP_S
        if length_s < _LEAST_SPLIT_S:
            continue
        shares = (frames[1:-1] - frames[0]) / (frames[-1] - frames[0])
        attack = bowed[event.start + 1 : event.stop]
        near = np.abs(_PLACES[:, None] - shares[None, :]) < _PLACE_WIDTH
        laid.append((near & (attack > _STROKE_AT_PLACE)[None, :]).any(axis=1))
        inside = (shares > _PLACES[0]) & (shares < _PLACES[-1])
        counts.append(int((inside & (attack > _STROKE_SURE)).sum()))
        lengths.append(length_s)
    if len(lengths) < _LEAST_SPLIT_NOTES:
        return False
    if np.mean(counts) < _MORE_THAN_A_BOW and np.median(lengths) > _SLOW_NOTE_S:
        return False
    shared = float(np.mean(laid, axis=0).max())
    return shared >= _LEAST_AT_PLACE and float(np.mean(np.array(counts) > 0)) >= _LEAST_SPLIT_SHARE


@dataclass
class _Go:
    """Segments of one time through, and how many written notes were passed over between them."""

    written: list[Segment] = field(default_factory=list)
    strays: list[Segment] = field(default_factory=list)
    skipped: int = 0

    @property
    def right(self) -> int:
        return sum(segment.kind == "note" for segment in self.written)


def _goes(path: Path) -> list[_Go]:
    goes, expected = [_Go()], 0
    for event in path.events:
        if isinstance(event, Move):
            expected = event.target
            if event.target == 0:
                goes.append(_Go())
        elif event.kind == "stray":
            goes[-1].strays.append(event)
        else:
            # What comes before the first note of a go is not passed over: the recording may begin late.
            goes[-1].skipped += event.index - expected if goes[-1].written else 0
            goes[-1].written.append(event)
            expected = event.index + 1
    return goes


def other_notes(path: Path, boundaries: Boundaries) -> bool:
    """Whether the exercise's notes were only picked out of another one: in the fullest go, notes as long as the exercise's
    own stand between them again and again, or they were skipped again and again. (A string touched in passing is short,
    and a try that breaks off skips nothing.)"""
    go = max(_goes(path), key=lambda own: own.right)
    if not go.written:
        return False
    length = np.median([_frames(segment, boundaries) for segment in go.written])
    between = [
        stray
        for stray in go.strays
        if go.written[0].stop <= stray.start < go.written[-1].start and _frames(stray, boundaries) > 0.5 * length
    ]
    heard = len(go.written)
    return (len(between) >= _LEAST_OTHERS and len(between) > _MOST_BETWEEN * heard) or (
        go.skipped > _LEAST_OTHERS and go.skipped > _MOST_SKIPPED * (go.skipped + heard)
    )


def _frames(event: Segment, boundaries: Boundaries) -> int:
    return int(boundaries.frame[event.stop] - boundaries.frame[event.start])


def refusal_code(
    path: Path,
    refined: dict[int, Refined],
    heard: Emission,
    boundaries: Boundaries,
    gate: Gate,
    score: Score,
) -> str | None:
    """None where the take is accepted, else why not."""
    found = measures(path, refined, heard, boundaries, len(score.notes))
    if (
        found["right"] >= _LEAST_RIGHT_SHARE
        and found["explained"] >= _LEAST_EXPLAINED
        and not other_notes(path, boundaries)
    ):
        other = long_for_short(path, boundaries, score) or short_for_long(path, boundaries)
        return "another_rhythm" if other else None
    return "too_noisy" if "noisy" in gate.problems and found["right"] < 0.1 else "not_this_exercise"
