"""The ear's sliding filters against scipy's, which are slower to import than to use."""

from __future__ import annotations

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy import ndimage, signal
from scipy.special import betainc, expit

from attentive_owl.core.listening.features.filters import (
    greatest_within,
    high_passed,
    moving_max,
    moving_mean,
    moving_min,
    moving_percentile,
    smoothed,
    without_peaks,
)
from attentive_owl.core.listening.features.frames import RATE_HZ, resampled
from attentive_owl.core.listening.features.pitch_candidates import _CHOICE, _THRESHOLDS, _VOICING
from attentive_owl.core.listening.logistic import logistic

LENGTHS = (1, 2, 5, 24, 200)
WINDOWS = ((0, 0), (1, 1), (15, 0), (0, 23), (11, 3), (4, 4))


def _curve(length: int) -> np.ndarray:
    return np.random.default_rng(length).normal(size=length)


@pytest.mark.parametrize("length", LENGTHS)
@pytest.mark.parametrize(("before", "after"), WINDOWS)
def test_greatest_least_and_mean_of_a_window(length: int, before: int, after: int) -> None:
    """scipy.ndimage names a window by its size and by how far it is moved to the left."""
    curve, size = _curve(length), before + after + 1
    if size > 2 * length:
        return
    moved = before - size // 2
    assert_allclose(moving_max(curve, before, after), ndimage.maximum_filter1d(curve, size, origin=moved))
    assert_allclose(moving_min(curve, before, after), ndimage.minimum_filter1d(curve, size, origin=moved))
    assert_allclose(moving_mean(curve, before, after), ndimage.uniform_filter1d(curve, size, origin=moved), atol=1e-12)


def test_the_mean_runs_along_time_and_the_greatest_along_bands() -> None:
    curves = np.random.default_rng(0).normal(size=(40, 6))
    assert_allclose(moving_mean(curves, 3, 3), ndimage.uniform_filter1d(curves, 7, axis=0), atol=1e-12)
    assert_allclose(moving_max(curves, 1, 1), ndimage.maximum_filter1d(curves, 3, axis=1))


def test_the_greatest_between_two_places() -> None:
    rng = np.random.default_rng(5)
    curve = rng.normal(size=50)
    first = rng.integers(0, 60, (30, 2))
    stop = first + rng.integers(0, 9, (30, 2))
    by_hand = [max([*curve[a:b], -0.5]) for a, b in zip(first.flat, stop.flat, strict=True)]
    assert greatest_within(curve, first, stop, -0.5).flatten().tolist() == by_hand


@pytest.mark.parametrize("length", LENGTHS)
def test_ranks_openings_and_bells(length: int) -> None:
    curve = _curve(length)
    assert_allclose(moving_percentile(curve, 50, 2), ndimage.median_filter(curve, 5))
    if length > 61:
        # scipy's own mirrors a curve shorter than the window in another way than its other filters do.
        assert_allclose(moving_percentile(curve, 40, 30), ndimage.percentile_filter(curve, 40, 61))
    assert_allclose(without_peaks(curve, 11), ndimage.grey_opening(curve, (11,)))
    assert_allclose(smoothed(curve, 1.0), ndimage.gaussian_filter1d(curve, 1.0), atol=1e-12)


@pytest.mark.parametrize("length", [1, 5000, (1 << 16) + 7, 200_000])
@pytest.mark.parametrize("cutoff_hz", [25.0, 118.0])
def test_the_high_pass_is_butterworths_over_the_joins_of_its_runs(length: int, cutoff_hz: float) -> None:
    samples = _curve(length).astype(np.float32)
    wanted = signal.sosfilt(signal.butter(2, cutoff_hz, "high", fs=RATE_HZ, output="sos"), samples)
    assert_allclose(high_passed(samples, cutoff_hz, RATE_HZ), wanted, atol=2e-6)


@pytest.mark.parametrize("rate", [8000, 44100, 48000])
def test_another_rate_moves_nothing_in_time_or_pitch(rate: int) -> None:
    times = np.arange(rate) / rate
    bump = np.exp(-0.5 * ((times - 0.5) / 0.02) ** 2)
    tone = resampled((bump * np.sin(2 * np.pi * 440 * times)).astype(np.float32), rate, RATE_HZ)
    at = np.arange(len(tone)) / RATE_HZ
    assert abs(len(tone) - RATE_HZ) <= 1
    assert_allclose(tone, np.exp(-0.5 * ((at - 0.5) / 0.02) ** 2) * np.sin(2 * np.pi * 440 * at), atol=2e-3)


def test_the_beta_distributions_of_yin_and_the_logistic() -> None:
    assert_allclose(_VOICING, betainc(2.0, 8.0, _THRESHOLDS), atol=1e-6)
    assert_allclose(_CHOICE, betainc(2.0, 24.0, _THRESHOLDS), atol=1e-6)
    odds = np.array([-800.0, -3.0, 0.0, 2.0, 800.0])
    assert_allclose(logistic(odds), expit(odds), atol=1e-15)
