"""A go arrives: the sound and its row, committed together with the job that checks it."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from sqlalchemy import select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from attentive_owl.core.exercises import RecipeError
from attentive_owl.store.exercises import line_as_set
from attentive_owl.store.models import Assignment, AssignmentPupil, Pupil, Take
from attentive_owl.store.queue import defer_check
from attentive_owl.web.access import own_row, own_studio, signed_in, visitor
from attentive_owl.web.assigning import own_assignment
from attentive_owl.web.problems import ProblemError, not_found
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.common import Problem
from attentive_owl.web.schemas.practice import NewTake
from attentive_owl.web.schemas.takes import TakeReceipt
from attentive_owl.web.takes.blueprint import api
from attentive_owl.web.takes.sounds import receive


@api.post("/takes", responses={201: TakeReceipt, 200: TakeReceipt, 413: Problem, 422: Problem})
@signed_in
def hand_in(form: NewTake) -> Any:
    """One recording as multipart: the fields, and the sound as `sound`. The same client_key again is the same take. A pupil records
    for themselves; a teacher, at a lesson, for a pupil.

    The answer comes after the take and its job are committed; its sha256 is of what was stored.
    """
    with own_studio() as session:
        assignment = own_assignment(session, form.assignment_id)
        pupil, teacher_id = _recorded(session, form, assignment)
        own_id = pupil.id
        if pupil.consent_at is None:
            raise ProblemError(403, "An adult has to say yes before your first recording. Ask your teacher.")
        if form.bars is not None:
            _check_bars(session, assignment, pupil, form.bars)
        known = session.scalar(select(Take).where(Take.pupil_id == own_id, Take.client_key == form.client_key))
        if known is not None:
            return reply(TakeReceipt(id=known.id, sha256=known.sha256))
    # Files first, row after.
    kept = receive(form.sound, form.sha256)
    take = Take(
        pupil_id=own_id,
        assignment_id=form.assignment_id,
        client_key=form.client_key,
        sha256=kept.sha256,
        file_name=Path(form.sound.filename or "take").name[:120],
        size_bytes=kept.size_bytes,
        # What the sender says, until it is read.
        duration_s=form.claimed_s or 0.0,
        recorded_at=_plausible(form.recorded_at),
        bpm=form.bpm,
        first_bar=form.first_bar,
        last_bar=form.last_bar,
        mode=form.mode,
        focus=form.focus,
        handed_in_at=datetime.now(UTC) if form.hand_in or teacher_id else None,
        lesson_teacher_id=teacher_id,
    )
    try:
        with own_studio() as session:
            session.add(take)
            session.flush()
            defer_check(session, take.id)
    except IntegrityError:
        # The same take arrived twice at once; the other request won.
        with own_studio() as session:
            twin = session.scalar(select(Take).where(Take.pupil_id == own_id, Take.client_key == form.client_key))
            if twin is None:
                raise
            return reply(TakeReceipt(id=twin.id, sha256=twin.sha256))
    return reply(TakeReceipt(id=take.id, sha256=kept.sha256), 201)


def _recorded(session: Session, form: NewTake, assignment: Assignment) -> tuple[Pupil, uuid.UUID | None]:
    """Whose recording it is, and the teacher who makes it. Raises 404 for a pupil to whom it is not set."""
    person = visitor().person
    if person.role == "pupil":
        return session.get_one(Pupil, person.id), None
    if form.pupil_id is None:
        raise ProblemError(422, "Say whose recording it is.")
    pupil = own_row(session, Pupil, form.pupil_id)
    if session.get(AssignmentPupil, (assignment.id, pupil.id)) is None:
        raise not_found()
    return pupil, person.id


def _check_bars(session: Session, assignment: Assignment, pupil: Pupil, bars: tuple[int, int]) -> None:
    try:
        line_as_set(session, assignment, pupil, bars=bars)
    except RecipeError as error:
        raise ProblemError(422, "The line has no such bars.") from error


def _plausible(recorded_at: datetime | None) -> datetime:
    """A device's clock is believed within the last month (takes may wait for a network), never into the future."""
    now = datetime.now(UTC)
    if recorded_at is None or recorded_at.tzinfo is None or not now - timedelta(days=31) < recorded_at <= now:
        return now
    return recorded_at
