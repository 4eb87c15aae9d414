"""Tempo, drift, stops and the deviation of every onset from the pupil's own pulse."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.exercises import Score
from attentive_owl.core.listening.performance import Go, StrayNote

Array = NDArray[np.float64]

_LEAST_STOP_S = 0.3
_STOP_SHARE = 0.45
_HUBER_S = 0.03
_LEAST_NOTES_FOR_DRIFT = 6
_CURVE_BEATS = 2.0
_MOST_UNCLEAR, _UNEVEN = 0.5, 0.12
"""Where so large a share of the onsets is unclear, and a step between two is off by more than this share, there is no tempo."""


@dataclass(frozen=True)
class Stop:
    index: int
    """The note before which the pupil stopped."""
    seconds: float
    restart: bool


@dataclass(frozen=True)
class Pulse:
    played_bpm: float
    drift_percent: float
    """Tempo at the end over the tempo at the start, less one, in per cent."""
    stops: tuple[Stop, ...]
    expected_s: dict[int, float]
    """Where the pupil's own steady pulse puts each note that was played."""
    beat_s: float


def find_pulse(score: Score, go: Go, strays: Sequence[StrayNote] = ()) -> Pulse | None:
    """Fit onset = start + beats * length (+ a bend) + a step at every stop and every stray note (which takes its own
    time), robustly (Huber's weights, from memory).

    None where fewer than three onsets were heard, or where most are unclear and keep no pace among them. Notes from a written ritardando on have no expected time.
    """
    free = score.slows_from
    played = [
        note
        for note in go.notes
        if note.onset_s is not None and (free is None or score.notes[note.index].start_beats < free)
    ]
    if len(played) < 3:
        return None
    index = np.array([note.index for note in played])
    onset = np.array([note.onset_s for note in played], dtype=float)
    beats = np.array([float(score.notes[i].start_beats) for i in index])
    gaps, spans = np.diff(onset), np.diff(beats)
    beat_s = float(np.median(gaps / spans))
    unclear = sum(note.status == "unclear" for note in played)
    if unclear > _MOST_UNCLEAR * len(played) and np.median(np.abs(gaps / (spans * beat_s) - 1.0)) > _UNEVEN:
        return None
    stops = _stops(gaps, spans, beat_s, index, go)
    places = [stop.index for stop in stops]
    places += sorted({s.before for s in strays if go.start_s < s.onset_s < go.end_s} - {index[0], *places})
    steps = np.array([[1.0 if i >= place else 0.0 for place in places] for i in index]).reshape(len(index), len(places))
    centred = beats - beats.mean()
    line = np.column_stack([np.ones(len(beats)), centred, steps])
    weights = _robust(line, onset)
    beat_s = float(weights[1])
    fitted = line @ weights
    drift = 0.0
    if len(played) >= _LEAST_NOTES_FOR_DRIFT + len(places):
        bent = np.column_stack([line, centred**2])
        weights = _robust(bent, onset)
        fitted = bent @ weights
        first, last = weights[1] + 2 * weights[-1] * centred[0], weights[1] + 2 * weights[-1] * centred[-1]
        drift = 100.0 * (first / last - 1.0) if last > 0 else 0.0
    if beat_s <= 0:
        return None
    measured = tuple(Stop(s.index, float(weights[2 + place]), s.restart) for place, s in enumerate(stops))
    return Pulse(60.0 / beat_s, float(drift), measured, dict(zip(index.tolist(), fitted.tolist(), strict=True)), beat_s)


def _stops(gaps: Array, spans: Array, beat_s: float, index: NDArray[np.int64], go: Go) -> list[Stop]:
    back_to = {target for _, target in go.restarts}
    found = []
    for gap, span, after in zip(gaps, spans, index[1:], strict=True):
        excess = gap - span * beat_s
        if excess > max(_LEAST_STOP_S, _STOP_SHARE * span * beat_s):
            found.append(Stop(int(after), float(excess), int(after) in back_to))
    return found


def _robust(design: Array, values: Array) -> Array:
    weight: Array = np.ones(len(values))
    solution: Array = np.zeros(design.shape[1])
    for _ in range(12):
        root = np.sqrt(weight)[:, None]
        solution = np.asarray(np.linalg.lstsq(design * root, values * root[:, 0], rcond=None)[0], dtype=np.float64)
        weight = 1.0 / np.maximum(np.abs(values - design @ solution) / _HUBER_S, 1.0)
    return solution


def tempo_curve(score: Score, go: Go, pulse: Pulse) -> tuple[tuple[int, float], ...]:
    """(note index, tempo there in beats a minute): over a window of two beats around each step from note to note. Steps
    in which the pupil stopped, or left a note out, are no tempo."""
    stopped_at = {stop.index for stop in pulse.stops}
    steps = []
    for one, two in pairwise(go.notes):
        if one.onset_s is not None and two.onset_s is not None and two.index not in stopped_at:
            beats = float(score.notes[two.index].start_beats - score.notes[one.index].start_beats)
            steps.append((one.index, float(score.notes[one.index].start_beats), beats, two.onset_s - one.onset_s))
    curve = []
    for index, start, beats, _ in steps:
        middle = start + beats / 2
        near = [step for step in steps if abs(step[1] + step[2] / 2 - middle) <= max(_CURVE_BEATS / 2, beats / 2)]
        seconds = sum(step[3] for step in near)
        if seconds > 0:
            curve.append((index, 60.0 * sum(step[2] for step in near) / seconds))
    return tuple(curve)
