"""What waits for the teacher, in the order in which it wants an ear."""

from __future__ import annotations

import uuid
from collections import defaultdict
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from sqlalchemy import Select, and_, func, select
from sqlalchemy.orm import Session

from attentive_owl.core.judging import Need, Usual, WaitingTake, need_of, usual
from attentive_owl.store.models import Pupil, Report, Take
from attentive_owl.web.shown import HANDED_IN
from attentive_owl.web.summaries import TakeSummary, newest_of_take, share_home, summaries

_MOST_WAITING = 600
_EARLIER = 10
_USUAL_OF = timedelta(days=60)


@dataclass(frozen=True)
class Waiting:
    summary: TakeSummary
    need: Need


def waits() -> Select[Take]:
    """Handed in, by a pupil who is still there, and no word on it yet; the oldest first."""
    return (
        select(Take)
        .join(Pupil, Pupil.id == Take.pupil_id)
        .where(HANDED_IN, ~Take.marks.any(), Pupil.archived_at.is_(None))
        .order_by(Take.recorded_at, Take.id)
    )


def in_order_of_need(session: Session, question: Select[Take]) -> list[Waiting]:
    """Of equal need the oldest first."""
    rows = summaries(session, question.limit(_MOST_WAITING))
    usuals = _usual_shares(session, {row.take.pupil_id for row in rows}, {row.take.id for row in rows})
    found = [Waiting(row, need_of(_known(row, usuals.get(row.take.pupil_id)))) for row in rows]
    return sorted(found, key=lambda own: own.need.kind.rank)


def _known(row: TakeSummary, own_usual: Usual | None) -> WaitingTake:
    take = row.take
    return WaitingTake(
        state=take.state,  # type: ignore[arg-type]
        asks_for_help=take.help_words is not None,
        too_hard=take.felt == "too_hard",
        refusal=row.refusal,
        good=row.good,
        home_share=row.home_share,
        notes=row.notes,
        wrong=row.wrong,
        unclear=row.unclear,
        causes=[(cause["kind"], cause.get("title") or "") for cause in row.causes],
        usual=own_usual,
    )


def _usual_shares(session: Session, pupils: set[uuid.UUID], but: set[uuid.UUID]) -> dict[uuid.UUID, Usual | None]:
    """What is usual for each pupil, from the last takes that do not wait."""
    since = datetime.now(UTC) - _USUAL_OF
    place = func.row_number().over(partition_by=Take.pupil_id, order_by=Take.recorded_at.desc())
    # The last few of each pupil first, and only of these the reports.
    ranked = (
        select(Take.id, place.label("place"))
        .where(
            Take.pupil_id.in_(pupils),
            Take.id.not_in(but),
            Take.state == "checked",
            Take.first_bar.is_(None),
            Take.recorded_at > since,
        )
        .subquery()
    )
    question = (
        select(Take.pupil_id, Report.pitch_home, Report.pitch_of, Report.rhythm_home, Report.rhythm_of)
        .join(ranked, and_(ranked.c.id == Take.id, ranked.c.place <= _EARLIER))
        .join(Report, Report.id == newest_of_take(Report))
    )
    shares: dict[uuid.UUID, list[float]] = defaultdict(list)
    for pupil_id, *homes in session.execute(question):
        shares[pupil_id].append(share_home(*homes))
    return {pupil_id: usual(own) for pupil_id, own in shares.items()}
