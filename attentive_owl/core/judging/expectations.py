"""What counts as home: named levels of tolerance, and what the assignment asks for."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from attentive_owl.core.exercises import Score, ScoreNote
from attentive_owl.core.instruments import Mark
from attentive_owl.core.theory import NoteNames, NoteValues, Temperament

_SHORT_S = 0.3
"""Seconds: in shorter notes the ear of a listener is less strict, by the square root of how much shorter they are (by judgement)."""
_WIDEST = 1.8
"""And never by more than this."""


@dataclass(frozen=True)
class Level:
    """Tolerances either way (common practice, to be edited by the teacher)."""

    key: str
    name: str
    pitch_cents: float
    ringing_cents: float
    """For notes that match an open string: they ring when they are right, so they can be right."""
    timing_ms: float
    tempo_percent: float


LEVELS: dict[str, Level] = {
    level.key: level
    for level in (
        Level("first-steps", "First steps", 35.0, 26.0, 130.0, 15.0),
        Level("settling", "Settling", 25.0, 18.0, 90.0, 10.0),
        Level("secure", "Secure", 16.0, 12.0, 60.0, 6.0),
        Level("concert", "Concert", 10.0, 8.0, 35.0, 4.0),
    )
}


@dataclass(frozen=True)
class GoodGoRule:
    """What counts as a good go, beside that every note has to be there, on its pitch, and none too many (common practice, to be
    edited by the studio)."""

    pitch_share: float = 0.9
    """Share of the notes that have to be in tune."""
    time_share: float = 0.9
    """Share of the notes that have to be on time, where time is judged."""
    most_stops: int = 0
    at_tempo: bool = False
    """Whether it has to be played at the tempo that is set, and not below."""


@dataclass(frozen=True)
class Expectations:
    """What a take is judged by."""

    target_bpm: float
    level: Level = LEVELS["settling"]
    temperament: Temperament = Temperament.EQUAL
    a4_hz: float | None = 440.0
    """None: the reference is the pupil's own open strings."""
    mode: str = "steady"
    """steady, pauses (time is not judged) or repeats."""
    string_length_mm: float | None = None
    tapes: tuple[Mark, ...] = ()
    """On the pupil's fingerboard, so that a finger can be told where to go by the colour that it sees."""
    names: NoteNames = NoteNames.LETTERS
    """What notes are called in the words of advice."""
    values: NoteValues = NoteValues.QUARTER
    """What their lengths, and measures, are called there."""
    open_strings: Mapping[str, float] = field(default_factory=dict)
    """What the day's tuning check found: string -> cents over its place with A4 = 440 and pure fifths (fourths on the bass)."""
    good_go: GoodGoRule = GoodGoRule()
    focus: str | None = None
    """The one thing that the pupil listened for (tune or time): advice is given of that alone. All is measured all the same."""

    def pitch_tolerance_cents(self, note: ScoreNote, score: Score) -> float:
        """Tighter where the note rings with an open string, wider where it is short."""
        base = self.level.ringing_cents if rings(note, score) else self.level.pitch_cents
        seconds = float(note.duration_beats) * 60.0 / self.target_bpm
        return round(base * min(float(max(_SHORT_S / seconds, 1.0) ** 0.5), _WIDEST), 1)


def rings(note: ScoreNote, score: Score) -> bool:
    """Whether the note is a unison or octave of one of the instrument's open strings."""
    return score.instrument.rings(note.midi)
