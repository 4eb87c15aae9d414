"""The report of a take: one frozen document that files, database, page and paper share. All that is said of a take is settled
here; whoever shows it works nothing out anew."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, field
from typing import Any, Literal

from attentive_owl.core.judging.cause import cause_key
from attentive_owl.core.listening.performance import NoteStatus, RefusalCode

REPORT_FORMAT = "attentive-owl-report"
REPORT_VERSION = 2
"""Goes up with what a report holds; of older ones what is missing is worked out when they are read."""

LevelKey = Literal["first-steps", "settling", "secure", "concert"]
ModeKey = Literal["steady", "pauses", "repeats"]
AdviceKind = Literal["praise", "change", "next"]
TuningSource = Literal["open", "check"]


@dataclass(frozen=True)
class ReportRefusal:
    """Why a take was not judged, in words for each reader."""

    code: RefusalCode
    title: str
    """Two or three words, for a list."""
    words: str
    """To the child who played."""
    parent: str
    teacher: str
    sounds_like: str | None = None
    """Another exercise that it sounds like."""
    assignment: str | None = None
    """Under which key that other exercise is known to the studio."""


@dataclass(frozen=True)
class ReportClick:
    """A metronome that was heard."""

    bpm: float
    first_s: float
    clicks: int


@dataclass(frozen=True)
class ReportRecording:
    """The recording itself: how long, how far over its noise, and what is wrong with it."""

    duration_s: float
    snr_db: float
    clipped_share: float
    problems: list[str]
    click: ReportClick | None = None


@dataclass(frozen=True)
class ReportStop:
    """A place at which the pulse stood still, before the note of this index."""

    index: int
    measure: int
    beat: float
    seconds: float
    restart: bool


@dataclass(frozen=True)
class TempoPoint:
    """The tempo around one note."""

    index: int
    bpm: float


@dataclass(frozen=True)
class TempoReport:
    """The tempo that was set and the one that was played, how it drifted, and where it stood still."""

    target_bpm: float
    played_bpm: float | None
    drift_percent: float | None
    stops: list[ReportStop]
    curve: list[TempoPoint] = field(default_factory=list)


@dataclass(frozen=True)
class StringCertainty:
    """How surely the tuning of a string is known, and from what."""

    plus_minus_cents: float
    source: TuningSource


@dataclass(frozen=True)
class TuningReport:
    """What is known of the strings, from open ones alone."""

    a4_hz: float | None
    """None where no open string was heard."""
    strings: dict[str, float]
    """Cents over their place with A4 = 440."""
    certainty: dict[str, StringCertainty] = field(default_factory=dict)
    taken_off: dict[str, float] = field(default_factory=dict)
    """String -> cents that verdict, figures and nests leave out."""


@dataclass(frozen=True)
class ReportNote:
    """One written note, and what was heard of it."""

    index: int
    measure: int
    beat: float
    midi: int
    name: str
    string: str | None
    finger: int | None
    status: NoteStatus
    reason: str | None
    """Why it is unclear; "not_come_to" for a missed note of a part that was not played."""
    heard_midi: float | None
    cents: float | None
    """Against the assignment's temperament and reference."""
    tuned_cents: float | None
    """The same with the tuning of its string taken off, where that is known: what counts, and what nests show."""
    approach_cents: float | None
    """Where it began, over where it settled; None where it began in its place."""
    onset_s: float | None
    offset_s: float | None
    timing_ms: float | None
    duration_ratio: float | None
    confidence: float
    pitch_tolerance_cents: float
    timing_tolerance_ms: float
    in_tune: bool
    on_time: bool
    home: bool
    """In tune, and on time where time is judged."""
    home_as_heard: bool
    """The same with the tuning of the strings left in."""
    overruled: Literal["home", "away", "missed"] | None = None
    """Where the teacher's ear decided otherwise."""
    moment_guessed: bool = False
    """Played, but with a stroke of which hardly a sign was heard: nothing is said of when it came."""


@dataclass(frozen=True)
class ReportExtra:
    """A note that is not written, before the written one of this index."""

    onset_s: float
    offset_s: float
    heard_midi: float
    before: int


@dataclass(frozen=True)
class ReportRest:
    """A written rest, and whether it was silent."""

    index: int
    quiet: bool


@dataclass(frozen=True)
class Restart:
    """Going back: `reached` notes of the line had been come to, and it went on from the one of index `back_to`."""

    reached: int
    back_to: int


@dataclass(frozen=True)
class ReportPass:
    """One time through, judged by itself."""

    start_s: float
    end_s: float
    complete: bool
    notes_played: int
    chosen: bool
    pitch_home: int | None = None
    time_home: int | None = None
    good: bool = False
    reasons: list[str] = field(default_factory=list)
    """Why it is no good go."""
    restarts: list[Restart] = field(default_factory=list)


@dataclass(frozen=True)
class FirstNote:
    """The note that sets all others."""

    cents: float | None
    home: bool


@dataclass(frozen=True)
class ReportLanding:
    """One place of one finger, and how it was found again."""

    string: str
    finger: int
    name: str
    notes: list[int]
    mean_cents: float
    spread_cents: float


@dataclass(frozen=True)
class PitchJudgement:
    """How many notes are in tune, and how far they lie and scatter."""

    word: str
    home: int
    of: int
    median_cents: float | None
    spread_cents: float | None


@dataclass(frozen=True)
class RhythmJudgement:
    """How many notes are on time, and how far they scatter."""

    word: str
    home: int
    of: int
    spread_ms: float | None


