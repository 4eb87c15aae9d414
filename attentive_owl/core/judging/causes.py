"""From deviations to causes, in layers: instrument, string, then what the hand does (all of it, one finger, coming down,
after a crossing), what is left as scatter; wrong places; then time.

A cause is named only when enough notes carry it. What one layer explains is taken off before the next one is asked; within
the hand the cause that explains most comes first, so that a finger is not blamed for what the whole hand does.
"""

from __future__ import annotations

from collections import defaultdict

import numpy as np

from attentive_owl.core.exercises import Score
from attentive_owl.core.judging.bow import bow_causes
from attentive_owl.core.judging.cause import INSTRUMENT_CENTS, Cause
from attentive_owl.core.judging.deviations import Deviation
from attentive_owl.core.judging.expectations import Expectations
from attentive_owl.core.judging.hand import hand_causes
from attentive_owl.core.judging.pulse import Pulse
from attentive_owl.core.judging.timing import time_causes
from attentive_owl.core.listening.performance import Performance


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
    if abs(instrument_cents) >= INSTRUMENT_CENTS:
        causes.append(Cause("instrument", every, 0.9, cents=round(instrument_cents, 1)))
    causes += _wrong_places(score, found)
    causes += hand_causes(found, expectations, score, instrument_cents if expectations.a4_hz is not None else 0.0)
    causes += bow_causes(performance.chosen, score, found)
    if pulse and expectations.mode != "pauses":
        causes += time_causes(found, pulse, score, expectations)
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
