"""Takes put together from notes that sound singly: each is measured alone before it is mixed with the others, and only that is
called its truth."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.playing import Performed, PerformedNote
from attentive_owl.core.playing.synthesis import Truth
from bench.measuring import MEASURED_RATE, onset_of, pitch_of

Voice = Callable[[PerformedNote, float], NDArray[np.floating]]
"""A note and for how many seconds it must sound -> samples at `MEASURED_RATE`, at least so many."""
_RELEASE_S = 0.06
_PAD_S = 0.2
_PEAK = 0.5


def put_together(performed: Performed, voice: Voice) -> tuple[NDArray[np.float32], tuple[Truth, ...]]:
    """The take, and where each note really is. Every note rings on for 60 ms while the next one speaks."""
    out = np.zeros(int(performed.duration_s * MEASURED_RATE) + MEASURED_RATE)
    pad = np.zeros(int(_PAD_S * MEASURED_RATE))
    release = int(_RELEASE_S * MEASURED_RATE)
    truths = []
    for note in performed.notes:
        length_s = note.end_s - note.start_s
        held = int(length_s * MEASURED_RATE)
        sound = np.array(voice(note, length_s + _RELEASE_S), np.float64)[: held + release]
        sound[held:] *= np.linspace(1.0, 0.0, release)[: len(sound) - held] ** 2
        begin = int(note.start_s * MEASURED_RATE)
        out[begin : begin + len(sound)] += sound[: len(out) - begin]
        alone = np.concatenate([pad, sound, pad])
        pitch = pitch_of(alone, note.midi, _PAD_S, length_s)
        onset = max(onset_of(alone, note.midi, _PAD_S, length_s) - _PAD_S, 0.0)
        own = note if pitch is None else replace(note, midi=pitch)
        truths.append(Truth(own, note.start_s + onset, note.end_s))
    out = out[: int(performed.duration_s * MEASURED_RATE)]
    return (out * _PEAK / max(np.abs(out).max(initial=0.0), 1e-9)).astype(np.float32), tuple(truths)
