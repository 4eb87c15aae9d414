"""Days of lessons and days off: against dateutil's recurrence rules, an implementation of RFC 5545."""

from __future__ import annotations

from datetime import date, datetime, timedelta

import pytest
from dateutil.rrule import WEEKLY, rrule
from hypothesis import given
from hypothesis import strategies as st

from attentive_owl.core.planning import LessonDays, Off, days_off, next_lesson

FIRST = date(2026, 10, 17)
AWAY = st.integers(-40, 400)


@given(AWAY, st.integers(0, 200), st.integers(0, 300))
def test_weekly_days_are_those_of_a_recurrence_rule(begin: int, long: int, until: int) -> None:
    start, last = FIRST + timedelta(days=begin), FIRST + timedelta(days=until)
    end = start + timedelta(days=long)
    rule = rrule(
        WEEKLY, dtstart=datetime.combine(FIRST, datetime.min.time()), until=datetime.combine(last, datetime.min.time())
    )
    wanted = [own.date() for own in rule if start <= own.date() <= end]
    assert LessonDays(FIRST, last).within(start, end) == wanted


def test_a_single_lesson_is_one_day_and_a_break_has_none() -> None:
    once = LessonDays(FIRST)
    assert once.within(FIRST - timedelta(days=9), FIRST + timedelta(days=30)) == [FIRST]
    off = days_off([Off(date(2026, 10, 24), date(2026, 10, 31))])
    assert len(off) == 8
    weekly = LessonDays(FIRST, date(2026, 11, 14))
    assert weekly.within(FIRST, date(2026, 12, 1), off) == [FIRST, date(2026, 11, 7), date(2026, 11, 14)]
    assert next_lesson([weekly], FIRST, off) == date(2026, 11, 7)
    assert next_lesson([weekly, LessonDays(date(2026, 10, 20))], FIRST, off) == date(2026, 10, 20)
    assert next_lesson([weekly], date(2026, 11, 14)) is None


def test_a_break_does_not_end_before_it_begins() -> None:
    with pytest.raises(ValueError, match="ends on the day"):
        Off(FIRST, FIRST - timedelta(days=1))
