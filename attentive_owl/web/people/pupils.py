"""One pupil: what is known of them, their classes, leaving and coming back, two entries of one child made one, and going for good."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from attentive_owl.store.erasure import erase_pupil, remove_files
from attentive_owl.store.models import (
    ALSO_IN,
    AssignmentPupil,
    ClassGroup,
    DeclinedSuggestion,
    LearningPath,
    PassedStep,
    Pupil,
    Take,
    TuningReading,
)
from attentive_owl.store.session import open_session
from attentive_owl.web.access import own_row, own_studio, people_only, services, teacher_only
from attentive_owl.web.people.blueprint import api
from attentive_owl.web.people.classes import new_card_for, pupil_out
from attentive_owl.web.problems import ProblemError
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.common import ById, Done, Problem
from attentive_owl.web.schemas.people import (
    AlsoIn,
    Card,
    Erase,
    Merge,
    Move,
    PupilDetail,
    PupilOut,
)


@api.get("/pupils/<uuid:id>", responses={200: PupilDetail})
@teacher_only
def one(path: ById) -> Any:
    with own_studio() as session:
        return reply(_detail(session, _pupil(session, path.id)))


def _pupil(session: Session, pupil_id: uuid.UUID) -> Pupil:
    """Raises 404."""
    pupil = own_row(session, Pupil, pupil_id)
    session.refresh(pupil, ["group", "also_in"])
    return pupil


def _detail(session: Session, pupil: Pupil) -> PupilDetail:
    own_path = session.get(LearningPath, pupil.path_id) if pupil.path_id else None
    return PupilDetail(
        pupil=pupil_out(pupil),
        class_id=pupil.group_id,
        class_name=pupil.group.name,
        also_in=[group.id for group in pupil.also_in],
        path_name=own_path.name if own_path else None,
        path_steps=[step["title"] for step in own_path.steps] if own_path else [],
    )


@api.post("/pupils/<uuid:id>/archive", responses={200: PupilOut})
@people_only
def archive(path: ById) -> Any:
    """Out of the lists: the card no longer works, takes and record stay."""
    return _archived(path.id, datetime.now(UTC))


@api.post("/pupils/<uuid:id>/restore", responses={200: PupilOut})
@people_only
def restore(path: ById) -> Any:
    return _archived(path.id, None)


def _archived(pupil_id: uuid.UUID, at: datetime | None) -> Any:
    with own_studio() as session:
        pupil = own_row(session, Pupil, pupil_id)
        pupil.archived_at = at
        return reply(pupil_out(pupil))


@api.put("/pupils/<uuid:id>/classes", responses={200: PupilDetail})
@people_only
def also_in(path: ById, body: AlsoIn) -> Any:
    """The classes of a pupil beside the one whose code is on the card."""
    with own_studio() as session:
        pupil = _pupil(session, path.id)
        pupil.also_in = [own_row(session, ClassGroup, own) for own in body.class_ids if own != pupil.group_id]
        session.flush()
        return reply(_detail(session, pupil))


@api.post("/pupils/<uuid:id>/move", responses={200: Card})
@people_only
def move(path: ById, body: Move) -> Any:
    """Into another class, whose code stands on the card: so there is a new card, and the old one stops working."""
    with own_studio() as session:
        pupil = _pupil(session, path.id)
        pupil.group = own_row(session, ClassGroup, body.class_id)
        pupil.also_in = [group for group in pupil.also_in if group.id != body.class_id]
        return reply(new_card_for(session, pupil))


@api.post("/pupils/<uuid:id>/merge", responses={200: PupilDetail, 422: Problem})
@people_only
def merge(path: ById, body: Merge) -> Any:
    """Two entries of one child: what the first has goes to the second, whose card stays; the first is gone."""
    with own_studio() as session:
        gone, stays = _pupil(session, path.id), _pupil(session, body.into)
        if gone.id == stays.id:
            raise ProblemError(422, "These are one and the same entry.")
        if gone.instrument != stays.instrument:
            raise ProblemError(422, "They play different instruments: what was played on one is nothing on the other.")
        _hand_over(session, gone.id, stays.id)
        stays.known = sorted({*stays.known, *gone.known})
        stays.path_id = stays.path_id or gone.path_id
        if gone.path_id == stays.path_id:
            stays.path_step = max(stays.path_step, gone.path_step)
        stays.remarks = "\n".join(own for own in (stays.remarks, gone.remarks) if own)
        stays.goal = stays.goal or gone.goal
        session.delete(gone)
        session.flush()
        return reply(_detail(session, stays))


def _hand_over(session: Session, gone: uuid.UUID, stays: uuid.UUID) -> None:
    """Rows of which a pupil may have only one stay with the entry that stays, where it has its own."""
    session.execute(update(Take).where(Take.pupil_id == gone).values(pupil_id=stays))
    for model, key in (
        (AssignmentPupil, "assignment_id"),
        (PassedStep, "key"),
        (DeclinedSuggestion, "key"),
        (TuningReading, "string"),
    ):
        column: Any = getattr(model, key)
        owner: Any = model.pupil_id
        has = select(column).where(owner == stays)
        session.execute(update(model).where(owner == gone, column.not_in(has)).values(pupil_id=stays))
        session.execute(delete(model).where(owner == gone))
    session.execute(delete(ALSO_IN).where(ALSO_IN.c.pupil_id == gone))
    session.expire_all()


@api.post("/pupils/<uuid:id>/erase", responses={200: Done, 422: Problem})
@people_only
def erase(path: ById, body: Erase) -> Any:
    """For good: rows and recordings. The name is typed, so that nobody is erased by a slip."""
    with own_studio() as session:
        pupil = own_row(session, Pupil, path.id)
        if body.name.casefold() != pupil.name.casefold():
            raise ProblemError(422, "That is not the name: nothing was erased.")
        hashes = erase_pupil(session, pupil.id)
    # Only after the commit: a file that is gone can not be rolled back.
    with open_session(services().engine, "its files may be another studio's too") as session:
        remove_files(session, services().audio, hashes)
    return reply(Done())
