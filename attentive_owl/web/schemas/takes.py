"""Takes, checking again, and the marks and overrules of the teacher."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID

from pydantic import Field, StringConstraints, model_validator

from attentive_owl.core.judging import NeedKind, Report, Spot
from attentive_owl.web.schemas.assignments import MarkOut
from attentive_owl.web.schemas.common import In, Instrument, Out, OverruleWord, TakeState, Verdict
from attentive_owl.web.schemas.practice import Bars, Felt, Focus
from attentive_owl.web.schemas.recipes import Recipe


class TakeRow(Out):
    id: UUID
    pupil_name: str
    instrument: Instrument
    title: str
    recorded_at: datetime
    duration_s: float
    state: TakeState
    refusal: str | None
    """Why it was not judged, in two or three words."""
    pitch_word: str | None
    rhythm_word: str | None
    good: bool
    played_bpm: float | None
    target_bpm: float
    """At which it was to be played."""
    bars: Bars | None
    """Of a piece of the line."""
    handed_in: bool
    felt: Felt | None
    asks_for_help: bool
    verdict: Verdict | None
    need: NeedKind | None
    """Why it wants an ear, of what waits."""
    why: str


class TakePage(Out):
    takes: list[TakeRow]
    """What waits: in the order in which it wants an ear."""
    page: int
    pages: int
    total: int
    none_yet: bool = False
    """Of what waits: not because every take has its word, but because none was ever handed in."""


class TakeQuestion(In):
    page: Annotated[int, Field(ge=1)] = 1
    only: Literal["unmarked", "all", "goes"] = "unmarked"
    """What was handed in and waits; all that was handed in; or the goes that were not, as far as the studio lets its teachers look."""
    class_id: UUID | None = None
    pupil_id: UUID | None = None
    instrument: Instrument | None = None
    search: Annotated[str, StringConstraints(strip_whitespace=True, max_length=60)] = ""
    """In names of pupils and titles of exercises."""


class OverruleOut(Out):
    """Where the teacher's ear decides against the check; it stays with the take whatever a later check says."""

    id: UUID
    created_at: datetime
    teacher_name: str
    note_index: int | None
    cause: str | None
    says: OverruleWord
    remark: str


class NewOverrule(In):
    """Of one note (home, away or missed), or of one kind of cause (not so)."""

    note_index: Annotated[int, Field(ge=0, le=2000)] | None = None
    cause: Annotated[str, StringConstraints(pattern=r"^[a-z_]{2,24}(:[A-G1-4])?$")] | None = None
    """Its kind, and string or finger where it is of one: `finger:2`, `string:A`."""
    says: OverruleWord
    remark: Annotated[str, StringConstraints(strip_whitespace=True, max_length=300)] = ""

    @model_validator(mode="after")
    def _about_one_thing(self) -> NewOverrule:
        if (self.note_index is None) == (self.cause is None):
            raise ValueError("it is about one note or about one cause")
        if (self.says == "not_so") != (self.cause is not None):
            raise ValueError("a cause is not so; a note is home, away or missed")
        return self


class RecheckOut(Out):
    engine: str
    behind: int
    """Takes whose newest report is of an earlier engine."""
    total: int


class EarlierTake(Out):
    id: UUID
    recorded_at: datetime


class TakeOut(Out):
    id: UUID
    assignment_id: UUID
    recipe: Recipe
    pupil_id: UUID
    pupil_name: str
    instrument: Instrument
    size: str
    string_length_mm: float
    title: str
    recorded_at: datetime
    duration_s: float
    sha256: str
    state: TakeState
    handed_in: bool
    thrown_away: bool
    kept: bool
    felt: Felt | None
    focus: Focus | None
    bars: Bars | None
    help_words: str | None
    """None: no help is asked for."""
    help_url: str | None
    """The same, spoken."""
    picture_url: str | None
    """Of the bow hold."""
    picture_wanted: bool
    """The teacher asks for one, and an adult has said yes."""
    audio_url: str | None
    """None: not read yet, or there is nothing that could be played."""
    sound_gone: bool
    """The recording was deleted; its figures stay."""
    recorded_at_lesson: bool
    target_bpm: float
    report: Report | None
    """As it stands after the teacher's ear."""
    marks: list[MarkOut]
    overrules: list[OverruleOut]
    engines: list[str]
    """Of every report that is kept, the newest last; the newest is shown."""
    others: list[EarlierTake]
    """Other takes of the same assignment by the same pupil, the newest first."""
    next_unmarked_id: UUID | None
    """For the teacher: where to go after this one."""
    left: int
    """Other takes that wait."""
    need: NeedKind | None
    """Why this one does."""
    why: str
    spots: list[Spot]
    """Worth hearing; for the teacher."""


class TakeReceipt(Out):
    id: UUID
    sha256: str
    """Of what is committed: the sender compares it before it lets its own copy go."""


Remark = Annotated[str, StringConstraints(strip_whitespace=True, max_length=1000)]


class NewMark(In):
    verdict: Verdict
    remark: Remark = ""
    after: UUID | None = None
    """The newest mark that its writer has seen, so that no two write over one another."""


class ManyMarks(In):
    """One word for several takes that nobody has said anything of."""

    take_ids: Annotated[list[UUID], Field(min_length=1, max_length=100)]
    verdict: Verdict
    remark: Remark = ""


class MarkedTogether(Out):
    marks: list[MarkOut]
    left_out: int
    """Takes of which somebody has said something in the meantime."""


class Draft(Out):
    text: str
    source: Literal["own", "report"]
    """The teacher's words of before, on the same thing; or the report's."""


class DraftList(Out):
    drafts: list[Draft]
