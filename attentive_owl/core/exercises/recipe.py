"""A recipe: all choices of the teacher that make an exercise, apart from the instrument that will play it."""

from __future__ import annotations

import re
from dataclasses import dataclass, fields
from enum import StrEnum
from fractions import Fraction

from attentive_owl.core.exercises.patterns import RecipeError, meter, pattern
from attentive_owl.core.instruments import INSTRUMENTS, FourthFinger
from attentive_owl.core.theory import KeySignature, Pitch, ScaleForm

LOWEST_TEMPO_BPM, HIGHEST_TEMPO_BPM = 40, 132
STRING_NAMES = ("C", "G", "D", "A", "E")
NEVER = "never"
_MOST_LINE_NOTES = 200
_BEATS = re.compile(r"\d{1,2}(/[1-9]\d?)?")
_NAME = re.compile(r"[A-G](##|#|bb|b)?[0-8]")


class Direction(StrEnum):
    """Which way a line goes."""

    UP = "up"
    DOWN = "down"
    UP_AND_DOWN = "up and down"


class Bowing(StrEnum):
    """How its notes are bowed."""

    DETACHED = "detached"
    SLUR_2 = "slurred in twos"
    SLUR_3 = "slurred in threes"
    SLUR_4 = "slurred in fours"
    SLUR_8 = "slurred in eights"
    STOPPED = "slurred in twos with a stop"
    LINKED = "two short notes in one up-bow"
    STACCATO = "staccato"
    PIZZICATO = "pizzicato"

    @property
    def notes_a_bow(self) -> int:
        return {Bowing.SLUR_2: 2, Bowing.SLUR_3: 3, Bowing.SLUR_4: 4, Bowing.SLUR_8: 8, Bowing.STOPPED: 2}.get(self, 1)


class BowPart(StrEnum):
    """Where on the bow; empty: where the bow plan puts it."""

    PLANNED = ""
    WHOLE = "whole bow"
    LOWER = "lower half"
    MIDDLE = "middle of the bow"
    UPPER_TWO_THIRDS = "upper two thirds"
    HEEL = "at the heel"
    POINT = "at the point"


class Dynamic(StrEnum):
    """How loud a line is wanted; free where nothing is said."""

    FREE = ""
    PIANO = "p"
    MEZZO_PIANO = "mp"
    MEZZO_FORTE = "mf"
    FORTE = "f"


class Fingers(StrEnum):
    """Schools differ: fingers stay for the way back, or are lifted against squeaks."""

    FREE = ""
    KEPT = "fingers stay down"
    LIFTED = "fingers lift"


class Way(StrEnum):
    """Steps of one exercise, in this order."""

    SING = "sing it"
    PLUCK = "pluck it"
    BOW = "bow it"


class Sign(StrEnum):
    """What may stand in the engraving beside the notes."""

    FINGERS = "finger numbers"
    POSITIONS = "positions and stretches"
    LOW_HIGH = "low and high fingers"
    STRINGS = "strings"
    HALF_STEPS = "half steps"
    KEEP_DOWN = "fingers that stay"
    BOWS = "every bow"
    NOTE_NAMES = "note names"
    CUE = "cue words"
    HOW = "how it is played"


USUAL_SIGNS = (Sign.FINGERS, Sign.POSITIONS, Sign.CUE, Sign.HOW)


@dataclass(frozen=True)
class Pin:
    """The teacher's own fingering of one note on one instrument."""

    instrument: str
    index: int
    string: str
    finger: int


class Ease(StrEnum):
    """Which line of one exercise a pupil plays, where an instrument has more than one."""

    USUAL = "usual"
    EASIER = "easier"
    """Without shifts where that can be had, at the price of an octave's drop."""
    HARDER = "harder"
    """Up to the top, with the shifts that it takes; the usual line where the top is out of reach."""


@dataclass(frozen=True)
class Register:
    """Where the teacher wants the line to lie on one instrument."""

    instrument: str
    start: str = ""
    """The first note as it sounds, such as G4; empty: the octave that is easiest to finger."""
    drop_after: str = ""
    """The highest note before the line drops an octave, such as G2; 'never'; empty: where its easy positions end."""

    def __post_init__(self) -> None:
        if self.instrument not in INSTRUMENTS:
            raise RecipeError(f"{self.instrument!r} is none of {', '.join(INSTRUMENTS)}")
        if self.start and not _NAME.fullmatch(self.start):
            raise RecipeError(f"{self.start!r} is no first note such as G4")
        if self.drop_after not in ("", NEVER) and not _NAME.fullmatch(self.drop_after):
            raise RecipeError(f"{self.drop_after!r} is no note such as G2 after which a line drops, nor {NEVER!r}")


