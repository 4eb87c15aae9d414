"""What a pupil has practised: days, goes, the way with each exercise; and the page for the adult at home."""

from __future__ import annotations

from datetime import date, datetime
from uuid import UUID

from attentive_owl.web.schemas.assignments import PlanDay
from attentive_owl.web.schemas.common import Instrument, Out


class PractisedDay(Out):
    day: date
    goes: int
    good: int
    seconds: float
    """Of sound."""


class GoOnTheWay(Out):
    id: UUID
    recorded_at: datetime
    bpm: float
    """As it was asked for."""
    good: bool
    home_share: float
    """Of its notes, those in tune and on time: 0 to 1."""
    kept: bool


class WayWithExercise(Out):
    """Goes through the whole of one exercise that were measured, the oldest first."""

    exercise_id: UUID
    title: str
    goes: list[GoOnTheWay]
    reached_bpm: float | None
    """The highest tempo that was played clean."""
    passed: bool


class Favourite(Out):
    id: UUID
    title: str
    recorded_at: datetime


class PassedStepOut(Out):
    title: str
    on: date


class Record(Out):
    since: date
    days: list[PractisedDay]
    """Those on which something was recorded."""
    ways: list[WayWithExercise]
    """The one that was practised last first."""
    favourites: list[Favourite]
    passed: list[PassedStepOut]
    """By the teacher, the last first."""


class HomeItem(Out):
    title: str
    due_on: date
    target_bpm: float
    bpm: float
    """On which rung it is practised now."""
    wanted_today: int
    good_today: int
    note: str


class Home(Out):
    name: str
    instrument: Instrument
    today: date
    week: list[PlanDay]
    items: list[HomeItem]
    minutes_today: int
    """With the time to get ready; none where nothing is set for today."""
    checklist: list[str]
    strings: list[str]
    """Low to high."""
    tuning_care: str
    care: str
    may_record: bool
    """Whether an adult has said yes to recordings."""
