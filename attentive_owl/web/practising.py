"""The pupil's own pages: today, the record of what was practised, and the week for the adult at home."""

from __future__ import annotations

import io
import uuid
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from typing import Any

from flask import send_file
from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from attentive_owl.core.exercises import family
from attentive_owl.core.instruments import INSTRUMENTS, PLAYING_CARE, tuning_care_for_adults
from attentive_owl.core.planning import Day, Share, practice_minutes
from attentive_owl.core.theory import in_vocabulary
from attentive_owl.formats.paper.sheet import SheetPart
from attentive_owl.formats.paper.week_sheet import WeekItem, week_sheet_pdf
from attentive_owl.store.calendar import studio_days_off
from attentive_owl.store.exercises import LineAsSet, line_as_set, recipe_from_document
from attentive_owl.store.models import Assignment, AssignmentPupil, Pupil, Take
from attentive_owl.web.access import own_studio, pupil_only, visitor
from attentive_owl.web.areas import Area
from attentive_owl.web.assigning import takes_of
from attentive_owl.web.clock import StudioClock, studio_clock
from attentive_owl.web.goes import standing_on_ladder
from attentive_owl.web.passing import passed_by
from attentive_owl.web.planned import planned, week_of
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.assignments import MarkOut, Today, TodayItem
from attentive_owl.web.schemas.record import (
    Favourite,
    GoOnTheWay,
    Home,
    HomeItem,
    PassedStepOut,
    PractisedDay,
    Record,
    WayWithExercise,
)
from attentive_owl.web.schemas.studio import StudioSettings
from attentive_owl.web.studio import checklist_for, marks_for, studio_settings
from attentive_owl.web.summaries import TakeSummary, summaries
from attentive_owl.web.week_paper import week_paper

api = Area("practising", __name__, 401)
_SEEN_PAST_DUE = timedelta(days=7)
_RECORD_DAYS = 84
_MOST_GOES = 1000


@dataclass(frozen=True)
class _Plan:
    assignments: list[Assignment]
    rows: dict[uuid.UUID, list[TakeSummary]]
    """By assignment, the oldest first."""
    days: tuple[Day, ...]
    """Today and the six after it."""

    @property
    def all_rows(self) -> list[TakeSummary]:
        return [row for rows in self.rows.values() for row in rows]

    @property
    def today(self) -> dict[str, Share]:
        """By the assignment's key, in the order in which they are practised."""
        return {share.key: share for share in self.days[0].shares}


def _own_plan(session: Session, clock: StudioClock) -> _Plan:
    own_id = visitor().person.id
    assignments = session.scalars(
        select(Assignment)
        .join(AssignmentPupil, AssignmentPupil.assignment_id == Assignment.id)
        .where(AssignmentPupil.pupil_id == own_id, Assignment.due_on >= clock.today() - _SEEN_PAST_DUE)
        .order_by(Assignment.due_on, Assignment.created_at)
        .limit(12)
    ).all()
    rows: dict[uuid.UUID, list[TakeSummary]] = defaultdict(list)
    for row in takes_of(session, [a.id for a in assignments], own_id):
        rows[row.take.assignment_id].append(row)
    return _Plan(list(assignments), rows, planned(assignments, rows, clock, studio_days_off(session)))


@api.get("/today", responses={200: Today})
@pupil_only
def own_today() -> Any:
    clock = studio_clock()
    with own_studio() as session:
        plan = _own_plan(session, clock)
        shares = plan.today
        order = {key: place for place, key in enumerate(shares)}
        since = clock.midnight()
        items = [_today_item(a, plan.rows.get(a.id, []), since, shares.get(str(a.id))) for a in plan.assignments]
        # As they are practised; what is not for today after that, and what is accepted already last.
        items.sort(key=lambda item: (item.accepted, order.get(str(item.assignment_id), len(order)), item.due_on))
        week = week_of(plan.days, plan.all_rows, clock)
        return reply(Today(today=clock.today(), name=visitor().person.name, items=items, week=week))


