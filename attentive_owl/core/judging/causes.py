"""From deviations to causes, in layers: instrument, string, then what the hand does (all of it, one finger, coming down,
after a crossing), what is left as scatter; wrong places; then time.

A cause is named only when enough notes carry it. What one layer explains is taken off before the next one is asked; within
the hand the cause that explains most comes first, so that a finger is not blamed for what the whole hand does.
"""

from __future__ import annotations

import itertools
from collections import defaultdict
from dataclasses import dataclass, replace

import numpy as np

from attentive_owl.core.exercises import Score
from attentive_owl.core.judging.deviations import Deviation
from attentive_owl.core.judging.expectations import Expectations
from attentive_owl.core.judging.pulse import Pulse
from attentive_owl.core.listening.performance import Performance

_INSTRUMENT_CENTS = 12.0
_LEAST_NOTES = 3
_AGREE = 0.75
_SHARE_OF_TOLERANCE = 0.7
_STRING_CENTS = 10.0
_MOST_HAND_CAUSES = 3
_SURE = 2.5
"""Standard errors by which a median has to stand out of the hand's scatter."""
_EAR_CENTS = 3.0
_OTHERS_SHARE = 0.4
_COST_OF_A_CAUSE = 1.0
"""In tolerances: what a cause has to explain beside itself."""
_LEAST_FOR_SCATTER = 8
_LEAST_SCATTER_CENTS = 14.0
_LEAST_STEPS = 4
_KEEPS_TEMPO = 0.05
_LEAST_SHARE = 0.09
_VALUE_NAMES = {4.0: "whole", 2.0: "half", 1.0: "quarter", 0.5: "eighth", 0.25: "sixteenth"}


@dataclass(frozen=True)
class Cause:
    kind: str
    notes: tuple[int, ...]
    confidence: float
    string: str | None = None
    finger: int | None = None
    cents: float | None = None
    mm: float | None = None
    towards: str | None = None
    """bridge or scroll: where the finger has to go."""
    detail: dict[str, float | str] | None = None


def millimetres(cents: float, semitones: int, string_length_mm: float) -> float:
    """How far a finger stands off when it is `cents` off, `semitones` above the open string:
    remaining length * ln 2 / 1200 * cents (derivative of length = L * 2 ** (-n / 12))."""
    return string_length_mm * 2.0 ** (-semitones / 12.0) * float(np.log(2.0)) / 1200.0 * abs(cents)


def find_causes(
    performance: Performance,
    score: Score,
    expectations: Expectations,
    found: tuple[Deviation, ...],
    pulse: Pulse | None,
    instrument_cents: float,
) -> tuple[Cause, ...]:
    """Causes, the weightiest first in each layer. `instrument_cents`: how far the instrument stands from the
    assignment's A (or, where its own strings are the reference, from A4 = 440)."""
    causes: list[Cause] = []
    every = tuple(d.note.index for d in found if d.judged)
    if performance.shift_semitones:
        return (Cause("wrong_string", every, 0.95, cents=100.0 * performance.shift_semitones),)
    if abs(instrument_cents) >= _INSTRUMENT_CENTS:
        causes.append(Cause("instrument", every, 0.9, cents=round(instrument_cents, 1)))
    causes += _wrong_places(score, found)
    causes += _hand_layers(found, expectations, score, instrument_cents if expectations.a4_hz is not None else 0.0)
    if pulse and expectations.mode != "pauses":
        causes += _time(found, pulse, expectations)
    return tuple(causes)


def _wrong_places(score: Score, found: tuple[Deviation, ...]) -> list[Cause]:
    """Forgotten key signature (all of a letter played natural), or the finger in its other place."""
    causes = []
    by_pitch: dict[str, list[Deviation]] = defaultdict(list)
    for d in found:
        if d.judged:
            by_pitch[d.note.pitch.step].append(d)
    natural: list[Deviation] = []
    for step, group in by_pitch.items():
        alter = score.key.alter(step)
        wrong = [d for d in group if d.heard.status == "wrong_pitch" and d.cents is not None]
        off = [d for d in wrong if alter and abs((d.cents or 0.0) + 100.0 * alter) < 45]
        if alter and len(off) == len(group) and len(off) >= 2:
            natural += off
            continue
        near = [d for d in wrong if 55 < abs(d.cents or 0.0) < 145]
        if len(near) >= 2 and len(near) >= 0.5 * len(group):
            one = near[0]
            causes.append(
                Cause(
                    "place",
                    tuple(d.note.index for d in near),
                    0.85,
                    one.string,
                    one.finger,
                    round(float(np.median([d.cents for d in near if d.cents is not None])), 1),
                )
            )
    if natural:
        causes.insert(0, Cause("key_signature", tuple(sorted(d.note.index for d in natural)), 0.9))
    return causes


