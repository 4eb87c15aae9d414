"""Tapes and stickers: where on the fingerboard each one goes."""

from __future__ import annotations

from dataclasses import dataclass

from attentive_owl.core.instruments.catalogue import Instrument
from attentive_owl.core.instruments.marks import Mark

_NAMES = ("C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B")


@dataclass(frozen=True)
class PlacedMark:
    """A tape in its place on the fingerboard."""

    mark: Mark
    mm: float
    """From the nut."""
    notes: tuple[str, ...]
    """What sounds there on each string, low to high."""


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
