"""Time signatures. All durations in this package are in beats of a quarter note, as exact fractions."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction


@dataclass(frozen=True)
class Meter:
    """A time signature."""

    beats: int = 4
    beat_unit: int = 4

    def __post_init__(self) -> None:
        if self.beats < 1 or self.beat_unit not in (1, 2, 4, 8, 16):
            raise ValueError(f"{self.beats}/{self.beat_unit} is no time signature")

    @property
    def measure_beats(self) -> Fraction:
        """Length of a full measure in quarter notes."""
        return Fraction(self.beats * 4, self.beat_unit)

    @property
    def pulse_beats(self) -> Fraction:
        """Length of the counted pulse: the dotted quarter in 6/8, 9/8 and 12/8, else the beat unit."""
        if self.beat_unit == 8 and self.beats % 3 == 0 and self.beats > 3:
            return Fraction(3, 2)
        return Fraction(4, self.beat_unit)

    @property
    def compound(self) -> bool:
        """Whether the pulse is divided in three."""
        return self.pulse_beats == Fraction(3, 2)
