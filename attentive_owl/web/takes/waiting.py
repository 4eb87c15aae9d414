"""What waits for the teacher, in the order in which it wants an ear."""

from __future__ import annotations

import uuid
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import BindParameter, Select, Uuid, all_, and_, any_, false, func, literal, select
from sqlalchemy.dialects.postgresql import ARRAY
from sqlalchemy.orm import Session

from attentive_owl.core.judging import Need, Usual, WaitingTake, need_of, usual
from attentive_owl.store.models import Pupil, Report, Take
from attentive_owl.web.figures import READ_WHOLE, read_whole
from attentive_owl.web.shown import HANDED_IN
from attentive_owl.web.summaries import TakeSummary, newest_of_take, share_home

_MOST_WAITING = 600
_EARLIER = 10
_USUAL_OF = timedelta(days=60)


@dataclass(frozen=True)
class Waiting:
    take_id: uuid.UUID
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
    """Of equal need the oldest first. Of each take only what its need hangs on is read: every list, and every take that is opened, asks
    for the order of all that waits."""
    asked = (
        question.with_only_columns(
            Take.id, Take.pupil_id, Take.state, Take.help_words.is_not(None), Take.felt == "too_hard", func.coalesce(READ_WHOLE, false()),
            Report.refusal_title, Report.good, Report.all_notes, Report.wrong_notes, Report.unclear_notes, Report.untimed_notes,
            Report.causes, Report.pitch_home, Report.pitch_of, Report.rhythm_home, Report.rhythm_of, maintain_column_froms=True,
        )
        .outerjoin(Report, Report.id == newest_of_take(Report))
        .limit(_MOST_WAITING)
    )  # fmt: skip
    rows = session.execute(asked).all()
    whole = read_whole(session, {row[0] for row in rows if row[5]})
    usuals = _usual_shares(session, {row[1] for row in rows}, {row[0] for row in rows})
    found = []
    for take_id, pupil_id, state, helps, hard, _, refusal, good, notes, wrong, unclear, untimed, causes, *homes in rows:
        known = WaitingTake(
            state=state,  # type: ignore[arg-type]
            asks_for_help=helps,
            too_hard=bool(hard),
            refusal=refusal,
            good=bool(good),
            home_share=share_home(*homes),
            notes=notes or 0,
            wrong=wrong or 0,
            unclear=unclear or 0,
            untimed=untimed or 0,
            causes=_named(causes),
            usual=usuals.get(pupil_id),
        )
        found.append(Waiting(take_id, need_of(_as_it_stands(known, whole[take_id]) if take_id in whole else known)))
    return sorted(found, key=lambda own: own.need.kind.rank)


def _as_it_stands(known: WaitingTake, row: TakeSummary) -> WaitingTake:
    return replace(
        known,
        refusal=row.refusal,
        good=row.good,
        home_share=row.home_share,
        notes=row.notes,
        wrong=row.wrong,
        unclear=row.unclear,
        untimed=row.untimed,
        causes=_named(row.causes),
    )


def _named(causes: Sequence[Mapping[str, Any]] | None) -> list[tuple[str, str]]:
    return [(cause["kind"], cause.get("title") or "") for cause in causes or ()]


def _usual_shares(session: Session, pupils: set[uuid.UUID], but: set[uuid.UUID]) -> dict[uuid.UUID, Usual | None]:
    """What is usual for each pupil, from the last takes that do not wait."""
    since = datetime.now(UTC) - _USUAL_OF
    place = func.row_number().over(partition_by=Take.pupil_id, order_by=Take.recorded_at.desc())
    # The last few of each pupil first, and only of these the reports.
    ranked = (
        select(Take.id, place.label("place"))
        .where(
            Take.pupil_id == any_(_array(pupils)),
            Take.id != all_(_array(but)),
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


def _array(ids: set[uuid.UUID]) -> BindParameter[list[uuid.UUID]]:
    """As one value: a question with hundreds of places would be put together anew each time."""
    return literal(list(ids), ARRAY(Uuid))