def _hand_layers(
    found: tuple[Deviation, ...], expectations: Expectations, score: Score, instrument_cents: float
) -> list[Cause]:
    notes = [d for d in found if d.heard.status == "played" and d.cents is not None and d.note.placement]
    if not notes:
        return []
    left = {
        d.note.index: float(d.cents or 0.0) - (instrument_cents if abs(instrument_cents) >= _INSTRUMENT_CENTS else 0.0)
        for d in notes
    }
    tolerance = float(np.median([d.pitch_tolerance_cents for d in notes]))
    causes = _string_layer(notes, left)
    stopped = [d for d in notes if d.finger]
    groups = _groups(stopped, score)
    for _ in range(_MOST_HAND_CAUSES):
        best = _strongest(groups, stopped, left, tolerance)
        if best is None:
            break
        kind, finger, own, cents = best
        causes.append(replace(_finger_cause(kind, own, cents, expectations, score), finger=finger))
        for d in own:
            left[d.note.index] -= cents
        groups = [group for group in groups if group[:2] != (kind, finger)]
    spread = _spread([left[d.note.index] for d in stopped])
    if len(stopped) >= _LEAST_FOR_SCATTER and spread > max(_SHARE_OF_TOLERANCE * tolerance, _LEAST_SCATTER_CENTS):
        loose = tuple(d.note.index for d in stopped if abs(left[d.note.index]) > 0.5 * spread)
        causes.append(Cause("scatter", loose, 0.75, cents=round(spread, 1)))
    return causes


def _string_layer(notes: list[Deviation], left: dict[int, float]) -> list[Cause]:
    """Strings whose open and stopped notes are off together; what they explain is taken off `left`."""
    causes = []
    for string in sorted({d.string for d in notes if d.string}):
        own = [d for d in notes if d.string == string]
        opens = [left[d.note.index] for d in own if d.finger == 0]
        stopped = [left[d.note.index] for d in own if d.finger]
        if not opens or not stopped:
            continue
        middles = float(np.median(opens)), float(np.median(stopped))
        if min(abs(middle) for middle in middles) > _STRING_CENTS and np.sign(middles[0]) == np.sign(middles[1]):
            cents = middles[0]
            causes.append(Cause("string", tuple(d.note.index for d in own), 0.8, string, cents=round(cents, 1)))
            for d in own:
                left[d.note.index] -= cents
    return causes


_Group = tuple[str, int | None, list[Deviation]]
"""Kind of cause, finger, the stopped notes that would carry it."""


def _groups(stopped: list[Deviation], score: Score) -> list[_Group]:
    before = {d.note.index: score.notes[d.note.index - 1] if d.note.index else None for d in stopped}
    groups: list[_Group] = [("hand", None, stopped)]
    groups += [
        ("finger", finger, [d for d in stopped if d.finger == finger])
        for finger in sorted({d.finger for d in stopped if d.finger})
    ]
    falling = [d for d in stopped if (b := before[d.note.index]) is not None and b.midi > d.note.midi]
    crossed = [d for d in stopped if d.note.crosses_from(before[d.note.index])]
    return [*groups, ("direction", None, falling), ("crossing", None, crossed)]


def _strongest(
    groups: list[_Group], stopped: list[Deviation], left: dict[int, float], tolerance: float
) -> tuple[str, int | None, list[Deviation], float] | None:
    """The group whose median, taken off, makes most of the deviations go away, if it is one that carries a cause: enough
    notes, far enough out, agreeing, sure against the scatter of the hand, and not shared by the notes outside it."""
    best = None
    most = 0.0
    fingers = {d.finger for d in stopped}
    middles = {f: float(np.median([left[d.note.index] for d in stopped if d.finger == f])) for f in fingers}
    loose = _spread([left[d.note.index] - middles[d.finger] for d in stopped])
    for kind, finger, own in groups:
        if len(own) < _LEAST_NOTES or (kind == "hand" and len({d.finger for d in own}) < 2):
            continue
        values = np.array([left[d.note.index] for d in own])
        cents = float(np.median(values))
        # A few notes of one finger can stand together by chance where the whole hand lands loosely.
        spread = max(_spread(list(values - cents)), loose if kind == "finger" else 0.0, _EAR_CENTS)
        unsure = 1.25 * spread / len(values) ** 0.5
        if abs(cents) <= _SHARE_OF_TOLERANCE * tolerance or abs(cents) < _SURE * unsure or not _agree(own, left, cents):
            continue
        if kind == "hand" and not _every_finger(own, left, cents):
            continue
        if kind in ("direction", "crossing"):
            inside = {d.note.index for d in own}
            others = [left[d.note.index] for d in stopped if d.note.index not in inside]
            if len(others) < _LEAST_NOTES or abs(float(np.median(others))) > _OTHERS_SHARE * abs(cents):
                continue
        gain = float(np.sum(np.abs(values) - np.abs(values - cents))) - _COST_OF_A_CAUSE * tolerance
        if gain > most:
            best, most = (kind, finger, own, cents), gain
    return best


