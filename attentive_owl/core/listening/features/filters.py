"""Sliding filters over curves of one value a frame, in numpy alone: importing scipy's takes longer than hearing thirty seconds of
sound. A window is named by how many values `before` and `after` each place it takes; at the ends the curve is mirrored, as
scipy.ndimage does by default (the tests hold each against it)."""

from __future__ import annotations

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

Array = NDArray[np.float64]

_RUN_SAMPLES = 1 << 16
"""Samples filtered at a time: three seconds."""
_TAIL_SAMPLES = 1 << 13
"""The high-pass has died away after so many: at its lowest, 25 Hz, that is forty of its time constants."""


def moving_max(curve: Array, before: int, after: int) -> Array:
    """The greatest of the window at every place, along the last axis; the shape of `curve`."""
    padded = _mirrored(curve, before, after)
    # Windows of doubled length are the greater of two; the last one overlaps: log2(length) passes in place of one a value.
    length, wanted = 1, before + after + 1
    while 2 * length <= wanted:
        padded = np.maximum(padded[..., :-length], padded[..., length:])
        length *= 2
    rest = wanted - length
    return np.maximum(padded[..., : padded.shape[-1] - rest], padded[..., rest:])


def moving_min(curve: Array, before: int, after: int) -> Array:
    """The least of the window from `before` values before to `after` values after each; shape (n,)."""
    return -moving_max(-curve, before, after)


def moving_mean(curve: Array, before: int, after: int) -> Array:
    """The mean of the window, along the first axis; shape (n,) or (n, m)."""
    padded = _mirrored(curve.T, before, after).T
    total = np.zeros((len(padded) + 1, *padded.shape[1:]))
    np.cumsum(padded, axis=0, out=total[1:])
    length = before + after + 1
    return (total[length:] - total[:-length]) / length


def moving_percentile(curve: Array, percent: float, reach: int) -> Array:
    """That rank of the values up to `reach` away on both sides (one of them, nothing between two), shape (n,)."""
    length = 2 * reach + 1
    rank = int(length * percent / 100.0)
    return np.partition(sliding_window_view(_mirrored(curve, reach, reach), length), rank, axis=1)[:, rank]


def without_peaks(curve: Array, length: int) -> Array:
    """Grey opening: what stands out for less than `length` (odd) values is gone. Shape (n,)."""
    reach = length // 2
    return moving_max(moving_min(curve, reach, reach), reach, reach)


def greatest_within(curve: Array, first: NDArray[np.int64], stop: NDArray[np.int64], least: float) -> Array:
    """The greatest of `curve`, shape (n,), from each place up to another, and `least` at least; of the shape of `first` and `stop`."""
    first, stop = np.minimum(first, len(curve)), np.minimum(stop, len(curve))
    # Between a place and the next that is named, in turn: every second of these lies within.
    both = np.stack([first.ravel(), stop.ravel()], axis=1).ravel()
    within = np.maximum.reduceat(np.append(curve, least), both)[::2].reshape(first.shape)
    return np.where(first < stop, np.maximum(within, least), least)


def smoothed(curve: Array, sigma: float) -> Array:
    """Weighed by a bell of `sigma` values, cut at four of them; shape (n,)."""
    reach = int(4.0 * sigma + 0.5)
    bell = np.exp(-0.5 * (np.arange(-reach, reach + 1) / sigma) ** 2)
    return np.convolve(_mirrored(curve, reach, reach), bell / bell.sum(), mode="valid")


def high_passed(samples: NDArray[np.float32], cutoff_hz: float, rate_hz: float) -> NDArray[np.float32]:
    """Second-order Butterworth high-pass at rest before the first sample; shape (n,). The bilinear transform with its frequency
    warped back (Oppenheim and Schafer, Discrete-Time Signal Processing), as a product of spectra, run by run: each run brings
    so much of what came before that nothing of it is left to answer."""
    size = _RUN_SAMPLES + _TAIL_SAMPLES
    warped = np.tan(np.pi * cutoff_hz / rate_hz)
    delay = np.exp(-2j * np.pi * np.fft.rfftfreq(size))
    below = 1.0 + np.sqrt(2.0) * warped + warped**2
    first, second = 2.0 * (warped**2 - 1.0) / below, (1.0 - np.sqrt(2.0) * warped + warped**2) / below
    response = (1.0 - delay) ** 2 / below / (1.0 + first * delay + second * delay**2)
    padded = np.concatenate([np.zeros(_TAIL_SAMPLES, np.float32), samples])
    out = np.empty(len(samples), np.float32)
    for start in range(0, len(samples), _RUN_SAMPLES):
        run = np.fft.irfft(np.fft.rfft(padded[start : start + size].astype(np.float64), size) * response, size)
        part = out[start : start + _RUN_SAMPLES]
        part[:] = run[_TAIL_SAMPLES : _TAIL_SAMPLES + len(part)]
    return out


def _mirrored(curve: Array, before: int, after: int) -> Array:
    """Along the last axis."""
    return np.pad(curve, [(0, 0)] * (curve.ndim - 1) + [(before, after)], mode="symmetric")
