"""What goes over the wire. The OpenAPI document and the front end's types are generated from these."""

from __future__ import annotations

from datetime import date, datetime
from typing import TYPE_CHECKING, Annotated, Any, Literal
from uuid import UUID

from flask_openapi3 import FileStorage
from pydantic import BaseModel, ConfigDict, Field, StringConstraints, computed_field, model_validator

from attentive_owl.core.exercises import (
    FAMILIES,
    FRAMES,
    HIGHEST_TEMPO_BPM,
    LOWEST_TEMPO_BPM,
    METERS,
    PATTERNS,
    STRING_NAMES,
    Bowing,
    Direction,
)
from attentive_owl.core.instruments import FourthFinger
from attentive_owl.core.judging import cause_key
from attentive_owl.core.playing import Company
from attentive_owl.core.theory import NoteNames, ScaleForm, Temperament

Instrument = Literal["violin", "viola", "cello", "bass"]
TONICS = ("D", "G", "A", "C", "F", "Bb", "Eb", "E", "B", "Ab", "Db", "Gb", "F#", "C#", "G#")
LevelKey = Literal["first-steps", "settling", "secure", "concert"]
ModeKey = Literal["steady", "pauses", "repeats"]
Verdict = Literal["accepted", "once_more", "come_and_see_me"]
OverruleWord = Literal["home", "away", "missed", "not_so"]
TakeState = Literal["waiting", "checking", "checked", "refused", "stuck"]
Tempo = Annotated[float, Field(ge=LOWEST_TEMPO_BPM, le=HIGHEST_TEMPO_BPM)]
Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60)]


def _one_of(*values: str) -> Any:
    """A closed choice whose values stand in the core; the document shows them, the core says them."""
    return Literal[values]


if TYPE_CHECKING:
    # A type checker can not see values that are read from the core.
    Tonic = str
    PatternKey = str
    FamilyKey = str
    MeterName = str
    StringName = str
    FrameName = str
else:
    Tonic = _one_of(*TONICS)
    PatternKey = _one_of(*PATTERNS)
    FamilyKey = _one_of(*FAMILIES)
    MeterName = _one_of(*METERS)
    StringName = _one_of(*STRING_NAMES)
    FrameName = _one_of(*FRAMES)


class In(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Out(BaseModel):
    pass


class Problem(Out):
    error: str
    """One sentence for a person."""


class Done(Out):
    done: Literal[True] = True


class ById(In):
    id: UUID


# Signing in


class TeacherSignIn(In):
    email: Annotated[str, StringConstraints(strip_whitespace=True, min_length=3, max_length=254)]
    password: Annotated[str, StringConstraints(min_length=1, max_length=200)]


class PupilSignIn(In):
    class_code: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=40)]
    passphrase: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=120)]


class Person(Out):
    role: Literal["teacher", "pupil"]
    id: UUID
    name: str
    studio: str
    instrument: Instrument | None
    size: str | None
    may_record: bool


class SessionState(Out):
    person: Person | None
    csrf_token: str


Colour = Literal["amber", "teal", "plum", "white", "moss", "rust", "slate"]


class MarkPlace(In):
    """A tape: its name, its colour, semitones above the open string."""

    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=30)]
    colour: Colour
    semitones: Annotated[int, Field(ge=1, le=19)]


Marks = Annotated[list[MarkPlace], Field(max_length=10)]


# People


class PupilOut(Out):
    id: UUID
    name: str
    instrument: Instrument
    size: str
    string_length_mm: float
    marks: Marks
    known: list[FrameName]
    consent_by: str | None
    consent_at: datetime | None


class ClassOut(Out):
    id: UUID
    name: str
    code: str
    pupils: list[PupilOut]


class ClassList(Out):
    classes: list[ClassOut]


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
    known: list[FrameName] | None = None
    consent_by: Annotated[str, StringConstraints(strip_whitespace=True, max_length=80)] | None = None
    """The adult's name; an empty text takes the consent back."""


class Card(Out):
    """A passphrase is shown once, to be printed."""

    pupil: PupilOut
    class_name: str
    class_code: str
    passphrase: str


# Exercises


Syllable = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=16)]
Tag = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=24)]


