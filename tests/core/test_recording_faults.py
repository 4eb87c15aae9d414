"""What microphones and phones do to a recording costs no child a note."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.signal import butter, freqz, sosfilt

from attentive_owl.core.exercises import Recipe, Score, build
from attentive_owl.core.listening import Performance, listen
from attentive_owl.core.listening.features.frames import RATE_HZ, without_rumble
from attentive_owl.core.listening.features.recording_quality import gate_recording
from attentive_owl.core.playing import Habits
from tests.conftest import RATE, played

INSTRUMENTS = ("violin", "viola", "cello", "bass")


def all_right(sound: np.ndarray, score: Score) -> Performance:
    heard = listen(sound.astype(np.float32), RATE, score)
    assert isinstance(heard, Performance)
    assert not [note for note in heard.chosen.notes if note.status in ("wrong_pitch", "missed")]
    return heard


@pytest.mark.parametrize("key", INSTRUMENTS)
def test_dropouts_cost_no_note(key: str) -> None:
    """20 ms of nothing now and then, as where a phone could not keep up."""
    score = build(Recipe("D", "eighths", 84), key)
    whole = played(score, Habits(scatter_cents=5, timing_ms=10))
    for seed in range(3):
        sound = whole.copy()
        for at in np.random.default_rng(seed).uniform(0.5, len(sound) / RATE - 0.5, int(2 * len(sound) / RATE)):
            sound[int(at * RATE) : int(at * RATE) + RATE // 50] = 0.0
        all_right(sound, score)


@pytest.mark.parametrize("key", INSTRUMENTS)
def test_a_microphone_that_does_not_rest_at_zero_changes_little(key: str) -> None:
    score = build(Recipe("D", tempo_bpm=80), key)
    sound = played(score, Habits(scatter_cents=5, timing_ms=10))
    plain, moved = all_right(sound, score), all_right(sound + 0.1, score)
    for one, two in zip(plain.chosen.notes, moved.chosen.notes, strict=True):
        assert one.onset_s == pytest.approx(two.onset_s, abs=0.004)
        assert one.heard_midi == pytest.approx(two.heard_midi, abs=0.01)


@pytest.mark.parametrize("key", ["violin", "viola"])
def test_a_fan_is_under_the_notes(key: str) -> None:
    """Noise of a fan lies under 200 Hz; 14 dB under the playing it hides no note of a violin."""
    score = build(Recipe("D", tempo_bpm=76), key)
    sound = played(score, Habits(scatter_cents=5, timing_ms=10, short=0.4))
    noise = sosfilt(butter(1, 200, fs=RATE, output="sos"), np.random.default_rng(4).normal(0, 1, len(sound)))
    loud = np.sqrt(np.mean(sound**2))
    all_right(sound + noise / np.std(noise) * loud * 10 ** (-14 / 20), score)


def test_a_microphone_far_away_hears_as_well() -> None:
    score = build(Recipe("D", tempo_bpm=80), "violin")
    sound = played(score, Habits(scatter_cents=5, timing_ms=10))
    assert "quiet" in all_right(sound * 0.0015, score).problems


def test_silence_is_what_stands_over_nothing() -> None:
    rng = np.random.default_rng(2)
    room = rng.normal(0, 2e-5, 6 * RATE_HZ).astype(np.float32)
    assert "silent" in gate_recording(room, room).problems
    faint = room.copy()
    faint[RATE_HZ : 5 * RATE_HZ] += 1e-3 * np.sin(2 * np.pi * 440 / RATE_HZ * np.arange(4 * RATE_HZ)).astype(np.float32)
    assert "silent" not in gate_recording(faint, faint).problems


def test_rumble_falls_twelve_decibels_an_octave_and_notes_stay() -> None:
    """Against the textbook response of a second-order Butterworth filter: 1 / sqrt(1 + (cut / f)^4)."""
    impulse = np.zeros(RATE_HZ, np.float32)
    impulse[0] = 1.0
    hz, response = freqz(without_rumble(impulse, 196.0), worN=4096, fs=RATE_HZ)
    cut = 0.6 * 196.0
    for asked in (30.0, 60.0, 118.0, 196.0, 440.0):
        at = int(np.argmin(np.abs(hz - asked)))
        assert abs(response[at]) == pytest.approx(1 / np.sqrt(1 + (cut / hz[at]) ** 4), rel=0.03)
