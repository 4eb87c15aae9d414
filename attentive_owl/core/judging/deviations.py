"""Every written note against what was heard: cents, milliseconds, duration, and whether it is home. Settled here, once."""

from __future__ import annotations

from dataclasses import dataclass, replace

from attentive_owl.core.exercises import Score, ScoreNote
from attentive_owl.core.judging.expectations import Expectations
from attentive_owl.core.judging.pulse import Pulse
from attentive_owl.core.judging.tuning import Tuning, put_right_by_ear, raw_cents
from attentive_owl.core.listening.performance import HeardNote, NoteStatus, Performance


@dataclass(frozen=True)
class Deviation:
    """How far one note was from where it is written."""

    note: ScoreNote
    heard: HeardNote
    cents: float | None
    """Against the assignment's temperament and reference."""
    tuned_cents: float | None
    """The same with what is known of the string's tuning taken off."""
    timing_ms: float | None
    duration_ratio: float | None
    pitch_tolerance_cents: float
    timing_tolerance_ms: float

    @property
    def judged(self) -> bool:
        return self.heard.status in (NoteStatus.PLAYED, NoteStatus.WRONG_PITCH)

    @property
    def moment_guessed(self) -> bool:
        """Played, but with a stroke of which hardly a sign was heard."""
        return self.judged and not self.heard.moment_sure

    @property
    def in_tune(self) -> bool:
        return (
            self.heard.status == NoteStatus.PLAYED
            and self.tuned_cents is not None
            and abs(self.tuned_cents) <= self.pitch_tolerance_cents
        )

    @property
    def on_time(self) -> bool:
        return self.timing_ms is not None and abs(self.timing_ms) <= self.timing_tolerance_ms

    @property
    def home(self) -> bool:
        """In tune, and on time where time is judged."""
        return self.in_tune and (self.timing_ms is None or self.on_time)

    @property
    def home_as_heard(self) -> bool:
        """The same with the tuning of the strings left in."""
        return replace(self, tuned_cents=self.cents).home

    @property
    def finger(self) -> int | None:
        return self.note.placement.finger if self.note.placement else None

    @property
    def string(self) -> str | None:
        return self.note.placement.string if self.note.placement else None


def deviations(
    performance: Performance, score: Score, expectations: Expectations, pulse: Pulse | None, tuning: Tuning
) -> tuple[Deviation, ...]:
    """How far each written note is off, one a note and in their order: pitch in cents by the temperament, with the tuning and without;
    onset in milliseconds against the pulse. None where it was not heard or nothing can be said of it."""
    by_ear = put_right_by_ear(tuning, performance, score, expectations)
    out = []
    for note, heard in zip(score.notes, performance.chosen.notes, strict=True):
        cents = raw_cents(note, heard, score, expectations)
        timing = ratio = None
        expected = pulse.expected_s.get(note.index) if pulse else None
        if pulse and expected is not None and heard.onset_s is not None and heard.offset_s is not None:
            timing = None if expectations.mode == "pauses" else 1000.0 * (heard.onset_s - expected)
            ratio = (heard.offset_s - heard.onset_s) / (float(note.duration_beats) * pulse.beat_s)
        over = None if cents is None else cents - tuning.reference_cents
        place = note.placement
        owed = 0.0
        if place is not None and not (place.finger and place.string in by_ear):
            owed = tuning.taken_off.get(place.string, 0.0)
        out.append(
            Deviation(
                note,
                heard,
                over,
                None if over is None else over - owed,
                timing,
                ratio,
                expectations.pitch_tolerance_cents(note, score),
                expectations.level.timing_ms,
            )
        )
    return tuple(out)