class LineNoteIn(In):
    name: Annotated[str, StringConstraints(pattern=r"^[A-G](##|#|bb|b)?[0-8]$")] | None
    beats: Annotated[str, StringConstraints(pattern=r"^\d{1,2}(/[1248])?$")]
    slurred: bool = False


class PinIn(In):
    instrument: Instrument
    index: Annotated[int, Field(ge=0, le=2000)]
    string: StringName
    finger: Annotated[int, Field(ge=0, le=4)]


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


class InstrumentOut(Out):
    key: Instrument
    name: str
    sizes: list[SizeOut]


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
    strings: list[StringName]
    patterns: list[PatternOut]
    instruments: list[InstrumentOut]
    levels: list[LevelOut]
    frames: list[FrameName]
    lowest_tempo_bpm: int
    highest_tempo_bpm: int


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


class ScoreNoteOut(Out):
    index: int
    name: str
    spoken: str
    measure: int
    string: str | None
    finger: int | None
    position: str | None
    semitones: int | None
    """Above the open string."""
    mark: NoteMark | None
    start_beats: float
    duration_beats: float


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
    systems: list[SystemOut]
    demonstration_url: str
    demonstration_onsets: list[float]


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


class PartOut(Out):
    score: ScoreOut
    insight: InsightOut


class PreviewQuestion(In):
    """One instrument a question: a page that shows four asks four times at once, and each is drawn when it comes."""

    recipe: Recipe
    instrument: Instrument
    width: Annotated[int, Field(ge=240, le=2000)] = 900


class PreviewOut(Out):
    title: str
    part: PartOut | None
    left_out: str | None
    """Where the instrument can not play it, why."""


class DemonstrationQuestion(In):
    recipe: Annotated[str, StringConstraints(max_length=3800)]
    """The recipe, packed as `web.scores` packs it."""
    instrument: Instrument
    company: Company = Company.ALONE
    line: bool = True


class ImportedLine(Out):
    title: str
    tonic: Tonic
    form: ScaleForm
    meter: MeterName
    tempo_bpm: float
    line: list[LineNoteIn]


class MomentUpload(BaseModel):
    sound: FileStorage


class StringReading(Out):
    """What a moment of one open string says; all none where no string was heard."""

    string: str | None
    cents: float | None
    plus_minus_cents: float | None
    word: Literal["in tune", "low", "high"] | None


class LineUpload(BaseModel):
    file: FileStorage


class ExerciseOut(Out):
    id: UUID
    title: str
    recipe: Recipe
    tags: list[str]
    version: int
    created_at: datetime
    retired: bool
    assigned: int


class ExerciseList(Out):
    exercises: list[ExerciseOut]


class ShelfQuestion(In):
    search: Annotated[str, StringConstraints(strip_whitespace=True, max_length=60)] = ""
    retired: bool = False


class NewExercise(In):
    recipe: Recipe
    title: Annotated[str, StringConstraints(strip_whitespace=True, max_length=120)] = ""
    """Empty: named after its recipe."""
    tags: Annotated[list[Tag], Field(max_length=8)] = []
    path_id: UUID | None = None
    """The learning path at whose end it is also put."""


class PathStep(In):
    title: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=160)]
    recipe: Recipe


class PathOut(Out):
    id: UUID
    name: str
    about: str
    steps: list[PathStep]


class PathList(Out):
    paths: list[PathOut]


class PathChange(In):
    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80)]
    about: Annotated[str, StringConstraints(strip_whitespace=True, max_length=300)] = ""
    steps: Annotated[list[PathStep], Field(max_length=120)]


class LevelValues(In):
    """Tolerances either way."""

    pitch_cents: Annotated[float, Field(ge=4, le=60)]
    ringing_cents: Annotated[float, Field(ge=4, le=60)]
    timing_ms: Annotated[float, Field(ge=15, le=300)]
    tempo_percent: Annotated[float, Field(ge=1, le=40)]


