"""Notes that are all there, shared out in another rhythm than is written: told from the times between them."""

from __future__ import annotations

from itertools import combinations

import numpy as np

from attentive_owl.core.judging.findings.finding import Evidence
from attentive_owl.core.judging.steps import pairs_of

_LEAST_PAIRS = 6
"""So few pairs tell no rhythm."""
_DOTTED_FROM = 0.69
"""Share of their time that the first of two equal notes gets from which on they are long and short: three to one is 0.75."""
_AGREE = 0.75
"""Share of the pairs that have to be that way."""
_LEAST_WRITTEN, _EVEN_WITHIN = 1.5, 0.12
"""Ratio of two written lengths from which on they are long and short, and how near to each other they are played alike."""
_LEAST_STEPS = 4
"""So few notes of a value tell no length."""


def rhythm_heard(evidence: Evidence) -> str | None:
    """dotted: equal notes come long and short; even: notes of different lengths come alike; None for what is written, or a poor
    try at it."""
    pulse = evidence.pulse
    if pulse is None or evidence.expectations.mode == "pauses":
        return None
    starts = {note.index: float(note.start_beats) for note in evidence.score.notes}
    shares = np.array([share for _, share in pairs_of(pulse.steps, starts)])
    if len(shares) >= _LEAST_PAIRS and not evidence.score.meter.compound:
        first = max(float(np.median(shares)), float(np.median(1.0 - shares)))
        agree = max(float(np.mean(shares > 0.6)), float(np.mean(shares < 0.4)))
        if first >= _DOTTED_FROM and agree >= _AGREE:
            return "dotted"
    seconds = {
        value: [
            s.seconds for s in pulse.steps if s.unbroken and s.value == value and s.before in (None, "bow", "crossing")
        ]
        for value in pulse.values
    }
    known = [value for value, own in seconds.items() if len(own) >= _LEAST_STEPS]
    for short, long in combinations(sorted(known), 2):
        ratio = float(np.median(seconds[long]) / np.median(seconds[short]))
        if long / short >= _LEAST_WRITTEN and abs(ratio - 1.0) < _EVEN_WITHIN:
            return "even"
    return None
