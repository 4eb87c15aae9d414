"""Tables. Every row that belongs to a studio carries its id; sessions see one studio only (see `session`)."""

from __future__ import annotations

import uuid
from datetime import date, datetime, time
from typing import Any, ClassVar

from sqlalchemy import (
    JSON,
    Column,
    Computed,
    DateTime,
    ForeignKey,
    Index,
    String,
    Table,
    Text,
    UniqueConstraint,
    func,
)
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
    epoch: Mapped[int] = mapped_column(default=0, server_default="0")
    """Sessions that began in an earlier one are over."""
    rank: Mapped[str] = mapped_column(String(16), default="teacher", server_default="teacher")
    """owner, teacher, assistant, or left."""


class Invitation(StudioOwned, Base):
    """A link by which another teacher comes into the studio, once. Only the hash of its token is kept."""

    __tablename__ = "invitation"
    token_hash: Mapped[str] = mapped_column(String(64), unique=True)
    expires_at: Mapped[datetime]
    used_at: Mapped[datetime | None]
    rank: Mapped[str] = mapped_column(String(16), default="teacher", server_default="teacher")
    """Of whoever comes by it."""


ALSO_IN = Table(
    "class_pupil",
    Base.metadata,
    Column("class_id", ForeignKey("class_group.id", ondelete="CASCADE"), primary_key=True),
    Column("pupil_id", ForeignKey("pupil.id", ondelete="CASCADE"), primary_key=True, index=True),
)
"""Classes of a pupil beside the one whose code is on the card."""


class ClassGroup(StudioOwned, Base):
    __tablename__ = "class_group"
    name: Mapped[str] = mapped_column(String(80))
    code: Mapped[str] = mapped_column(String(16), unique=True)
    pupils: Mapped[list[Pupil]] = relationship(back_populates="group", order_by="Pupil.name")
    guests: Mapped[list[Pupil]] = relationship(secondary=ALSO_IN, back_populates="also_in", order_by="Pupil.name")
    """Pupils whose card is of another class."""


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
    epoch: Mapped[int] = mapped_column(default=0, server_default="0")
    """Sessions that began in an earlier one are over."""
    consent_by: Mapped[str | None] = mapped_column(String(80))
    """The adult who said yes to recordings; none may be taken before."""
    consent_at: Mapped[datetime | None]
    pictures_agreed: Mapped[bool] = mapped_column(default=False, server_default="false")
    """The same adult said yes to pictures of the bow hold."""
    path_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("learning_path.id", ondelete="SET NULL"))
    """The learning path that the pupil goes."""
    path_step: Mapped[int] = mapped_column(default=0, server_default="0")
    """Steps of it that lie behind the pupil, passed or known already."""
    goal: Mapped[str] = mapped_column(String(300), default="", server_default="")
    remarks: Mapped[str] = mapped_column(Text, default="", server_default="")
    """The teachers' own; no pupil sees them."""
    archived_at: Mapped[datetime | None]
    """Left the studio: the card no longer works, the takes stay."""
    group: Mapped[ClassGroup] = relationship(back_populates="pupils")
    also_in: Mapped[list[ClassGroup]] = relationship(secondary=ALSO_IN, back_populates="guests")


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


class WeekSheet(StudioOwned, Base):
    """Several exercises that are set together: being written, kept as a template, or sent."""

    __tablename__ = "week_sheet"
    teacher_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("teacher.id", ondelete="CASCADE"))
    name: Mapped[str] = mapped_column(String(80), default="")
    kind: Mapped[str] = mapped_column(String(16), default="draft")
    """draft, template or sent."""
    due_on: Mapped[date | None]
    items: Mapped[list[Any]] = mapped_column(default=list)
    """As the teacher wrote them: for whom, how fast, how often, and what is different for single pupils."""
    changed_at: Mapped[datetime] = mapped_column(server_default=func.now(), onupdate=func.now())
    sent_at: Mapped[datetime | None]
    teacher: Mapped[Teacher] = relationship()


