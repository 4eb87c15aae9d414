"""Periods of tones whose loudest partial is not the first, as on the lower strings: against Praat and by construction."""

from __future__ import annotations

import numpy as np
import parselmouth
import pytest
from hypothesis import given
from hypothesis import strategies as st

from attentive_owl.core.listening.features.frames import HOP_S, RATE_HZ
from attentive_owl.core.listening.features.levels import fine_level_db
from attentive_owl.core.listening.features.pitch_candidates import Candidates, period_candidates
from attentive_owl.core.listening.notes.onsets import Span, find_onsets
from attentive_owl.core.theory import frequency_hz, midi_from_hz

LOWEST_HZ, HIGHEST_HZ = 60.0, 1400.0


def tone(hz: np.ndarray, loud: int, over_db: float, noise: float = 0.001, seed: int = 0) -> np.ndarray:
    """Ten partials that fall by 1/n, of which one is `over_db` louder than the first. hz: of every sample."""
    turned = 2 * np.pi * np.cumsum(hz) / RATE_HZ
    levels = 1.0 / np.arange(1, 11)
    levels[loud - 1] = 10 ** (over_db / 20)
    sound = sum(level * np.sin(number * turned + number) for number, level in enumerate(levels, 1))
    sound = sound / np.std(sound) + np.random.default_rng(seed).normal(0, noise**0.5, len(hz))
    return (0.1 * sound).astype(np.float32)


def heard_share(candidates: Candidates, hz: float) -> float:
    """Mean probability of a pitch over the frames, ends left out."""
    near = np.abs(candidates.midi - midi_from_hz(hz)) < 0.3
    return float(np.bincount(candidates.frame[near], candidates.probability[near], candidates.frames)[20:-20].mean())


@given(hz=st.floats(90.0, 400.0), loud=st.sampled_from([3, 4, 5]), over_db=st.floats(3.0, 16.0))
def test_a_loud_upper_partial_makes_no_fourth_or_fifth(hz: float, loud: int, over_db: float) -> None:
    """Two thirds of the period dip where the third partial is the loudest, three quarters where the fourth is."""
    candidates = period_candidates(tone(np.full(RATE_HZ // 2, hz), loud, over_db), LOWEST_HZ, HIGHEST_HZ)
    for part in range(2, loud):
        assert heard_share(candidates, hz * loud / part) < 0.1
    whole = sum(heard_share(candidates, hz * times) for times in {1, loud})
    assert whole > 0.8


@pytest.mark.parametrize("hz", [98.0, 146.8, 246.9])
def test_praat_hears_the_same_pitch(hz: float) -> None:
    sound = tone(np.full(RATE_HZ, hz), 3, 12.0)
    theirs = parselmouth.Sound(sound.astype(np.float64), sampling_frequency=RATE_HZ).to_pitch_ac(
        pitch_floor=LOWEST_HZ, pitch_ceiling=hz * 2
    )
    frequency = theirs.selected_array["frequency"]
    ours = period_candidates(sound, LOWEST_HZ, HIGHEST_HZ)
    assert heard_share(ours, float(np.median(frequency[frequency > 0]))) > 0.8


@given(hz=st.floats(120.0, 500.0))
def test_a_true_fifth_stays_a_fifth(hz: float) -> None:
    """Noise must not turn a note into one whose period is half as long again."""
    fifth = 1.5 * hz
    candidates = period_candidates(tone(np.full(RATE_HZ // 2, fifth), 2, 6.0, 0.01), LOWEST_HZ, HIGHEST_HZ)
    assert heard_share(candidates, hz) < 0.05


@pytest.mark.parametrize(("one", "two"), [(57, 59), (59, 57), (45, 47), (69, 71)])
def test_a_slurred_note_begins_when_the_pitch_crosses(one: int, two: int) -> None:
    """A frame is centred for the longest period; the crossing is told without that lag, to a frame or a period."""
    hz = np.where(np.arange(2 * RATE_HZ) < RATE_HZ, frequency_hz(one), frequency_hz(two))
    sound = tone(hz, 1, 0.0)
    spans = [Span(0.02, 1.0, one, False), Span(1.0, 1.95, two, True)]
    candidates = period_candidates(sound, LOWEST_HZ, HIGHEST_HZ)
    onset = find_onsets(spans, sound, fine_level_db(sound, 0.016), candidates)[1]
    assert onset == pytest.approx(1.0, abs=max(HOP_S, 1.0 / frequency_hz(one)))
