"""A week's sheet: several exercises that are set together."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Literal
from uuid import UUID

from pydantic import Field, StringConstraints

from attentive_owl.core.exercises import Ease
from attentive_owl.web.schemas.assignments import Terms
from attentive_owl.web.schemas.common import In, Instrument, Out, Tempo
from attentive_owl.web.schemas.recipes import Recipe

SheetKind = Literal["draft", "template", "sent"]


class Audience(In):
    """For whom. All empty: everybody."""

    class_ids: Annotated[list[UUID], Field(max_length=40)] = []
    instruments: Annotated[list[Instrument], Field(max_length=4)] = []
    pupil_ids: Annotated[list[UUID], Field(max_length=250)] = []
    """Just these, whatever else is said."""


class SheetChange(In):
    """What is different for one pupil."""

    pupil_id: UUID
    left_out: bool = False
    target_bpm: Tempo | None = None
    good_repeats: Annotated[int, Field(ge=1, le=50)] | None = None
    note: Annotated[str, StringConstraints(strip_whitespace=True, max_length=500)] | None = None
    ease: Ease | None = None


class SheetItem(Terms):
    recipe: Recipe
    audience: Audience = Audience()
    changes: Annotated[list[SheetChange], Field(max_length=250)] = []


class SheetIn(In):
    name: Annotated[str, StringConstraints(strip_whitespace=True, max_length=80)] = ""
    due_on: date | None = None
    items: Annotated[list[SheetItem], Field(max_length=12)] = []


class NewSheet(SheetIn):
    copy_of: UUID | None = None
    """Everything of another sheet, but for its day."""


class AddToSheet(In):
    """A warm-up onto the sheet that is being written; for nobody in particular: for everybody."""

    recipe: Recipe
    pupil_ids: Annotated[list[UUID], Field(max_length=250)] = []
    class_ids: Annotated[list[UUID], Field(max_length=40)] = []


class SheetSave(SheetIn):
    seen: datetime
    """When it was changed last, as its writer knows: so that no two write over one another."""


class SheetLine(Out):
    id: UUID
    name: str
    kind: SheetKind
    due_on: date | None
    titles: list[str]
    teacher_name: str
    changed_at: datetime
    sent_at: datetime | None


class SheetsQuestion(In):
    search: Annotated[str, StringConstraints(strip_whitespace=True, max_length=60)] = ""
    """In names of sheets."""
    page: Annotated[int, Field(ge=1)] = 1


class SheetList(Out):
    sheets: list[SheetLine]
    page: int
    pages: int


class SheetOut(SheetLine):
    items: list[SheetItem]


class PageItem(Out):
    title: str
    recipe: Recipe
    target_bpm: float
    good_repeats: int
    days_a_week: int
    note: str
    ease: Ease


class PageOfPupil(Out):
    """What one pupil will get."""

    pupil_id: UUID
    name: str
    instrument: Instrument
    items: list[PageItem]
    can_not: list[str]
    """Exercises that can not be played on this instrument, with the reason: they are left out."""


class SheetPages(Out):
    pages: list[PageOfPupil]


class SheetSent(Out):
    sheet: SheetOut
    pupils: int
    exercises: int


class PaperQuestion(In):
    pupil_id: UUID | None = None
    """None: all of them, a page each."""


class Template(In):
    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80)]
