"""A take that the visitor may see, and its report after the teacher's ear."""

from __future__ import annotations

import uuid

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload, selectinload

from attentive_owl.core.judging import Report as JudgedReport
from attentive_owl.store.models import Report, Take
from attentive_owl.web.access import visitor
from attentive_owl.web.problems import not_found
from attentive_owl.web.schemas.reports import overruling_of, report_from
from attentive_owl.web.shown import shown_to_teacher
from attentive_owl.web.studio import studio_settings

_BARE = (joinedload(Take.pupil), joinedload(Take.assignment))
_WHOLE = (
    *_BARE,
    selectinload(Take.reports).undefer(Report.document),
    selectinload(Take.marks),
    selectinload(Take.overrules),
)


def visible_take(session: Session, take_id: uuid.UUID, whole: bool = True) -> Take:
    """One's own for a pupil, for a teacher what is shown to teachers; not `whole`: without its reports, which are long, and what was said
    of it. Raises 404."""
    question = select(Take).where(Take.id == take_id).options(*(_WHOLE if whole else _BARE))
    if visitor().person.role == "pupil":
        question = question.where(Take.pupil_id == visitor().person.id)
    else:
        question = question.where(shown_to_teacher(studio_settings().goes_seen))
    take = session.scalars(question).unique().one_or_none()
    if take is None:
        raise not_found()
    return take


def judged(take: Take) -> JudgedReport | None:
    """The newest report, with the teacher's ear laid over it."""
    if take.report is None:
        return None
    return report_from(take.report.document, map(overruling_of, take.overrules))


def sound_is_gone(take: Take) -> bool:
    """Its keeping time is over, or the adult has taken the yes back: then it is hidden at once, and deleted soon after."""
    return take.sound_removed_at is not None or take.pupil.consent_at is None
