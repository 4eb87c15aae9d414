"""The teacher's lists of takes. No report is loaded whole for them."""

from __future__ import annotations

from math import ceil
from typing import Any

from sqlalchemy import and_, func, select
from sqlalchemy.orm import joinedload

from attentive_owl.store.models import Take
from attentive_owl.web.access import own_studio, teacher_only
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.practice import Bars
from attentive_owl.web.schemas.takes import TakePage, TakeQuestion, TakeRow
from attentive_owl.web.shown import HANDED_IN, shown_to_teacher
from attentive_owl.web.studio import settings_of
from attentive_owl.web.summaries import TakeSummary, summaries
from attentive_owl.web.takes.blueprint import api

_PER_PAGE = 25
_WITH_NAMES = (joinedload(Take.pupil), joinedload(Take.assignment))


@api.get("/takes", responses={200: TakePage})
@teacher_only
def listing(query: TakeQuestion) -> Any:
    """What waits for a mark, oldest first; or all that was handed in, or the goes that were not, newest first."""
    with own_studio() as session:
        if query.only == "unmarked":
            question = select(Take).where(HANDED_IN, ~Take.marks.any()).order_by(Take.recorded_at, Take.id)
        else:
            shown = HANDED_IN
            if query.only == "goes":
                shown = and_(shown_to_teacher(settings_of(session).goes_seen), Take.handed_in_at.is_(None))
            question = select(Take).where(shown).order_by(Take.recorded_at.desc(), Take.id)
        total = session.scalar(select(func.count()).select_from(question.order_by(None).subquery())) or 0
        pages = max(ceil(total / _PER_PAGE), 1)
        page = min(query.page, pages)
        rows = question.options(*_WITH_NAMES).limit(_PER_PAGE).offset((page - 1) * _PER_PAGE)
        takes = [_row(own) for own in summaries(session, rows)]
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
        target_bpm=take.asked_bpm,
        bars=Bars.of(take.bars),
        handed_in=own.handed_in,
        felt=take.felt,  # type: ignore[arg-type]
        asks_for_help=take.help_words is not None,
        verdict=own.mark.verdict if own.mark else None,  # type: ignore[arg-type]
    )
