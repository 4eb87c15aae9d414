"""What a teacher has passed; each can be taken back."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from attentive_owl.core.exercises import title
from attentive_owl.store.exercises import document_from_recipe, step_key
from attentive_owl.store.models import LearningPath, PassedStep, Pupil, Take
from attentive_owl.web.access import own_row, own_studio, teacher_only, visitor
from attentive_owl.web.areas import Area
from attentive_owl.web.problems import ProblemError, not_found
from attentive_owl.web.recipes import kept_recipe_out, recipe_in
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.common import ById, Problem
from attentive_owl.web.schemas.progress import NewPassed, PassedOut, Rubric

api = Area("passing", __name__, 401, 404)


def passed_out(own: PassedStep) -> PassedOut:
    return PassedOut(
        id=own.id,
        title=own.title,
        key=own.key,
        recipe=kept_recipe_out(own.recipe),
        created_at=own.created_at,
        rubric=[Rubric(line=line, word=word) for line, word in own.rubric.items()],
        remark=own.remark,
        at_lesson=own.take_id is None,
    )


def passed_by(session: Session, pupil_ids: Sequence[uuid.UUID]) -> dict[uuid.UUID, list[PassedStep]]:
    """Of each, the newest first."""
    found: dict[uuid.UUID, list[PassedStep]] = {own: [] for own in pupil_ids}
    newest = select(PassedStep).where(PassedStep.pupil_id.in_(pupil_ids)).order_by(PassedStep.created_at.desc())
    for own in session.scalars(newest):
        found[own.pupil_id].append(own)
    return found


@api.post("/pupils/<uuid:id>/passed", responses={201: PassedOut, 409: Problem})
@teacher_only
def pass_step(path: ById, body: NewPassed) -> Any:
    """Also what was never set: two octaves may be a surprise."""
    with own_studio() as session:
        pupil = own_row(session, Pupil, path.id)
        if body.take_id is not None and own_row(session, Take, body.take_id).pupil_id != pupil.id:
            raise not_found()
        recipe = recipe_in(body.recipe)
        document = document_from_recipe(recipe)
        key = step_key(document)
        known = session.scalar(select(PassedStep).where(PassedStep.pupil_id == pupil.id, PassedStep.key == key))
        if known is not None:
            raise ProblemError(409, f"{known.title} is passed already.")
        own = PassedStep(
            pupil_id=pupil.id,
            teacher_id=visitor().person.id,
            take_id=body.take_id,
            key=key,
            title=body.title or title(recipe),
            recipe=document,
            rubric={line.line: line.word for line in body.rubric},
            remark=body.remark,
        )
        session.add(own)
        session.flush()
        session.refresh(own)
        _go_on(session, pupil)
        return reply(passed_out(own), 201)


def _go_on(session: Session, pupil: Pupil) -> None:
    """The place on the path: behind what is passed without a gap. What the teacher set further on stays there."""
    path = session.get(LearningPath, pupil.path_id) if pupil.path_id else None
    if path is None:
        return
    passed = {own.key for own in passed_by(session, [pupil.id])[pupil.id]}
    while pupil.path_step < len(path.steps) and step_key(path.steps[pupil.path_step]["recipe"]) in passed:
        pupil.path_step += 1


@api.delete("/passed/<uuid:id>", responses={200: PassedOut})
@teacher_only
def take_back(path: ById) -> Any:
    with own_studio() as session:
        own = own_row(session, PassedStep, path.id)
        out = passed_out(own)
        session.delete(own)
        return reply(out)
