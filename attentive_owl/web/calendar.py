"""The studio's calendar: lessons, breaks, due days; out as iCalendar, for the teacher and for a pupil's home."""

from __future__ import annotations

import io
import uuid
from collections import defaultdict
from collections.abc import Iterator
from datetime import UTC, date, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from flask import send_file
from sqlalchemy import select
from sqlalchemy.orm import Session

from attentive_owl.core.planning import next_lesson
from attentive_owl.core.theory import in_vocabulary
from attentive_owl.formats.icalendar import CalendarEvent, write_icalendar
from attentive_owl.store.calendar import lesson_days, studio_days_off
from attentive_owl.store.models import (
    ALSO_IN,
    Assignment,
    AssignmentPupil,
    ClassGroup,
    Exercise,
    Lesson,
    Pupil,
    SchoolBreak,
    Studio,
)
from attentive_owl.web.access import own_row, own_studio, pupil_only, teacher_only, visitor
from attentive_owl.web.areas import Area
from attentive_owl.web.clock import StudioClock, studio_clock
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.calendar import BreakIn, BreakOut, CalendarOut, DueDay, LessonIn, LessonOut
from attentive_owl.web.schemas.common import ById, Done
from attentive_owl.web.studio import studio_settings

api = Area("calendar", __name__, 401, 404)


def _lesson_out(own: Lesson, off: frozenset[date], today: date) -> LessonOut:
    return LessonOut(
        id=own.id,
        class_id=own.class_id,
        class_name=own.group.name,
        day=own.day,
        starts=own.starts,
        minutes=own.minutes,
        until=own.until,
        place=own.place,
        next_on=next_lesson([lesson_days(own)], today - timedelta(days=1), off),
    )


@api.get("/calendar", responses={200: CalendarOut})
@teacher_only
def calendar() -> Any:
    today = studio_clock().today()
    with own_studio() as session:
        off = studio_days_off(session)
        lessons = [_lesson_out(own, off, today) for own in session.scalars(select(Lesson).order_by(Lesson.starts))]
        breaks = session.scalars(select(SchoolBreak).order_by(SchoolBreak.first_day)).all()
        due: dict[date, list[str]] = defaultdict(list)
        rows = session.execute(
            select(Assignment.due_on, Exercise.title)
            .join(Exercise, Exercise.id == Assignment.exercise_id)
            .where(Assignment.due_on >= today)
            .order_by(Assignment.due_on, Exercise.title)
            .distinct()
        )
        for day, title in rows:
            due[day].append(title)
        return reply(
            CalendarOut(
                today=today,
                lessons=sorted(lessons, key=lambda own: (own.next_on or date.max, own.starts)),
                breaks=[BreakOut.model_validate(own, from_attributes=True) for own in breaks],
                due=[DueDay(day=day, titles=titles) for day, titles in due.items()],
            )
        )


@api.post("/lessons", responses={201: LessonOut})
@teacher_only
def new_lesson(body: LessonIn) -> Any:
    today = studio_clock().today()
    with own_studio() as session:
        own = Lesson(group=own_row(session, ClassGroup, body.class_id), **body.model_dump(exclude={"class_id"}))
        session.add(own)
        session.flush()
        return reply(_lesson_out(own, studio_days_off(session), today), 201)


@api.put("/lessons/<uuid:id>", responses={200: LessonOut})
@teacher_only
def change_lesson(path: ById, body: LessonIn) -> Any:
    today = studio_clock().today()
    with own_studio() as session:
        own = own_row(session, Lesson, path.id)
        own.group = own_row(session, ClassGroup, body.class_id)
        for name, value in body.model_dump(exclude={"class_id"}).items():
            setattr(own, name, value)
        return reply(_lesson_out(own, studio_days_off(session), today))


@api.delete("/lessons/<uuid:id>", responses={200: Done})
@teacher_only
def drop_lesson(path: ById) -> Any:
    return _drop(Lesson, path.id)


@api.post("/breaks", responses={201: BreakOut})
@teacher_only
def new_break(body: BreakIn) -> Any:
    """Nothing is wanted of anybody on its days."""
    with own_studio() as session:
        own = SchoolBreak(**body.model_dump())
        session.add(own)
        session.flush()
        return reply(BreakOut.model_validate(own, from_attributes=True), 201)


@api.delete("/breaks/<uuid:id>", responses={200: Done})
@teacher_only
def drop_break(path: ById) -> Any:
    return _drop(SchoolBreak, path.id)


def _drop(model: type[Lesson] | type[SchoolBreak], row_id: uuid.UUID) -> Any:
    with own_studio() as session:
        session.delete(own_row(session, model, row_id))
    return reply(Done())


@api.get("/calendar.ics")
@teacher_only
def for_teacher() -> Any:
    clock = studio_clock()
    with own_studio() as session:
        studio = session.get_one(Studio, visitor().studio_id)
        due = session.execute(
            select(Assignment.id, Assignment.due_on, Exercise.title)
            .join(Exercise, Exercise.id == Assignment.exercise_id)
            .where(Assignment.due_on >= clock.today() - timedelta(days=30))
        ).all()
        events = [*_days(session, list(session.scalars(select(Lesson)))), *_due(due)]
        return _sent(studio.name, events, clock)


@api.get("/own-calendar.ics")
@pupil_only
def for_home() -> Any:
    """The pupil's own lessons and due days."""
    clock = studio_clock()
    with own_studio() as session:
        pupil = session.get_one(Pupil, visitor().person.id)
        guests = select(ALSO_IN.c.class_id).where(ALSO_IN.c.pupil_id == pupil.id)
        lessons = session.scalars(
            select(Lesson).where((Lesson.class_id == pupil.group_id) | Lesson.class_id.in_(guests))
        ).all()
        due = session.execute(
            select(Assignment.id, Assignment.due_on, Exercise.title)
            .join(Exercise, Exercise.id == Assignment.exercise_id)
            .join(AssignmentPupil, AssignmentPupil.assignment_id == Assignment.id)
            .where(AssignmentPupil.pupil_id == pupil.id, Assignment.due_on >= clock.today())
        ).all()
        return _sent(visitor().person.studio, [*_days(session, lessons), *_due(due)], clock)


def _days(session: Session, lessons: Any) -> Iterator[CalendarEvent]:
    off = studio_days_off(session)
    for own in lessons:
        days = lesson_days(own)
        held = days.within(own.day, own.until or own.day)
        yield CalendarEvent(
            uid=f"lesson-{own.id}",
            summary=own.group.name,
            day=own.day,
            starts=own.starts,
            minutes=own.minutes,
            weekly_until=own.until,
            but_not_on=tuple(day for day in held if day in off),
            place=own.place,
        )
    for pause in session.scalars(select(SchoolBreak)):
        yield CalendarEvent(uid=f"break-{pause.id}", summary=pause.name, day=pause.first_day, last_day=pause.last_day)


def _due(rows: Any) -> Iterator[CalendarEvent]:
    values = studio_settings().values
    for own_id, day, title in rows:
        yield CalendarEvent(uid=f"due-{own_id}", summary=f"Due: {in_vocabulary(title, values)}", day=day)


def _sent(name: str, events: list[CalendarEvent], clock: StudioClock) -> Any:
    data = write_icalendar(name, events, clock.zone or ZoneInfo("UTC"), datetime.now(UTC))
    return send_file(io.BytesIO(data), mimetype="text/calendar", download_name="calendar.ics", max_age=0)
