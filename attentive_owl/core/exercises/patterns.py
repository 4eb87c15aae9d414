"""Rhythm patterns that are played on one string, then on every degree of a scale. The cue words are our own."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from attentive_owl.core.theory import Meter

METERS = ("4/4", "3/4", "2/4", "6/8")


REST_WORD = "hush"
"""Said where the bow waits: a rest is played too."""


class RecipeError(ValueError):
    """The choices do not make an exercise; the message says why, for the person who chose."""


_COMMON = ("4/4", "2/4", "3/4")
_SIX = ("6/8",)


@dataclass(frozen=True)
class RhythmPattern:
    """A rhythm that goes round and round, with the syllables that are spoken to it."""

    key: str
    name: str
    values: tuple[Fraction, ...]
    """Durations in quarter notes; a rest is below zero."""
    cue: tuple[str, ...]
    """One spoken syllable a stroke, a stressed one on each beat that has a stroke; a rest has `REST_WORD`."""
    meters: tuple[str, ...] = _COMMON

    def __post_init__(self) -> None:
        if len(self.cue) != sum(value > 0 for value in self.values):
            raise ValueError(f"{self.key}: one cue syllable is needed for each note")

    @property
    def beats(self) -> Fraction:
        """Length of the pattern in quarter notes."""
        return sum((abs(value) for value in self.values), Fraction(0))

    @property
    def notes(self) -> int:
        return len(self.cue)


def _pattern(key: str, name: str, values: str, cue: str, meters: tuple[str, ...] = _COMMON) -> RhythmPattern:
    return RhythmPattern(key, name, tuple(Fraction(v) for v in values.split()), tuple(cue.split()), meters)


PATTERNS: dict[str, RhythmPattern] = {
    entry.key: entry
    for entry in (
        _pattern("wholes", "Whole notes", "4", "fog", ("4/4",)),
        _pattern("halves", "Half notes", "2", "tide", ("4/4", "2/4")),
        _pattern("dotted-halves", "Dotted half notes", "3", "moon", ("3/4",)),
        _pattern("quarters", "Quarters", "1", "boat"),
        _pattern("eighths", "Eighths", "1/2 1/2", "row- ing"),
        _pattern("sixteenths", "Sixteenths", "1/4 1/4 1/4 1/4", "pad- dle qui- et"),
        _pattern(
            "sixteenths-eighths",
            "Four sixteenths, two eighths",
            "1/4 1/4 1/4 1/4 1/2 1/2",
            "rip- ple on the wa- ter",
            ("4/4", "2/4"),
        ),
        _pattern(
            "eighths-sixteenths",
            "Two eighths, four sixteenths",
            "1/2 1/2 1/4 1/4 1/4 1/4",
            "har- bour lan- terns glim- mer",
            ("4/4", "2/4"),
        ),
        _pattern("quarter-eighths", "Quarter, two eighths", "1 1/2 1/2", "rope coil- ing", ("4/4", "2/4")),
        _pattern("eighths-quarter", "Two eighths, quarter", "1/2 1/2 1", "lit- tle oar", ("4/4", "2/4")),
        _pattern("eighth-quarter-eighth", "Eighth, quarter, eighth", "1/2 1 1/2", "fer- ry- man", ("4/4", "2/4")),
        _pattern("dotted", "Dotted quarter, eighth", "3/2 1/2", "slow- ly", ("4/4", "2/4")),
        _pattern("dotted-eighths", "Dotted eighth, sixteenth", "3/4 1/4", "skip- ping"),
        _pattern("eighth-sixteenths", "Eighth, two sixteenths", "1/2 1/4 1/4", "splash- ing oar"),
        _pattern("sixteenths-eighth", "Two sixteenths, eighth", "1/4 1/4 1/2", "peb- ble plop"),
        _pattern("quarter-rest", "Quarter, rest", "1 -1", "knock", ("4/4", "2/4")),
        _pattern("eighths-rest", "Two eighths, rest", "1/2 1/2 -1", "an- chor", ("4/4", "2/4")),
        _pattern("waltz", "Quarter, rest, quarter", "1 -1 1", "ding dong", ("3/4",)),
        _pattern("half-quarter", "Half note, quarter", "2 1", "long wave", ("3/4",)),
        _pattern("three-eighths", "Three eighths", "1/2 1/2 1/2", "gull on mast", _SIX),
        _pattern("quarter-eighth", "Quarter, eighth", "1 1/2", "buoy- ant", _SIX),
        _pattern("dotted-quarters", "Dotted quarters", "3/2", "swing", _SIX),
        _pattern("lilt", "Dotted eighth, sixteenth, eighth", "3/4 1/4 1/2", "lap- ping wave", _SIX),
    )
}


def pattern(key: str) -> RhythmPattern:
    """Look a pattern up. Raises RecipeError with one clear sentence for an unknown name."""
    try:
        return PATTERNS[key]
    except KeyError:
        raise RecipeError(f"{key!r} is none of the patterns {', '.join(PATTERNS)}") from None


def patterns_at(shares: Sequence[float], beat_unit: int) -> list[RhythmPattern]:
    """Those of the meters with such a beat (4: a quarter), and without a rest, whose strokes, but for the first, fall at these shares of their time."""
    found = []
    for own in PATTERNS.values():
        starts = [float(sum(own.values[:place]) / own.beats) for place in range(1, own.notes)]
        alike = len(starts) == len(shares) and all(abs(a - b) < 0.01 for a, b in zip(starts, shares, strict=True))
        if beat_unit in {meter(name).beat_unit for name in own.meters} and min(own.values) > 0 and alike:
            found.append(own)
    return found


def meter(name: str) -> Meter:
    """'6/8' as a Meter. Raises RecipeError for one that no pattern is written in."""
    if name not in METERS:
        raise RecipeError(f"{name!r} is none of {', '.join(METERS)}")
    beats, unit = name.split("/")
    return Meter(int(beats), int(unit))
