"""The figures of many takes, without the takes: for pictures of a class and of months."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import Session

from attentive_owl.core.judging import REPORT_VERSION
from attentive_owl.store.models import Assignment, Mark, Report, Take
from attentive_owl.web.summaries import newest_of_take, share_home, summaries


@dataclass(frozen=True)
class Figures:
    """Of one go through a whole line that could be judged."""

    take_id: uuid.UUID
    pupil_id: uuid.UUID
    exercise_id: uuid.UUID
    recorded_at: datetime
    bpm: float
    """As it was asked for."""
    played_bpm: float | None
    good: bool
    pitch_share: float
    time_share: float
    home_share: float
    accepted: bool
    causes: list[dict[str, Any]]
    wrong_names: list[str]


def figures(session: Session, *which: ColumnElement[bool]) -> list[Figures]:
    """Of the takes that `which` names, the oldest first; pieces of a line and what was thrown away are left out."""
    rows = session.execute(
        select(
            Take.id,
            Take.pupil_id,
            Assignment.exercise_id,
            Take.recorded_at,
            func.coalesce(Take.bpm, Assignment.target_bpm),
            Report.played_bpm,
            Report.good,
            Report.pitch_home,
            Report.pitch_of,
            Report.rhythm_home,
            Report.rhythm_of,
            Report.causes,
            Report.wrong_names,
            select(Mark.verdict).where(Mark.id == newest_of_take(Mark)).correlate(Take).scalar_subquery(),
            Take.overrules.any() | (Report.version < REPORT_VERSION),
        )
        .join(Assignment, Assignment.id == Take.assignment_id)
        .join(Report, Report.id == newest_of_take(Report))
        .where(Take.state == "checked", Take.first_bar.is_(None), Take.thrown_away_at.is_(None), *which)
        .order_by(Take.recorded_at)
    ).all()
    corrected = {row[0] for row in rows if row[-1]}
    whole = {own.take.id: own for own in summaries(session, select(Take).where(Take.id.in_(corrected)))}
    found = []
    for take_id, pupil_id, exercise_id, at, bpm, played, good, *rest in rows:
        *homes, causes, wrong, verdict, _ = rest
        own = whole.get(take_id)
        found.append(
            Figures(
                take_id,
                pupil_id,
                exercise_id,
                at,
                bpm,
                played,
                own.good if own else bool(good),
                share_home(homes[0], homes[1], None, None),
                share_home(None, None, homes[2], homes[3]),
                own.home_share if own else share_home(*homes),
                verdict == "accepted",
                own.causes if own else list(causes or []),
                list(wrong or []),
            )
        )
    return found
