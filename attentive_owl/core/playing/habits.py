"""What a simulated pupil does, habit by habit. All are off by default: then the pupil plays what is written."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, fields
from typing import Any


@dataclass(frozen=True)
class Habits:
    """What a simulated pupil does that is not written."""

    tuning_cents: float = 0.0
    """The whole instrument, open strings too."""
    string_cents: Mapping[str, float] = field(default_factory=dict)
    hand_cents: float = 0.0
    """All stopped notes."""
    finger_cents: Mapping[int, float] = field(default_factory=dict)
    note_cents: Mapping[int, float] = field(default_factory=dict)
    """One stopped note, by its MIDI number, wherever it comes."""
    descending_cents: float = 0.0
    """Stopped notes that follow a higher one."""
    crossing_cents: float = 0.0
    """The first stopped note on a new string."""
    half_step_cents: float = 0.0
    """The upper finger of two that should touch."""
    octave_cents: float = 0.0
    """Stopped notes that match an open string, at the unison or octave."""
    scatter_cents: float = 0.0
    """Standard deviation of each stopped note."""
    finger_scatter: Mapping[int, float] = field(default_factory=dict)
    """Standard deviation of one finger's notes, beside that of all."""
    sinking_cents: float = 0.0
    """How much lower the stopped notes stand at the end than at the start, coming down evenly."""
    slide_cents: float = 0.0
    """Where each stopped note begins, before it slides into its place: below zero from underneath."""
    slide_ms: float = 120.0
    """How long such a slide takes."""
    shift_semitones: int = 0
    """Everything played that much away: the wrong string, or an octave."""
    forgets_key: bool = False
    """Plays every note that the key signature alters as a natural."""
    vibrato_cents: float = 0.0
    """Half the width."""
    tempo: float = 1.0
    """Played tempo as a share of the written one."""
    drift: float = 0.0
    """Share by which the tempo has changed at the end (0.1: ten per cent faster)."""
    timing_ms: float = 0.0
    """Standard deviation of each onset."""
    dragging: Mapping[str, float] = field(default_factory=dict)
    """Share by which a value is held too long, by its name: quarter, eighth, sixteenth."""
    late_before: Mapping[str, float] = field(default_factory=dict)
    """Share by which the note before a certain move is held too long: crossing, shift, bow."""
    uneven: float = 0.5
    """Share of a beat that the first of two equal notes in it gets: 0.6 is long and short."""
    rushed: Mapping[int, float] = field(default_factory=dict)
    """Measure -> share by which its notes come too soon after one another."""
    rests_cut: float = 0.0
    """Share of each rest that is not waited for."""
    rests_sound: bool = False
    """The bow goes on through the rests."""
    staccato_held: bool = False
    """Written staccato is played long."""
    short: float = 0.0
    """Share of each note's time that is left silent (staccato)."""
    air_ms: float = 0.0
    """Silence between one bow and the next, at most half of the note before."""
    long_cut: float = 0.0
    """Share of the time of notes of two beats and more in which they do not sound."""
    pizzicato: bool = False
    missed: tuple[int, ...] = ()
    """Notes in whose time nothing is played."""
    skipped: tuple[int, ...] = ()
    """Notes that are passed over, and their time with them."""
    wrong: Mapping[int, int] = field(default_factory=dict)
    """Note index -> semitones away."""
    stray: Mapping[int, int] = field(default_factory=dict)
    """An extra short note before note index, so many semitones from it."""
    stray_s: float = 0.12
    stops: Mapping[int, float] = field(default_factory=dict)
    """Note index -> seconds of silence before it."""
    first: int = 0
    """Index of the note with which the pupil joins in."""
    last: int | None = None
    """Index of the note after which the pupil stops for good."""
    restarts: Mapping[int, int] = field(default_factory=dict)
    """After note index (once) the pupil stops and goes back to that other index."""
    passes: int = 1
    lead_s: float = 0.6
    tail_s: float = 0.8


def parse_habits(settings: Iterable[str]) -> Habits:
    """Read 'tuning_cents=-20', 'finger_cents=2:-30,3:5', 'missed=4,7', 'pizzicato'.

    Raises ValueError with one sentence naming the setting that could not be read.
    """
    known = {entry.name: entry for entry in fields(Habits)}
    values: dict[str, Any] = {}
    for setting in settings:
        name, given, text = setting.partition("=")
        if name not in known:
            raise ValueError(f"{name!r} is no habit; there are {', '.join(known)}")
        try:
            values[name] = _value(name, text if given else "true")
        except ValueError:
            raise ValueError(f"the habit {setting!r} could not be read") from None
    return Habits(**values)


_KEYS = {"string_cents": str, "dragging": str, "late_before": str}
_NUMBERS = {"wrong": int, "stray": int, "restarts": int}


def _value(name: str, text: str) -> Any:
    if name == "last":
        return int(text)
    default = getattr(Habits(), name)
    if isinstance(default, bool):
        if text not in ("true", "false"):
            raise ValueError(text)
        return text == "true"
    if isinstance(default, tuple):
        return tuple(int(part) for part in text.split(","))
    if isinstance(default, dict):
        key_type, value_type = _KEYS.get(name, int), _NUMBERS.get(name, float)
        pairs = (part.split(":") for part in text.split(","))
        return {key_type(key): value_type(value) for key, value in pairs}
    return type(default)(float(text))
