"""The count before the first note: what is said, when, and which of it is struck."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction

from attentive_owl.core.exercises import Score

_FEWEST_BEATS = 2


class CountStyle(StrEnum):
    """What is counted before the first note."""

    NUMBERS = "1 2 3 4"
    READY = "1 2 ready go"
    AND = "1 and 2 and"
    BACKWARDS = "4 3 2 1"


@dataclass(frozen=True)
class CountWord:
    """A word of the count before the first note."""

    at_beats: Fraction
    """Quarter notes from the beginning of the count."""
    word: str
    beat: bool
    """Struck; an "and" falls between two beats and is only said."""


def count_in(
    score: Score, style: CountStyle = CountStyle.NUMBERS, in_six: bool = True
) -> tuple[tuple[CountWord, ...], Fraction]:
    """The words of one measure and how long they last in quarter notes: to where the pickup begins, where there is one. A count
    of a single beat gets a measure before it. `in_six`: 6/8 is counted in eighths, else in its two pulses."""
    meter = score.meter
    unit = Fraction(4, meter.beat_unit) if meter.compound and in_six else meter.pulse_beats
    length = meter.measure_beats - score.pickup_beats
    numbers = [(at * unit, at + 1) for at in range(int(meter.measure_beats / unit))]
    beats = [(at, number) for at, number in numbers if at < length]
    if len(beats) < _FEWEST_BEATS:
        beats = [*numbers, *((at + meter.measure_beats, number) for at, number in beats)]
        length += meter.measure_beats
    words = [str(number) for _, number in beats]
    if style is CountStyle.BACKWARDS:
        words = [str(len(beats) - place) for place in range(len(beats))]
    elif style is CountStyle.READY and len(beats) > _FEWEST_BEATS:
        words[-2:] = ["ready", "go"]
    said = [CountWord(at, word, True) for (at, _), word in zip(beats, words, strict=True)]
    if style is CountStyle.AND and not meter.compound:
        said += [CountWord(at + unit / 2, "and", False) for at, _ in beats if at + unit / 2 < length]
    return tuple(sorted(said, key=lambda word: word.at_beats)), length