class StudioWords(In):
    values: Literal["quarter", "crotchet"] = "quarter"
    names: NoteNames = NoteNames.LETTERS
    count_in: Literal["1 2 3 4", "1 2 ready go", "1 and 2 and", "4 3 2 1"] = "1 2 3 4"
    cues: dict[str, Annotated[list[Syllable], Field(max_length=16)]] = {}
    """Pattern key -> the studio's own syllables."""
    marks: dict[Instrument, Marks] = {}
    """Instrument -> its tapes; those of the instrument by default where none are given."""
    levels: dict[LevelKey, LevelValues] = {}
    """Tolerance levels that the teacher changed."""


class TapeQuestion(In):
    instrument: Instrument
    size: Annotated[str, StringConstraints(max_length=16)]
    string_length_mm: Annotated[float, Field(ge=150, le=1300)]
    pupil_id: UUID | None = None
    """Whose tapes, where they differ from the studio's."""


class TapeOut(Out):
    name: str
    colour: Colour
    semitones: int
    mm: float
    notes: list[str]


class TapeList(Out):
    tapes: list[TapeOut]


# Assignments


class NewAssignment(In):
    recipe: Recipe
    pupil_ids: Annotated[list[UUID], Field(min_length=1, max_length=60)]
    due_on: date
    target_bpm: Tempo
    good_repeats: Annotated[int, Field(ge=1, le=50)]
    level: LevelKey = "settling"
    note: Annotated[str, StringConstraints(strip_whitespace=True, max_length=500)] = ""
    temperament: Temperament = Temperament.EQUAL
    a4_hz: Annotated[float, Field(ge=400, le=480)] | None = None
    """The reference pitch; none: the pupil's own open strings."""
    mode: ModeKey = "steady"


class Standing(Out):
    """Where one pupil stands with one assignment."""

    pupil_id: UUID
    pupil_name: str
    instrument: Instrument
    takes: int
    good: int
    waiting: int
    """Takes that the teacher has not marked yet."""
    last_take_id: UUID | None
    last_verdict: Verdict | None


class AssignmentOut(Out):
    id: UUID
    title: str
    recipe: Recipe
    due_on: date
    target_bpm: float
    good_repeats: int
    level: LevelKey
    note: str
    temperament: Temperament
    a4_hz: float | None
    mode: ModeKey
    standings: list[Standing]


class Week(Out):
    today: date
    assignments: list[AssignmentOut]
    unmarked: int
    checking: int
    pupils: int


class MarkOut(Out):
    id: UUID
    verdict: Verdict
    remark: str
    created_at: datetime


class TodayItem(Out):
    assignment_id: UUID
    title: str
    due_on: date
    target_bpm: float
    good_repeats: int
    note: str
    goes_today: int
    good_today: int
    takes: int
    accepted: bool
    last_mark: MarkOut | None


class Today(Out):
    today: date
    name: str
    items: list[TodayItem]


# Takes and reports


class Refusal(Out):
    code: str
    words: str


class Recording(Out):
    duration_s: float
    snr_db: float
    clipped_share: float
    problems: list[str]


class Stop(Out):
    index: int
    measure: int
    beat: float
    seconds: float
    restart: bool


class TempoPoint(Out):
    index: int
    bpm: float


class TempoReport(Out):
    target_bpm: float
    played_bpm: float | None
    drift_percent: float | None
    stops: list[Stop]
    curve: list[TempoPoint] = []


class StringCertainty(Out):
    plus_minus_cents: float
    source: Literal["open", "stopped"]


class Tuning(Out):
    a4_hz: float | None
    strings: dict[str, float]
    certainty: dict[str, StringCertainty] = {}


class ReportNote(Out):
    index: int
    measure: int
    beat: float
    midi: int
    name: str
    string: str | None
    finger: int | None
    status: Literal["played", "wrong_pitch", "missed", "unclear"]
    reason: str | None
    heard_midi: float | None
    cents: float | None
    onset_s: float | None
    offset_s: float | None
    timing_ms: float | None
    duration_ratio: float | None
    confidence: float
    pitch_tolerance_cents: float
    timing_tolerance_ms: float


class Extra(Out):
    onset_s: float
    offset_s: float
    heard_midi: float
    before: int


class PitchJudgement(Out):
    word: str
    home: int
    of: int
    median_cents: float | None
    spread_cents: float | None


class RhythmJudgement(Out):
    word: str
    home: int
    of: int
    spread_ms: float | None


