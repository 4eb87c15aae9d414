"""Causes in time: note values out of proportion, waits at certain places, drift and stops."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np

from attentive_owl.core.exercises import Score, moves
from attentive_owl.core.judging.cause import LEAST_AGREE, LEAST_NOTES, Cause
from attentive_owl.core.judging.deviations import Deviation
from attentive_owl.core.judging.expectations import Expectations
from attentive_owl.core.judging.pulse import Pulse

_LEAST_STEPS = 4
_KEEPS_TEMPO = 0.05
_LEAST_SHARE = 0.09
_LEAST_OF_A_REST = 0.15
_VALUE_NAMES = {4.0: "whole", 2.0: "half", 1.0: "quarter", 0.5: "eighth", 0.25: "sixteenth"}


def time_causes(found: tuple[Deviation, ...], pulse: Pulse, score: Score, expectations: Expectations) -> list[Cause]:
    steps = _steps(found, pulse, score)
    places = _at_places(steps)
    # What is lost at the turn of a bow is lost there, and not in the value of the note before it.
    waits = any(cause.kind == "bow_late" for cause in places)
    causes = [*_values([s for s in steps if not waits or s.before != "bow"], pulse, expectations), *places]
    if abs(pulse.drift_percent) > expectations.level.tempo_percent:
        causes.append(
            Cause(
                "drift",
                tuple(d.note.index for d in found if d.timing_ms is not None),
                0.8,
                detail={"percent": round(pulse.drift_percent, 1)},
            )
        )
    there = moves(score)
    for stop in pulse.stops:
        detail: dict[str, float | str] = {"seconds": round(stop.seconds, 2)}
        if stop.index in there:
            detail["place"] = there[stop.index]
        causes.append(Cause("stop", (stop.index,), 0.9, detail=detail))
    return causes


@dataclass(frozen=True)
class _Step:
    """From one note to the next."""

    index: int
    value: float
    ratio: float
    """Time that it took over what the pupil's own pulse gives it."""
    before: str | None
    """What stands before the next note (see `exercises.moves`)."""
    rest_share: float
    """Share of the time that is a rest."""


def _steps(found: tuple[Deviation, ...], pulse: Pulse, score: Score) -> list[_Step]:
    between = moves(score)
    stopped_at = {stop.index for stop in pulse.stops}
    steps = []
    for one, two in itertools.pairwise(found):
        if one.heard.onset_s is None or two.heard.onset_s is None or two.note.index in stopped_at:
            continue
        if two.note.index not in pulse.expected_s:
            continue
        span = float(two.note.start_beats - one.note.start_beats)
        # The pulse bends where the tempo drifts, so that drift is not read as a habit of some value.
        expected = pulse.expected_s[two.note.index] - pulse.expected_s[one.note.index]
        if expected <= 0.3 * span * pulse.beat_s:
            continue
        ratio = (two.heard.onset_s - one.heard.onset_s) / expected
        value = float(one.note.duration_beats)
        steps.append(_Step(one.note.index, value, ratio, between.get(two.note.index), 1.0 - value / span))
    return steps


def _values(steps: list[_Step], pulse: Pulse, expectations: Expectations) -> list[Cause]:
    """Values that take more or less than their share. What they are measured against is the value that keeps the tempo
    that was set, else the quarter, else the one that fills most of the line."""
    ratios: dict[float, float] = {}
    by_value: dict[float, list[_Step]] = {}
    for step in steps:
        if step.before in (None, "bow"):
            by_value.setdefault(step.value, []).append(step)
    for value, own in by_value.items():
        if len(own) >= _LEAST_STEPS:
            ratios[value] = float(np.median([step.ratio for step in own]))
    if len(ratios) < 2:
        return []
    played_beat = {value: ratio * pulse.beat_s * expectations.target_bpm / 60.0 for value, ratio in ratios.items()}
    nearest = min(played_beat, key=lambda value: abs(played_beat[value] - 1.0))
    if abs(played_beat[nearest] - 1.0) < _KEEPS_TEMPO:
        base = nearest
    else:
        base = 1.0 if 1.0 in ratios else max(ratios, key=lambda value: value * len(by_value[value]))
    causes = []
    for value, ratio in sorted(ratios.items()):
        share = ratio / ratios[base] - 1.0
        own = by_value[value]
        signs = [np.sign(step.ratio / ratios[base] - 1.0) == np.sign(share) for step in own]
        if value != base and abs(share) > _LEAST_SHARE and np.mean(signs) >= LEAST_AGREE:
            detail: dict[str, float | str] = {
                "value": _VALUE_NAMES.get(value, "note"),
                "percent": round(100 * share, 1),
            }
            causes.append(Cause("note_value", tuple(step.index for step in own), 0.8, detail=detail))
    return causes


def _at_places(steps: list[_Step]) -> list[Cause]:
    """Whether the pupil waits before each new string, shift or new bow, or cuts rests short or stretches them."""
    plain = [step for step in steps if step.before is None]
    usual: dict[float, float] = {}
    for value in {step.value for step in plain}:
        own = [step.ratio for step in plain if step.value == value]
        if len(own) >= _LEAST_STEPS:
            usual[value] = float(np.median(own))
    causes = []
    for place, kind in (("crossing", "crossing_late"), ("shift", "shift_late"), ("bow", "bow_late")):
        waits = [
            (step.index + 1, step.ratio / usual[step.value] - 1.0)
            for step in steps
            if step.before == place and step.value in usual
        ]
        causes += _if_shared(kind, waits, least=_LEAST_SHARE)
    if len(plain) >= _LEAST_STEPS:
        # Of a step with a rest in it only the rest can be cut short: the whole of the gap is laid to it.
        pace = float(np.median([step.ratio for step in plain]))
        rests = [
            (step.index + 1, (step.ratio / pace - 1.0) / step.rest_share) for step in steps if step.before == "rest"
        ]
        if np.median([share for _, share in rests] or [0.0]) < 0:
            causes += _if_shared("rest_short", rests, least=_LEAST_OF_A_REST, sign=-1.0)
        else:
            causes += _if_shared("rest_long", rests, least=_LEAST_OF_A_REST)
    return causes


def _if_shared(kind: str, shares: list[tuple[int, float]], least: float, sign: float = 1.0) -> list[Cause]:
    """The cause, where enough places are off in that direction by enough, and most of them agree."""
    if len(shares) < LEAST_NOTES:
        return []
    share = float(np.median([entry[1] for entry in shares]))
    agree = float(np.mean([sign * entry[1] > 0.5 * abs(share) for entry in shares]))
    if sign * share < least or agree < LEAST_AGREE:
        return []
    detail: dict[str, float | str] = {"percent": round(100 * share, 1)}
    return [Cause(kind, tuple(entry[0] for entry in shares), round(0.5 + 0.4 * agree, 2), detail=detail)]