@dataclass(frozen=True)
class TempoJudgement:
    """How far the tempo is from the one that was set."""

    word: str
    percent: float | None


@dataclass(frozen=True)
class CompletenessJudgement:
    """How much of the line was played, how often it stopped, and whether its rests were kept."""

    word: str
    played: int
    of: int
    missed: int
    """Left out of the part that was played."""
    not_come_to: int
    stops: int
    rests_kept: int
    rests: int


@dataclass(frozen=True)
class Judgement:
    """The four sides of a take, each with its word."""

    pitch: PitchJudgement
    rhythm: RhythmJudgement
    tempo: TempoJudgement
    completeness: CompletenessJudgement


@dataclass(frozen=True)
class ReportCause:
    """One thing behind what was heard, where it shows, and how sure it is."""

    key: str
    """What an overrule calls it."""
    kind: str
    title: str
    evidence: str
    """To the teacher, with the figures."""
    string: str | None
    finger: int | None
    cents: float | None
    mm: float | None
    towards: str | None
    notes: list[int]
    confidence: float
    sure: bool
    detail: dict[str, float | str] = field(default_factory=dict)


@dataclass(frozen=True)
class ReportAdvice:
    """One sentence of advice, for each reader."""

    kind: AdviceKind
    text: str
    """To the child who played."""
    cause: int | None
    parent: str
    teacher: str


@dataclass(frozen=True)
class GoodGoReport:
    """Whether the pass that is shown is a good one, why not, and by which rule."""

    good: bool
    reasons: list[str]
    pitch_share: float
    time_share: float
    most_stops: int
    at_tempo: bool
    in_a_row: int
    """The longest run of good goes in the take."""


@dataclass(frozen=True)
class ReportExpectations:
    """What the take was judged by."""

    level: LevelKey
    pitch_cents: float
    timing_ms: float
    tempo_percent: float
    temperament: str
    a4_hz: float | None
    mode: ModeKey


@dataclass(frozen=True)
class Report:
    """All that is said of a take."""

    format: str
    version: int
    engine: str
    ear: str
    judge: str
    accepted: bool
    refusal: ReportRefusal | None
    expectations: ReportExpectations
    recording: ReportRecording
    tempo: TempoReport
    tuning: TuningReport
    good_go: GoodGoReport | None
    passes: list[ReportPass]
    notes: list[ReportNote]
    extras: list[ReportExtra]
    rests: list[ReportRest]
    first_note: FirstNote | None
    landings: list[ReportLanding]
    judgement: Judgement | None
    causes: list[ReportCause]
    advice: list[ReportAdvice]

    @property
    def untimed(self) -> int:
        """Notes that were heard, but not when they began; 0 where time is not asked for."""
        return 0 if self.expectations.mode == "pauses" else sum(note.moment_guessed for note in self.notes)

    def to_document(self) -> dict[str, Any]:
        """As plain dictionaries and lists, ready for JSON."""
        return asdict(self)


def in_words(document: Mapping[str, Any]) -> Mapping[str, Any]:
    """A kept document in today's form. Those of version 1 said less: what they did not say is left open, and what they said of
    notes is read by the rules of their time."""
    if document.get("version", 1) >= REPORT_VERSION:
        return document
    refusal = document["refusal"]
    notes = [
        {**note, "tuned_cents": note["cents"], "approach_cents": None, **_home_by_version_1(note)}
        for note in document["notes"]
    ]
    causes = [
        {
            **cause,
            "key": cause_key(cause["kind"], cause["string"], cause["finger"]),
            "title": cause["kind"].replace("_", " ").capitalize(),
            "evidence": next((a.get("teacher") or a["text"] for a in document["advice"] if a["cause"] == at), ""),
            "sure": False,
        }
        for at, cause in enumerate(document["causes"])
    ]
    advice = [
        {**a, "kind": "change" if a["kind"] == "tuning" else a["kind"], "parent": a.get("parent") or a["text"], "teacher": a.get("teacher") or a["text"]}
        for a in document["advice"]
    ]  # fmt: skip
    judgement = document["judgement"] or None
    if judgement:
        whole = {"not_come_to": 0, "rests_kept": 0, "rests": 0, **judgement["completeness"]}
        judgement = {**judgement, "completeness": whole}
    return {
        **document,
        "ear": document["engine"],
        "judge": "",
        "refusal": refusal and {"title": refusal["code"].replace("_", " "), "parent": refusal["words"], "teacher": refusal["words"], **refusal},
        "good_go": None,
        "passes": [{**own, "good": own.get("clean", False)} for own in document.get("passes", [])],
        "notes": notes,
        "rests": document.get("rests", []),
        "first_note": document.get("first_note"),
        "landings": document.get("landings", []),
        "judgement": judgement,
        "causes": causes,
        "advice": advice,
        "tuning": {**document["tuning"], "certainty": {}},
    }  # fmt: skip


def _home_by_version_1(note: Mapping[str, Any]) -> dict[str, bool]:
    in_tune = (
        note["status"] == NoteStatus.PLAYED
        and note["cents"] is not None
        and abs(note["cents"]) <= note["pitch_tolerance_cents"]
    )
    on_time = note["timing_ms"] is not None and abs(note["timing_ms"]) <= note["timing_tolerance_ms"]
    home = in_tune and (note["timing_ms"] is None or on_time)
    return {"in_tune": in_tune, "on_time": on_time, "home": home, "home_as_heard": home}
