"""Tables. Every row that belongs to a studio carries its id; sessions see one studio only (see `session`)."""

from __future__ import annotations

import uuid
from datetime import date, datetime
from typing import Any, ClassVar

from sqlalchemy import JSON, DateTime, ForeignKey, Index, String, UniqueConstraint, func
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, declared_attr, mapped_column, relationship


class Base(DeclarativeBase):
    type_annotation_map: ClassVar[dict[Any, Any]] = {
        dict[str, Any]: JSON().with_variant(JSONB(), "postgresql"),
        list[Any]: JSON().with_variant(JSONB(), "postgresql"),
        datetime: DateTime(timezone=True),
    }


class Identified:
    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())


class StudioOwned(Identified):
    @declared_attr
    def studio_id(cls) -> Mapped[uuid.UUID]:
        return mapped_column(ForeignKey("studio.id", ondelete="CASCADE"), index=True)


class Studio(Identified, Base):
    __tablename__ = "studio"
    name: Mapped[str] = mapped_column(String(120))
    settings: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    """The studio's vocabulary, count-in, cue words, tapes and levels, as far as they differ from ours."""
    demo: Mapped[bool] = mapped_column(default=False, server_default="false")
    """The invented one, to look round in."""


class Teacher(StudioOwned, Base):
    __tablename__ = "teacher"
    email: Mapped[str] = mapped_column(String(254), unique=True)
    name: Mapped[str] = mapped_column(String(80))
    password_hash: Mapped[str]


class ClassGroup(StudioOwned, Base):
    __tablename__ = "class_group"
    name: Mapped[str] = mapped_column(String(80))
    code: Mapped[str] = mapped_column(String(16), unique=True)
    pupils: Mapped[list[Pupil]] = relationship(back_populates="group", order_by="Pupil.name")


class Pupil(StudioOwned, Base):
    __tablename__ = "pupil"
    __table_args__ = (UniqueConstraint("group_id", "phrase_key"),)
    group_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("class_group.id", ondelete="CASCADE"), index=True)
    name: Mapped[str] = mapped_column(String(60))
    instrument: Mapped[str] = mapped_column(String(16))
    size: Mapped[str] = mapped_column(String(16))
    string_length_mm: Mapped[float]
    marks: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    """Tapes of this instrument, where they differ from the studio's."""
    known: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    """Hand frames that the pupil knows already (of `exercises.FRAMES`), beside what was set here."""
    ease: Mapped[str] = mapped_column(String(16), default="usual", server_default="usual")
    """Which line of an exercise is set to this pupil from now on: usual, easier or harder."""
    phrase_key: Mapped[str] = mapped_column(String(64))
    """Keyed hash of the passphrase, by which its owner is found."""
    phrase_hash: Mapped[str]
    """Argon2 of the passphrase, by which it is checked."""
    consent_by: Mapped[str | None] = mapped_column(String(80))
    """The adult who said yes to recordings; none may be taken before."""
    consent_at: Mapped[datetime | None]
    pictures_agreed: Mapped[bool] = mapped_column(default=False, server_default="false")
    """The same adult said yes to pictures of the bow hold."""
    group: Mapped[ClassGroup] = relationship(back_populates="pupils")


class Exercise(StudioOwned, Base):
    __tablename__ = "exercise"
    title: Mapped[str] = mapped_column(String(160))
    recipe: Mapped[dict[str, Any]]
    """What the exercise is made from; it is never changed once assigned: an edit makes a new version."""
    tags: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    version: Mapped[int] = mapped_column(default=1, server_default="1")
    replaces_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("exercise.id", ondelete="SET NULL"))
    """The version before this one."""
    retired_at: Mapped[datetime | None]
    """Off the shelf: retired by the teacher, or replaced by a newer version."""


class LearningPath(StudioOwned, Base):
    """A sequence of ready exercises. Steps are kept whole (title and recipe), so that editing a path changes no
    exercise that is assigned."""

    __tablename__ = "learning_path"
    name: Mapped[str] = mapped_column(String(80))
    about: Mapped[str] = mapped_column(String(300), default="")
    place: Mapped[int] = mapped_column(default=0)
    """Order among the studio's paths."""
    steps: Mapped[list[Any]] = mapped_column(default=list)