class PassedStep(StudioOwned, Base):
    """What a teacher has passed, of one pupil: an exercise at whatever tempo it was played."""

    __tablename__ = "passed_step"
    __table_args__ = (UniqueConstraint("pupil_id", "key"),)
    pupil_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("pupil.id", ondelete="CASCADE"), index=True)
    teacher_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("teacher.id", ondelete="CASCADE"))
    take_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("take.id", ondelete="SET NULL"))
    """The take that it was passed with; none: heard at a lesson."""
    key: Mapped[str] = mapped_column(String(64))
    """Of the recipe without its tempo (see `store.exercises.step_key`)."""
    title: Mapped[str] = mapped_column(String(160))
    recipe: Mapped[dict[str, Any]]
    rubric: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    """What a microphone can not judge: line of the studio's rubric -> not_yet, nearly or yes."""
    remark: Mapped[str] = mapped_column(String(300), default="", server_default="")


class DeclinedSuggestion(StudioOwned, Base):
    """A teacher said "not now" to an exercise that was suggested for a pupil; it is let rest for a while."""

    __tablename__ = "declined_suggestion"
    __table_args__ = (UniqueConstraint("pupil_id", "key"),)
    pupil_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("pupil.id", ondelete="CASCADE"), index=True)
    key: Mapped[str] = mapped_column(String(64))
    """Of the step (see `store.exercises.step_key`)."""
    recipe: Mapped[dict[str, Any]]


class Lesson(StudioOwned, Base):
    """Of one class: once, or every week."""

    __tablename__ = "lesson"
    class_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("class_group.id", ondelete="CASCADE"), index=True)
    day: Mapped[date]
    """The first one."""
    starts: Mapped[time]
    minutes: Mapped[int]
    until: Mapped[date | None]
    """Every week up to this day; none: only once."""
    place: Mapped[str] = mapped_column(String(120), default="", server_default="")
    group: Mapped[ClassGroup] = relationship(lazy="joined")


class SchoolBreak(StudioOwned, Base):
    """Days on which there are no lessons, and nothing is wanted of anybody."""

    __tablename__ = "school_break"
    name: Mapped[str] = mapped_column(String(80))
    first_day: Mapped[date]
    last_day: Mapped[date]


class OutboxMessage(StudioOwned, Base):
    """What would go by mail; nothing leaves the machine."""

    __tablename__ = "outbox_message"
    __table_args__ = (UniqueConstraint("pupil_id", "kind", "about"),)
    pupil_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("pupil.id", ondelete="CASCADE"), index=True)
    kind: Mapped[str] = mapped_column(String(24))
    about: Mapped[str] = mapped_column(String(64))
    """What it is about, so that nothing is said twice."""
    subject: Mapped[str] = mapped_column(String(160))
    words: Mapped[str] = mapped_column(Text)
    pupil: Mapped[Pupil] = relationship()


class Assignment(StudioOwned, Base):
    __tablename__ = "assignment"
    sheet_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("week_sheet.id", ondelete="SET NULL"), index=True)
    """The week's sheet that it was sent with."""
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
    lesson_teacher_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("teacher.id", ondelete="SET NULL"))
    """The teacher who recorded it at a lesson; none: the pupil did."""
    sound_removed_at: Mapped[datetime | None]
    """Its keeping time is over, or an adult took the yes back: the sound is gone, the figures stay."""
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


def _figure(path: str, kind: str) -> Computed:
    """A figure of the report that lists ask for: the database copies it out once, when the report is written, so that no list has to
    unpack whole documents."""
    return Computed(f"(document #>> '{{{path}}}')::{kind}", persisted=True)


def _count_of(path: str) -> Computed:
    return Computed(f"jsonb_array_length(jsonb_path_query_array(document, '{path}'))", persisted=True)


