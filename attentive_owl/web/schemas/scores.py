"""An exercise as notes: engraved, with what there is to tell of it."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from attentive_owl.core.exercises import Ease, Way
from attentive_owl.core.playing import Company
from attentive_owl.web.schemas.common import In, Instrument, Out, StringName, Tempo
from attentive_owl.web.schemas.people import Colour, Shade
from attentive_owl.web.schemas.recipes import Recipe


class PlacedNote(Out):
    index: int
    x: float
    y: float


class SystemOut(Out):
    svg: str
    width: int
    height: int
    notes: list[PlacedNote]


class NoteMark(Out):
    """The tape under a note."""

    name: str
    colour: Colour
    shade: Shade


class ScoreNoteOut(Out):
    index: int
    name: str
    spoken: str
    midi: int
    """What sounds."""
    measure: int
    string: str | None
    finger: int | None
    position: str | None
    semitones: int | None
    """Above the open string."""
    mark: NoteMark | None
    start_beats: float
    duration_beats: float
    cue: str | None
    """Its cue word."""


class RestOut(Out):
    start_beats: float
    duration_beats: float


class CountWordOut(Out):
    at_beats: float
    """Quarter notes from the beginning of the count."""
    word: str
    beat: bool
    """Struck, and not only said."""


class ScoreOut(Out):
    """One exercise on one instrument: engraved, and the facts of each note for words and nests."""

    instrument: Instrument
    instrument_name: str
    title: str
    tempo_bpm: float
    measure_beats: float
    pulse_beats: float
    strings: list[str]
    """Of the instrument, low to high."""
    hidden: bool
    """Heard, not shown, until it has been tried."""
    notes: list[ScoreNoteOut]
    rests: list[RestOut]
    rest_word: str
    """What is said in a rest."""
    systems: list[SystemOut]
    count_in: list[CountWordOut]
    count_in_beats: float
    ways: list[Way]
    """Steps of the exercise, in order; empty where it is simply played."""
    calls: bool
    """Whether every bar is first played to the pupil."""
    demonstration_url: str
    demonstration_onsets: list[float]


StaffSize = Literal["usual", "large", "largest"]
STAFF_SHARES: dict[StaffSize, float] = {"usual": 1.0, "large": 1.45, "largest": 2.0}
"""On a tablet of ten inches a space between two lines of the largest staff is about 3.5 mm, which from two metres is six minutes of
arc; good eyes tell one."""


class Width(In):
    width: Annotated[int, Field(ge=240, le=2000)] = 900


class HalfStepOut(Out):
    low: str
    high: str
    words: str


class FrameOut(Out):
    string: str
    words: str


class StrokeOut(Out):
    notes: list[int]
    direction: Literal["down", "up"]
    start: float
    end: float


class NeighboursOut(Out):
    below: str
    above: str


class PlaceOut(Out):
    string: StringName
    finger: int
    position: str


class NewForOut(Out):
    pupils: list[str]
    new: list[str]


class ToldOut(Out):
    about: str
    words: str


class InsightOut(Out):
    signature: str
    occurring: list[str]
    half_steps: list[HalfStepOut]
    frames: list[FrameOut]
    frame_changes: list[int]
    crossings: int
    shifts: list[int]
    difficulty: str
    bow: str
    strokes: list[StrokeOut]
    neighbours: list[NeighboursOut]
    """The notes of the key below and above each note."""
    places: list[list[PlaceOut]]
    """For each note, where else it can be taken; the easiest first."""
    new_for: list[NewForOut]
    """What each pupil of this instrument was never set and does not know; pupils of like standing together."""
    new: list[str]
    """What no exercise that was set for this instrument had."""
    telling: list[ToldOut]
    """What a teacher tells before it is played."""
    starts: list[str]
    """First notes from which the instrument has this line."""
    eases: list[Ease]
    """Lines of it that the instrument has."""


class PartOut(Out):
    score: ScoreOut
    insight: InsightOut


class PreviewQuestion(In):
    """One instrument a question: a page that shows four asks four times at once, and each is drawn when it comes."""

    recipe: Recipe
    instrument: Instrument
    ease: Ease = Ease.USUAL
    width: Annotated[int, Field(ge=240, le=2000)] = 900
    size: StaffSize = "usual"


class SheetQuestion(In):
    """A sheet to hand out."""

    recipe: Recipe
    instruments: Annotated[list[Instrument], Field(min_length=1, max_length=4)]
    one_page: bool = False
    paper: Literal["a4", "letter"] = "a4"
    words: Annotated[str, StringConstraints(strip_whitespace=True, max_length=500)] = ""
    target_bpm: Tempo | None = None
    days: Annotated[int, Field(ge=0, le=7)] = 5
    good_repeats: Annotated[int, Field(ge=1, le=10)] = 5
    due_on: date | None = None


class ExportQuestion(In):
    recipe: Recipe
    instrument: Instrument
    ease: Ease = Ease.USUAL
    kind: Literal["musicxml", "midi"]


class PreviewOut(Out):
    title: str
    part: PartOut | None
    left_out: str | None
    """Where the instrument can not play it, why."""


class DemonstrationQuestion(In):
    recipe: Annotated[str, StringConstraints(max_length=3800)]
    """The recipe, packed as `web.scores` packs it."""
    instrument: Instrument
    ease: Ease = Ease.USUAL
    company: Company = Company.ALONE
    line: bool = True
