"""Where the sound stops repeating itself: on signals whose answer is known by construction."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from attentive_owl.core.listening.features.frames import HOP_S, RATE_HZ
from attentive_owl.core.listening.features.period_breaks import period_break, residue
from attentive_owl.core.listening.features.pitch_candidates import period_candidates

BREAK_S = 0.8


def tone(hz: float, seconds: float = 1.6, turned_at_s: float | None = None) -> np.ndarray:
    """Eight harmonics; from `turned_at_s` on they go on in another phase, at the same level."""
    time = np.arange(int(seconds * RATE_HZ)) / RATE_HZ
    parts = []
    for number in range(1, 9):
        phase = np.where(time < turned_at_s, 0.0, 0.7 * number**2) if turned_at_s else 0.0
        parts.append(np.sin(2 * np.pi * hz * number * time + phase) / number)
    noise = np.random.default_rng(3).normal(0, 0.003, len(time))
    return (0.2 * np.sum(parts, axis=0) + noise).astype(np.float32)


def breaks(sound: np.ndarray, lowest_hz: float) -> np.ndarray:
    """Without the first and the last fifth of a second: the beginning of the sound is a break too."""
    found = period_break(sound, period_candidates(sound, lowest_hz, 1200.0))
    found[:40] = found[-40:] = 0.0
    return found


@given(hz=st.floats(60.0, 900.0))
def test_a_held_tone_vanishes_with_its_own_period(hz: float) -> None:
    sound = tone(hz, 0.5)
    left = residue(sound, np.array([RATE_HZ / hz]))[RATE_HZ // 10 :]
    assert np.sqrt(np.mean(left**2)) < 0.15 * np.sqrt(np.mean(sound**2))


@pytest.mark.parametrize("hz", [41.2, 98.0, 196.0, 440.0, 880.0])
def test_a_stroke_on_the_same_pitch_is_found_though_no_level_tells_it(hz: float) -> None:
    found = breaks(tone(hz, turned_at_s=BREAK_S), 38.0 if hz < 100 else 180.0)
    assert found.max() > 6.0
    # The break shows as soon as it comes into the window of 15 ms that lies ahead.
    assert -0.016 <= np.argmax(found) * HOP_S - BREAK_S <= 0.006


@pytest.mark.parametrize("shape", ["swelling", "swaying"])
def test_a_level_that_moves_breaks_nothing(shape: str) -> None:
    sound = tone(220.0)
    time = np.arange(len(sound)) / RATE_HZ
    level = 0.3 + 0.7 * time / time[-1] if shape == "swelling" else 0.7 + 0.3 * np.sin(2 * np.pi * 4 * time)
    moved = breaks((sound * level).astype(np.float32), 180.0).max()
    assert moved < 0.5 * breaks(tone(220.0, turned_at_s=BREAK_S), 180.0).max()


def test_silence_breaks_nothing() -> None:
    assert np.abs(breaks(np.zeros(RATE_HZ, np.float32), 180.0)).max() < 1e-6


def test_a_long_recording_taken_in_pieces_gives_what_one_piece_gives(monkeypatch: pytest.MonkeyPatch) -> None:
    sound = np.concatenate([tone(196.0, turned_at_s=BREAK_S), tone(247.0)])
    whole = breaks(sound, 180.0)
    monkeypatch.setattr("attentive_owl.core.listening.features.period_breaks._BLOCK", 97)
    assert np.allclose(breaks(sound, 180.0), whole, atol=1e-3)
