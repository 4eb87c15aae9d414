"""Written pitches and frequencies.

A `Pitch` is spelt (C sharp and D flat differ); `midi` is the key number on which equal temperament counts, with
A4 = 69 (MIDI 1.0 specification).
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterable
from dataclasses import dataclass

STEPS = "CDEFGAB"
_STEP_SEMITONES = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
_ALTER_SIGNS = {-2: "bb", -1: "b", 0: "", 1: "#", 2: "##"}
ALTER_WORDS = {-2: " double flat", -1: " flat", 0: "", 1: " sharp", 2: " double sharp"}
_NAME = re.compile(r"^([A-Ga-g])(##|#|bb|b)?(-?\d+)$")


@dataclass(frozen=True, order=False)
class Pitch:
    """A spelt pitch: `step` (C..B), `alter` in semitones (-2..2), `octave` in scientific numbering (C4 = middle C)."""

    step: str
    alter: int
    octave: int

    def __post_init__(self) -> None:
        if self.step not in _STEP_SEMITONES:
            raise ValueError(f"{self.step!r} is no note letter")
        if self.alter not in _ALTER_SIGNS:
            raise ValueError(f"{self.alter} is no accidental")

    @classmethod
    def parse(cls, name: str) -> Pitch:
        """Read 'C#4', 'Eb3', 'A4'. Raises ValueError for anything else."""
        match = _NAME.match(name.strip())
        if not match:
            raise ValueError(f"{name!r} is no pitch such as C#4")
        signs = {text: alter for alter, text in _ALTER_SIGNS.items()}
        return cls(match[1].upper(), signs[match[2] or ""], int(match[3]))

    @property
    def midi(self) -> int:
        return 12 * (self.octave + 1) + _STEP_SEMITONES[self.step] + self.alter

    @property
    def diatonic(self) -> int:
        """Staff position counted in steps from C0."""
        return 7 * self.octave + STEPS.index(self.step)

    @property
    def name(self) -> str:
        return f"{self.step}{_ALTER_SIGNS[self.alter]}{self.octave}"

    @property
    def spoken(self) -> str:
        """The letter name as said aloud, with no octave: 'C sharp'."""
        return self.step + ALTER_WORDS[self.alter]

    def octaves_up(self, octaves: int) -> Pitch:
        return Pitch(self.step, self.alter, self.octave + octaves)


def frequency_hz(midi: float, a4_hz: float = 440.0) -> float:
    """Frequency of a (fractional) key number in equal temperament: a4 * 2 ** ((midi - 69) / 12)."""
    return float(a4_hz * 2.0 ** ((midi - 69.0) / 12.0))


def midi_from_hz(hz: float, a4_hz: float = 440.0) -> float:
    """Fractional key number of a frequency. Raises ValueError where hz is not positive."""
    if hz <= 0:
        raise ValueError("a frequency is greater than 0 Hz")
    return 69.0 + 12.0 * math.log2(hz / a4_hz)


def cents_between(low_hz: float, high_hz: float) -> float:
    """Interval in cents (1200 to the octave; Ellis 1885)."""
    return 1200.0 * math.log2(high_hz / low_hz)


def octaves_apart(midi: int, others: Iterable[int]) -> bool:
    """Whether a key number is a unison or any number of octaves from one of the others."""
    return any((midi - other) % 12 == 0 for other in others)
