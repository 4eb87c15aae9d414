"""The common time base of all features: 22 kHz mono, a frame every 5 ms."""

from __future__ import annotations

import numpy as np
import soxr
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

from attentive_owl.core.listening.features.dropouts import bridged
from attentive_owl.core.listening.features.filters import high_passed

Array = NDArray[np.float64]
Samples = NDArray[np.float32]

RATE_HZ = 22000
"""The working rate: what lies over 11 kHz is not used."""
HOP = 110
"""Samples from frame to frame: 5 ms."""
HOP_S = HOP / RATE_HZ
_BLOCK = 500
"""Frames at a time: so few stay in the processor's cache."""
_RUMBLE_SHARE = 0.6
"""What lies under this share of the lowest string is no string: steps, cars, a table that is knocked against."""


def to_working_rate(samples: NDArray[np.floating], sample_rate: int) -> Samples:
    """Mono samples (any float type, shape (n,)) at RATE_HZ, float32, what was lost of a tone bridged. Raises ValueError for another shape."""
    if samples.ndim != 1:
        raise ValueError("the ear takes one channel")
    return resampled(bridged(samples.astype(np.float32, copy=False), sample_rate), sample_rate, RATE_HZ)


def resampled(samples: Samples, from_hz: int, to_hz: int) -> Samples:
    """Samples of shape (n,) at another rate, by soxr's linear-phase filter for 16 bits."""
    return samples if from_hz == to_hz else np.asarray(soxr.resample(samples, from_hz, to_hz, "MQ"), np.float32)


def without_rumble(samples: Samples, lowest_hz: float) -> Samples:
    """Samples, shape (n,), without what lies well under the lowest note: a fan, the street, wind, a microphone whose rest is not at zero. Second
    order, so that the lowest note itself is late by two or three milliseconds at most."""
    return high_passed(samples, _RUMBLE_SHARE * lowest_hz, RATE_HZ)


def frame_count(samples: Samples) -> int:
    """Frames that a sound of shape (n,) has, one at least."""
    return max(len(samples) // HOP, 1)


def framed(samples: Samples, length: int, first: int, count: int, hop: int = HOP) -> Samples:
    """Frames `first`..`first + count` of `length` samples, each centred on its time (frame * hop), zero-padded;
    shape (count, length)."""
    return pieces(samples, first * hop - length // 2, length, count, hop)


def pieces(samples: Samples, start: int, length: int, count: int, hop: int) -> Samples:
    """`count` pieces of `length` samples, the first at `start` and each `hop` after the one before, zero-padded; shape (count, length)."""
    stop = start + (count - 1) * hop + length
    left, right = max(-start, 0), max(stop - len(samples), 0)
    piece = samples[max(start, 0) : max(min(stop, len(samples)), 0)]
    if left or right:
        piece = np.pad(piece, (left, right + max(0, stop - start - left - right - len(piece))))
    return sliding_window_view(piece, length)[::hop][:count]


def band_powers(samples: Samples, length: int, weights: NDArray[np.float32]) -> NDArray[np.float32]:
    """Power in some bands of frames of `length` samples, weighed by a Hann window; shape (frames, bands). weights: of each line of
    the spectrum in each band, shape (length // 2 + 1, bands)."""
    total = frame_count(samples)
    window = np.hanning(length).astype(np.float32)
    powers = np.empty((total, weights.shape[1]), np.float32)
    for first in range(0, total, _BLOCK):
        count = min(_BLOCK, total - first)
        spectrum = np.fft.rfft(framed(samples, length, first, count) * window, axis=1)
        powers[first : first + count] = (spectrum.real**2 + spectrum.imag**2) @ weights
    return powers


def decibels(power: Array) -> Array:
    """10 log10 of a power, of any shape (...); -120 dB at the least."""
    return 10.0 * np.log10(np.maximum(power, 1e-12))


def running_power(samples: Samples) -> Array:
    """Sum of squares up to each sample, shape (n + 1,)."""
    power = np.zeros(len(samples) + 1)
    np.cumsum(np.square(samples, dtype=np.float64), out=power[1:])
    return power
