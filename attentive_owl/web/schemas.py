"""What goes over the wire. The OpenAPI document and the front end's types are generated from these."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Literal
from uuid import UUID

from flask_openapi3 import FileStorage
from pydantic import BaseModel, ConfigDict, Field, StringConstraints

from attentive_owl.core.exercises.scales import HIGHEST_TEMPO_BPM, LOWEST_TEMPO_BPM

Instrument = Literal["violin", "viola", "cello", "bass"]
Tonic = Literal["D", "G", "A", "C"]
PatternKey = Literal["quarters", "eighths", "sixteenths-eighths"]
FourthFinger = Literal["open", "descending", "both"]
LevelKey = Literal["first-steps", "settling", "secure", "concert"]
Verdict = Literal["accepted", "once_more", "come_and_see_me"]
TakeState = Literal["waiting", "checking", "checked", "refused", "stuck"]
Tempo = Annotated[float, Field(ge=LOWEST_TEMPO_BPM, le=HIGHEST_TEMPO_BPM)]
Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60)]


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


# People


class PupilOut(Out):
    id: UUID
    name: str
    instrument: Instrument
    size: str
    string_length_mm: float
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
    consent_by: Annotated[str, StringConstraints(strip_whitespace=True, max_length=80)] | None = None
    """The adult's name; an empty text takes the consent back."""


class Card(Out):
    """A passphrase is shown once, to be printed."""

    pupil: PupilOut
    class_name: str
    class_code: str
    passphrase: str


# Exercises


class Recipe(In):
    kind: Literal["scale"] = "scale"
    tonic: Tonic
    pattern: PatternKey
    tempo_bpm: Tempo
    fourth_finger: FourthFinger = "open"


class PatternOut(Out):
    key: PatternKey
    name: str
    cue: list[str]
    values: list[float]


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
    timing_ms: float
    tempo_percent: float


class Catalogue(Out):
    tonics: list[Tonic]
    patterns: list[PatternOut]
    instruments: list[InstrumentOut]
    levels: list[LevelOut]
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


class ScoreNoteOut(Out):
    index: int
    name: str
    spoken: str
    measure: int
    string: str | None
    finger: int | None
    position: str | None
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
    notes: list[ScoreNoteOut]
    systems: list[SystemOut]
    demonstration_url: str
    demonstration_onsets: list[float]


class Width(In):
    width: Annotated[int, Field(ge=240, le=2000)] = 900


class PreviewQuestion(In):
    recipe: Recipe
    instruments: Annotated[list[Instrument], Field(min_length=1, max_length=4)]
    width: Annotated[int, Field(ge=240, le=2000)] = 900


class PreviewOut(Out):
    title: str
    scores: list[ScoreOut]


class DemonstrationQuestion(In):
    tonic: Tonic
    pattern: PatternKey
    tempo_bpm: Tempo
    fourth_finger: FourthFinger = "open"
    instrument: Instrument


class ExerciseOut(Out):
    id: UUID
    title: str
    recipe: Recipe
    created_at: datetime
    assigned: int


class ExerciseList(Out):
    exercises: list[ExerciseOut]


class NewExercise(In):
    recipe: Recipe


# Assignments


class NewAssignment(In):
    recipe: Recipe
    pupil_ids: Annotated[list[UUID], Field(min_length=1, max_length=60)]
    due_on: date
    target_bpm: Tempo
    good_repeats: Annotated[int, Field(ge=1, le=50)]
    level: LevelKey = "settling"
    note: Annotated[str, StringConstraints(strip_whitespace=True, max_length=500)] = ""


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


class TempoReport(Out):
    target_bpm: float
    played_bpm: float | None
    drift_percent: float | None
    stops: list[Stop]


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


class AdviceOut(Out):
    kind: Literal["praise", "change", "next", "tuning"]
    text: str
    cause: int | None


class ReportOut(Out):
    engine: str
    accepted: bool
    refusal: Refusal | None
    recording: Recording
    tempo: TempoReport
    tuning: Tuning
    notes: list[ReportNote]
    extras: list[Extra]
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


class TakeOut(Out):
    id: UUID
    assignment_id: UUID
    pupil_name: str
    instrument: Instrument
    size: str
    title: str
    recorded_at: datetime
    duration_s: float
    sha256: str
    state: TakeState
    audio_url: str
    target_bpm: float
    report: ReportOut | None
    marks: list[MarkOut]
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
