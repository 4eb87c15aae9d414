"""Recording gate: is there something to listen to, and what is wrong with the recording itself."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from attentive_owl.core.listening.features.frames import HOP, Array, Samples, decibels

_SILENCE_DB, _CLEAR_DB, _CLEAR_SNR_DB = -62.0, -80.0, 25.0
"""So soft is silence; down to the second level not where it stands so far over the floor, as of a microphone far away."""
_QUIET_DB = -48.0
"""Under full scale: the loud part of a take near a microphone lies over it (by hand)."""
_CLIP_LEVEL = 0.985
"""Of full scale: what a phone cuts off comes out a little under one."""
_CLIPPED_SHARE = 0.001
"""Of the samples: fewer are single strokes."""
_NOISY_SNR_DB = 15.0
"""Of the loud part over the floor: with less a take is noisy. By hand."""


@dataclass(frozen=True)
class Gate:
    """Levels in dB relative to full scale; `problems` are codes: silent, quiet, clipped, noisy."""

    floor_db: float
    loud_db: float
    snr_db: float
    clipped_share: float
    problems: tuple[str, ...]


def short_level_db(samples: Samples) -> Array:
    """Level of every hop (5 ms), in dB, shape (hops,)."""
    count = len(samples) // HOP
    if count == 0:
        return np.array([-120.0])
    blocks = samples[: count * HOP].astype(np.float64).reshape(count, HOP)
    return decibels(np.mean(blocks**2, axis=1))


def gate_recording(samples: Samples, as_recorded: Samples) -> Gate:
    """Judge the recording (at the working rate, shape (n,)): levels of `samples`, without rumble, and clipping as it was recorded. The floor
    is the level of the quietest hundredth, 50 ms at a time: there may be little silence around long playing."""
    level = short_level_db(samples)
    smooth = np.convolve(level, np.ones(10) / 10, mode="same") if len(level) > 20 else level
    floor, loud = float(np.percentile(smooth, 1)), float(np.percentile(smooth, 95))
    clipped = float(np.mean(np.abs(as_recorded) >= _CLIP_LEVEL)) if len(as_recorded) else 0.0
    problems = []
    if loud < _SILENCE_DB and (loud < _CLEAR_DB or loud - floor < _CLEAR_SNR_DB):
        problems.append("silent")
    elif loud < _QUIET_DB:
        problems.append("quiet")
    if clipped > _CLIPPED_SHARE:
        problems.append("clipped")
    if "silent" not in problems and loud - floor < _NOISY_SNR_DB and floor > -70.0:
        problems.append("noisy")
    return Gate(floor, loud, loud - floor, clipped, tuple(problems))
