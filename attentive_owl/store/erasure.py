"""Taking people out of the program whole: rows, and the files that nobody else's take holds."""

from __future__ import annotations

import uuid
from collections.abc import Iterable

from sqlalchemy import ColumnElement, delete, select, text
from sqlalchemy.orm import Session

from attentive_owl.store.audio import KINDS, AudioStore
from attentive_owl.store.models import Assignment, AssignmentPupil, Exercise, Pupil, Studio, Take


def erase_pupil(session: Session, pupil_id: uuid.UUID) -> set[str]:
    """Every row of a pupil, queued checks with them. Returns the hashes whose files may go once this is committed."""
    hashes = _let_go(session, Take.pupil_id == pupil_id)
    # What was set to nobody else has nobody any more.
    alone = (
        select(AssignmentPupil.assignment_id)
        .group_by(AssignmentPupil.assignment_id)
        .having(text("bool_and(pupil_id = :pupil)").bindparams(pupil=pupil_id))
    )
    session.execute(delete(Assignment).where(Assignment.id.in_(alone)).execution_options(synchronize_session=False))
    session.execute(delete(Pupil).where(Pupil.id == pupil_id))
    return hashes


def erase_studio(session: Session, studio_id: uuid.UUID) -> set[str]:
    """Every row of a studio. Returns the hashes whose files may go once this is committed."""
    hashes = _let_go(session, Take.studio_id == studio_id)
    session.execute(delete(Assignment).where(Assignment.studio_id == studio_id))
    session.execute(delete(Exercise).where(Exercise.studio_id == studio_id))
    session.execute(delete(Studio).where(Studio.id == studio_id))
    return hashes


def _let_go(session: Session, which: ColumnElement[bool]) -> set[str]:
    hashes: set[str] = set()
    for row in session.execute(select(Take.sha256, Take.help_sha256, Take.picture_sha256).where(which)):
        hashes.update(own for own in row if own)
    ids = [str(own) for own in session.scalars(select(Take.id).where(which))]
    session.execute(text("DELETE FROM procrastinate_jobs WHERE args->>'take_id' = ANY(:ids)"), {"ids": ids})
    session.execute(delete(Take).where(which).execution_options(synchronize_session=False))
    return hashes


def remove_files(session: Session, audio: AudioStore, hashes: Iterable[str]) -> int:
    """The files of these hashes, but for those that a take still holds: one recording may be two pupils'. Returns how many went."""
    wanted = set(hashes)
    for column in (Take.sha256, Take.help_sha256, Take.picture_sha256):
        held = select(column).where(column.in_(wanted), Take.sound_removed_at.is_(None))
        wanted -= {own for own in session.scalars(held) if own}
    return sum(audio.remove(own, kind) for own in wanted for kind in KINDS)
