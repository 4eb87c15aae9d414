"""Key signatures and the scales that stand in them."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from attentive_owl.core.theory.pitch import STEPS, Pitch

_FIFTHS_ORDER = "FCGDAEB"
_MAJOR_FIFTHS = {"F": -1, "C": 0, "G": 1, "D": 2, "A": 3, "E": 4, "B": 5}


class Mode(StrEnum):
    """Major or minor, of a key signature."""

    MAJOR = "major"
    MINOR = "minor"


class ScaleForm(StrEnum):
    """What is played on a tonic. The signature of all minor forms is that of the natural one."""

    MAJOR = "major"
    NATURAL_MINOR = "natural minor"
    HARMONIC_MINOR = "harmonic minor"
    MELODIC_MINOR = "melodic minor"

    @property
    def mode(self) -> Mode:
        return Mode.MAJOR if self is ScaleForm.MAJOR else Mode.MINOR

    def raised(self, degree: int, descending: bool) -> bool:
        """Whether a degree (0 for the tonic) stands a half step above the signature: the leading note in the harmonic
        form; sixth and seventh going up, and neither coming down, in the melodic."""
        if self is ScaleForm.HARMONIC_MINOR:
            return degree % 7 == 6
        return self is ScaleForm.MELODIC_MINOR and not descending and degree % 7 in (5, 6)


@dataclass(frozen=True)
class KeySignature:
    """`fifths`: sharps counted up, flats counted down (-7..7), as MusicXML has it."""

    fifths: int
    mode: Mode = Mode.MAJOR

    def __post_init__(self) -> None:
        if not -7 <= self.fifths <= 7:
            raise ValueError("a key signature has at most seven sharps or flats")

    @classmethod
    def of(cls, tonic: str, mode: Mode = Mode.MAJOR) -> KeySignature:
        """The signature of a tonic such as 'D' or 'Eb'. Raises ValueError where it would need more than seven signs."""
        step, sign = tonic[:1].upper(), tonic[1:]
        if step not in _MAJOR_FIFTHS or sign not in ("", "b", "#"):
            raise ValueError(f"{tonic!r} is no tonic such as D or Eb")
        fifths = _MAJOR_FIFTHS[step] + 7 * {"": 0, "b": -1, "#": 1}[sign] - (3 if mode is Mode.MINOR else 0)
        return cls(fifths, mode)

    def alter(self, step: str) -> int:
        """What the signature does to a letter: 1 sharp, -1 flat, 0 nothing."""
        place = _FIFTHS_ORDER.index(step)
        if self.fifths > 0:
            return 1 if place < self.fifths else 0
        return -1 if 6 - place < -self.fifths else 0

    @property
    def tonic(self) -> str:
        """Letter and sign of the tonic: 'D', 'Eb'."""
        place = self.fifths + (3 if self.mode is Mode.MINOR else 0) + 1
        letter = _FIFTHS_ORDER[place % 7]
        return letter + {-1: "b", 0: "", 1: "#"}[place // 7]

    def contains(self, midi: int) -> bool:
        """Whether the key's own (natural) scale holds this pitch class."""
        return any((Pitch(step, self.alter(step), 4).midi - midi) % 12 == 0 for step in STEPS)


def scale_pitch(
    key: KeySignature, octave: int, degree: int, form: ScaleForm | None = None, descending: bool = False
) -> Pitch:
    """One degree of the scale, counted from 0 for the tonic in the given octave; below it and above 7 too."""
    place = STEPS.index(key.tonic[0]) + degree
    step = STEPS[place % 7]
    lift = 1 if form is not None and form.raised(degree, descending) else 0
    return Pitch(step, key.alter(step) + lift, octave + place // 7)


def scale_pitches(key: KeySignature, octave: int, octaves: int = 1) -> tuple[Pitch, ...]:
    """The scale going up from the tonic in the given octave, the closing tonic included (7 * octaves + 1 pitches)."""
    return tuple(scale_pitch(key, octave, degree) for degree in range(7 * octaves + 1))