def _today_item(assignment: Assignment, rows: list[TakeSummary], since: datetime, share: Share | None) -> TodayItem:
    marks = [row.mark for row in rows if row.mark]
    own_today = [row for row in rows if row.take.recorded_at >= since]
    last = max(marks, key=lambda mark: mark.created_at, default=None)
    return TodayItem(
        assignment_id=assignment.id,
        title=assignment.exercise.title,
        due_on=assignment.due_on,
        target_bpm=assignment.target_bpm,
        good_repeats=assignment.good_repeats,
        note=assignment.note,
        goes_today=len(own_today),
        good_today=sum(row.good_line for row in own_today),
        wanted_today=share.wanted if share else 0,
        takes=sum(row.take.bars is None and row.take.thrown_away_at is None for row in rows),
        handed_in=any(row.handed_in for row in rows),
        accepted=any(row.accepted for row in rows),
        last_mark=MarkOut.model_validate(last, from_attributes=True) if last else None,
    )


@api.get("/record", responses={200: Record})
@pupil_only
def record() -> Any:
    """Twelve weeks of practice. It is the pupil's own: nothing in it is set beside anybody else's."""
    clock = studio_clock()
    since = clock.today() - timedelta(days=_RECORD_DAYS)
    with own_studio() as session:
        question = (
            select(Take)
            .where(
                Take.pupil_id == visitor().person.id,
                Take.recorded_at >= datetime.now(UTC) - timedelta(days=_RECORD_DAYS),
            )
            .options(joinedload(Take.assignment))
            .order_by(Take.recorded_at.desc())
            .limit(_MOST_GOES)
        )
        rows = list(reversed(summaries(session, question)))
        passed = [
            PassedStepOut(title=own.title, on=clock.local(own.created_at).date())
            for own in passed_by(session, [visitor().person.id])[visitor().person.id]
        ]
        return reply(
            Record(
                since=since,
                days=_days(rows, clock),
                ways=_ways(rows),
                favourites=_favourites(reversed(rows)),
                passed=passed,
            )
        )


def _days(rows: list[TakeSummary], clock: StudioClock) -> list[PractisedDay]:
    by_day: dict[date, list[TakeSummary]] = defaultdict(list)
    for row in rows:
        by_day[clock.local(row.take.recorded_at).date()].append(row)
    return [
        PractisedDay(
            day=day,
            goes=len(own),
            good=sum(row.good_line for row in own),
            seconds=sum(row.take.duration_s for row in own),
        )
        for day, own in by_day.items()
    ]


def _ways(rows: list[TakeSummary]) -> list[WayWithExercise]:
    by_exercise: dict[uuid.UUID, list[TakeSummary]] = {}
    for row in rows:
        if row.take.bars is None and row.take.state == "checked" and row.take.thrown_away_at is None:
            # The one that was practised last comes last here.
            own = by_exercise.pop(row.take.assignment.exercise_id, [])
            by_exercise[row.take.assignment.exercise_id] = [*own, row]
    return [
        WayWithExercise(
            exercise_id=key,
            title=own[-1].take.assignment.exercise.title,
            goes=[
                GoOnTheWay(
                    id=row.take.id,
                    recorded_at=row.take.recorded_at,
                    bpm=row.take.asked_bpm,
                    good=row.good,
                    home_share=row.home_share,
                    kept=row.take.kept_at is not None,
                )
                for row in own
            ],
            reached_bpm=max((row.take.asked_bpm for row in own if row.good), default=None),
            passed=any(row.accepted for row in own),
        )
        for key, own in reversed(by_exercise.items())
    ]


def _favourites(rows: Iterable[TakeSummary]) -> list[Favourite]:
    return [
        Favourite(id=row.take.id, title=row.take.assignment.exercise.title, recorded_at=row.take.recorded_at)
        for row in rows
        if row.take.kept_at is not None and row.take.thrown_away_at is None
    ]


@dataclass(frozen=True)
class _HomeLine:
    assignment: Assignment
    line: LineAsSet
    """At the tempo at which it is practised now."""
    wanted: int
    good: int


