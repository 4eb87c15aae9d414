"""Level: frame by frame, and millisecond by millisecond."""

from __future__ import annotations

import numpy as np

from attentive_owl.core.listening.features.filters import moving_mean, without_peaks
from attentive_owl.core.listening.features.frames import (
    HOP,
    RATE_HZ,
    Array,
    Samples,
    decibels,
    frame_count,
    running_power,
)
from attentive_owl.core.listening.features.ordered import middle

FINE_HOP = 22
"""Samples."""
FINE_HOP_S = FINE_HOP / RATE_HZ
"""1 ms."""
CORE = (0.2, 0.8)
"""Shares of a note between which it has its own level and pitch: the middle 60 %."""
_STEP_GAP, _STEP_LENGTH = 2, 8
"""Frames: what happens within 10 ms of a moment belongs to neither side of it, and 40 ms tell where the level stands."""
_BEEP_FRAMES = 17
"""What stands out for less than 85 ms is a click or a beep: the string's level goes on beside it."""


def level_db(samples: Samples, window_s: float) -> Array:
    """Level of every frame over a short window, in dB, shape (frames,)."""
    total = frame_count(samples)
    length = max(int(window_s * RATE_HZ), 16)
    power = running_power(samples)
    centre = np.arange(total) * HOP
    low = np.clip(centre - length // 2, 0, len(samples))
    high = np.clip(centre + length // 2, 0, len(samples))
    return decibels((power[high] - power[low]) / length)


def level_steps_db(level: Array) -> Array:
    """How far the level stands after each frame from where it stood before it, up or down, in dB, shape (frames,). A bow that sets on
    anew begins at a level of its own; a bow that goes on swells and fades more slowly than this sees, and a beep is left out."""
    steps = np.zeros(len(level))
    # At the edges there is no level to compare with.
    edge = _STEP_GAP + _STEP_LENGTH
    within = len(level) - 2 * edge
    if within > 0:
        mean = moving_mean(without_peaks(level, _BEEP_FRAMES), 0, _STEP_LENGTH - 1)
        steps[edge:-edge] = np.abs(mean[edge + _STEP_GAP :][:within] - mean[:within])
    return steps


def fine_level_db(samples: Samples, window_s: float) -> Array:
    """Level every millisecond, in dB, shape (milliseconds,); three running means in a row weigh like a bell of about `window_s`."""
    box = max(int(window_s * RATE_HZ / 3), 5)
    power = np.pad(samples.astype(np.float64) ** 2, box)
    for _ in range(3):
        power = moving_mean(power, box // 2, (box - 1) // 2)
    return decibels(power[box:-box:FINE_HOP])


def sustained_db(begin_s: float, end_s: float, fine: Array) -> float:
    """Median level of the middle 60 %, in dB; fine: `fine_level_db`, shape (milliseconds,)."""
    low, high = (int((begin_s + share * (end_s - begin_s)) / FINE_HOP_S) for share in CORE)
    piece = fine[low : max(high, low + 1)]
    return middle(piece) if len(piece) else -120.0
