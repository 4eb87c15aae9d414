"""A pupil's practice of one exercise: goes, the ladder, pieces of the line, and what the pupil says of a go."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, model_validator

from attentive_owl.web.schemas.common import In, ModeKey, Out, TakeState, Tempo, Upload, Verdict
from attentive_owl.web.schemas.scores import StaffSize, Width

Felt = Literal["easy", "right", "too_hard"]
Focus = Literal["tune", "time"]
Bar = Annotated[int, Field(ge=1, le=400)]


class Bars(Out):
    """Of a line, counted from 1."""

    first: int
    last: int

    @classmethod
    def of(cls, bars: tuple[int, int] | None) -> Bars | None:
        return None if bars is None else cls(first=bars[0], last=bars[1])


class PieceOfLine(In):
    """Some bars, or all of it where none are given; at a tempo, or at the target."""

    bpm: Tempo | None = None
    first_bar: Bar | None = None
    last_bar: Bar | None = None

    @model_validator(mode="after")
    def _both_or_none(self) -> PieceOfLine:
        first, last = self.first_bar, self.last_bar
        if (first is None) != (last is None) or (first is not None and last is not None and first > last):
            raise ValueError("bars are a first and a last one, in this order")
        return self

    @property
    def bars(self) -> tuple[int, int] | None:
        return None if self.first_bar is None or self.last_bar is None else (self.first_bar, self.last_bar)


class PieceQuestion(Width, PieceOfLine):
    """The piece, engraved for a page of this width."""

    size: StaffSize = "usual"
    """Large and largest: to be read from a music stand, one and two metres away."""


class NewTake(PieceOfLine):
    model_config = ConfigDict(extra="forbid", arbitrary_types_allowed=True)

    assignment_id: UUID
    client_key: Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9-]{8,64}$")]
    sha256: Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]
    recorded_at: datetime | None = None
    claimed_s: Annotated[float, Field(ge=0, le=3600)] | None = None
    mode: ModeKey | None = None
    """How the pupil chose to play it; none: as the assignment has it."""
    focus: Focus | None = None
    hand_in: bool = False
    """For the teacher, at once; else it stays the pupil's own."""
    pupil_id: UUID | None = None
    """Whose it is, where a teacher records it at a lesson."""
    sound: Upload


class TakeSaid(In):
    """What the pupil says of a go; what is not named stays as it is."""

    handed_in: bool | None = None
    thrown_away: bool | None = None
    kept: bool | None = None
    felt: Felt | None = None
    help_words: Annotated[str, StringConstraints(strip_whitespace=True, max_length=300)] | None = None
    """What help is asked for, which may be left empty; null: none any more."""


class SpokenHelp(BaseModel):
    sound: Upload


class PictureUpload(BaseModel):
    picture: Upload


class GoOut(Out):
    """One go, for the pupil who played it."""

    id: UUID
    recorded_at: datetime
    duration_s: float
    state: TakeState
    refusal: str | None
    good: bool
    pitch_word: str | None
    rhythm_word: str | None
    played_bpm: float | None
    bpm: float
    """As it was asked for."""
    bars: Bars | None
    """None: the whole line."""
    handed_in: bool
    kept: bool
    felt: Felt | None
    asks_for_help: bool
    verdict: Verdict | None


class LadderOut(Out):
    rungs: list[float]
    clean_in_a_row: int
    bpm: float
    in_a_row: int
    offered_bpm: float | None
    reached_bpm: float | None
    done: bool


class StepToNote(Out):
    spoken: str
    midi: int


class TunedString(Out):
    string: str
    cents: float
    """Over its place."""
    in_tune: bool


class Room(Out):
    """What is around one exercise while it is practised."""

    goes: list[GoOut]
    """The newest first; those that were thrown away are not here."""
    best_id: UUID | None
    """The one to hand in; none where the best is handed in already, or where none could be judged."""
    target_bpm: float
    mode: ModeKey
    ladder: LadderOut | None
    bars: int
    hardest: list[Bars]
    """The bar that went worst in the last go, then with its neighbours."""
    from_the_end: list[Bars]
    good_in_a_row: int
    """Good goes through the whole line since the last one that was not."""
    checklist: list[str]
    tuning_care: str
    tuned_today: list[TunedString]
    """As it was found in the last hours."""
    lowest_bpm: float
    """No slower than this."""
    walk: list[StepToNote]
    """From the open string to the first note; empty where it is one."""


class FirstNoteReading(Out):
    """All none where nothing steady was heard."""

    word: Literal["home", "low", "high", "another"] | None
    cents: float | None
    words: str | None
