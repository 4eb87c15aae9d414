"""The simulated pupil against independent ears: librosa's YIN and Praat hear the pitch it says it played."""

from __future__ import annotations

import librosa
import numpy as np
import parselmouth
import pytest

from attentive_owl.core.exercises import Recipe, build
from attentive_owl.core.playing import (
    Company,
    Habits,
    Room,
    demonstrate,
    demonstration_onsets,
    parse_habits,
    perform_score,
    place_in_room,
    render,
)
from attentive_owl.core.theory import frequency_hz

RATE = 44100


@pytest.mark.parametrize("key", ["violin", "viola", "cello", "bass"])
def test_praat_and_librosa_hear_the_pitch_that_was_played(key: str) -> None:
    score = build(Recipe("D", tempo_bpm=60), key)
    performed = perform_score(score, Habits(finger_cents={1: -20}), 1)
    sound, truths = render(performed, key, RATE, 1)
    for truth in truths[:8:3]:
        hz = frequency_hz(truth.note.midi)
        piece = sound[int((truth.onset_s + 0.3) * RATE) : int((truth.onset_s + 0.75) * RATE)].astype(np.float64)
        track = parselmouth.Sound(piece, RATE).to_pitch_ac(
            pitch_floor=hz / 1.6, pitch_ceiling=hz * 1.6, very_accurate=True
        )
        praat = np.median(track.selected_array["frequency"])
        yin = np.median(librosa.yin(piece, fmin=hz / 1.6, fmax=hz * 1.6, sr=RATE, frame_length=8192))
        for heard in (praat, yin):
            assert abs(1200 * np.log2(heard / hz)) < 4.0


def test_same_seed_same_take_other_seed_other_take() -> None:
    score = build(Recipe("G", tempo_bpm=132), "viola")
    takes = [
        render(perform_score(score, Habits(scatter_cents=9, timing_ms=9), s), "viola", 16000, s)[0] for s in (1, 1, 2)
    ]
    assert np.array_equal(takes[0], takes[1])
    assert not np.array_equal(takes[0], takes[2])


def test_habits_are_what_is_played() -> None:
    score = build(Recipe("D", tempo_bpm=60), "violin")
    habits = parse_habits(["tuning_cents=-10", "finger_cents=2:-30", "string_cents=A:12", "missed=5", "wrong=9:1",
                           "stops=4:1.5", "tempo=0.8", "stray=12:3"])  # fmt: skip
    notes = perform_score(score, habits, 3).notes
    by_index = {n.index: n for n in notes}
    assert 5 not in by_index
    assert by_index[2].midi == pytest.approx(66 - 0.10 - 0.30)
    assert by_index[9].midi == pytest.approx(74 - 0.10 - 0.30 + 0.12)
    assert by_index[4].start_s - by_index[3].start_s == pytest.approx(1 / 0.8 + 1.5)
    assert [n.midi for n in notes if n.index is None] == pytest.approx([67 + 3 - 0.10])
    assert perform_score(score, habits, 3).tempo_bpm == pytest.approx(48, rel=0.01)


def test_goes_and_restarts() -> None:
    score = build(Recipe("D", tempo_bpm=132), "violin")
    twice = perform_score(score, Habits(passes=2), 0)
    assert [n.go for n in twice.notes] == [0] * 16 + [1] * 16
    again = perform_score(score, Habits(restarts={7: 4}), 0)
    assert [n.index for n in again.notes] == [*range(8), *range(4, 16)]


@pytest.mark.parametrize("setting", ["nonsense=1", "missed=a", "finger_cents=2", "pizzicato=perhaps"])
def test_habits_that_can_not_be_read(setting: str) -> None:
    with pytest.raises(ValueError, match="habit"):
        parse_habits([setting])


def test_room_keeps_length_and_gives_the_asked_noise() -> None:
    score = build(Recipe("D", tempo_bpm=132), "cello")
    dry, _ = render(perform_score(score, Habits(lead_s=2.0), 1), "cello", RATE, 1)
    wet = place_in_room(dry, RATE, Room(snr_db=20), 1)
    assert len(wet) == len(dry)
    loud = dry[np.abs(dry) > 0.02 * np.max(np.abs(dry))]
    noise = wet[: int(1.8 * RATE)]
    assert 20 * np.log10(np.sqrt(np.mean(loud**2)) / np.sqrt(np.mean(noise**2))) == pytest.approx(20, abs=0.5)


def test_demonstration_has_its_count_in_and_its_onsets() -> None:
    score = build(Recipe("D", tempo_bpm=120), "violin")
    demo = demonstrate(score)
    onsets = demonstration_onsets(score)
    assert onsets[0] == pytest.approx(0.3 + 4 * 0.5)
    assert np.diff(onsets) == pytest.approx(0.5)
    assert np.max(np.abs(demo.samples)) == pytest.approx(0.6, abs=0.01)
    # Four ticks before the first note, none loud between them.
    level = np.abs(demo.samples[: int(2.2 * demo.sample_rate)])
    for beat in range(4):
        at = int((0.3 + 0.5 * beat) * demo.sample_rate)
        assert level[at : at + 400].max() > 0.05
        assert level[at + 6000 : at + 15000].max() < 0.02


def test_calls_sound_in_the_silent_bars_and_nowhere_else() -> None:
    """A bar is played, then its time is left: of call and response the company plays the odd bars."""
    score = build(Recipe("D", family="call", seed=3, tempo_bpm=120), "violin")
    demo = demonstrate(score, company=Company.CALLS, with_line=False)
    lead = 0.3 + 4 * 0.5
    level = np.abs(demo.samples)
    for bar in range(8):
        # The middle of each bar, away from what rings over from the one before.
        at = int((lead + 2.0 * bar + 1.0) * demo.sample_rate)
        sounding = float(np.sqrt(np.mean(level[at : at + demo.sample_rate // 2] ** 2)))
        assert (sounding > 0.02) == (bar % 2 == 0), (bar, sounding)
