"""What is done once a day: a word to homes where nothing was recorded, and recordings whose keeping time is over."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

from sqlalchemy import Engine, delete, exists, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from attentive_owl.core.theory import NoteValues, in_vocabulary
from attentive_owl.store.audio import AudioStore
from attentive_owl.store.calendar import studio_days_off
from attentive_owl.store.erasure import remove_files
from attentive_owl.store.models import (
    Assignment,
    AssignmentPupil,
    AuditEntry,
    Exercise,
    OutboxMessage,
    Pupil,
    Studio,
    Take,
)
from attentive_owl.store.session import open_session, studio_session

KEPT_DAYS = 180
_WHY = "what is done once a day is done for every studio"
_TRAIL_KEPT = timedelta(days=400)
_SOON = timedelta(days=3)
_TIME_TO_BEGIN = timedelta(days=2)
"""Nobody is reminded of what was set a day ago."""


def remind(engine: Engine, now: datetime | None = None) -> int:
    """One message for each pupil and exercise that is due soon and of which nothing was recorded; never the same one twice. Studios
    that have switched it off, and days in a break, say nothing. Returns how many messages there are new."""
    now = now or datetime.now(UTC)
    with open_session(engine, _WHY) as session:
        studios = session.execute(select(Studio.id, Studio.settings)).all()
    said = 0
    for studio_id, settings in studios:
        if settings.get("reminders", True):
            zone = settings.get("time_zone")
            local = now.astimezone(ZoneInfo(zone)) if zone else now
            with studio_session(engine, studio_id) as session:
                if local.date() not in studio_days_off(session):
                    said += _remind_studio(session, local, NoteValues(settings.get("values", NoteValues.QUARTER)))
    return said


def _remind_studio(session: Session, now: datetime, values: NoteValues) -> int:
    """`now` as it is where the studio is."""
    played = exists().where(Take.assignment_id == Assignment.id, Take.pupil_id == AssignmentPupil.pupil_id)
    rows = session.execute(
        select(Pupil.id, Pupil.studio_id, Pupil.name, Assignment.id, Assignment.due_on, Exercise.title)
        .join(AssignmentPupil, AssignmentPupil.pupil_id == Pupil.id)
        .join(Assignment, Assignment.id == AssignmentPupil.assignment_id)
        .join(Exercise, Exercise.id == Assignment.exercise_id)
        .where(
            Pupil.archived_at.is_(None),
            Pupil.consent_at.is_not(None),
            Assignment.due_on >= now.date(),
            Assignment.due_on <= now.date() + _SOON,
            Assignment.created_at <= now - _TIME_TO_BEGIN,
            ~played,
        )
        .order_by(Pupil.name, Assignment.due_on)
    ).all()
    said = 0
    for pupil_id, studio_id, name, assignment_id, due_on, kept in rows:
        title = in_vocabulary(kept, values)
        due = f"{due_on:%A}, {due_on.day} {due_on:%B}"
        made = session.execute(
            insert(OutboxMessage)
            .values(
                studio_id=studio_id,
                pupil_id=pupil_id,
                kind="not_recorded",
                about=str(assignment_id),
                subject=f"{name}: {title}, for {due}",
                words=f"“{title}” is set for {due}, and we have no recording of it from {name} yet. Perhaps it was practised "
                "without one, which is just as good: a few minutes today are enough, slow and clean. If it is too hard, let us know.",
            )
            .on_conflict_do_nothing()
            .returning(OutboxMessage.id)
        ).all()
        said += len(made)
    return said


def forget_old_trails(engine: Engine, now: datetime | None = None) -> int:
    """Lines of the audit trail that are older than thirteen months. Returns how many."""
    with open_session(engine, _WHY) as session:
        old = delete(AuditEntry).where(AuditEntry.created_at < (now or datetime.now(UTC)) - _TRAIL_KEPT)
        return len(session.execute(old.returning(AuditEntry.id)).all())


def let_go_of_sounds(engine: Engine, audio: AudioStore, now: datetime | None = None) -> int:
    """Recordings, spoken questions and pictures that are older than their studio keeps them, and all of a pupil whose adult has taken
    the yes back. Rows and figures stay. Returns how many takes lost their sound."""
    now = now or datetime.now(UTC)
    with open_session(engine, _WHY) as session:
        studios = session.execute(select(Studio.id, Studio.settings)).all()
    gone = 0
    for studio_id, settings in studios:
        too_old = now - timedelta(days=settings.get("keep_days", KEPT_DAYS))
        with studio_session(engine, studio_id) as session:
            takes = session.scalars(
                select(Take)
                .join(Pupil, Pupil.id == Take.pupil_id)
                .where(
                    Take.sound_removed_at.is_(None),
                    (Take.recorded_at < too_old) | Pupil.consent_at.is_(None),
                    Take.state.in_(("checked", "refused", "stuck")),
                )
                .with_for_update(of=Take)
            ).all()
            hashes = {own for take in takes for own in (take.sha256, take.help_sha256, take.picture_sha256) if own}
            for take in takes:
                take.sound_removed_at = now
                take.help_sha256 = take.picture_sha256 = None
            gone += len(takes)
        # After the commit: a file that is gone can not be rolled back, and what is left over goes the next day.
        with open_session(engine, "a recording may be two studios'") as session:
            remove_files(session, audio, hashes)
    return gone