class Assignment(StudioOwned, Base):
    __tablename__ = "assignment"
    exercise_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("exercise.id", ondelete="RESTRICT"), index=True)
    due_on: Mapped[date]
    target_bpm: Mapped[float]
    good_repeats: Mapped[int]
    """A day."""
    days_a_week: Mapped[int] = mapped_column(default=5, server_default="5")
    level: Mapped[str] = mapped_column(String(24), default="settling")
    note: Mapped[str] = mapped_column(String(500), default="")
    temperament: Mapped[str] = mapped_column(String(16), default="equal", server_default="equal")
    a4_hz: Mapped[float | None]
    """The reference pitch; none: the pupil's own open strings."""
    mode: Mapped[str] = mapped_column(String(16), default="steady", server_default="steady")
    """steady, pauses or repeats."""
    ladder_from_bpm: Mapped[float | None]
    """First rung of the tempo ladder to the target; none: no ladder."""
    ladder_step_bpm: Mapped[float] = mapped_column(default=6.0, server_default="6")
    ladder_clean: Mapped[int] = mapped_column(default=2, server_default="2")
    """Clean goes in a row, after which the next rung is offered."""
    wants_picture: Mapped[bool] = mapped_column(default=False, server_default="false")
    """The teacher asks for a picture of the bow hold with it."""
    exercise: Mapped[Exercise] = relationship(lazy="joined")
    pupils: Mapped[list[Pupil]] = relationship(secondary="assignment_pupil", order_by="Pupil.name")


class AssignmentPupil(Base):
    __tablename__ = "assignment_pupil"
    assignment_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("assignment.id", ondelete="CASCADE"), primary_key=True)
    pupil_id: Mapped[uuid.UUID] = mapped_column(
        ForeignKey("pupil.id", ondelete="CASCADE"), primary_key=True, index=True
    )
    ease: Mapped[str] = mapped_column(String(16), default="usual", server_default="usual")
    """The line that was set, whatever the pupil is given later."""


class Take(StudioOwned, Base):
    """One recording: a go of the pupil's own, until it is handed in. The sound is never changed; `state` follows its check."""

    __tablename__ = "take"
    __table_args__ = (
        UniqueConstraint("pupil_id", "client_key"),
        Index("ix_take_studio_recorded", "studio_id", "recorded_at"),
    )
    pupil_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("pupil.id", ondelete="CASCADE"), index=True)
    assignment_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("assignment.id"), index=True)
    """An assignment with a take can not be deleted: a take goes only when its pupil or studio is erased."""
    client_key: Mapped[str] = mapped_column(String(64))
    """Chosen by the sender; the same key sent twice is one take."""
    sha256: Mapped[str] = mapped_column(String(64))
    file_name: Mapped[str] = mapped_column(String(120))
    size_bytes: Mapped[int]
    duration_s: Mapped[float]
    recorded_at: Mapped[datetime]
    state: Mapped[str] = mapped_column(String(16), default="waiting")
    """waiting, checking, checked, refused or stuck."""
    bpm: Mapped[float | None]
    """The tempo at which it was to be played; none: the target of its assignment."""
    first_bar: Mapped[int | None]
    last_bar: Mapped[int | None]
    """Of the piece of the line that was to be played; none: all of it."""
    mode: Mapped[str | None] = mapped_column(String(16))
    """steady, pauses or repeats; none: as the assignment has it."""
    focus: Mapped[str | None] = mapped_column(String(16))
    """The one thing that the pupil listened for: tune or time."""
    handed_in_at: Mapped[datetime | None] = mapped_column(index=True)
    thrown_away_at: Mapped[datetime | None]
    kept_at: Mapped[datetime | None]
    """A favourite of the pupil's."""
    felt: Mapped[str | None] = mapped_column(String(16))
    """easy, right or too_hard, as the pupil says."""
    help_words: Mapped[str | None] = mapped_column(String(300))
    """What the pupil asks for help with; none: no help is asked for."""
    help_sha256: Mapped[str | None] = mapped_column(String(64))
    """The same, spoken."""
    picture_sha256: Mapped[str | None] = mapped_column(String(64))
    """Of the bow hold; no microphone can judge it."""
    pupil: Mapped[Pupil] = relationship()
    assignment: Mapped[Assignment] = relationship()
    reports: Mapped[list[Report]] = relationship(back_populates="take", order_by="Report.created_at")
    marks: Mapped[list[Mark]] = relationship(back_populates="take", order_by="Mark.created_at")
    overrules: Mapped[list[Overrule]] = relationship(back_populates="take", order_by="Overrule.created_at")

    @property
    def asked_bpm(self) -> float:
        """The tempo at which it was to be played."""
        return self.bpm or self.assignment.target_bpm

    @property
    def bars(self) -> tuple[int, int] | None:
        return None if self.first_bar is None or self.last_bar is None else (self.first_bar, self.last_bar)

    @property
    def report(self) -> Report | None:
        """The newest one; the others are kept."""
        return self.reports[-1] if self.reports else None


