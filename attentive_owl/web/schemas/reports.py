"""What was heard and judged in a take."""

from __future__ import annotations

from typing import Literal

from pydantic import computed_field

from attentive_owl.core.judging import cause_key
from attentive_owl.core.theory import Temperament
from attentive_owl.web.schemas.common import LevelKey, ModeKey, Out


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
