"""All that is measured in a recording before the score is laid on it: one place for the ear, the benchmarks and the picture."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.instruments import Instrument
from attentive_owl.core.listening.features.frames import Array, Samples, to_working_rate, without_rumble
from attentive_owl.core.listening.features.levels import fine_level_db, level_db
from attentive_owl.core.listening.features.novelty import spectral_flux
from attentive_owl.core.listening.features.period_breaks import period_break
from attentive_owl.core.listening.features.pitch_candidates import Candidates, period_candidates
from attentive_owl.core.listening.features.recording_quality import Gate, gate_recording
from attentive_owl.core.theory import frequency_hz

_SHORTEST_LEVEL_WINDOW_S, _SHORTEST_FINE_WINDOW_S = 0.016, 0.010
"""So short a window still follows a bow change; it holds a period of the lowest note at least."""
_HIGHEST_HZ = 2500.0
"""Nothing that beginners play lies higher, and short periods are read too coarsely there."""
_LOW_TOP_HZ = 1250.0
"""Strings so low whistle at their twelfth as well."""


@dataclass(frozen=True)
class Recording:
    """One channel at the working rate, without rumble, and how good it is."""

    working: Samples
    gate: Gate
    duration_s: float


@dataclass(frozen=True)
class Features:
    """Curves of one value a frame of 5 ms (`fine`: a millisecond), shape (frames,)."""

    recording: Recording
    candidates: Candidates
    level: Array
    """dB."""
    flux: Array
    """Rise of the band levels, dB."""
    broken_db: Array
    """How far the sound stands over what it was one period ago, dB."""
    fine: Array
    """Level, dB."""


def take_in(samples: NDArray[np.floating], sample_rate: int, instrument: Instrument) -> Recording:
    """samples: one channel, shape (n,), full scale +-1. Raises ValueError for another shape."""
    as_recorded = to_working_rate(samples, sample_rate)
    working = without_rumble(as_recorded, frequency_hz(instrument.lowest.midi))
    return Recording(working, gate_recording(working, as_recorded), len(samples) / sample_rate)


def lowest_hz(written: NDArray[np.int64], instrument: Instrument) -> float:
    """An octave below what is written, key numbers of shape (notes,): another instrument's line has to be heard as what it is."""
    return frequency_hz(min(instrument.lowest.midi - 1.6, float(written.min()) - 12.6))


def highest_heard(written: NDArray[np.int64]) -> int:
    """Key number up to which is listened: an octave above what is written, shape (notes,), on low strings a twelfth, at which they whistle."""
    highest = int(written.max())
    return highest + (19 if frequency_hz(highest + 19.5) < _LOW_TOP_HZ else 12)


def pitches_in(recording: Recording, written: NDArray[np.int64], instrument: Instrument) -> Candidates:
    """written: key numbers of the line, shape (notes,)."""
    highest_hz = min(frequency_hz(highest_heard(written) + 0.5), _HIGHEST_HZ)
    return period_candidates(recording.working, lowest_hz(written, instrument), highest_hz)


def level_in(recording: Recording, written: NDArray[np.int64], instrument: Instrument) -> Array:
    """dB, shape (frames,), over a window that holds the longest period of what is written (key numbers, shape (notes,))."""
    return level_db(recording.working, max(_SHORTEST_LEVEL_WINDOW_S, 1.0 / lowest_hz(written, instrument)))


def extract(recording: Recording, written: NDArray[np.int64], instrument: Instrument) -> Features:
    """written: key numbers of the line, shape (notes,); they say how long windows have to be."""
    working = recording.working
    candidates = pitches_in(recording, written, instrument)
    return Features(
        recording,
        candidates,
        level_in(recording, written, instrument),
        spectral_flux(working),
        period_break(working, candidates),
        fine_level_db(working, max(_SHORTEST_FINE_WINDOW_S, 1.0 / frequency_hz(float(written.min()) - 1))),
    )
