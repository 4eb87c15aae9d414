"""Signing in, pupils and classes."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID

from pydantic import Field, StringConstraints

from attentive_owl.core.exercises import Ease
from attentive_owl.web.roles import Rank, Right
from attentive_owl.web.schemas.common import FrameName, In, Instrument, Name, Out


class TeacherSignIn(In):
    email: Annotated[str, StringConstraints(strip_whitespace=True, min_length=3, max_length=254)]
    password: Annotated[str, StringConstraints(min_length=1, max_length=200)]


class PupilSignIn(In):
    class_code: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=40)]
    passphrase: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=120)]
    adult: bool = False
    """The adult at home, with the pupil's card."""


class Person(Out):
    role: Literal["teacher", "pupil"]
    """Into which of the two rooms the person comes."""
    rank: Rank
    may: list[Right]
    id: UUID
    name: str
    studio: str
    instrument: Instrument | None
    size: str | None
    may_record: bool
    most_bytes: int
    """Of a recording that is handed in."""


class NewTeacher(In):
    name: Name
    email: Annotated[str, StringConstraints(strip_whitespace=True, pattern=r"^[^@\s]+@[^@\s]+$", max_length=254)]
    password: Annotated[str, StringConstraints(min_length=10, max_length=200)]


class PasswordChange(In):
    old: Annotated[str, StringConstraints(min_length=1, max_length=200)]
    new: Annotated[str, StringConstraints(min_length=10, max_length=200)]


class FirstAccount(NewTeacher):
    """The first teacher of an installation, with a studio."""

    studio: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=120)]


Token = Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9_-]{20,60}$")]


class InvitedAccount(NewTeacher):
    """A further teacher, who comes by a link."""

    token: Token


class InvitationQuestion(In):
    token: Token


class Invited(Out):
    id: UUID
    path: str
    """Of the link; shown once."""
    expires_at: datetime
    studio: str = ""
    """Into which it leads."""


class InvitationOut(Out):
    id: UUID
    rank: Rank
    created_at: datetime
    expires_at: datetime


StaffRank = Literal[Rank.OWNER, Rank.TEACHER, Rank.ASSISTANT]


class TeacherOut(Out):
    id: UUID
    name: str
    email: str
    rank: Rank


class RankChange(In):
    rank: Literal[Rank.OWNER, Rank.TEACHER, Rank.ASSISTANT, Rank.LEFT]
    """Left: no door opens any more, and what they wrote stays."""


class NewInvitation(In):
    rank: StaffRank = Rank.TEACHER


class Staff(Out):
    teachers: list[TeacherOut]
    open: list[InvitationOut]
    """Links that nobody has used yet."""
    demo: bool
    """This is the invented studio."""


class AuditLine(Out):
    created_at: datetime
    actor_name: str
    act: str
    what: str
    subject_id: UUID | None
    """Of the row that it was about; who is erased has no name any more."""


class AuditPage(Out):
    lines: list[AuditLine]
    page: int
    pages: int


class SessionState(Out):
    person: Person | None
    csrf_token: str
    here: Literal["nothing", "demo", "studio"]
    """What stands on this installation: as long as there is no studio but the demo, the first teacher can make one."""


Colour = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=20)]
"""As the teacher calls it."""


Shade = Annotated[str, StringConstraints(pattern=r"^#[0-9a-fA-F]{6}$")]


class MarkPlace(In):
    """A tape: its name, its colour, semitones above the open string."""

    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=30)]
    colour: Colour
    semitones: Annotated[int, Field(ge=1, le=19)]
    own_shade: Shade | Literal[""] = ""
    """What the colour looks like, where it is none that is offered."""


Marks = Annotated[list[MarkPlace], Field(max_length=10)]


