"""Tempo, drift, stops and the deviation of every onset from the pupil's own pulse.

What takes its own time is a step in the pulse and no change of tempo: a stop, a stray note, a note that was passed over, a
measure that was rushed. Values that are out of proportion have a pace of their own; the tempo is that of the value that keeps it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.exercises import Score
from attentive_owl.core.judging.cause import even_slope, robust_deviation
from attentive_owl.core.judging.steps import Step, beat_of_values, heard_in_time, rushed_measures, steps_of
from attentive_owl.core.listening.performance import HeardNote, HeardPass, NoteStatus, StrayNote

Array = NDArray[np.float64]

LEAST_STOP_S = 0.3
"""Shorter ones are no stop to anybody (common practice)."""
_STOP_SHARE = 0.45
"""Of the note before it: so much longer a wait is a stop; less may be a value out of proportion."""
_HUBER_S = 0.03
"""Seconds within which an onset counts in full (by hand)."""
_LEAST_NOTES_FOR_DRIFT = 6
"""Beside what else is fitted."""
_MOST_JUMPS = 0.2
"""Of the notes: a pulse that stands elsewhere more often than at these bends as it likes (by hand)."""
_SURE_OF_DRIFT = 3.0
"""Standard errors by which the bend of the pulse has to stand out."""
_CLEAR_BEND = 1.5
"""How many times the bend has to move the notes further than whatever else does. The standard error takes the notes for independent of one
another; where the ear lost its place for a while they are not."""
_LEAST_OF_THE_DRIFT = 0.4
"""Of the drift: so much of it the notes between all waits have to show (by hand)."""
_CURVE_BEATS = 2.0
"""The tempo at a place is that of so much around it."""
_MOST_UNCLEAR, _UNEVEN = 0.5, 0.12
"""Where so large a share of the onsets is unclear, and a step between two is off by more than this share, there is no tempo."""
OUT_OF_PROPORTION = 0.09
"""Share by which a value has to be off before it has a pace of its own."""
_KEEPS_TEMPO = 0.05
"""Share within which a value keeps the tempo that was set."""
_LOST_S, _LOST_SHARE = 0.1, 0.2
"""A note that was left out, or a stray one, moves what follows where the pulse is off by so much, in seconds or of a beat."""


@dataclass(frozen=True)
class Stop:
    """A place at which the pulse stood still."""

    index: int
    """The note before which the pupil stopped."""
    seconds: float
    restart: bool


@dataclass(frozen=True)
class Pulse:
    """The player's own beat, and what was played by it."""

    played_bpm: float
    drift_percent: float
    """Tempo at the end over the tempo at the start, less one, in per cent."""
    drift_sure: bool
    """Whether the drift stands out of the notes' own scatter."""
    stops: tuple[Stop, ...]
    expected_s: dict[int, float]
    """Where the pupil's own steady pulse puts each note that was played, from the note before it."""
    beat_s: float
    values: dict[float, float]
    """Written length -> share by which such notes are longer than the value that keeps the tempo."""
    base: float | None
    """The value that keeps the tempo; None where the line has none that comes often enough."""
    rushed: tuple[int, ...]
    """Measures that were rushed."""
    steps: tuple[Step, ...]
    bent_beat_s: dict[int, float]
    """Seconds a beat at each note, where the tempo drifts; empty where it keeps."""

    def local_beat_s(self, index: int) -> float:
        return self.bent_beat_s.get(index, self.beat_s)


def find_pulse(
    score: Score, heard_pass: HeardPass, strays: Sequence[StrayNote] = (), target_bpm: float | None = None
) -> Pulse | None:
    """Fit onset = start + beats * length (+ a bend) + a step at everything that takes its own time, robustly (Huber's weights,
    from memory).

    None where fewer than three onsets were heard, where most are unclear and keep no pace among them, or where a rest lies between any two and
    the notes between them were not heard: a tempo and a rest that is cut short look the same then. Notes from a written
    ritardando on have no expected time. `target_bpm` tells which of two values that disagree keeps the tempo.
    """
    played = heard_in_time(score, heard_pass)
    if len(played) < 3:
        return None
    steps = steps_of(score, played)
    if all(step.before == "rest" for step in steps) and not all(step.unbroken for step in steps):
        return None
    usual_s = float(np.median([step.beat_s for step in steps]))
    unclear = sum(note.status == NoteStatus.UNCLEAR for note in played)
    if usual_s <= 0:
        return None
    uneven = float(np.median([abs(step.beat_s / usual_s - 1.0) for step in steps]))
    if unclear > _MOST_UNCLEAR * len(played) and uneven > _UNEVEN:
        return None
    rough = beat_of_values(steps)
    strayed = _taken_by_strays(played, strays)
    stops = _stops(steps, rough, usual_s, heard_pass, strayed)
    stopped_at = {stop.index for stop in stops}
    running = [step for step in steps if step.after not in stopped_at]
    missed = (note.index for note in heard_pass.notes if note.status is NoteStatus.MISSED)
    rushed = rushed_measures(running, rough, usual_s, {score.notes[index].measure for index in missed})
    beats_s = beat_of_values([step for step in running if step.measure not in rushed])
    base = _base(beats_s, running, target_bpm)
    values = {value: own / beats_s[base] - 1.0 for value, own in beats_s.items()} if base is not None else {}
    off = tuple(value for value, share in values.items() if abs(share) > OUT_OF_PROPORTION)
    places = [stop.index for stop in stops]
    places += _moved(steps, beats_s, usual_s, heard_pass, strayed, set(places))
    fit = _fit(float(played[0].onset_s or 0.0), steps, score, places, off, rushed)
    if fit is None:
        return None
    measured = [
        Stop(stop.index, waited_s, stop.restart)
        for at, stop in enumerate(stops)
        if (waited_s := float(fit.steps[at]) - strayed.get(stop.index, 0.0)) >= LEAST_STOP_S or stop.restart
    ]
    return Pulse(
        60.0 / fit.beat_s,
        fit.drift_percent,
        fit.drift_sure,
        tuple(measured),
        fit.expected_s,
        fit.beat_s,
        values,
        base,
        rushed,
        steps,
        fit.bent_beat_s,
    )


