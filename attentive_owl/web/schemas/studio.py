"""The studio's own words, levels and tapes."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID
from zoneinfo import available_timezones

from pydantic import Field, StringConstraints, field_validator

from attentive_owl.core.playing import CountStyle
from attentive_owl.core.theory import NoteNames, NoteValues
from attentive_owl.web.schemas.common import In, Instrument, LevelKey, Out
from attentive_owl.web.schemas.people import Colour, Marks, Shade
from attentive_owl.web.schemas.recipes import Syllable


class LevelValues(In):
    """Tolerances either way."""

    pitch_cents: Annotated[float, Field(ge=4, le=60)]
    ringing_cents: Annotated[float, Field(ge=4, le=60)]
    timing_ms: Annotated[float, Field(ge=15, le=300)]
    tempo_percent: Annotated[float, Field(ge=1, le=40)]


class GoodGo(In):
    """What counts as a good go, beside that every note is there, on its pitch, and none too many, at less than 1.8 times the tempo that is set."""

    pitch_share: Annotated[float, Field(ge=0.5, le=1)] = 0.9
    time_share: Annotated[float, Field(ge=0.5, le=1)] = 0.9
    most_stops: Annotated[int, Field(ge=0, le=9)] = 0
    at_tempo: bool = False
    """Only at the tempo that is set, and not below."""


CheckLine = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60)]


CONSENT = (
    "We record your child's practice so that the teacher can hear it. The recordings stay in our studio's program, are heard by our "
    "teachers alone, and are deleted after the keeping time. You can take this yes back whenever you like; then nobody hears them any more, and the next night they are deleted."
)
RUBRIC = ("Bow hold", "Left hand shape", "Straight bow", "Stands or sits tall", "Tone")


class StudioSettings(In):
    values: NoteValues = NoteValues.QUARTER
    names: NoteNames = NoteNames.LETTERS
    count_in: CountStyle = CountStyle.NUMBERS
    count_in_six: bool = True
    """Whether 6/8 is counted in eighths; else in its two beats."""
    cues: dict[str, Annotated[list[Syllable], Field(max_length=16)]] = {}
    """Pattern key -> the studio's own syllables."""
    marks: dict[Instrument, Marks] = {}
    """Instrument -> its tapes; those of the instrument by default where none are given."""
    levels: dict[LevelKey, LevelValues] = {}
    """Tolerance levels that the teacher changed."""
    good_go: GoodGo = GoodGo()
    checklists: dict[Instrument, Annotated[list[CheckLine], Field(max_length=8)]] = {}
    """Instrument -> what is looked at before playing; ours where none are given."""
    rubric: Annotated[list[CheckLine], Field(max_length=10)] = list(RUBRIC)
    """What is looked at when a step is passed, and no microphone can judge."""
    keep_days: Annotated[int, Field(ge=14, le=1095)] = 180
    """After so many days a recording is deleted; what was measured of it stays."""
    reminders: bool = True
    """Whether a word goes to the adult at home when nothing was recorded and the day comes near."""
    consent_text: Annotated[str, StringConstraints(strip_whitespace=True, max_length=2000)] = CONSENT
    """What an adult says yes to."""
    goes_seen: Annotated[int, Field(ge=0, le=50)] = 3
    """How many of a pupil's last goes of an exercise a teacher may look into, beside what was handed in."""
    time_zone: str = ""
    """Of the IANA database ("Europe/Lisbon"): when a day begins; the server's own where it is empty."""

    @field_validator("time_zone")
    @classmethod
    def _known(cls, zone: str) -> str:
        if zone and zone not in available_timezones():
            raise ValueError("no such time zone")
        return zone


class TapeQuestion(In):
    instrument: Instrument
    size: Annotated[str, StringConstraints(max_length=16)]
    string_length_mm: Annotated[float, Field(ge=150, le=1300)]
    pupil_id: UUID | None = None
    """Whose tapes, where they differ from the studio's."""


class TapeOut(Out):
    name: str
    colour: Colour
    shade: Shade
    own_shade: str
    semitones: int
    mm: float
    notes: list[str]


class TapeList(Out):
    tapes: list[TapeOut]