def _home_week(session: Session, clock: StudioClock) -> tuple[_Plan, Pupil, list[_HomeLine]]:
    """What is practised this week, in its order; what was accepted is left out, but where it comes back today."""
    plan, since = _own_plan(session, clock), clock.midnight()
    pupil = session.get_one(Pupil, visitor().person.id)
    shares = plan.today
    order = {key: place for place, key in enumerate(shares)}
    lines = []
    for own in plan.assignments:
        rows = plan.rows.get(own.id, [])
        share = shares.get(str(own.id))
        passed = any(row.accepted for row in rows)
        if share is None and passed:
            continue
        standing = standing_on_ladder(rows, own)
        bpm = standing.bpm if standing else own.target_bpm
        good = sum(row.good_line for row in rows if row.take.recorded_at >= since)
        lines.append(_HomeLine(own, line_as_set(session, own, pupil, bpm), share.wanted if share else 0, good))
    return plan, pupil, sorted(lines, key=lambda own: order.get(str(own.assignment.id), len(order)))


def _minutes(lines: Iterable[_HomeLine]) -> int:
    return practice_minutes(
        (own.wanted, float(own.line.score.end_beats - own.line.score.start_beats) * 60 / own.line.score.tempo_bpm)
        for own in lines
    )


@api.get("/home", responses={200: Home})
@pupil_only
def home() -> Any:
    """For the adult at home, who comes in with the pupil's card."""
    clock, settings = studio_clock(), studio_settings()
    with own_studio() as session:
        plan, pupil, lines = _home_week(session, clock)
        player = INSTRUMENTS[pupil.instrument]
        return reply(
            Home(
                name=pupil.name,
                instrument=pupil.instrument,
                today=clock.today(),
                week=week_of(plan.days, plan.all_rows, clock),
                items=[
                    HomeItem(
                        title=own.assignment.exercise.title,
                        due_on=own.assignment.due_on,
                        target_bpm=own.assignment.target_bpm,
                        bpm=own.line.score.tempo_bpm,
                        wanted_today=own.wanted,
                        good_today=own.good,
                        note=own.assignment.note,
                    )
                    for own in lines
                ],
                minutes_today=_minutes(lines),
                checklist=checklist_for(settings, player),
                strings=[string.name for string in player.strings],
                tuning_care=tuning_care_for_adults(player),
                care=PLAYING_CARE,
                may_record=visitor().person.may_record,
            )
        )


@api.get("/home.pdf")
@pupil_only
def home_on_paper() -> Any:
    """The same on one sheet, with the lines engraved."""
    clock, settings = studio_clock(), studio_settings()
    with own_studio() as session:
        _, pupil, lines = _home_week(session, clock)
        minutes = _minutes(lines)
        how_long = f"About {minutes} minutes a day: little and often." if minutes else "Nothing is set for today."
        items = [_week_item(own, pupil, settings, clock.today()) for own in lines]
        sheet = week_paper(pupil, settings, clock.today(), items, how_long)
    pdf = week_sheet_pdf(sheet)
    return send_file(io.BytesIO(pdf), mimetype="application/pdf", download_name="week.pdf", max_age=0)


def _week_item(own: _HomeLine, pupil: Pupil, settings: StudioSettings, day: date) -> WeekItem:
    assignment, recipe = own.assignment, recipe_from_document(own.line.recipe)
    marks = marks_for(settings, pupil.instrument, pupil.marks)
    part = None if family(recipe.family).hidden else SheetPart(own.line.score, marks)
    return WeekItem(
        part, in_vocabulary(assignment.exercise.title, settings.values), _how(own, day), assignment.note, recipe.signs
    )


def _how(own: _HomeLine, day: date) -> str:
    """How often, how fast, until when."""
    due, target, now = own.assignment.due_on, own.assignment.target_bpm, own.line.score.tempo_bpm
    if due < day:
        return "An old friend: it comes back now and then."
    wanted = f"{own.wanted} good {'go' if own.wanted == 1 else 'goes'} today" if own.wanted else "Not for today"
    tempo = f"at {now:.0f} now and up to {target:.0f}" if now < target else f"at {now:.0f}"
    return f"{wanted}, {tempo}; for {due:%A} {due.day} {due:%B}."