@dataclass(frozen=True)
class LineNote:
    """One cell of a teacher's own line. `name` is None for a rest; octaves are moved to fit each instrument."""

    name: str | None
    beats: str
    """In quarter notes, as '1', '1/2' or '3/2'."""
    slurred: bool = False
    """Taken in the same bow as the note before."""

    def __post_init__(self) -> None:
        # Matched before it is worked out: '1e9999999999' would take for ever.
        if not isinstance(self.beats, str) or not _BEATS.fullmatch(self.beats) or not 0 < Fraction(self.beats) <= 16:
            raise RecipeError("a note of a line lasts a fraction of a beat up to 16 beats, as '1', '1/2' or '3/2'")
        if self.name is not None and not (isinstance(self.name, str) and _NAME.fullmatch(self.name)):
            raise RecipeError("a note of a line has a name such as F#4, or none for a rest")


@dataclass(frozen=True)
class Recipe:
    """What a teacher chooses; `build` makes a line for each instrument of it."""

    tonic: str = "D"
    pattern: str = "quarters"
    tempo_bpm: float = 72.0
    fourth_finger: FourthFinger = FourthFinger.OPEN
    family: str = "scale"
    form: ScaleForm = ScaleForm.MAJOR
    octaves: int = 1
    direction: Direction = Direction.UP_AND_DOWN
    top_again: bool = True
    """Whether the top note is played again on the way down."""
    meter: str = "4/4"
    pickup: bool = False
    bowing: Bowing = Bowing.DETACHED
    string: str = "D"
    """For families that stay on a string; G, D and A are on all four instruments."""
    finger: int = 1
    rung: int = 2
    """Of the density ladder, 1 (long notes) to 5 (slurred in fours)."""
    seed: int = 1
    """Of an echo phrase: the same seed is the same phrase."""
    cue: tuple[str, ...] = ()
    """The teacher's own words for the pattern; empty: those of the pattern."""
    line: tuple[LineNote, ...] = ()
    bars: tuple[int, int] | None = None
    """Only these bars of the line, the first and the last; a pickup goes with bar 1."""
    rungs: tuple[int, ...] = ()
    """Rungs of the ladder one after the other, in place of the one."""
    times: int = 1
    """How often the pattern is played on each note."""
    wait: bool = False
    """Whether a silence to place the next finger follows each note's patterns."""
    bow_part: BowPart = BowPart.PLANNED
    dynamic: Dynamic = Dynamic.FREE
    fingers: Fingers = Fingers.FREE
    slows: bool = False
    """Whether the last measure has a ritardando."""
    ways: tuple[Way, ...] = ()
    signs: tuple[Sign, ...] = USUAL_SIGNS
    registers: tuple[Register, ...] = ()
    """One an instrument at most."""
    pins: tuple[Pin, ...] = ()
    """By the number of the note among those that are played."""

    def __post_init__(self) -> None:
        for name in ("tonic", "pattern", "family", "meter", "string"):
            if not isinstance(getattr(self, name), str):
                raise RecipeError(f"{name} is a word")
        if not LOWEST_TEMPO_BPM <= self.tempo_bpm <= HIGHEST_TEMPO_BPM:
            raise RecipeError(f"the tempo goes from {LOWEST_TEMPO_BPM} to {HIGHEST_TEMPO_BPM} beats a minute")
        own = pattern(self.pattern)
        if self.cue and len(self.cue) != own.notes:
            raise RecipeError(f"{own.name} needs {own.notes} spoken syllables, and {len(self.cue)} were given")
        if self.octaves not in (1, 2):
            raise RecipeError("a scale has one octave or two")
        if self.string not in STRING_NAMES:
            raise RecipeError(f"{self.string!r} is none of the strings {', '.join(STRING_NAMES)}")
        if not 1 <= self.rung <= 5 or not all(1 <= rung <= 5 for rung in self.rungs) or len(self.rungs) > 5:
            raise RecipeError("the ladder has five rungs")
        if not 1 <= self.times <= 4:
            raise RecipeError("a pattern is played one to four times on a note")
        if not 1 <= self.finger <= 4:
            raise RecipeError("there are four fingers")
        if len(self.line) > _MOST_LINE_NOTES:
            raise RecipeError(f"a line has at most {_MOST_LINE_NOTES} notes")
        if self.bars is not None and not (len(self.bars) == 2 and 1 <= self.bars[0] <= self.bars[1]):
            raise RecipeError("bars are counted from 1, and the last does not stand before the first")
        meter(self.meter)
        try:
            KeySignature.of(self.tonic, self.form.mode)
        except ValueError as error:
            raise RecipeError(str(error)) from error

    def register(self, instrument_key: str) -> Register:
        found = (own for own in self.registers if own.instrument == instrument_key)
        return next(found, Register(instrument_key))

    @property
    def key(self) -> KeySignature:
        return KeySignature.of(self.tonic, self.form.mode)

    @property
    def tonic_spoken(self) -> str:
        return Pitch.parse(f"{self.tonic}4").spoken


NOT_OF_THE_STEP = ("tempo_bpm", "bars", "pins", "fourth_finger", "cue", "signs")
"""How a step is played and shown; not what it is."""


def same_step(one: Recipe, other: Recipe) -> bool:
    """The same exercise, at whatever tempo and with whatever fingering it is played."""
    return all(
        getattr(one, own.name) == getattr(other, own.name) for own in fields(Recipe) if own.name not in NOT_OF_THE_STEP
    )
