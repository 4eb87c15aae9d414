"""Old takes through the engine of today."""

from __future__ import annotations

from typing import Any

from sqlalchemy import Select, func, select
from sqlalchemy.orm import Session

from attentive_owl.core.judging import ENGINE
from attentive_owl.store.models import Report, Take
from attentive_owl.store.queue import defer_check
from attentive_owl.web.access import own_studio, teacher_only
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.takes import RecheckOut
from attentive_owl.web.takes.blueprint import api

_LATER = -10


def _behind() -> Select[Any]:
    """Takes that were checked, but not by the engine of today, and whose sound is still there."""
    current = select(Report.id).where(Report.take_id == Take.id, Report.engine == ENGINE)
    return select(Take.id).where(
        Take.state.in_(("checked", "refused")), Take.sound_removed_at.is_(None), ~current.exists()
    )


def _recheck_out(session: Session) -> RecheckOut:
    behind = session.scalar(select(func.count()).select_from(_behind().subquery())) or 0
    total = session.scalar(select(func.count()).select_from(Take)) or 0
    return RecheckOut(engine=ENGINE, behind=behind, total=total)


@api.get("/recheck", responses={200: RecheckOut})
@teacher_only
def recheck_progress() -> Any:
    with own_studio() as session:
        return reply(_recheck_out(session))


@api.post("/recheck", responses={202: RecheckOut})
@teacher_only
def recheck() -> Any:
    """Has every take that an earlier engine checked be checked again, behind what pupils hand in meanwhile. Earlier
    reports, marks and overrules stay."""
    with own_studio() as session:
        for take_id in session.scalars(_behind().order_by(Take.recorded_at.desc())):
            defer_check(session, take_id, priority=_LATER)
        return reply(_recheck_out(session), 202)
