"""Is this a try at the exercise at all? A poor but true try is never refused; something else is never scored."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.exercises import Score
from attentive_owl.core.listening.change import Boundaries
from attentive_owl.core.listening.decoding import Move, Path, Segment
from attentive_owl.core.listening.emission import Emission
from attentive_owl.core.listening.gate import Gate
from attentive_owl.core.listening.periods import Candidates
from attentive_owl.core.listening.refining import Refined

_LEAST_PITCHED_SHARE = 0.12
_LEAST_RIGHT_SHARE = 0.45
_LEAST_EXPLAINED = 0.4
_STROKE_HEARD = 0.2
"""Probability of an attack over which a stroke was heard: about nine of ten strokes on one pitch are over it."""
_LEAST_STROKES_HEARD = 0.42
_LEAST_REPEATS = 6
_LEAST_REPEATED_SHARE = 0.3


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
    repetition of a pitch shows a new stroke. (The reverse is not told surely enough from scraping and beating to refuse
    a take for it.)"""
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
    return len(strokes) >= _LEAST_REPEATS and float(np.mean(np.array(strokes) > _STROKE_HEARD)) < _LEAST_STROKES_HEARD


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
    if found["right"] >= _LEAST_RIGHT_SHARE and found["explained"] >= _LEAST_EXPLAINED:
        return "another_rhythm" if long_for_short(path, boundaries, score) else None
    return "too_noisy" if "noisy" in gate.problems and found["right"] < 0.1 else "not_this_exercise"