def _taken_by_strays(played: Sequence[HeardNote], strays: Sequence[StrayNote]) -> dict[int, float]:
    """Note -> seconds that stray notes take between it and the one before it: those are no stop."""
    taken: dict[int, float] = {}
    for one, two in pairwise(played):
        begin, end = one.onset_s or 0.0, two.onset_s or 0.0
        within = [stray for stray in strays if begin < stray.onset_s < end]
        if within:
            taken[two.index] = sum(min(stray.offset_s, end) - stray.onset_s for stray in within)
    return taken


def _stops(
    steps: Sequence[Step],
    beats_s: dict[float, float],
    usual_s: float,
    heard_pass: HeardPass,
    strayed: Mapping[int, float],
) -> list[Stop]:
    back_to = {target for _, target in heard_pass.restarts}
    found = []
    for step in steps:
        due = step.beats * beats_s.get(step.value, usual_s)
        waited_s = step.seconds - due - strayed.get(step.after, 0.0)
        if waited_s > max(LEAST_STOP_S, _STOP_SHARE * due):
            # The note that was gone back to may not be known in time.
            went_back = any(step.index < target <= step.after for target in back_to)
            found.append(Stop(step.after, waited_s, went_back))
    return found


def _base(beats_s: dict[float, float], steps: Sequence[Step], target_bpm: float | None) -> float | None:
    """The value that keeps the tempo that was set; else the quarter, else the one that fills most of the line."""
    if not beats_s:
        return None
    if target_bpm is not None:
        nearest = min(beats_s, key=lambda value: abs(beats_s[value] * target_bpm / 60.0 - 1.0))
        if abs(beats_s[nearest] * target_bpm / 60.0 - 1.0) < _KEEPS_TEMPO:
            return nearest
    if 1.0 in beats_s:
        return 1.0
    return max(beats_s, key=lambda value: sum(step.beats for step in steps if step.value == value))


def _all_played(step: Step, heard_pass: HeardPass) -> bool:
    """Whether every note between the two was played, though it may not be known when."""
    return all(note.status == NoteStatus.PLAYED for note in heard_pass.notes if step.index < note.index < step.after)


def _moved(
    steps: Sequence[Step],
    beats_s: dict[float, float],
    usual_s: float,
    heard_pass: HeardPass,
    strayed: Mapping[int, float],
    known: set[int],
) -> list[int]:
    """Notes from which on the pulse stands elsewhere: after a note that was passed over, or a stray one."""
    found = []
    for step in steps:
        due = step.beats * beats_s.get(step.value, usual_s)
        lost = abs(step.seconds - due) > max(_LOST_S, _LOST_SHARE * usual_s)
        if step.after in known:
            continue
        # What was kept from before the pupil went back can come earlier than its neighbour.
        if ((not _all_played(step, heard_pass) or step.after in strayed) and lost) or step.seconds <= 0:
            found.append(step.after)
    return found


@dataclass(frozen=True)
class _Fit:
    """A beat that bends evenly, laid through the notes."""

    beat_s: float
    drift_percent: float
    drift_sure: bool
    expected_s: dict[int, float]
    steps: Array
    bent_beat_s: dict[int, float]