class Report(StudioOwned, Base):
    """What one engine version made of a take. The unique key makes the check safe to run twice."""

    __tablename__ = "report"
    __table_args__ = (UniqueConstraint("take_id", "engine"),)
    take_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("take.id", ondelete="CASCADE"), index=True)
    engine: Mapped[str] = mapped_column(String(32))
    document: Mapped[dict[str, Any]]
    take: Mapped[Take] = relationship(back_populates="reports")


class Mark(StudioOwned, Base):
    """The teacher's word. Kept apart from reports, so that no new check touches it; the newest counts."""

    __tablename__ = "mark"
    take_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("take.id", ondelete="CASCADE"), index=True)
    teacher_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("teacher.id", ondelete="CASCADE"))
    verdict: Mapped[str] = mapped_column(String(16))
    """accepted, once_more or come_and_see_me."""
    remark: Mapped[str] = mapped_column(String(1000), default="")
    take: Mapped[Take] = relationship(back_populates="marks")


class Overrule(StudioOwned, Base):
    """Where the teacher's ear decides against the check. Kept with the take and not with a report: a new check says what
    it says, and this stays."""

    __tablename__ = "overrule"
    __table_args__ = (UniqueConstraint("take_id", "note_index", "cause", postgresql_nulls_not_distinct=True),)
    take_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("take.id", ondelete="CASCADE"), index=True)
    teacher_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("teacher.id", ondelete="CASCADE"))
    note_index: Mapped[int | None]
    cause: Mapped[str | None] = mapped_column(String(32))
    """Kind of the cause, and its string or finger: finger:2, string:A, drift."""
    says: Mapped[str] = mapped_column(String(16))
    """home, away or missed of a note; not_so of a cause."""
    remark: Mapped[str] = mapped_column(String(300), default="")
    take: Mapped[Take] = relationship(back_populates="overrules")
    teacher: Mapped[Teacher] = relationship(lazy="joined")


class TuningReading(StudioOwned, Base):
    """What the tuning check found of one string of a pupil's instrument; the newest one is kept."""

    __tablename__ = "tuning_reading"
    __table_args__ = (UniqueConstraint("pupil_id", "string"),)
    pupil_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("pupil.id", ondelete="CASCADE"))
    string: Mapped[str] = mapped_column(String(4))
    cents: Mapped[float]
    """Over its place with A4 = 440 and pure fifths (fourths on the double bass)."""
    heard_at: Mapped[datetime]


class SignInAttempt(Base):
    """Failed sign-ins, for throttling; kept in the database because every web process must see them."""

    __tablename__ = "sign_in_attempt"
    id: Mapped[int] = mapped_column(primary_key=True)
    subject: Mapped[str] = mapped_column(String(64), index=True)
    """Keyed hash of what was tried (e-mail or class code) or of the address it came from."""
    at: Mapped[datetime] = mapped_column(server_default=func.now(), index=True)
