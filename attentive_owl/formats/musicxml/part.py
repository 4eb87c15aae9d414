"""One part of a MusicXML file, as whoever reads the file hands it on."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from attentive_owl.core.theory import KeySignature, Meter, Pitch


class ScoreFileError(ValueError):
    """The file is no score that can be checked; the message is one sentence for its owner."""


@dataclass(frozen=True)
class WrittenEvent:
    """A rest, or what a note is as well. Times in quarter notes from the first barline or upbeat of the file."""

    start: Fraction
    duration: Fraction


@dataclass(frozen=True)
class WrittenNote(WrittenEvent):
    """Tied notes are one. `pitch` sounds as the file says that it sounds, `string` counts from the highest, 1; the notes of one
    slur share its number."""

    pitch: Pitch
    finger: int | None = None
    string: int | None = None
    bow: str | None = None
    staccato: bool = False
    pizzicato: bool = False
    cue: str | None = None
    slur: int | None = None
    position: str | None = None
    """As frames name it, where the file says it."""


@dataclass(frozen=True)
class WrittenPart:
    title: str | None
    names: str
    """Of part and instrument, in one."""
    program: int | None
    """General MIDI, from 1."""
    clef: str | None
    """Its sign: G, F or C."""
    key: KeySignature
    meter: Meter
    bpm: float | None
    """Quarter notes a minute."""
    first_measure: Fraction
    """How much is in it."""
    written_above: int
    """By how many semitones the notes are written over what sounds."""
    notes: tuple[WrittenNote, ...]
    rests: tuple[WrittenEvent, ...]
    slows_from: Fraction | None
    dynamic: str = ""
    how: tuple[str, ...] = ()
    """Words of ours over the first note."""
