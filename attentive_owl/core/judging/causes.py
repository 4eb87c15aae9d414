"""From deviations to causes, in layers: instrument, string, hand, finger, place; then time.

A cause is named only when enough notes carry it. What one layer explains is taken off before the next one is asked.
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
    causes: list[Cause] = []

    for string in sorted({d.string for d in notes if d.string}):
        opens = [left[d.note.index] for d in notes if d.string == string and d.finger == 0]
        stopped = [left[d.note.index] for d in notes if d.string == string and d.finger]
        if (
            opens
            and stopped
            and min(abs(np.median(opens)), abs(np.median(stopped))) > 10
            and np.sign(np.median(opens)) == np.sign(np.median(stopped))
        ):
            cents = float(np.median(opens))
            own = [d for d in notes if d.string == string]
            causes.append(Cause("string", tuple(d.note.index for d in own), 0.8, string, cents=round(cents, 1)))
            for d in own:
                left[d.note.index] -= cents

    stopped_notes = [d for d in notes if d.finger]
    fingers = sorted({d.finger for d in stopped_notes if d.finger})
    medians = {f: float(np.median([left[d.note.index] for d in stopped_notes if d.finger == f])) for f in fingers}
    if len(fingers) >= 2:
        same_way = all(m > 0 for m in medians.values()) or all(m < 0 for m in medians.values())
        common = min(medians.values(), key=abs)
        if same_way and abs(common) > _SHARE_OF_TOLERANCE * tolerance and _agree(stopped_notes, left, common):
            cents = float(np.median([left[d.note.index] for d in stopped_notes]))
            causes.append(_finger_cause("hand", stopped_notes, cents, expectations, score))
            for d in stopped_notes:
                left[d.note.index] -= cents
            medians = {f: m - cents for f, m in medians.items()}
    for finger in sorted(fingers, key=lambda f: -abs(medians[f])):
        own = [d for d in stopped_notes if d.finger == finger]
        cents = medians[finger]
        if len(own) >= _LEAST_NOTES and abs(cents) > _SHARE_OF_TOLERANCE * tolerance and _agree(own, left, cents):
            causes.append(replace(_finger_cause("finger", own, cents, expectations, score), finger=finger))
    return causes


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
    causes = []
    steps: dict[float, list[tuple[int, float]]] = defaultdict(list)
    stopped_at = {stop.index for stop in pulse.stops}
    for one, two in itertools.pairwise(found):
        if one.heard.onset_s is None or two.heard.onset_s is None or two.note.index in stopped_at:
            continue
        span = float(two.note.start_beats - one.note.start_beats)
        ratio = (two.heard.onset_s - one.heard.onset_s) / (span * pulse.beat_s)
        steps[float(one.note.duration_beats)].append((one.note.index, ratio - 1.0))
    if len(steps) > 1:
        for value, entries in sorted(steps.items()):
            share = float(np.median([entry[1] for entry in entries]))
            if (
                len(entries) >= 4
                and abs(share) > 0.08
                and np.mean([np.sign(e[1]) == np.sign(share) for e in entries]) >= _AGREE
            ):
                causes.append(
                    Cause(
                        "note_value",
                        tuple(e[0] for e in entries),
                        0.8,
                        detail={"value": _VALUE_NAMES.get(value, "note"), "percent": round(100 * share, 1)},
                    )
                )
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
