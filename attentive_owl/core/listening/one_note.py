"""Listens to one note that is known: did it come, and where does it lie? For the first note, tried before the line is played."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.instruments import Instrument
from attentive_owl.core.listening.features.frames import to_working_rate, without_rumble
from attentive_owl.core.listening.features.pitch_candidates import CLEAR_DIP, period_candidates
from attentive_owl.core.theory import frequency_hz

_LEAST_FRAMES = 12
"""60 ms of clear pitch."""
_NEAR_SEMITONES = 0.7
"""Within this of the wanted note it is that note, higher or lower; beyond it is another."""
_ENOUGH_OF_IT = 0.4
"""Share of the strongest reading from which on the wanted note counts as heard: an octave above it is a reading of any tone."""


@dataclass(frozen=True)
class OneNote:
    """A single steady note."""

    midi: float
    """What sounds (A4 = 440, equal)."""
    cents: float | None
    """Over the wanted note; None where it is another one."""


def hear_one_note(
    samples: NDArray[np.floating], sample_rate: int, instrument: Instrument, wanted_midi: float
) -> OneNote | None:
    """What sounds in about half a second of one channel, shape (n,); None where no steady note of the instrument is heard."""
    working = without_rumble(to_working_rate(samples, sample_rate), frequency_hz(instrument.lowest.midi))
    heard = period_candidates(
        working, frequency_hz(instrument.lowest.midi - 1.5), frequency_hz(instrument.highest.midi + 1.5)
    )
    clear = heard.dip < CLEAR_DIP
    if clear.sum() < _LEAST_FRAMES:
        return None
    midi, weight = heard.midi[clear], heard.probability[clear]
    places = np.round(midi).astype(int)
    first = int(places.min())
    strongest = first + int(np.argmax(np.bincount(places - first, weights=weight)))
    near = np.abs(midi - wanted_midi) < _NEAR_SEMITONES
    around = np.abs(midi - strongest) < _NEAR_SEMITONES
    if near.sum() >= _LEAST_FRAMES and weight[near].sum() >= _ENOUGH_OF_IT * weight[around].sum():
        own = float(np.median(midi[near]))
        return OneNote(round(own, 3), round(100.0 * (own - wanted_midi), 1))
    if around.sum() < _LEAST_FRAMES:
        return None
    return OneNote(round(float(np.median(midi[around])), 3), None)
