"""The pupil's plan: what is set and what was done, as tasks of the core's plan, and the plan as days of the wire."""

from __future__ import annotations

import uuid
from collections import Counter
from collections.abc import Iterable, Mapping
from datetime import date, timedelta

from attentive_owl.core.exercises import family
from attentive_owl.core.planning import Day, Task, plan
from attentive_owl.store.exercises import recipe_from_document
from attentive_owl.store.models import Assignment
from attentive_owl.web.clock import StudioClock
from attentive_owl.web.schemas.assignments import PlanDay
from attentive_owl.web.summaries import TakeSummary

_WARM_UPS = frozenset({"rhythm", "intonation"})
"""Groups of exercises that open a day: the bow alone, a note, a finger."""
_A_WEEK = 7


def planned(
    assignments: Iterable[Assignment],
    rows: Mapping[uuid.UUID, list[TakeSummary]],
    clock: StudioClock,
    days_off: frozenset[date] = frozenset(),
) -> tuple[Day, ...]:
    """Today and the six days after it."""
    return plan([_task(own, rows.get(own.id, []), clock) for own in assignments], clock.today(), days_off=days_off)


def _task(own: Assignment, rows: list[TakeSummary], clock: StudioClock) -> Task:
    days = [clock.local(row.take.recorded_at).date() for row in rows]
    return Task(
        key=str(own.id),
        set_on=min(clock.local(own.created_at).date(), own.due_on),
        due_on=own.due_on,
        repeats=own.good_repeats,
        days_a_week=own.days_a_week,
        warm_up=family(recipe_from_document(own.exercise.recipe).family).group in _WARM_UPS,
        done=Counter(day for day, row in zip(days, rows, strict=True) if row.good_line),
        played=frozenset(days),
        passed=any(row.accepted for row in rows),
    )


def week_of(days: Iterable[Day], rows: list[TakeSummary], clock: StudioClock) -> list[PlanDay]:
    """This week, Monday to Sunday: what was played on the days that are over, what is wanted on those that are not. A day that was
    missed is a day without a figure, and nothing else."""
    today = clock.today()
    monday = today - timedelta(days=today.weekday())
    goes = Counter(clock.local(row.take.recorded_at).date() for row in rows)
    good = Counter(clock.local(row.take.recorded_at).date() for row in rows if row.good_line)
    ahead = {day.day: sum(share.wanted for share in day.shares) for day in days}
    week = [monday + timedelta(days=at) for at in range(_A_WEEK)]
    return [
        PlanDay(day=day, goes=goes[day], good=good[day], wanted=ahead.get(day, 0) if day >= today else None)
        for day in week
    ]
