"""A metronome in the recording is found with its pulse; playing alone is none."""

from __future__ import annotations

import numpy as np
import pytest

from attentive_owl.core.checking import check
from attentive_owl.core.exercises import Recipe, build
from attentive_owl.core.judging import Expectations
from attentive_owl.core.listening.features.frames import RATE_HZ, to_working_rate
from attentive_owl.core.listening.features.metronome import find_click
from attentive_owl.core.listening.features.novelty import BOW_DIP_DB, novelty_peaks
from attentive_owl.core.playing import Habits
from bench.effects import metronome
from tests.conftest import RATE, played


@pytest.mark.parametrize("key", ["violin", "cello"])
@pytest.mark.parametrize("bpm", [60, 88, 132])
def test_the_pulse_of_a_click_is_found(key: str, bpm: int) -> None:
    sound = played(build(Recipe("D", tempo_bpm=80), key), Habits(scatter_cents=5, timing_ms=20))
    found = find_click(to_working_rate(metronome(sound, bpm, 0.6), RATE))
    assert found is not None
    assert found.bpm == pytest.approx(bpm, rel=0.005)
    assert (found.first_s - 0.1) % (60 / bpm) == pytest.approx(0.0, abs=0.03) or (found.first_s - 0.1) % (
        60 / bpm
    ) > 60 / bpm - 0.03


@pytest.mark.parametrize("habits", [Habits(timing_ms=5), Habits(pizzicato=True), Habits(short=0.5)])
def test_playing_alone_is_no_click(habits: Habits) -> None:
    for key in ("violin", "bass"):
        sound = played(build(Recipe("D", "eighths", 90), key), habits)
        assert find_click(to_working_rate(sound, RATE)) is None


def test_silence_and_noise_have_no_click() -> None:
    for sound in (np.zeros(4 * RATE, np.float32), np.random.default_rng(1).normal(0, 0.1, 6 * RATE).astype(np.float32)):
        assert find_click(to_working_rate(sound, RATE)) is None


def test_the_check_reports_the_click_and_blames_nobody_for_it() -> None:
    score = build(Recipe("D", tempo_bpm=80), "violin")
    sound = metronome(played(score, Habits(scatter_cents=4, timing_ms=8)), 80, 0.6)
    document = check(sound, RATE, score, Expectations(80)).to_document()
    assert document["recording"]["click"]["bpm"] == pytest.approx(80, rel=0.005)
    assert document["extras"] == []
    assert document["causes"] == []
    assert all(note["status"] == "played" for note in document["notes"])


def ticking(seconds: float, bpm: float, since_s: float, until_s: float) -> np.ndarray:
    """Short bursts of noise on the beats from one moment to another, and knocks anywhere, in quiet noise."""
    rng = np.random.default_rng(3)
    sound = rng.normal(0, 0.001, int(seconds * RATE_HZ)).astype(np.float32)
    beats = np.arange(since_s, until_s, 60 / bpm)
    for at in [*beats, *rng.uniform(0, seconds - 1, int(seconds / 4))]:
        begin = int(at * RATE_HZ)
        sound[begin : begin + 330] += rng.normal(0, 0.2, 330).astype(np.float32)
    return sound


@pytest.mark.parametrize("bpm", [63.3, 121.7])
def test_a_click_is_followed_for_many_minutes(bpm: float) -> None:
    """Rounded or drifting by a thousandth it would be off by a third of a second at the end."""
    found = find_click(ticking(400, bpm, 20, 380))
    assert found is not None
    assert found.bpm == pytest.approx(bpm, rel=2e-5)
    assert found.first_s == pytest.approx(20, abs=0.02)
    assert found.clicks == pytest.approx(360 * bpm / 60, rel=0.1)
    assert found.is_near(20 + 60 / bpm * int(350 * bpm / 60))


def dips(level: np.ndarray) -> np.ndarray:
    """How far the level is said to fall at each place of a held note where something is marked."""
    still = np.zeros(len(level))
    marks = novelty_peaks(level, still, still, np.ones((len(level), 3)), still, still)
    assert len(marks.frame)
    return marks.bow_dip


def test_beside_a_click_no_level_has_fallen() -> None:
    """25 ms of click on a held note that swells a little after it look like a dip between two swells; a bow that changes
    makes a real one."""
    clicked = np.full(320, -20.0)
    clicked[160:165] = -8.0
    clicked[176:196] = -16.0
    assert dips(clicked).max() < BOW_DIP_DB
    bowed = np.full(320, -20.0)
    bowed[160:165] = -28.0
    assert dips(bowed).max() > BOW_DIP_DB
