"""A calendar for other programs: iCalendar (RFC 5545), written by the icalendar package."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from icalendar import Calendar, Event

_PRODUCT = "-//Attentive Owl//Warm-ups//EN"


@dataclass(frozen=True)
class CalendarEvent:
    uid: str
    """The same event keeps it, so that it is changed and not doubled when it is read again."""
    summary: str
    day: date
    starts: time | None = None
    """None: all day."""
    minutes: int = 0
    last_day: date | None = None
    """Of an event over several days."""
    weekly_until: date | None = None
    but_not_on: tuple[date, ...] = ()
    place: str = ""
    words: str = ""


def write_icalendar(name: str, events: Iterable[CalendarEvent], zone: ZoneInfo, made_at: datetime) -> bytes:
    """`zone`: where lessons are; `made_at` stamps every event."""
    calendar = Calendar()
    calendar.add("prodid", _PRODUCT)
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", name)
    for own in events:
        calendar.add_component(_event(own, zone, made_at))
    # The rules of summer and winter time go with it, from a year before: a reader need not know the zone's name.
    calendar.add_missing_timezones(first_date=date(made_at.year - 1, 1, 1))
    data: bytes = calendar.to_ical()
    return data


def _event(own: CalendarEvent, zone: ZoneInfo, made_at: datetime) -> Event:
    event = Event()
    event.add("uid", f"{own.uid}@attentive-owl")
    event.add("dtstamp", made_at)
    event.add("summary", own.summary)
    if own.place:
        event.add("location", own.place)
    if own.words:
        event.add("description", own.words)
    if own.starts is None:
        event.add("dtstart", own.day)
        # The end is the day after, by the standard.
        event.add("dtend", (own.last_day or own.day) + timedelta(days=1))
        event.add("transp", "TRANSPARENT")
        return event
    start = datetime.combine(own.day, own.starts, zone)
    event.add("dtstart", start)
    event.add("dtend", start + timedelta(minutes=own.minutes))
    if own.weekly_until is not None:
        end = datetime.combine(own.weekly_until, time(23, 59, 59), zone)
        event.add("rrule", {"freq": "weekly", "until": end.astimezone(ZoneInfo("UTC"))})
        for day in own.but_not_on:
            event.add("exdate", datetime.combine(day, own.starts, zone))
    return event
