"""Days: when lessons are, and which days are off."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta

_A_WEEK = timedelta(days=7)


@dataclass(frozen=True)
class Off:
    """A break, both days with it."""

    first_day: date
    last_day: date

    def __post_init__(self) -> None:
        if self.last_day < self.first_day:
            raise ValueError("a break ends on the day on which it begins, or later")


@dataclass(frozen=True)
class LessonDays:
    """Lessons of one class: once, or every week until a day."""

    first: date
    until: date | None = None

    def within(self, begin: date, end: date, days_off: frozenset[date] = frozenset()) -> list[date]:
        """Its days from `begin` to `end`, both with it; none in a break."""
        last = min(end, self.until or self.first)
        weeks = max((begin - self.first).days + 6, 0) // 7
        day, found = self.first + weeks * _A_WEEK, []
        while day <= last:
            if day not in days_off:
                found.append(day)
            day += _A_WEEK
        return found


def days_off(breaks: Iterable[Off]) -> frozenset[date]:
    """Every day of every break."""
    return frozenset(
        own.first_day + timedelta(days=at) for own in breaks for at in range((own.last_day - own.first_day).days + 1)
    )


def next_lesson(lessons: Iterable[LessonDays], after: date, off: frozenset[date] = frozenset()) -> date | None:
    """The first one after a day, within a year."""
    begin = after + timedelta(days=1)
    found = [days[0] for own in lessons if (days := own.within(begin, after + timedelta(days=366), off))]
    return min(found, default=None)