class PupilOut(Out):
    id: UUID
    name: str
    instrument: Instrument
    size: str
    string_length_mm: float
    marks: Marks
    known: list[FrameName]
    ease: Ease
    """Which line is set to the pupil, where an instrument has an easier and a harder one."""
    consent_by: str | None
    consent_at: datetime | None
    pictures_agreed: bool
    """The same adult said yes to pictures of the bow hold."""
    path_id: UUID | None
    path_step: int
    """Steps of the path that lie behind."""
    goal: str
    remarks: str
    """The teachers' own."""
    archived_at: datetime | None


class PupilDetail(Out):
    pupil: PupilOut
    class_id: UUID
    class_name: str
    also_in: list[UUID]
    path_name: str | None
    path_steps: list[str]


class PeopleQuestion(In):
    page: Annotated[int, Field(ge=1)] = 1
    class_id: UUID | None = None
    """Of this class, with its guests."""
    search: Annotated[str, StringConstraints(strip_whitespace=True, max_length=60)] = ""
    """In names and instruments."""
    left: bool = False
    """Those who have left, in the place of those who are there."""


class PersonRow(Out):
    pupil: PupilOut
    class_id: UUID


class PeoplePage(Out):
    pupils: list[PersonRow]
    page: int
    pages: int
    total: int


class AlsoIn(In):
    class_ids: Annotated[list[UUID], Field(max_length=20)]


class Move(In):
    class_id: UUID


class Merge(In):
    into: UUID


class Erase(In):
    name: Annotated[str, StringConstraints(strip_whitespace=True, max_length=60)]
    """As it stands in the list, typed once more."""


class PupilBrief(Out):
    """Enough to choose by, and to place tapes."""

    id: UUID
    name: str
    instrument: Instrument
    size: str
    string_length_mm: float
    marks: Marks


class ClassOut(Out):
    id: UUID
    name: str
    code: str
    pupils: list[PupilBrief]
    guests: list[PupilBrief]
    """Pupils whose card is of another class."""


class ClassList(Out):
    classes: list[ClassOut]
    archived: int
    """Pupils who have left."""


class Card(Out):
    """A passphrase is shown once, to be printed."""

    pupil: PupilOut
    class_name: str
    class_code: str
    passphrase: str


class NewClass(In):
    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80)]


class Roster(In):
    """A list as it was typed, pasted or read out of a CSV file."""

    text: Annotated[str, StringConstraints(max_length=20_000)]
    keep: bool = False
    """False: it is only looked at, and nobody is put in."""


class RosterRowOut(Out):
    line: int
    name: str
    instrument: Instrument
    size: str
    string_length_mm: float


class RosterFaultOut(Out):
    line: int
    words: str


class RosterOut(Out):
    rows: list[RosterRowOut]
    faults: list[RosterFaultOut]
    """As long as there are any, nobody is put in."""
    cards: list[Card]
    """Of those who were put in: their words are shown this once."""


class NewPupil(In):
    class_id: UUID
    name: Name
    instrument: Instrument
    size: Annotated[str, StringConstraints(max_length=16)]
    string_length_mm: Annotated[float, Field(ge=150, le=1300)] | None = None


class PupilChange(In):
    name: Name | None = None
    size: Annotated[str, StringConstraints(max_length=16)] | None = None
    string_length_mm: Annotated[float, Field(ge=150, le=1300)] | None = None
    marks: Marks | None = None
    """Tapes of this instrument; an empty list: those of the studio."""
    path_id: UUID | Literal[""] | None = None
    """The learning path that the pupil goes; an empty text: none."""
    path_step: Annotated[int, Field(ge=0, le=200)] | None = None
    goal: Annotated[str, StringConstraints(strip_whitespace=True, max_length=300)] | None = None
    remarks: Annotated[str, StringConstraints(strip_whitespace=True, max_length=4000)] | None = None
    known: list[FrameName] | None = None
    ease: Ease | None = None
    consent_by: Annotated[str, StringConstraints(strip_whitespace=True, max_length=80)] | None = None
    """The adult's name; an empty text takes the consent back, also that to pictures."""
    pictures_agreed: bool | None = None
