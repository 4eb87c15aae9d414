"""How long a day's practice takes."""

from __future__ import annotations

from collections.abc import Iterable
from math import ceil

_BETWEEN_S = 25.0
"""To count in, to hear what was said of a go, to breathe (ours, by judgement)."""
_READY_S = 180.0
"""To unpack, look at oneself, and listen to the strings."""
_STEP_MINUTES = 5


def practice_minutes(goes: Iterable[tuple[int, float]]) -> int:
    """For goes of so many seconds each: rounded up to five minutes, with the time to get ready; none where nothing is wanted."""
    seconds = sum(count * (_BETWEEN_S + each) for count, each in goes)
    return _STEP_MINUTES * ceil((_READY_S + seconds) / 60 / _STEP_MINUTES) if seconds else 0
