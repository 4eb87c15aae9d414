"""iCalendar, read back by another library (vobject, https://github.com/py-vobject/vobject): RFC 5545."""

from __future__ import annotations

import io
from datetime import UTC, date, datetime, time, timedelta
from zoneinfo import ZoneInfo

import vobject
from dateutil.rrule import rrulestr
from dateutil.tz import tzical

from attentive_owl.formats.icalendar import CalendarEvent, write_icalendar

ZONE = ZoneInfo("Europe/Lisbon")
MADE = datetime(2026, 10, 1, 12, tzinfo=UTC)
LESSON = CalendarEvent(
    "lesson-1", "Saturday; first boat, \u201cnew\u201d", date(2026, 10, 17), time(10, 0), 50,
    weekly_until=date(2026, 11, 14), but_not_on=(date(2026, 10, 31),), place="The ferry hall", words="One line\nand another",
)  # fmt: skip


def test_a_weekly_lesson_keeps_its_hour_over_the_change_of_the_clock_and_leaves_breaks_out() -> None:
    data = write_icalendar("Studio", [LESSON], ZONE, MADE).decode()
    event = vobject.readOne(data).vevent
    assert (event.summary.value, event.location.value, event.description.value) == (
        LESSON.summary, "The ferry hall", "One line\nand another",
    )  # fmt: skip
    assert event.uid.value == "lesson-1@attentive-owl"
    # The days by dateutil, in the zone itself: vobject makes zones of its own, and is an hour off in winter.
    days = rrulestr(event.rrule.value, dtstart=event.dtstart.value.replace(tzinfo=ZONE))
    off = {own.replace(tzinfo=None) for own in event.exdate.value}
    starts = [own for own in days if own.replace(tzinfo=None) not in off]
    # Summer time ends on 25 October 2026 (Directive 2000/84/EC): the hour on the wall stays.
    assert [(own.month, own.day, own.hour) for own in starts] == [(10, 17, 10), (10, 24, 10), (11, 7, 10), (11, 14, 10)]
    rules = data[data.index("BEGIN:VTIMEZONE") : data.index("END:VTIMEZONE")] + "END:VTIMEZONE\r\n"
    written = tzical(io.StringIO(rules)).get()
    for own in starts:
        assert own.replace(tzinfo=written).utcoffset() == own.utcoffset()
    assert event.dtend.value - event.dtstart.value == timedelta(minutes=50)


def test_a_break_ends_the_day_after_its_last_and_a_due_day_is_one_day() -> None:
    pause = CalendarEvent("break-1", "Ice days", date(2026, 12, 23), last_day=date(2026, 12, 30))
    due = CalendarEvent("due-1", "Due: D major", date(2026, 12, 5))
    events = vobject.readOne(write_icalendar("Studio", [pause, due], ZONE, MADE).decode()).vevent_list
    assert [(own.dtstart.value, own.dtend.value) for own in events] == [
        (date(2026, 12, 23), date(2026, 12, 31)), (date(2026, 12, 5), date(2026, 12, 6)),
    ]  # fmt: skip


def test_lines_are_no_longer_than_the_standard_has_it_and_end_as_it_says() -> None:
    data = write_icalendar("A very long name of a studio " * 9, [LESSON], ZONE, MADE)
    lines = data.split(b"\r\n")
    assert b"\n" not in b"".join(lines)
    assert max(map(len, lines)) <= 75
