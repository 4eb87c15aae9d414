"""Listens to one open string: which one, and how far from its place. For the tuning check before playing."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.instruments import Instrument
from attentive_owl.core.listening.features.frames import to_working_rate, without_rumble
from attentive_owl.core.listening.features.pitch_candidates import CLEAR_DIP, period_candidates
from attentive_owl.core.theory import Pitch, Temperament, frequency_hz, pitch_offset_cents

_FURTHEST_SEMITONES = 2.5
"""Further than this from every string it is none of them."""
_LEAST_FRAMES = 12
"""60 ms of clear pitch."""
_IN_TUNE_CENTS = 6.0
"""About the least difference of pitch that is heard, five cents for tones one after the other (from memory: 0.2 to 0.3 %
of frequency in the middle of the range), and a little more."""


@dataclass(frozen=True)
class StringHeard:
    """An open string, and how far from its place it sounds."""

    string: str
    cents: float
    """Above its place: strings in pure fifths (fourths on the bass) from A."""
    uncertainty_cents: float
    """Half the spread of the frames over the square root of their number, at least the method's own half cent."""

    @property
    def word(self) -> Literal["in tune", "low", "high"]:
        if in_tune(self.cents, self.uncertainty_cents):
            return "in tune"
        return "low" if self.cents < 0 else "high"


def in_tune(cents: float, uncertainty_cents: float = 0.0) -> bool:
    """Where nobody would hear the rest, or where it is within twice the uncertainty."""
    return abs(cents) <= max(_IN_TUNE_CENTS, 2 * uncertainty_cents)


def hear_open_string(
    samples: NDArray[np.floating], sample_rate: int, instrument: Instrument, a4_hz: float = 440.0
) -> StringHeard | None:
    """The string that sounds in about 0.3 s of one channel, shape (n,); None where nothing near a string is heard."""
    working = without_rumble(to_working_rate(samples, sample_rate), frequency_hz(instrument.lowest.midi))
    strings = [string.pitch for string in instrument.strings]
    lowest, highest = strings[0].midi - _FURTHEST_SEMITONES, strings[-1].midi + 12 + _FURTHEST_SEMITONES
    heard = period_candidates(working, frequency_hz(lowest, a4_hz), frequency_hz(highest, a4_hz))
    clear = heard.dip < CLEAR_DIP
    if clear.sum() < _LEAST_FRAMES:
        return None
    best: tuple[float, str, NDArray[np.float64]] | None = None
    for string in instrument.strings:
        offset = pitch_offset_cents(string.pitch, Temperament.RINGING, Pitch.parse("A4"), strings)
        place = string.pitch.midi + offset / 100.0 + 12.0 * np.log2(a4_hz / 440.0)
        near = clear & (np.abs(heard.midi - place) < _FURTHEST_SEMITONES)
        weight = float(heard.probability[near].sum())
        if near.sum() >= _LEAST_FRAMES and (best is None or weight > best[0]):
            best = (weight, string.name, 100.0 * (heard.midi[near] - place))
    if best is None:
        return None
    _, name, cents = best
    middle = float(np.median(cents))
    spread = float(np.subtract(*np.percentile(cents, [84, 16]))) / 2
    return StringHeard(name, round(middle, 1), round(max(spread / np.sqrt(len(cents)), 0.5), 1))
