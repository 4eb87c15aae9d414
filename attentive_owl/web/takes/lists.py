"""Lists of takes: the teacher's, and a pupil's own. No report is loaded whole for them."""

from __future__ import annotations

from math import ceil
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import joinedload

from attentive_owl.store.models import Take
from attentive_owl.web.access import own_studio, pupil_only, teacher_only, visitor
from attentive_owl.web.assigning import own_assignment
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.common import ById
from attentive_owl.web.schemas.takes import TakeList, TakePage, TakeQuestion, TakeRow
from attentive_owl.web.summaries import TakeSummary, summaries
from attentive_owl.web.takes.blueprint import api

_PER_PAGE = 25
_MOST_OWN = 50
_WITH_NAMES = (joinedload(Take.pupil), joinedload(Take.assignment))


@api.get("/takes", responses={200: TakePage})
@teacher_only
def listing(query: TakeQuestion) -> Any:
    """The teacher's list: what waits for a mark, oldest first; or everything, newest first."""
    with own_studio() as session:
        question = select(Take)
        if query.only == "unmarked":
            question = question.where(~Take.marks.any()).order_by(Take.recorded_at, Take.id)
        else:
            question = question.order_by(Take.recorded_at.desc(), Take.id)
        total = session.scalar(select(func.count()).select_from(question.order_by(None).subquery())) or 0
        pages = max(ceil(total / _PER_PAGE), 1)
        page = min(query.page, pages)
        shown = question.options(*_WITH_NAMES).limit(_PER_PAGE).offset((page - 1) * _PER_PAGE)
        takes = [_row(own) for own in summaries(session, shown)]
        return reply(TakePage(takes=takes, page=page, pages=pages, total=total))


def _row(own: TakeSummary) -> TakeRow:
    take = own.take
    return TakeRow(
        id=take.id,
        pupil_name=take.pupil.name,
        instrument=take.pupil.instrument,
        title=take.assignment.exercise.title,
        recorded_at=take.recorded_at,
        duration_s=take.duration_s,
        state=take.state,  # type: ignore[arg-type]
        refusal=own.refusal,
        pitch_word=own.pitch_word,
        rhythm_word=own.rhythm_word,
        good=own.good,
        played_bpm=own.played_bpm,
        target_bpm=take.assignment.target_bpm,
        verdict=own.mark.verdict if own.mark else None,  # type: ignore[arg-type]
    )


@api.get("/assignments/<uuid:id>/takes", responses={200: TakeList})
@pupil_only
def own_takes(path: ById) -> Any:
    """The pupil's own takes of one assignment, newest first."""
    with own_studio() as session:
        own_assignment(session, path.id)
        question = (
            select(Take)
            .where(Take.assignment_id == path.id, Take.pupil_id == visitor().person.id)
            .options(*_WITH_NAMES)
            .order_by(Take.recorded_at.desc())
            .limit(_MOST_OWN)
        )
        return reply(TakeList(takes=[_row(own) for own in summaries(session, question)]))
