"""Lessons and breaks as the core's days."""

from __future__ import annotations

from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from attentive_owl.core.planning import LessonDays, Off, days_off
from attentive_owl.store.models import Lesson, SchoolBreak


def studio_days_off(session: Session) -> frozenset[date]:
    """Of the studio that the session sees."""
    return days_off(Off(own.first_day, own.last_day) for own in session.scalars(select(SchoolBreak)))


def lesson_days(own: Lesson) -> LessonDays:
    return LessonDays(own.day, own.until)
