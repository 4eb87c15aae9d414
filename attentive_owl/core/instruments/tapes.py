"""Tapes and stickers: where on the fingerboard each one goes."""

from __future__ import annotations

from dataclasses import dataclass

from attentive_owl.core.instruments.catalogue import Instrument

_NAMES = ("C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B")


TAPE_SHADES = {
    "amber": "#d99a2b",
    "teal": "#2f7f86",
    "plum": "#6f4a72",
    "white": "#f7f3ea",
    "moss": "#6b7a3a",
    "rust": "#a4552f",
    "slate": "#5b6770",
}
"""Colours that are offered; any other name has a shade of the teacher's own."""
_PLAIN_SHADE = "#d9d2c3"


@dataclass(frozen=True)
class Mark:
    """A tape: its name, its colour as the teacher calls it, and semitones above the open string."""

    name: str
    colour: str
    semitones: int
    own_shade: str = ""
    """What the colour looks like, as #rrggbb, where it is none of `TAPE_SHADES`, or another shade of it."""

    @property
    def shade(self) -> str:
        return self.own_shade or TAPE_SHADES.get(self.colour, _PLAIN_SHADE)


@dataclass(frozen=True)
class PlacedMark:
    mark: Mark
    mm: float
    """From the nut."""
    notes: tuple[str, ...]
    """What sounds there on each string, low to high."""


_UPPER = (
    Mark("first finger", "amber", 2),
    Mark("high second finger", "teal", 4),
    Mark("third finger", "plum", 5),
    Mark("fourth finger", "white", 7),
)

DEFAULT_MARKS: dict[str, tuple[Mark, ...]] = {
    "violin": _UPPER,
    "viola": _UPPER,
    "cello": (Mark("first finger", "amber", 2), Mark("third finger", "teal", 4), Mark("fourth finger", "plum", 5)),
    "bass": (Mark("first finger", "amber", 2), Mark("fourth finger", "teal", 4), Mark("third position", "plum", 5)),
}
"""The places of the major-scale hand (common practice); the colours are ours and the teacher's to change."""


def distance_mm(string_length_mm: float, semitones: float) -> float:
    """From the nut to where a string sounds so many semitones higher: L * (1 - 2 ** (-n / 12)).

    A stopped string's frequency goes as the inverse of its length (Mersenne's law). Raises ValueError for a length that
    is not above zero.
    """
    if string_length_mm <= 0:
        raise ValueError("a string has a length")
    return float(string_length_mm * (1.0 - 2.0 ** (-semitones / 12.0)))


def _sounding(midi: int) -> str:
    return f"{_NAMES[midi % 12]}{midi // 12 - 1}"


def place_marks(instrument: Instrument, string_length_mm: float, marks: tuple[Mark, ...]) -> tuple[PlacedMark, ...]:
    """Marks from the nut down."""
    return tuple(
        PlacedMark(
            mark,
            round(distance_mm(string_length_mm, mark.semitones), 1),
            tuple(_sounding(string.pitch.midi + mark.semitones) for string in instrument.strings),
        )
        for mark in sorted(marks, key=lambda mark: mark.semitones)
    )
