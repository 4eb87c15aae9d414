"""The power of frames in bands, against Parseval's theorem and a transform of one frame by scipy."""

from __future__ import annotations

import numpy as np
import scipy.fft

from attentive_owl.core.listening.features.frames import HOP, band_powers, frame_count

LENGTH = 256
LINES = LENGTH // 2 + 1
SOUND = np.random.default_rng(3).normal(size=1100 * HOP).astype(np.float32)


def frame(at: int) -> np.ndarray:
    padded = np.pad(SOUND, LENGTH)
    begin = at * HOP - LENGTH // 2 + LENGTH
    return padded[begin : begin + LENGTH] * np.hanning(LENGTH)


def test_all_lines_together_are_the_power_of_the_frame() -> None:
    weights = np.full((LINES, 1), 2.0, np.float32)
    weights[[0, -1]] = 1.0
    powers = band_powers(SOUND, LENGTH, weights)
    assert powers.shape == (frame_count(SOUND), 1)
    for at in (0, 1, 499, 500, 1099):
        assert np.isclose(powers[at, 0], LENGTH * np.sum(frame(at) ** 2), rtol=1e-4)


def test_each_line_has_its_own_power() -> None:
    powers = band_powers(SOUND, LENGTH, np.eye(LINES, dtype=np.float32))
    assert np.allclose(powers[777], np.abs(scipy.fft.rfft(frame(777))) ** 2, rtol=1e-3, atol=1e-3)