def _fit(
    first_s: float,
    steps: Sequence[Step],
    score: Score,
    places: list[int],
    off: tuple[float, ...],
    rushed: tuple[int, ...],
) -> _Fit | None:
    """The pulse with a step at each place, and a pace of its own for each value that is off and for what was rushed."""
    index = np.array([steps[0].index, *(step.after for step in steps)])
    onset = first_s + np.concatenate([[0.0], np.cumsum([step.seconds for step in steps])])
    beats = np.array([float(score.notes[i].start_beats) for i in index])
    jumps = np.array([[1.0 if i >= place else 0.0 for place in places] for i in index]).reshape(len(index), len(places))
    of_values = [[step.unbroken and step.value == value for step in steps] for value in off]
    of_rushed = [[step.unbroken and step.measure in rushed for step in steps]] if rushed else []
    spans = np.array([step.beats for step in steps])
    longer = spans[:, None] * np.array([*of_values, *of_rushed], dtype=float).reshape(-1, len(steps)).T
    paces = np.concatenate([np.zeros((1, longer.shape[1])), np.cumsum(longer, axis=0)])
    centred = beats - beats.mean()
    line = np.column_stack([np.ones(len(beats)), centred, jumps, paces])
    weights = _robust(line, onset)
    beat_s, jump_s = float(weights[1]), weights[2 : 2 + len(places)]
    fitted = line @ weights
    pace_s = weights[2 + len(places) :]
    drift, sure, bent_beat_s = 0.0, False, dict[int, float]()
    if len(index) >= _LEAST_NOTES_FOR_DRIFT + len(places) + longer.shape[1]:
        bent = np.column_stack([line, centred**2])
        weights = _robust(bent, onset)
        fitted, pace_s = bent @ weights, weights[2 + len(places) : -1]
        first, last = weights[1] + 2 * weights[-1] * centred[0], weights[1] + 2 * weights[-1] * centred[-1]
        drift = 100.0 * (first / last - 1.0) if last > 0 else 0.0
        left = onset - fitted
        clear = abs(weights[-1]) * float(np.std(centred**2)) > _CLEAR_BEND * float(np.std(left))
        sure = (
            clear
            and len(places) <= _MOST_JUMPS * len(index)
            and abs(weights[-1]) > _SURE_OF_DRIFT * _error_of_last(bent, left)
            and _drifts_between_waits(steps, off, rushed, drift)
        )
        if sure:
            local = np.maximum(weights[1] + 2 * weights[-1] * centred, 0.3 * beat_s)
            bent_beat_s = dict(zip(index.tolist(), local.tolist(), strict=True))
    if beat_s <= 0:
        return None
    # Each note from the one before it: a value that is too long makes the next note late, and not all that follow.
    expected = fitted.copy()
    expected[1:] -= longer @ pace_s
    return _Fit(
        beat_s, float(drift), bool(sure), dict(zip(index.tolist(), expected.tolist(), strict=True)), jump_s, bent_beat_s
    )


def _drifts_between_waits(steps: Sequence[Step], off: tuple[float, ...], rushed: tuple[int, ...], drift: float) -> bool:
    """Whether the notes before which nothing has to be done get faster or slower, too: new strings, bows and places of the hand that are waited
    for may all lie towards one end. True where they are too few."""
    # What was kept from before the pupil went back can come earlier than its neighbour.
    plain = [
        s
        for s in steps
        if s.before is None and s.unbroken and s.seconds > 0 and s.value not in off and s.measure not in rushed
    ]
    if len(plain) < _LEAST_NOTES_FOR_DRIFT or len(plain) == len(steps):
        return True
    longer = even_slope(np.array([s.index for s in plain], dtype=float), np.log([s.beat_s for s in plain]))
    own = 100.0 * (np.exp(-longer * (steps[-1].index - steps[0].index)) - 1.0)
    return bool(own * np.sign(drift) > _LEAST_OF_THE_DRIFT * abs(drift))


def _error_of_last(design: Array, left: Array) -> float:
    """Standard error of the last weight of a least-squares fit, with a robust deviation of what is left over."""
    deviation = max(robust_deviation(left.tolist()), 0.002)
    return deviation * float(np.sqrt(np.linalg.pinv(design.T @ design)[-1, -1]))


def _robust(design: Array, values: Array) -> Array:
    weight: Array = np.ones(len(values))
    solution: Array = np.zeros(design.shape[1])
    for _ in range(12):
        root = np.sqrt(weight)[:, None]
        solution = np.asarray(np.linalg.lstsq(design * root, values * root[:, 0], rcond=None)[0], dtype=np.float64)
        weight = 1.0 / np.maximum(np.abs(values - design @ solution) / _HUBER_S, 1.0)
    return solution


def tempo_curve(score: Score, heard_pass: HeardPass, pulse: Pulse) -> tuple[tuple[int, float], ...]:
    """(note index, tempo there in beats a minute): over a window of two beats around each step from note to note. Steps
    in which the pupil stopped, or left a note out, are no tempo."""
    stopped_at = {stop.index for stop in pulse.stops}
    steps = []
    for one, two in pairwise(heard_pass.notes):
        known = one.moment_sure and two.moment_sure and two.index not in stopped_at
        if known and one.onset_s is not None and two.onset_s is not None:
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
