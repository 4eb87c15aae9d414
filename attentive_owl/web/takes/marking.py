"""The teacher's word on a take, and the teacher's ear against its check; each can be taken back."""

from __future__ import annotations

import re
from typing import Any

from sqlalchemy import select, type_coerce
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Session

from attentive_owl.core.judging import Report as JudgedReport
from attentive_owl.store.models import Mark, Overrule, Pupil, Report, Take, Teacher
from attentive_owl.web.access import own_row, own_studio, teacher_only, visitor
from attentive_owl.web.goes import LISTENED_TO
from attentive_owl.web.problems import ProblemError
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.assignments import MarkOut
from attentive_owl.web.schemas.common import ById, Problem
from attentive_owl.web.schemas.takes import (
    Draft,
    DraftList,
    ManyMarks,
    MarkedTogether,
    NewMark,
    NewOverrule,
    OverruleOut,
)
from attentive_owl.web.shown import HANDED_IN
from attentive_owl.web.summaries import newest_of_take
from attentive_owl.web.takes.blueprint import api
from attentive_owl.web.takes.visible import judged, visible_take

_SAID = {"accepted": "accepted", "once_more": "once more", "come_and_see_me": "come and see me"}
_MOST_BEFORE = 60
_SHOWN_BEFORE = 2


def overrule_out(own: Overrule) -> OverruleOut:
    return OverruleOut(
        id=own.id,
        created_at=own.created_at,
        teacher_name=own.teacher.name,
        note_index=own.note_index,
        cause=own.cause,
        says=own.says,  # type: ignore[arg-type]
        remark=own.remark,
    )


@api.post("/takes/<uuid:id>/marks", responses={201: MarkOut, 409: Problem})
@teacher_only
def mark(path: ById, body: NewMark) -> Any:
    with own_studio() as session:
        # Locked, so that of two words at one time the second sees the first.
        session.execute(select(Take.id).where(Take.id == path.id).with_for_update())
        take = visible_take(session, path.id)
        newest = take.marks[-1] if take.marks else None
        if newest is not None and newest.id != body.after:
            raise ProblemError(409, _said_by(session, newest, take))
        given = Mark(take_id=take.id, teacher_id=visitor().person.id, verdict=body.verdict, remark=body.remark)
        session.add(given)
        session.flush()
        session.refresh(given)
        return reply(MarkOut.model_validate(given, from_attributes=True), 201)


def _said_by(session: Session, newest: Mark, take: Take) -> str:
    who = session.get_one(Teacher, newest.teacher_id).name
    return (
        f"{who} has said something of this take in the meantime: “{_SAID[newest.verdict]}”. Look at it, then say yours."
    )


@api.post("/marks", responses={201: MarkedTogether})
@teacher_only
def mark_together(body: ManyMarks) -> Any:
    """The same word for several takes. Those of which somebody has said something already are left out."""
    with own_studio() as session:
        free = session.scalars(
            select(Take)
            .where(Take.id.in_(body.take_ids), HANDED_IN, ~Take.marks.any(), Take.state.in_(LISTENED_TO))
            .order_by(Take.id)
            .with_for_update()
        ).all()
        given = [
            Mark(take_id=take.id, teacher_id=visitor().person.id, verdict=body.verdict, remark=body.remark)
            for take in free
        ]
        session.add_all(given)
        session.flush()
        marks = [MarkOut.model_validate(own, from_attributes=True) for own in given]
        return reply(MarkedTogether(marks=marks, left_out=len(set(body.take_ids)) - len(marks)), 201)


@api.get("/takes/<uuid:id>/drafts", responses={200: DraftList})
@teacher_only
def drafts(path: ById) -> Any:
    """What might be said of a take: the teacher's own words of before on the same thing, then the report's."""
    with own_studio() as session:
        take = visible_take(session, path.id)
        report = judged(take)
        found = [Draft(text=words, source="own") for words in _words_of_before(session, take, report)]
        if report is not None and report.advice:
            said = [own.text for own in report.advice if own.kind in ("praise", "change")]
            found.append(Draft(text=" ".join(said[:2]), source="report"))
        return reply(DraftList(drafts=found))


def _words_of_before(session: Session, take: Take, report: JudgedReport | None) -> list[str]:
    """What this teacher wrote of other takes with the same main cause, the newest first. Words with a pupil's name in them were for
    that pupil alone."""
    if report is None or not report.causes:
        return []
    main = report.causes[0]
    same: dict[str, Any] = {own: getattr(main, own) for own in ("kind", "string", "finger", "towards")}
    # What was said of eighths is not so of quarters.
    same["detail"] = {own: main.detail[own] for own in ("beats", "like") if own in main.detail}
    rows = session.execute(
        select(Mark.remark)
        .join(Take, Take.id == Mark.take_id)
        .join(Report, Report.id == newest_of_take(Report))
        .where(
            Mark.teacher_id == visitor().person.id,
            Mark.take_id != take.id,
            Mark.remark != "",
            type_coerce(Report.causes, JSONB)[0].contains(same),
        )
        .order_by(Mark.created_at.desc())
        .limit(_MOST_BEFORE)
    ).scalars()
    names = {word for name in session.scalars(select(Pupil.name)) for word in name.casefold().split() if len(word) > 1}
    words = dict.fromkeys(rows)
    return [own for own in words if not names & set(re.findall(r"\w+", own.casefold()))][:_SHOWN_BEFORE]


@api.delete("/marks/<uuid:id>", responses={200: MarkOut})
@teacher_only
def take_mark_back(path: ById) -> Any:
    """Undo of a mark."""
    with own_studio() as session:
        given = own_row(session, Mark, path.id)
        out = MarkOut.model_validate(given, from_attributes=True)
        session.delete(given)
        return reply(out)


@api.post("/takes/<uuid:id>/overrules", responses={201: OverruleOut, 422: Problem})
@teacher_only
def overrule(path: ById, body: NewOverrule) -> Any:
    """The teacher's ear against the check, of one note or one cause; said again, the newer word replaces the older."""
    with own_studio() as session:
        # Locked, so that of two at one time the second replaces the first.
        session.execute(select(Take.id).where(Take.id == path.id).with_for_update())
        take = visible_take(session, path.id)
        notes = len(take.report.document["notes"]) if take.report else 0
        if body.note_index is not None and body.note_index >= notes:
            raise ProblemError(422, "The line has no such note.")
        for earlier in take.overrules:
            if (earlier.note_index, earlier.cause) == (body.note_index, body.cause):
                session.delete(earlier)
        session.flush()
        own = Overrule(take_id=take.id, teacher_id=visitor().person.id, **body.model_dump())
        session.add(own)
        session.flush()
        session.refresh(own)
        return reply(overrule_out(own), 201)


@api.delete("/overrules/<uuid:id>", responses={200: OverruleOut})
@teacher_only
def take_overrule_back(path: ById) -> Any:
    with own_studio() as session:
        own = own_row(session, Overrule, path.id)
        out = overrule_out(own)
        session.delete(own)
        return reply(out)