def _every_finger(own: list[Deviation], left: dict[int, float], cents: float) -> bool:
    medians = [
        float(np.median([left[d.note.index] for d in own if d.finger == finger])) for finger in {d.finger for d in own}
    ]
    return all(median * np.sign(cents) > 0.4 * abs(cents) for median in medians)


def _spread(values: list[float]) -> float:
    """Robust standard deviation: 1.4826 times the median distance from the median."""
    if not values:
        return 0.0
    return 1.4826 * float(np.median(np.abs(np.array(values) - np.median(values))))


def _agree(notes: list[Deviation], left: dict[int, float], cents: float) -> bool:
    same = [left[d.note.index] * np.sign(cents) > 0.4 * abs(cents) for d in notes]
    return float(np.mean(same)) >= _AGREE


def _finger_cause(kind: str, notes: list[Deviation], cents: float, expectations: Expectations, score: Score) -> Cause:
    length = expectations.string_length_mm or list(score.instrument.sizes.values())[-1]
    semitones = int(np.median([d.note.placement.semitones for d in notes if d.note.placement]))
    agree = float(np.mean([np.sign(d.cents or 0.0) == np.sign(cents) for d in notes]))
    return Cause(
        kind,
        tuple(d.note.index for d in notes),
        round(0.6 + 0.35 * agree, 2),
        cents=round(cents, 1),
        mm=round(millimetres(cents, semitones, length), 1),
        towards="bridge" if cents < 0 else "scroll",
    )


def _time(found: tuple[Deviation, ...], pulse: Pulse, expectations: Expectations) -> list[Cause]:
    steps = _steps(found, pulse)
    causes = [*_values(steps, pulse, expectations), *_late_crossings(found, steps)]
    if abs(pulse.drift_percent) > expectations.level.tempo_percent:
        causes.append(
            Cause(
                "drift",
                tuple(d.note.index for d in found if d.timing_ms is not None),
                0.8,
                detail={"percent": round(pulse.drift_percent, 1)},
            )
        )
    for stop in pulse.stops:
        causes.append(Cause("stop", (stop.index,), 0.9, detail={"seconds": round(stop.seconds, 2)}))
    return causes


@dataclass(frozen=True)
class _Step:
    """From one note to the next."""

    index: int
    value: float
    ratio: float
    """Time that it took over what the pupil's own pulse gives it."""
    crosses: bool


def _steps(found: tuple[Deviation, ...], pulse: Pulse) -> list[_Step]:
    stopped_at = {stop.index for stop in pulse.stops}
    steps = []
    for one, two in itertools.pairwise(found):
        if one.heard.onset_s is None or two.heard.onset_s is None or two.note.index in stopped_at:
            continue
        span = float(two.note.start_beats - one.note.start_beats)
        # The pulse bends where the tempo drifts, so that drift is not read as a habit of some value.
        expected = pulse.expected_s[two.note.index] - pulse.expected_s[one.note.index]
        if expected <= 0.3 * span * pulse.beat_s:
            continue
        ratio = (two.heard.onset_s - one.heard.onset_s) / expected
        steps.append(_Step(one.note.index, float(one.note.duration_beats), ratio, two.note.crosses_from(one.note)))
    return steps


def _values(steps: list[_Step], pulse: Pulse, expectations: Expectations) -> list[Cause]:
    """Values that take more or less than their share. What they are measured against is the value that keeps the tempo
    that was set, else the quarter, else the one that fills most of the line."""
    ratios: dict[float, float] = {}
    by_value: dict[float, list[_Step]] = defaultdict(list)
    for step in steps:
        if not step.crosses:
            by_value[step.value].append(step)
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
        if value != base and abs(share) > _LEAST_SHARE and np.mean(signs) >= _AGREE:
            detail: dict[str, float | str] = {
                "value": _VALUE_NAMES.get(value, "note"),
                "percent": round(100 * share, 1),
            }
            causes.append(Cause("note_value", tuple(step.index for step in own), 0.8, detail=detail))
    return causes


def _late_crossings(found: tuple[Deviation, ...], steps: list[_Step]) -> list[Cause]:
    """Whether the pupil waits before each new string."""
    crossing = [step for step in steps if step.crosses]
    usual: dict[float, float] = {}
    for value in {step.value for step in crossing}:
        staying = [step.ratio for step in steps if not step.crosses and step.value == value]
        if len(staying) >= _LEAST_STEPS:
            usual[value] = float(np.median(staying))
    shares = [(step.index + 1, step.ratio / usual[step.value] - 1.0) for step in crossing if step.value in usual]
    if len(shares) < _LEAST_NOTES:
        return []
    share = float(np.median([entry[1] for entry in shares]))
    if share < _LEAST_SHARE or float(np.mean([entry[1] > 0.5 * share for entry in shares])) < _AGREE:
        return []
    detail: dict[str, float | str] = {"percent": round(100 * share, 1)}
    return [Cause("crossing_late", tuple(entry[0] for entry in shares), 0.75, detail=detail)]
