"""The figures of many takes, without the takes: for pictures of a class and of months."""

from __future__ import annotations

import uuid
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import ColumnElement, ScalarSelect, Select, false, func, select
from sqlalchemy.orm import Session

from attentive_owl.core.judging import REPORT_VERSION
from attentive_owl.store.models import Assignment, Mark, Report, Take
from attentive_owl.web.summaries import TakeSummary, newest_of_take, share_home, summaries

_JUDGED = (Take.state == "checked", Take.first_bar.is_(None), Take.thrown_away_at.is_(None))
READ_WHOLE = Take.overrules.any() | (Report.version < REPORT_VERSION)
"""Takes whose columns do not say it as it stands: they are read whole."""


@dataclass(frozen=True)
class Figures:
    """Of one go through a whole line that could be judged."""

    take_id: uuid.UUID
    pupil_id: uuid.UUID
    exercise_id: uuid.UUID
    recorded_at: datetime
    bpm: float
    """As it was asked for."""
    good: bool
    pitch_share: float
    time_share: float
    home_share: float
    accepted: bool


@dataclass(frozen=True)
class HeardIn:
    """What was found in one go: its causes, the weightiest first, and wrong notes by name."""

    take_id: uuid.UUID
    pupil_id: uuid.UUID
    exercise_id: uuid.UUID
    recorded_at: datetime
    causes: list[dict[str, Any]]
    wrong_names: list[str]


def read_whole(session: Session, ids: set[uuid.UUID]) -> dict[uuid.UUID, TakeSummary]:
    if not ids:
        return {}
    return {own.take.id: own for own in summaries(session, select(Take).where(Take.id.in_(ids)))}


def _verdict() -> ScalarSelect[str]:
    """The teacher's newest."""
    return select(Mark.verdict).where(Mark.id == newest_of_take(Mark)).correlate(Take).scalar_subquery()


def _of_goes(*which: ColumnElement[bool], columns: Sequence[Any]) -> Select[Any]:
    """Take, pupil, exercise, time, the columns, and whether it is to be read whole; the oldest first."""
    return (
        select(Take.id, Take.pupil_id, Assignment.exercise_id, Take.recorded_at, *columns, READ_WHOLE)
        .join(Assignment, Assignment.id == Take.assignment_id)
        .join(Report, Report.id == newest_of_take(Report))
        .where(*_JUDGED, *which)
        .order_by(Take.recorded_at)
    )


def figures(session: Session, *which: ColumnElement[bool]) -> list[Figures]:
    """Of the takes that `which` names, the oldest first; pieces of a line and what was thrown away are left out."""
    rows = session.execute(
        _of_goes(
            *which,
            columns=(
                func.coalesce(Take.bpm, Assignment.target_bpm),
                Report.good,
                Report.pitch_home,
                Report.pitch_of,
                Report.rhythm_home,
                Report.rhythm_of,
                _verdict(),
            ),
        )
    ).all()
    whole = read_whole(session, {row[0] for row in rows if row[-1]})
    found = []
    for take_id, pupil_id, exercise_id, at, bpm, good, *homes, verdict, _ in rows:
        own = whole.get(take_id)
        found.append(
            Figures(
                take_id,
                pupil_id,
                exercise_id,
                at,
                bpm,
                own.good if own else bool(good),
                share_home(homes[0], homes[1], None, None),
                share_home(None, None, homes[2], homes[3]),
                own.home_share if own else share_home(*homes),
                verdict == "accepted",
            )
        )
    return found


def heard_in(session: Session, *which: ColumnElement[bool]) -> list[HeardIn]:
    """Of the same takes, the oldest first."""
    rows = session.execute(_of_goes(*which, columns=(Report.causes, Report.wrong_names))).all()
    whole = read_whole(session, {row[0] for row in rows if row[-1]})
    found = []
    for take_id, pupil_id, exercise_id, at, causes, wrong, _ in rows:
        own = whole.get(take_id)
        said = own.causes if own else list(causes or [])
        found.append(HeardIn(take_id, pupil_id, exercise_id, at, said, list(wrong or [])))
    return found


@dataclass(frozen=True)
class GoBrief:
    """What a list of the week needs of one go."""

    take_id: uuid.UUID
    whole: bool
    """Through the whole line."""
    good: bool
    handed_in: bool
    verdict: str | None


def goes_of_week(
    session: Session, assignment_ids: Iterable[uuid.UUID]
) -> dict[tuple[uuid.UUID, uuid.UUID], list[GoBrief]]:
    """By assignment and pupil, the oldest first; also those that are not listened to yet."""
    rows = session.execute(
        select(
            Take.id,
            Take.assignment_id,
            Take.pupil_id,
            Take.first_bar.is_(None),
            Report.good,
            Take.handed_in_at.is_not(None),
            _verdict(),
            func.coalesce(READ_WHOLE, false()),
        )
        .outerjoin(Report, Report.id == newest_of_take(Report))
        .where(Take.assignment_id.in_(list(assignment_ids)))
        .order_by(Take.recorded_at)
    ).all()
    whole = read_whole(session, {row[0] for row in rows if row[-1]})
    found: dict[tuple[uuid.UUID, uuid.UUID], list[GoBrief]] = defaultdict(list)
    for take_id, assignment_id, pupil_id, all_of_it, good, handed_in, verdict, _ in rows:
        own = whole.get(take_id)
        said = own.good if own else bool(good)
        found[assignment_id, pupil_id].append(GoBrief(take_id, all_of_it, said and all_of_it, handed_in, verdict))
    return found
