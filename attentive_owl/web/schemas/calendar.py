"""Lessons, breaks, and what would go by mail."""

from __future__ import annotations

from datetime import date, datetime, time
from typing import Annotated, Self
from uuid import UUID

from pydantic import Field, StringConstraints, model_validator

from attentive_owl.web.schemas.common import In, Out


class LessonIn(In):
    class_id: UUID
    day: date
    starts: time
    minutes: Annotated[int, Field(ge=5, le=480)]
    until: date | None = None
    """Every week up to this day; none: only once."""
    place: Annotated[str, StringConstraints(strip_whitespace=True, max_length=120)] = ""

    @model_validator(mode="after")
    def _ends_later(self) -> Self:
        if self.until is not None and self.until < self.day:
            raise ValueError("the last lesson is before the first")
        return self


class LessonOut(Out):
    id: UUID
    class_id: UUID
    class_name: str
    day: date
    starts: time
    minutes: int
    until: date | None
    place: str
    next_on: date | None


class BreakIn(In):
    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80)]
    first_day: date
    last_day: date

    @model_validator(mode="after")
    def _ends_later(self) -> Self:
        if not 0 <= (self.last_day - self.first_day).days <= 120:
            raise ValueError("a break ends after it begins, and lasts four months at most")
        return self


class BreakOut(Out):
    id: UUID
    name: str
    first_day: date
    last_day: date


class DueDay(Out):
    day: date
    titles: list[str]


class CalendarOut(Out):
    today: date
    lessons: list[LessonOut]
    breaks: list[BreakOut]
    due: list[DueDay]
    """From today on."""


class MessageOut(Out):
    id: UUID
    created_at: datetime
    pupil_id: UUID
    pupil_name: str
    subject: str
    words: str


class OutboxPage(Out):
    messages: list[MessageOut]
    total: int
    page: int
    pages: int


class PageQuestion(In):
    page: Annotated[int, Field(ge=1)] = 1
