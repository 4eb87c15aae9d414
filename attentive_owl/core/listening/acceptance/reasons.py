"""Why nothing could be followed: what the sound itself says, before it is called another exercise."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.listening.features.pitch_candidates import CLEAR_DIP, Candidates
from attentive_owl.core.listening.features.recording_quality import Gate
from attentive_owl.core.listening.performance import RefusalCode

_MOST_CLEAR_IN_NOISE = 0.7
"""Share of the sounding frames with a clear pitch: over it the noise covers too little to be the reason."""
_LEAST_CLEAR = 0.5
"""The same share: under it more of what sounds has no pitch than has one. By hand: 0.28 and 0.35 in sixteenths on recorded bass strings that
speak too late for them, 0.67 and more in other lines on the same strings, 0.77 in speech."""
_STEADY_FRAMES, _STEADY_SEMITONES = 8, 0.25
"""Frames between two looks at the pitch, and semitones within which it stayed (by hand)."""
_LEAST_STEADY = 0.62
"""Share of the neighbouring clear frames, 40 ms apart, between which the pitch stays. A bowed or plucked string stays nearly
always; a speaking voice glides all the time, and a singing one half of it."""
_LEAST_PAIRS = 40
"""So many looks at least (a fifth of a second of them): fewer say nothing."""


def reason_in_the_sound(candidates: Candidates, sounding: NDArray[np.bool_], gate: Gate) -> RefusalCode | None:
    """too_far, too_noisy, voices or no_clear_notes; None where there is clear playing of something else. `sounding`: shape (frames,)."""
    clear, midi = _clear_pitch(candidates)
    share = float(clear[sounding].mean()) if sounding.any() else 0.0
    if "noisy" in gate.problems and share < _MOST_CLEAR_IN_NOISE:
        return RefusalCode.TOO_FAR if "quiet" in gate.problems else RefusalCode.TOO_NOISY
    pairs = clear[:-_STEADY_FRAMES] & clear[_STEADY_FRAMES:] & sounding[:-_STEADY_FRAMES] & sounding[_STEADY_FRAMES:]
    if pairs.sum() >= _LEAST_PAIRS:
        moved = np.abs(midi[_STEADY_FRAMES:] - midi[:-_STEADY_FRAMES])[pairs]
        # A leap is another note, or an octave misheard, and no glide.
        gliding = (moved > _STEADY_SEMITONES) & (moved < 2.5)
        if 1.0 - float(gliding.mean()) < _LEAST_STEADY:
            return RefusalCode.VOICES
    return RefusalCode.NO_CLEAR_NOTES if share < _LEAST_CLEAR else None


def _clear_pitch(candidates: Candidates) -> tuple[NDArray[np.bool_], NDArray[np.float64]]:
    """Which frames have a clear pitch, and the likeliest one of each (0 where there is none); shapes (frames,)."""
    midi = np.zeros(candidates.frames)
    best = np.zeros(candidates.frames)
    clear = np.zeros(candidates.frames, bool)
    order = np.argsort(candidates.probability)
    frame = candidates.frame[order]
    midi[frame], best[frame] = candidates.midi[order], candidates.probability[order]
    clear[candidates.frame[candidates.dip < CLEAR_DIP]] = True
    return clear & (best > 0), midi
