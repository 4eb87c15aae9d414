"""The teacher's word on a take, and the teacher's ear against its check; each can be taken back."""

from __future__ import annotations

from typing import Any

from attentive_owl.store.models import Mark, Overrule
from attentive_owl.web.access import own_row, own_studio, teacher_only, visitor
from attentive_owl.web.problems import ProblemError
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.assignments import MarkOut
from attentive_owl.web.schemas.common import ById, Problem
from attentive_owl.web.schemas.takes import NewMark, NewOverrule, OverruleOut
from attentive_owl.web.takes.blueprint import api
from attentive_owl.web.takes.visible import visible_take


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


@api.post("/takes/<uuid:id>/marks", responses={201: MarkOut})
@teacher_only
def mark(path: ById, body: NewMark) -> Any:
    with own_studio() as session:
        take = visible_take(session, path.id)
        given = Mark(take_id=take.id, teacher_id=visitor().person.id, verdict=body.verdict, remark=body.remark)
        session.add(given)
        session.flush()
        session.refresh(given)
        return reply(MarkOut.model_validate(given, from_attributes=True), 201)


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
