"""The choices that make an exercise, and what there is to choose from."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, StringConstraints

from attentive_owl.core.exercises import USUAL_SIGNS, Bowing, BowPart, Direction, Dynamic, Fingers, Sign, Way
from attentive_owl.core.instruments import FourthFinger
from attentive_owl.core.theory import ScaleForm
from attentive_owl.web.schemas.common import (
    FamilyKey,
    FrameName,
    In,
    Instrument,
    LevelKey,
    MeterName,
    Out,
    PatternKey,
    StringName,
    Tempo,
    Tonic,
    Upload,
)

Syllable = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=16)]


Tag = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=24)]


NoteName = Annotated[str, StringConstraints(pattern=r"^[A-G](##|#|bb|b)?[0-8]$")]


class LineNoteIn(In):
    name: NoteName | None
    beats: Annotated[str, StringConstraints(pattern=r"^\d{1,2}(/[1248])?$")]
    slurred: bool = False


class PinIn(In):
    instrument: Instrument
    index: Annotated[int, Field(ge=0, le=2000)]
    string: StringName
    finger: Annotated[int, Field(ge=0, le=4)]


class RegisterIn(In):
    """Where the line lies on one instrument."""

    instrument: Instrument
    start: NoteName | Literal[""] = ""
    drop_after: NoteName | Literal["never", ""] = ""


class Recipe(In):
    """All choices that make an exercise; what a family does not use is passed over."""

    family: FamilyKey = "scale"
    tonic: Tonic
    form: ScaleForm = ScaleForm.MAJOR
    octaves: Literal[1, 2] = 1
    direction: Direction = Direction.UP_AND_DOWN
    top_again: bool = True
    pattern: PatternKey = "quarters"
    meter: MeterName = "4/4"
    pickup: bool = False
    bowing: Bowing = Bowing.DETACHED
    tempo_bpm: Tempo
    fourth_finger: FourthFinger = FourthFinger.OPEN
    string: StringName = "D"
    finger: Annotated[int, Field(ge=1, le=4)] = 1
    rung: Annotated[int, Field(ge=1, le=5)] = 2
    rungs: Annotated[list[Annotated[int, Field(ge=1, le=5)]], Field(max_length=5)] = []
    times: Annotated[int, Field(ge=1, le=4)] = 1
    wait: bool = False
    bow_part: BowPart = BowPart.PLANNED
    dynamic: Dynamic = Dynamic.FREE
    fingers: Fingers = Fingers.FREE
    slows: bool = False
    ways: Annotated[list[Way], Field(max_length=3)] = []
    signs: Annotated[list[Sign], Field(max_length=12)] = list(USUAL_SIGNS)
    registers: Annotated[list[RegisterIn], Field(max_length=4)] = []
    seed: Annotated[int, Field(ge=0, le=1_000_000)] = 1
    cue: Annotated[list[Syllable], Field(max_length=16)] = []
    line: Annotated[list[LineNoteIn], Field(max_length=200)] = []
    bars: Annotated[list[Annotated[int, Field(ge=1, le=400)]], Field(min_length=2, max_length=2)] | None = None
    """Only the first to the second of these bars of the line."""
    pins: Annotated[list[PinIn], Field(max_length=400)] = []


class PatternOut(Out):
    key: PatternKey
    name: str
    cue: list[str]
    values: list[float]
    meters: list[MeterName]


class FamilyOut(Out):
    key: FamilyKey
    name: str
    group: Literal["scales", "rhythm", "intonation", "phrases"]
    about: str
    uses: list[str]
    hidden: bool


class SizeOut(Out):
    name: str
    string_length_mm: float


class OpenStringOut(Out):
    name: StringName
    midi: int


class HandPlaceOut(Out):
    semitones: int
    """Above the open string."""
    finger: int


class InstrumentOut(Out):
    key: Instrument
    name: str
    sizes: list[SizeOut]
    strings: list[OpenStringOut]
    """Low to high."""
    hand: list[HandPlaceOut]
    """What lies under the hand on each string in first position, the open string with it."""
    frames: list[FrameName]
    """Hand frames that a pupil of it can know."""
    checklist: list[str]
    """What is looked at before playing, where the studio says nothing else."""


class LevelOut(Out):
    key: LevelKey
    name: str
    pitch_cents: float
    ringing_cents: float
    timing_ms: float
    tempo_percent: float


class Catalogue(Out):
    families: list[FamilyOut]
    tonics: list[Tonic]
    forms: list[ScaleForm]
    directions: list[Direction]
    bowings: list[Bowing]
    meters: list[MeterName]
    bow_parts: list[BowPart]
    dynamics: list[Dynamic]
    fingers: list[Fingers]
    ways: list[Way]
    signs: list[Sign]
    tape_shades: dict[str, str]
    """Colours of tapes that are offered."""
    strings: list[StringName]
    patterns: list[PatternOut]
    instruments: list[InstrumentOut]
    levels: list[LevelOut]
    lowest_tempo_bpm: int
    highest_tempo_bpm: int
    first_rung_share: float
    """Of the target, where a tempo ladder begins unless the teacher says otherwise."""


class ImportedLine(Out):
    title: str
    tonic: Tonic
    form: ScaleForm
    meter: MeterName
    tempo_bpm: float
    line: list[LineNoteIn]


class LineUpload(BaseModel):
    file: Upload
