"""How much went wrong in each bar, to find the one that is worth practising by itself."""

from __future__ import annotations

from collections import defaultdict

from attentive_owl.core.judging.report import Report
from attentive_owl.core.listening.performance import NoteStatus

_OFF_PITCH = 1.0
"""In notes."""
_OFF_TIME = 0.5
"""A note late is heard less than a note out of tune, and is often the fruit of the one before (ours, by judgement)."""
_STOPPED = 1.0
"""In notes: a stop is heard like a note out of tune (ours, by judgement)."""


def trouble_by_bar(report: Report) -> dict[int, float]:
    """Bar (a pickup goes with bar 1) -> its trouble, in notes. What was not come to and what could not be judged is no trouble."""
    trouble: defaultdict[int, float] = defaultdict(float)
    for note in report.notes:
        if note.status == NoteStatus.UNCLEAR or note.reason == "not_come_to":
            continue
        amount = 0.0 if note.in_tune else _OFF_PITCH
        if note.timing_ms is not None and not note.on_time:
            amount += _OFF_TIME
        trouble[max(note.measure, 1)] += amount
    for stop in report.tempo.stops:
        trouble[max(stop.measure, 1)] += _STOPPED
    return {bar: amount for bar, amount in trouble.items() if amount > 0}
