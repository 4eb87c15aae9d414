"""What is set, the week, and the page of today."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Self
from uuid import UUID

from pydantic import Field, StringConstraints, model_validator

from attentive_owl.core.theory import Temperament
from attentive_owl.web.schemas.common import In, Instrument, LevelKey, ModeKey, Out, Tempo, Verdict
from attentive_owl.web.schemas.recipes import Recipe


class Terms(In):
    """How an exercise is set: how fast, how often, by what it is judged."""

    target_bpm: Tempo
    good_repeats: Annotated[int, Field(ge=1, le=50)]
    days_a_week: Annotated[int, Field(ge=1, le=7)] = 5
    level: LevelKey = "settling"
    note: Annotated[str, StringConstraints(strip_whitespace=True, max_length=500)] = ""
    temperament: Temperament = Temperament.EQUAL
    a4_hz: Annotated[float, Field(ge=400, le=480)] | None = None
    """The reference pitch; none: the pupil's own open strings."""
    mode: ModeKey = "steady"
    ladder_from_bpm: Tempo | None = None
    """First rung of a tempo ladder to the target; none: no ladder."""
    ladder_step_bpm: Annotated[float, Field(ge=1, le=40)] = 6
    ladder_clean: Annotated[int, Field(ge=1, le=10)] = 2
    wants_picture: bool = False
    """Of the bow hold, with what is handed in."""

    @model_validator(mode="after")
    def _goes_up(self) -> Self:
        if self.ladder_from_bpm is not None and self.ladder_from_bpm > self.target_bpm:
            raise ValueError("the ladder begins above the tempo to which it leads")
        return self


class NewAssignment(Terms):
    recipe: Recipe
    pupil_ids: Annotated[list[UUID], Field(min_length=1, max_length=250)]
    due_on: date


class Standing(Out):
    """Where one pupil stands with one assignment."""

    pupil_id: UUID
    pupil_name: str
    instrument: Instrument
    takes: int
    """Goes through the whole line."""
    good: int
    waiting: int
    """Takes that the teacher has not marked yet."""
    last_take_id: UUID | None
    """Of what was handed in."""
    last_verdict: Verdict | None


class AssignmentOut(Out):
    id: UUID
    title: str
    recipe: Recipe
    due_on: date
    target_bpm: float
    good_repeats: int
    days_a_week: int
    level: LevelKey
    note: str
    temperament: Temperament
    a4_hz: float | None
    mode: ModeKey
    ladder_from_bpm: float | None
    ladder_step_bpm: float
    ladder_clean: int
    wants_picture: bool
    sheet_id: UUID | None
    """The week's sheet that it was sent with."""
    standings: list[Standing]


class Week(Out):
    today: date
    assignments: list[AssignmentOut]
    unmarked: int
    checking: int
    classes: int
    pupils: int
    takes: int
    """That were handed in, ever."""


class MarkOut(Out):
    id: UUID
    verdict: Verdict
    remark: str
    created_at: datetime


class TodayItem(Out):
    assignment_id: UUID
    title: str
    due_on: date
    target_bpm: float
    good_repeats: int
    note: str
    goes_today: int
    good_today: int
    wanted_today: int
    """Good goes that the plan wants today; none on a day that is free of it."""
    takes: int
    """Goes through the whole line that were not thrown away."""
    handed_in: bool
    """Something of it is with the teacher, or was."""
    accepted: bool
    last_mark: MarkOut | None


class PlanDay(Out):
    day: date
    goes: int
    good: int
    """Of those."""
    wanted: int | None
    """From today on."""


class Today(Out):
    today: date
    name: str
    items: list[TodayItem]
    """In the order in which they are practised."""
    week: list[PlanDay]
