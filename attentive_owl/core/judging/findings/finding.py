"""What one cause is: where it is looked for, which is spoken of first, and how it is said. One entry a kind."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property
from typing import Literal

from attentive_owl.core.exercises import Score
from attentive_owl.core.judging.cause import Cause
from attentive_owl.core.judging.deviations import Deviation
from attentive_owl.core.judging.expectations import Expectations
from attentive_owl.core.judging.pulse import Pulse
from attentive_owl.core.judging.speech import Speaker, Words
from attentive_owl.core.judging.steps import Step, played_in_time, steps_of
from attentive_owl.core.judging.tuning import Tuning
from attentive_owl.core.listening.performance import HeardPass, Performance


@dataclass(frozen=True)
class Evidence:
    """All that a detector may look at."""

    performance: Performance
    score: Score
    expectations: Expectations
    notes: tuple[Deviation, ...]
    pulse: Pulse | None
    tuning: Tuning

    @property
    def heard_pass(self) -> HeardPass:
        return self.performance.chosen

    @cached_property
    def steps_played(self) -> tuple[Step, ...]:
        """Between all notes that were played in time, whether or not it is known when: what could show a habit."""
        return steps_of(self.score, played_in_time(self.score, self.heard_pass))

    @property
    def tempo_off_percent(self) -> float | None:
        """How far over the tempo that is set it was played; None where there is no pulse."""
        if self.pulse is None:
            return None
        return 100.0 * (self.pulse.played_bpm / self.expectations.target_bpm - 1.0)

    @property
    def tempo_side(self) -> Literal["home", "below", "above"] | None:
        """Against the level's tolerance; None where time is not judged."""
        off = self.tempo_off_percent
        if off is None or self.expectations.mode == "pauses":
            return None
        if abs(off) <= self.expectations.level.tempo_percent:
            return "home"
        return "below" if off < 0 else "above"

    @property
    def string_length_mm(self) -> float:
        """The pupil's own, else that of the largest size."""
        return self.expectations.string_length_mm or list(self.score.instrument.sizes.values())[-1]


class Layer(StrEnum):
    """Asked in this order; what one explains is not asked for by the next."""

    LINE = "line"
    """The whole line stands elsewhere: nothing else is judged."""
    PLAYED = "played"
    """What was played of it, and what beside it."""
    TUNING = "tuning"
    PLACE = "place"
    """A finger in its other place, or the key signature forgotten."""
    HAND = "hand"
    BOW = "bow"
    TIME = "time"


@dataclass(frozen=True)
class Carrier:
    """Stopped notes that would carry one cause in the hand."""

    notes: tuple[Deviation, ...]
    finger: int | None = None


Carriers = Callable[[tuple[Deviation, ...], Score], list[Carrier]]
"""(stopped notes, score) -> the groups that this kind of cause is asked of."""


@dataclass(frozen=True)
class Finding:
    """A kind of cause: how it is found, and what is said of it."""

    kind: str
    layer: Layer
    rank: int
    """Which is spoken of first: what spoils most, and what a beginner can change soonest (common practice)."""
    title: Callable[[Cause, Speaker], str]
    say: Callable[[tuple[Cause, ...], Speaker], Words]
    """All causes of this kind together, the weightiest first."""
    detect: Callable[[Evidence], list[Cause]] | None = None
    carriers: Carriers | None = None
    """For what the hand does: asked against one another (see `hand.py`)."""
    of_some_notes: bool = False
    """In the hand: named only where the notes outside it stand right."""
