"""The choices that make an exercise, and what there is to choose from."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field, StringConstraints

from attentive_owl.core import exercises
from attentive_owl.core.exercises import Bowing, BowPart, Direction, Dynamic, Fingers, Sign, Way
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


def _usual(choice: str) -> Any:
    """As the core has it where nothing is said."""
    value = getattr(exercises.Recipe(), choice)
    return list(value) if isinstance(value, tuple) else value


class Recipe(In):
    """All choices that make an exercise; what a family does not use is passed over."""

    family: FamilyKey = _usual("family")
    tonic: Tonic
    form: ScaleForm = _usual("form")
    octaves: Literal[1, 2] = _usual("octaves")
    direction: Direction = _usual("direction")
    top_again: bool = _usual("top_again")
    pattern: PatternKey = _usual("pattern")
    meter: MeterName = _usual("meter")
    pickup: bool = _usual("pickup")
    bowing: Bowing = _usual("bowing")
    tempo_bpm: Tempo
    fourth_finger: FourthFinger = _usual("fourth_finger")
    string: StringName = _usual("string")
    finger: Annotated[int, Field(ge=1, le=4)] = _usual("finger")
    rung: Annotated[int, Field(ge=1, le=5)] = _usual("rung")
    rungs: Annotated[list[Annotated[int, Field(ge=1, le=5)]], Field(max_length=5)] = _usual("rungs")
    times: Annotated[int, Field(ge=1, le=4)] = _usual("times")
    wait: bool = _usual("wait")
    bow_part: BowPart = _usual("bow_part")
    dynamic: Dynamic = _usual("dynamic")
    fingers: Fingers = _usual("fingers")
    slows: bool = _usual("slows")
    ways: Annotated[list[Way], Field(max_length=3)] = _usual("ways")
    signs: Annotated[list[Sign], Field(max_length=12)] = _usual("signs")
    registers: Annotated[list[RegisterIn], Field(max_length=4)] = _usual("registers")
    seed: Annotated[int, Field(ge=0, le=1_000_000)] = _usual("seed")
    cue: Annotated[list[Syllable], Field(max_length=16)] = _usual("cue")
    line: Annotated[list[LineNoteIn], Field(max_length=200)] = _usual("line")
    bars: Annotated[list[Annotated[int, Field(ge=1, le=400)]], Field(min_length=2, max_length=2)] | None = _usual(
        "bars"
    )
    """Only the first to the second of these bars of the line."""
    pins: Annotated[list[PinIn], Field(max_length=400)] = _usual("pins")


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
    first_recipe: Recipe
    """Every choice as it is where nothing is said: what the workshop opens with."""


class ImportedLine(Out):
    title: str
    tonic: Tonic
    form: ScaleForm
    meter: MeterName
    tempo_bpm: float
    line: list[LineNoteIn]


class LineUpload(BaseModel):
    file: Upload
