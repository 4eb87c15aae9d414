"""What a single sounded note really is: its pitch by Praat (autocorrelation: Boersma 1993), its onset by its own level."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import parselmouth
from numpy.typing import NDArray
from scipy.signal import resample_poly

from attentive_owl.core.listening.notes.onsets import ONSET_DROP_DB
from attentive_owl.core.theory import frequency_hz

MEASURED_RATE = 44100
_LEAST_FRAMES = 5
_CORE = (0.2, 0.8)
_CONTOUR_STEP_S, _CONTOUR_WINDOW_S = 0.03, 0.1
_SHORTEST_WINDOW_S = 0.006
_PLUCKED_DB = 6.0
_RATE_PER_HZ, _LEAST_OF_RATE = 100, 8


@dataclass(frozen=True)
class PitchTrack:
    """What Praat hears of a sounded note that was asked for at some key, each where it hears a pitch within half an octave or so."""

    times: NDArray[np.float64]
    """Seconds."""
    above: NDArray[np.float64]
    """Semitones above what was asked for."""

    def middle(self, start_s: float, length_s: float) -> float | None:
        """Semitones over the middle 60 % of the note; None where Praat hears too little."""
        low, high = (start_s + share * length_s for share in _CORE)
        core = self.above[(self.times > low) & (self.times < high)]
        return float(np.median(core)) if len(core) >= _LEAST_FRAMES else None

    def contour(self, start_s: float, length_s: float) -> tuple[tuple[float, float], ...]:
        """How the note wanders: (seconds from its beginning, semitones from there on), each a median over a tenth of a
        second, so that its vibrato stays; from the beginning on where Praat first hears a pitch. Empty where it hears none."""
        found: list[tuple[float, float]] = []
        for middle in np.arange(_CONTOUR_STEP_S / 2, length_s, _CONTOUR_STEP_S):
            near = self.above[np.abs(self.times - start_s - middle) < _CONTOUR_WINDOW_S / 2]
            if len(near) >= _LEAST_FRAMES:
                found.append((float(middle - _CONTOUR_STEP_S / 2) if found else 0.0, float(np.median(near))))
        return tuple(found)


def track_pitch(alone: NDArray[np.floating], midi: float) -> PitchTrack:
    """Praat's track of a note that was asked for at `midi`. A low note is measured at a lower rate, which is a fraction of the
    work: one hundred times its frequency leaves its pitch within a tenth of a cent."""
    hz = frequency_hz(midi)
    less = int(np.clip(MEASURED_RATE / (_RATE_PER_HZ * hz), 1, _LEAST_OF_RATE))
    sound = parselmouth.Sound(resample_poly(alone.astype(np.float64), 1, less), sampling_frequency=MEASURED_RATE / less)
    track = sound.to_pitch_ac(time_step=0.005, pitch_floor=hz / 1.5, pitch_ceiling=hz * 1.5, very_accurate=True)
    heard, times = track.selected_array["frequency"], track.xs()
    return PitchTrack(times[heard > 0], 12 * np.log2(heard[heard > 0] / hz))


def pitch_of(alone: NDArray[np.floating], midi: float, start_s: float, length_s: float) -> float | None:
    """Fractional key number over the middle 60 % of a note that was asked for at `midi`; None where Praat hears too little."""
    above = track_pitch(alone, midi).middle(start_s, length_s)
    return None if above is None else midi + above


def onset_of(
    alone: NDArray[np.floating], midi: float, start_s: float, length_s: float, *, plucked: bool = False
) -> float:
    """Seconds until the note's level first comes within 20 dB of its sustained level."""
    window = max(int(_SHORTEST_WINDOW_S * MEASURED_RATE), int(MEASURED_RATE / frequency_hz(midi)))
    power = np.convolve(alone.astype(np.float64) ** 2, np.hanning(window) / (window / 2), mode="same")
    level = 10 * np.log10(power + 1e-12)
    first, last = (int((start_s + share * length_s) * MEASURED_RATE) for share in _CORE)
    # A plucked note has no sustained level.
    sustained = level.max() - _PLUCKED_DB if plucked else np.median(level[first:last])
    return int(np.argmax(level >= sustained - ONSET_DROP_DB)) / MEASURED_RATE
