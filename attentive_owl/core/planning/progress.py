"""Where one pupil stands with one step: passed, ready for it, on the way, stuck and since when, not practised."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from enum import StrEnum
from statistics import median

_STUCK_GOES, _STUCK_OVER, _STUCK_DAYS = 5, timedelta(days=6), 3
"""So many goes without a good one, over a week, on three days or more: before that it is practice (common practice)."""
_RISES = 0.05
"""A share of notes at home that rises by more, from the first goes to the last, is a way and no standstill: less is not one note of
sixteen."""
_QUIET = timedelta(days=3)
"""After so many days without a go it is called not practised."""


_LATELY = timedelta(days=21)
"""What was neither set nor played for longer is no work of these weeks."""


class State(StrEnum):
    """Where a pupil stands on a step."""

    PASSED = "passed"
    READY = "ready"
    """Played well at the tempo that is set, or accepted: the teacher's word is all that is missing."""
    ON_THE_WAY = "on_the_way"
    STUCK = "stuck"
    NOT_PRACTISED = "not_practised"
    SET = "set"
    """A day or two ago."""
    NOT_SET = "not_set"


@dataclass(frozen=True)
class GoMade:
    """One go through the whole step that could be judged."""

    day: date
    good: bool
    home_share: float
    bpm: float


@dataclass(frozen=True)
class OnStep:
    """What is known of one pupil and one step; goes in the order in which they were made."""

    set_on: date | None = None
    target_bpm: float = 0.0
    goes: tuple[GoMade, ...] = ()
    accepted: bool = False
    passed_on: date | None = None


@dataclass(frozen=True)
class Standpoint:
    """Where a pupil stands on one step of a path."""

    state: State
    since: date | None
    """The day it was passed, or from which on it stands still."""
    goes: int
    best_bpm: float | None
    """The fastest good go."""


def standpoint(step: OnStep, today: date) -> Standpoint:
    """Where a pupil stands on a step by `today`, and since when."""
    good = [own.bpm for own in step.goes if own.good]
    best = max(good, default=None)
    at = len(step.goes)
    if step.passed_on is not None:
        return Standpoint(State.PASSED, step.passed_on, at, best)
    if step.accepted or (best is not None and best >= step.target_bpm):
        return Standpoint(State.READY, None, at, best)
    if step.goes:
        since = _standing_still(step.goes)
        return Standpoint(State.STUCK if since else State.ON_THE_WAY, since, at, best)
    if step.set_on is None:
        return Standpoint(State.NOT_SET, None, at, None)
    quiet = today - step.set_on >= _QUIET
    return Standpoint(State.NOT_PRACTISED if quiet else State.SET, step.set_on if quiet else None, at, None)


def _standing_still(goes: tuple[GoMade, ...]) -> date | None:
    """The day from which on nothing moved; None where something did."""
    last_good = max((at for at, own in enumerate(goes) if own.good), default=-1)
    since = goes[last_good + 1 :]
    days = {own.day for own in since}
    if len(since) < _STUCK_GOES or len(days) < _STUCK_DAYS or since[-1].day - since[0].day < _STUCK_OVER:
        return None
    third = max(len(since) // 3, 1)
    first = median(own.home_share for own in since[:third])
    last = median(own.home_share for own in since[-third:])
    return since[0].day if last - first <= _RISES else None


def is_now(set_on: date | None, last_played: date | None, today: date) -> bool:
    """Whether a step is being worked on: set or played within three weeks."""
    last = max(set_on or date.min, last_played or date.min)
    return today - last <= _LATELY