def _notes_that_are(status: str) -> Computed:
    return _count_of(f'$.notes[*] ? (@.status == "{status}")')


class Report(StudioOwned, Base):
    """What one engine version made of a take. The unique key makes the check safe to run twice."""

    __tablename__ = "report"
    __table_args__ = (UniqueConstraint("take_id", "engine"),)
    take_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("take.id", ondelete="CASCADE"), index=True)
    engine: Mapped[str] = mapped_column(String(32))
    document: Mapped[dict[str, Any]] = mapped_column(deferred=True)
    version: Mapped[int | None] = mapped_column(_figure("version", "integer"))
    good: Mapped[bool | None] = mapped_column(_figure("good_go,good", "boolean"))
    in_a_row: Mapped[int | None] = mapped_column(_figure("good_go,in_a_row", "integer"))
    refusal_code: Mapped[str | None] = mapped_column(Text, _figure("refusal,code", "text"))
    refusal_title: Mapped[str | None] = mapped_column(Text, _figure("refusal,title", "text"))
    pitch_word: Mapped[str | None] = mapped_column(Text, _figure("judgement,pitch,word", "text"))
    rhythm_word: Mapped[str | None] = mapped_column(Text, _figure("judgement,rhythm,word", "text"))
    pitch_home: Mapped[int | None] = mapped_column(_figure("judgement,pitch,home", "integer"))
    pitch_of: Mapped[int | None] = mapped_column(_figure("judgement,pitch,of", "integer"))
    rhythm_home: Mapped[int | None] = mapped_column(_figure("judgement,rhythm,home", "integer"))
    rhythm_of: Mapped[int | None] = mapped_column(_figure("judgement,rhythm,of", "integer"))
    played_bpm: Mapped[float | None] = mapped_column(_figure("tempo,played_bpm", "double precision"))
    wrong_notes: Mapped[int | None] = mapped_column(_notes_that_are("wrong_pitch"))
    unclear_notes: Mapped[int | None] = mapped_column(_notes_that_are("unclear"))
    untimed_notes: Mapped[int | None] = mapped_column(
        _count_of('$ ? (@.expectations.mode != "pauses").notes[*] ? (@.moment_guessed == true)')
    )
    """Heard, but not when they began; none where pauses are allowed."""
    all_notes: Mapped[int | None] = mapped_column(_count_of("$.notes[*]"))
    wrong_names: Mapped[list[Any] | None] = mapped_column(
        Computed(
            """jsonb_path_query_array(document, '$.notes[*] ? (@.status == "wrong_pitch").name')""", persisted=True
        )
    )
    causes: Mapped[list[Any] | None] = mapped_column(
        Computed("jsonb_path_query_array(document, '$.causes[*]')", persisted=True)
    )
    """The causes that were named, the weightiest first."""
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
    """Tries to sign in, for throttling; kept in the database because every web process must see them."""

    __tablename__ = "sign_in_attempt"
    __table_args__ = (UniqueConstraint("subject", "what"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    subject: Mapped[str] = mapped_column(String(64), index=True)
    """Keyed hash of whom it was for (e-mail or class code), of the address it came from, or of both together."""
    what: Mapped[str] = mapped_column(String(64))
    """Keyed hash of what was tried: the same again is the same try."""
    at: Mapped[datetime] = mapped_column(server_default=func.now(), index=True)


class AuditEntry(StudioOwned, Base):
    """One line of the audit trail. It points at nothing, so that it outlives what it is about; of pupils it holds no name."""

    __tablename__ = "audit_entry"
    __table_args__ = (Index("ix_audit_entry_studio_created", "studio_id", "created_at"),)
    actor_id: Mapped[uuid.UUID]
    actor_name: Mapped[str] = mapped_column(String(80))
    act: Mapped[str] = mapped_column(String(16))
    """heard, saw, made, changed, took away, exported or erased."""
    what: Mapped[str] = mapped_column(String(80))
    subject_id: Mapped[uuid.UUID | None]
