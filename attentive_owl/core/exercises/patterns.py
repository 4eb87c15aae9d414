"""Rhythm patterns that are played on one string, then on every degree of a scale. The cue words are our own."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

_QUARTER = Fraction(1)
_EIGHTH = Fraction(1, 2)
_SIXTEENTH = Fraction(1, 4)


@dataclass(frozen=True)
class RhythmPattern:
    key: str
    name: str
    values: tuple[Fraction, ...]
    """Durations in quarter notes."""
    cue: tuple[str, ...]
    """One spoken syllable a note."""

    def __post_init__(self) -> None:
        if len(self.values) != len(self.cue):
            raise ValueError(f"{self.key}: one cue syllable is needed for each note")


PATTERNS: dict[str, RhythmPattern] = {
    entry.key: entry
    for entry in (
        RhythmPattern("quarters", "Quarters", (_QUARTER,), ("boat",)),
        RhythmPattern("eighths", "Eighths", (_EIGHTH,) * 2, ("row-", "ing")),
        RhythmPattern(
            "sixteenths-eighths",
            "Four sixteenths, two eighths",
            (_SIXTEENTH,) * 4 + (_EIGHTH,) * 2,
            ("rip-", "ple", "on", "the", "wa-", "ter"),
        ),
    )
}


def pattern(key: str) -> RhythmPattern:
    """Look a pattern up. Raises ValueError with one clear sentence for an unknown name."""
    try:
        return PATTERNS[key]
    except KeyError:
        raise ValueError(f"{key!r} is none of the patterns {', '.join(PATTERNS)}") from None
