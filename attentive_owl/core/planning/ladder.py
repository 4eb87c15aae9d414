"""The tempo ladder: slow first, up a small step after so many clean goes in a row, never over the target (common practice). The next
rung is offered and never forced, and whoever goes down a rung loses nothing."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property
from math import ceil

from attentive_owl.core.exercises import LOWEST_TEMPO_BPM

FIRST_RUNG_SHARE = 0.75
"""Of the target, where a ladder begins unless the teacher says otherwise (common practice: about three quarters)."""
_SAME_BPM = 0.5
"""Tempos closer than this are one rung."""


def first_rung(target_bpm: float) -> float:
    """Where a ladder to this tempo begins unless the teacher says otherwise: an even number, never above the target."""
    return max(float(LOWEST_TEMPO_BPM), min(2.0 * round(FIRST_RUNG_SHARE * target_bpm / 2), target_bpm))


@dataclass(frozen=True)
class Go:
    """The whole line, played through once or more at one tempo."""

    bpm: float
    """As it was asked for."""
    clean: bool
    times: int = 1
    """How often in a row it was clean within the one recording."""


@dataclass(frozen=True)
class Standing:
    """Where a pupil stands on a ladder."""

    bpm: float
    """The rung of the last go; the first rung before any."""
    in_a_row: int
    """Clean goes on this rung since the last one that was not, or since the rung was changed."""
    offered_bpm: float | None
    """The rung above, once it has been earned."""
    reached_bpm: float | None
    """The highest tempo that was played clean."""
    done: bool
    """The target was played clean as often in a row as the rule asks."""


@dataclass(frozen=True)
class Ladder:
    """The rule of an assignment. Raises ValueError where it is no ladder."""

    first_bpm: float
    target_bpm: float
    step_bpm: float
    clean_in_a_row: int

    def __post_init__(self) -> None:
        if not (0 < self.first_bpm <= self.target_bpm and self.step_bpm > 0 and self.clean_in_a_row >= 1):
            raise ValueError(
                "a ladder goes up from its first rung to the target, by some step, after one clean go at least"
            )

    @cached_property
    def rungs(self) -> tuple[float, ...]:
        """From the first to the target; the last step may be a smaller one."""
        steps = ceil((self.target_bpm - self.first_bpm - _SAME_BPM) / self.step_bpm)
        return (*(self.first_bpm + at * self.step_bpm for at in range(max(steps, 0))), self.target_bpm)

    def rung_of(self, bpm: float) -> float:
        """The highest rung that is not over this tempo; the first where all are."""
        return max((rung for rung in self.rungs if rung <= bpm + _SAME_BPM), default=self.rungs[0])

    def above(self, bpm: float) -> float | None:
        return min((rung for rung in self.rungs if rung > bpm + _SAME_BPM), default=None)

    def standing(self, goes: Iterable[Go]) -> Standing:
        """After these goes, the oldest first. Slower than the first rung counts as the first."""
        bpm, in_a_row, done = self.rungs[0], 0, False
        reached: float | None = None
        earned: set[float] = set()
        for go in goes:
            rung = self.rung_of(go.bpm)
            in_a_row = (in_a_row if rung == bpm else 0) + go.times if go.clean else 0
            bpm = rung
            if go.clean:
                reached = max(go.bpm, reached or 0.0)
            if in_a_row >= self.clean_in_a_row:
                earned.add(rung)
                done = done or rung == self.target_bpm
        return Standing(bpm, in_a_row, self.above(bpm) if bpm in earned else None, reached, done)