class TempoJudgement(Out):
    word: str
    percent: float | None


class CompletenessJudgement(Out):
    word: str
    played: int
    of: int
    missed: int
    stops: int


class Judgement(Out):
    pitch: PitchJudgement
    rhythm: RhythmJudgement
    tempo: TempoJudgement
    completeness: CompletenessJudgement


class CauseOut(Out):
    kind: str
    string: str | None
    finger: int | None
    cents: float | None
    mm: float | None
    towards: str | None
    notes: list[int]
    confidence: float
    detail: dict[str, float | str] = {}

    @computed_field  # type: ignore[prop-decorator]
    @property
    def key(self) -> str:
        """What an overrule calls it."""
        return cause_key(self.kind, self.string, self.finger)


class AdviceOut(Out):
    kind: Literal["praise", "change", "next", "tuning"]
    text: str
    """To the child who played."""
    cause: int | None
    parent: str | None = None
    teacher: str | None = None
    """The same for an adult at home and for the teacher; none in reports of earlier engines."""


class ExpectationsOut(Out):
    """What the take was judged by."""

    level: LevelKey
    pitch_cents: float
    timing_ms: float
    tempo_percent: float
    temperament: Temperament
    a4_hz: float | None
    mode: ModeKey


class PassOut(Out):
    """One time through, judged by itself."""

    start_s: float
    end_s: float
    complete: bool
    notes_played: int
    chosen: bool
    pitch_home: int | None = None
    time_home: int | None = None
    clean: bool = False


class LandingOut(Out):
    """One place of one finger, and how it was found again."""

    string: str
    finger: int
    name: str
    notes: list[int]
    mean_cents: float
    spread_cents: float


class FirstNoteOut(Out):
    cents: float | None
    home: bool


class RestOut(Out):
    index: int
    quiet: bool


class ReportOut(Out):
    engine: str
    accepted: bool
    refusal: Refusal | None
    recording: Recording
    tempo: TempoReport
    expectations: ExpectationsOut
    passes: list[PassOut] = []
    clean_in_a_row: int = 0
    tuning: Tuning
    notes: list[ReportNote]
    extras: list[Extra]
    rests: list[RestOut] = []
    first_note: FirstNoteOut | None = None
    landings: list[LandingOut] = []
    judgement: Judgement | None
    causes: list[CauseOut]
    advice: list[AdviceOut]


class TakeRow(Out):
    id: UUID
    pupil_name: str
    instrument: Instrument
    title: str
    recorded_at: datetime
    duration_s: float
    state: TakeState
    pitch_word: str | None
    rhythm_word: str | None
    played_bpm: float | None
    target_bpm: float
    verdict: Verdict | None


class TakePage(Out):
    takes: list[TakeRow]
    page: int
    pages: int
    total: int


class TakeQuestion(In):
    page: Annotated[int, Field(ge=1)] = 1
    only: Literal["unmarked", "all"] = "unmarked"


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
    pupil_name: str
    instrument: Instrument
    size: str
    string_length_mm: float
    title: str
    recorded_at: datetime
    duration_s: float
    sha256: str
    state: TakeState
    audio_url: str
    target_bpm: float
    report: ReportOut | None
    marks: list[MarkOut]
    overrules: list[OverruleOut]
    engines: list[str]
    """Of every report that is kept, the newest last; the newest is shown."""
    others: list[EarlierTake]
    """Other takes of the same assignment by the same pupil, the newest first."""
    next_unmarked_id: UUID | None
    """For the teacher: where to go after this one."""


class TakeList(Out):
    takes: list[TakeRow]


class NewTake(In):
    model_config = ConfigDict(extra="forbid", arbitrary_types_allowed=True)

    assignment_id: UUID
    client_key: Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9-]{8,64}$")]
    sha256: Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]
    recorded_at: datetime | None = None
    claimed_s: Annotated[float, Field(ge=0, le=3600)] | None = None
    sound: FileStorage


class TakeReceipt(Out):
    id: UUID
    sha256: str
    """Of what is committed: the sender compares it before it lets its own copy go."""


class NewMark(In):
    verdict: Verdict
    remark: Annotated[str, StringConstraints(strip_whitespace=True, max_length=1000)] = ""
