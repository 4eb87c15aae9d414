"""The picture of a class, of one pupil over months, what is passed, and what might come next."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Literal
from uuid import UUID

from pydantic import Field, StringConstraints

from attentive_owl.core.planning import State, SuggestionKind
from attentive_owl.web.schemas.common import In, Instrument, Out
from attentive_owl.web.schemas.recipes import Recipe

RubricWord = Literal["not_yet", "nearly", "yes"]


class ProgressQuestion(In):
    class_id: UUID | None = None
    path_id: UUID | None = None
    """The steps of this path; none: what was set."""
    page: Annotated[int, Field(ge=1)] = 1


class ClassQuestion(In):
    class_id: UUID | None = None


class SuggestionsQuestion(ClassQuestion):
    pupil_id: UUID | None = None
    """For this one alone."""


class StepOut(Out):
    key: str
    title: str
    recipe: Recipe


class Cell(Out):
    """Where one pupil stands with one step."""

    state: State
    since: date | None
    goes: int
    best_bpm: float | None
    take_id: UUID | None
    """The newest go."""


class PupilRow(Out):
    id: UUID
    name: str
    instrument: Instrument
    last_heard: date | None
    cells: list[Cell]


class Progress(Out):
    steps: list[StepOut]
    pupils: list[PupilRow]
    page: int
    pages: int


class SharedOut(Out):
    title: str
    pupils: list[str]
    heard_in: str
    warm_up: Recipe | None
    """What mends it; none where no practice does."""
    warm_up_title: str


class Together(Out):
    of: int
    """Pupils who were heard in these two weeks."""
    shared: list[SharedOut]


class SuggestionOut(Out):
    kind: SuggestionKind
    title: str
    recipe: Recipe
    reason: str


class Declined(In):
    """A suggestion to which the teacher says: not now; or takes that back."""

    recipe: Recipe
    rests: bool = True


class SuggestionsForPupil(Out):
    pupil_id: UUID
    name: str
    instrument: Instrument
    suggestions: list[SuggestionOut]


class Suggestions(Out):
    pupils: list[SuggestionsForPupil]


class Rubric(In):
    line: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60)]
    word: RubricWord


class NewPassed(In):
    recipe: Recipe
    title: Annotated[str, StringConstraints(strip_whitespace=True, max_length=160)] = ""
    """Empty: named after its recipe."""
    take_id: UUID | None = None
    """With which it was passed; none: heard at a lesson."""
    rubric: Annotated[list[Rubric], Field(max_length=12)] = []
    remark: Annotated[str, StringConstraints(strip_whitespace=True, max_length=300)] = ""


class PassedOut(Out):
    id: UUID
    title: str
    key: str
    recipe: Recipe
    created_at: datetime
    rubric: list[Rubric]
    remark: str
    at_lesson: bool


class StoryGo(Out):
    take_id: UUID
    recorded_at: datetime
    bpm: float
    pitch_share: float
    time_share: float
    good: bool


class StoryStep(Out):
    key: str
    title: str
    recipe: Recipe
    cell: Cell
    target_bpm: float
    goes: list[StoryGo]


class HabitWeek(Out):
    monday: date
    takes: int
    """Of that week in which it was found."""
    of: int
    """Takes of that week."""
    mm: float | None
    """How far off, towards the bridge above nothing, towards the scroll below it; none where it is no matter of the hand."""


class Habit(Out):
    title: str
    kind: str
    weeks: list[HabitWeek]


class Story(Out):
    steps: list[StoryStep]
    habits: list[Habit]
    passed: list[PassedOut]
    keys: list[str]
    """Keys of which a whole scale is passed."""
    patterns: list[str]
