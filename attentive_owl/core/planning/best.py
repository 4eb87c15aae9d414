"""Which of a pupil's goes is the one to hand in."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Played:
    """What is known of one go through the whole line."""

    key: str
    judged: bool
    good: bool
    bpm: float
    """As it was asked for."""
    home_share: float
    """Of its notes, those that were in tune and on time: 0 to 1."""


def best_of(goes: Sequence[Played]) -> str | None:
    """The key of the best go, the oldest first: a good one at the highest tempo, else the one with most notes at home; of equal ones
    the newest. None where none could be judged."""
    judged = [(own.good, own.bpm if own.good else 0.0, own.home_share, at) for at, own in enumerate(goes) if own.judged]
    return goes[max(judged)[-1]].key if judged else None
