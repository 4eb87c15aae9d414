"""The teacher's lists of takes. No report is loaded whole for them."""

from __future__ import annotations

from typing import Any

from sqlalchemy import Select, and_, or_, select
from sqlalchemy.orm import joinedload

from attentive_owl.core.judging import Need
from attentive_owl.store.models import ALSO_IN, Assignment, Exercise, Pupil, Take
from attentive_owl.web.access import own_studio, teacher_only
from attentive_owl.web.paging import Page, count_of
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.practice import Bars
from attentive_owl.web.schemas.takes import TakePage, TakeQuestion, TakeRow
from attentive_owl.web.shown import HANDED_IN, shown_to_teacher
from attentive_owl.web.studio import studio_settings
from attentive_owl.web.summaries import TakeSummary, summaries
from attentive_owl.web.takes.blueprint import api
from attentive_owl.web.takes.waiting import in_order_of_need, waits

_PER_PAGE = 25
_WITH_NAMES = (joinedload(Take.pupil), joinedload(Take.assignment))


@api.get("/takes", responses={200: TakePage})
@teacher_only
def listing(query: TakeQuestion) -> Any:
    """What waits for a mark, in the order in which it wants an ear; or all that was handed in, or the goes that were not, the newest
    first."""
    with own_studio() as session:
        if query.only == "unmarked":
            order = in_order_of_need(session, _narrowed(waits(), query))
            paged = Page(len(order), _PER_PAGE, query.page)
            needs = {own.take_id: own.need for own in order[paged.own]}
            rows = summaries(session, select(Take).where(Take.id.in_(needs)).options(*_WITH_NAMES))
            found = {own.take.id: own for own in rows}
            # One that was erased between the two questions is not there any more.
            takes = [_row(found[take_id], need) for take_id, need in needs.items() if take_id in found]
            none_yet = not order and session.scalar(select(Take.id).where(HANDED_IN).limit(1)) is None
            return reply(
                TakePage(takes=takes, page=paged.page, pages=paged.pages, total=paged.total, none_yet=none_yet)
            )
        shown = HANDED_IN
        if query.only == "goes":
            shown = and_(shown_to_teacher(studio_settings().goes_seen), Take.handed_in_at.is_(None))
        question = _narrowed(select(Take).join(Pupil, Pupil.id == Take.pupil_id).where(shown), query)
        paged = Page(count_of(session, question), _PER_PAGE, query.page)
        newest = question.order_by(Take.recorded_at.desc(), Take.id)
        rows = summaries(session, newest.options(*_WITH_NAMES).limit(_PER_PAGE).offset(paged.first))
        takes = [_row(own) for own in rows]
        return reply(TakePage(takes=takes, page=paged.page, pages=paged.pages, total=paged.total))


def _narrowed(question: Select[Take], query: TakeQuestion) -> Select[Take]:
    """The question with the filters of the list; it has joined the pupil."""
    if query.class_id is not None:
        guests = select(ALSO_IN.c.pupil_id).where(ALSO_IN.c.class_id == query.class_id)
        question = question.where(or_(Pupil.group_id == query.class_id, Pupil.id.in_(guests)))
    if query.pupil_id is not None:
        question = question.where(Pupil.id == query.pupil_id)
    if query.instrument is not None:
        question = question.where(Pupil.instrument == query.instrument)
    for word in query.search.split():
        titled = select(Assignment.id).join(Exercise, Exercise.id == Assignment.exercise_id)
        like = titled.where(Exercise.title.icontains(word, autoescape=True))
        question = question.where(or_(Pupil.name.icontains(word, autoescape=True), Take.assignment_id.in_(like)))
    return question


def _row(own: TakeSummary, need: Need | None = None) -> TakeRow:
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
        need=need.kind if need else None,
        why=need.why if need else "",
    )
