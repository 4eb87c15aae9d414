"""Every written note against what was heard: cents, milliseconds, duration, and whether it is home."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from attentive_owl.core.exercises import Score, ScoreNote
from attentive_owl.core.judging.expectations import Expectations
from attentive_owl.core.judging.pulse import Pulse
from attentive_owl.core.listening.performance import HeardNote, Performance
from attentive_owl.core.theory import cents_between, pitch_offset_cents

_STRINGS_AGREE_CENTS = 10.0
_EAR_CENTS = 1.0
_HAND_CENTS = 10.0
"""How far a beginner's hand as a whole may stand from its place (common practice): stopped notes say less of a string."""


@dataclass(frozen=True)
class Deviation:
    note: ScoreNote
    heard: HeardNote
    cents: float | None
    timing_ms: float | None
    duration_ratio: float | None
    pitch_tolerance_cents: float
    timing_tolerance_ms: float

    @property
    def judged(self) -> bool:
        return self.heard.status in ("played", "wrong_pitch")

    @property
    def in_tune(self) -> bool:
        return (
            self.heard.status == "played" and self.cents is not None and abs(self.cents) <= self.pitch_tolerance_cents
        )

    @property
    def on_time(self) -> bool:
        return self.timing_ms is not None and abs(self.timing_ms) <= self.timing_tolerance_ms

    @property
    def finger(self) -> int | None:
        return self.note.placement.finger if self.note.placement else None

    @property
    def string(self) -> str | None:
        return self.note.placement.string if self.note.placement else None


def offset_cents(note: ScoreNote, score: Score, expectations: Expectations) -> float:
    """Where the temperament puts the note, in cents above equal temperament."""
    strings = [string.pitch for string in score.instrument.strings]
    return pitch_offset_cents(note.pitch, expectations.temperament, score.tonic, strings)


def raw_cents(note: ScoreNote, heard: HeardNote, score: Score, expectations: Expectations) -> float | None:
    """Deviation with A4 = 440."""
    if heard.heard_midi is None:
        return None
    return 100.0 * (heard.heard_midi - note.midi) - offset_cents(note, score, expectations)


@dataclass(frozen=True)
class StringTuning:
    cents: float
    uncertainty_cents: float
    """One standard deviation."""
    source: str
    """open or stopped: which notes it is taken from."""


def string_tuning(performance: Performance, score: Score, expectations: Expectations) -> dict[str, StringTuning]:
    """How far each string that was played stands from A4 = 440: from its open notes, else, less surely, from the stopped
    ones. Medians; the uncertainty of a median of n is 1.25 times the deviation over the square root of n."""
    heard: dict[str, dict[str, list[float]]] = {}
    for note, own in zip(score.notes, performance.chosen.notes, strict=True):
        cents = raw_cents(note, own, score, expectations)
        if note.placement and own.status == "played" and cents is not None:
            kind = "stopped" if note.placement.finger else "open"
            heard.setdefault(note.placement.string, {}).setdefault(kind, []).append(cents)
    found = {}
    for string, kinds in heard.items():
        source = "open" if "open" in kinds else "stopped"
        values = np.array(kinds[source])
        middle = float(np.median(values))
        deviation = 1.4826 * float(np.median(np.abs(values - middle)))
        within = 1.25 * max(deviation, _EAR_CENTS) / len(values) ** 0.5
        own_error = _EAR_CENTS if source == "open" else _HAND_CENTS
        found[string] = StringTuning(middle, float(np.hypot(within, own_error)), source)
    return found


def instrument_cents(performance: Performance, score: Score, expectations: Expectations) -> float:
    """How far the instrument as a whole stands from A4 = 440: where its open strings agree, their mean; where one is
    out, what the others say (of two, the one nearer to its place); with none played, the whole take."""
    tuned = string_tuning(performance, score, expectations).values()
    opens = sorted((string.cents for string in tuned if string.source == "open"), key=abs)
    if not opens:
        return performance.tuning_cents
    if max(opens) - min(opens) <= _STRINGS_AGREE_CENTS:
        return float(np.mean(opens))
    return opens[0] if len(opens) == 2 else float(np.median(opens))


def reference_cents(performance: Performance, score: Score, expectations: Expectations) -> float:
    """How far the reference stands above A4 = 440: the assignment's A, or the pupil's own strings."""
    if expectations.a4_hz is not None:
        return cents_between(440.0, expectations.a4_hz)
    return instrument_cents(performance, score, expectations)


def deviations(
    performance: Performance, score: Score, expectations: Expectations, pulse: Pulse | None
) -> tuple[Deviation, ...]:
    reference = reference_cents(performance, score, expectations)
    out = []
    for note, heard in zip(score.notes, performance.chosen.notes, strict=True):
        cents = raw_cents(note, heard, score, expectations)
        timing = ratio = None
        expected = pulse.expected_s.get(note.index) if pulse else None
        if pulse and expected is not None and heard.onset_s is not None and heard.offset_s is not None:
            timing = 1000.0 * (heard.onset_s - expected)
            ratio = (heard.offset_s - heard.onset_s) / (float(note.duration_beats) * pulse.beat_s)
        out.append(
            Deviation(
                note,
                heard,
                None if cents is None else cents - reference,
                timing,
                ratio,
                expectations.pitch_tolerance_cents(note, score),
                expectations.level.timing_ms,
            )
        )
    return tuple(out)
