"""One open string, a third of a second: which string, how many cents."""

from __future__ import annotations

import numpy as np
import pytest

from attentive_owl.core.exercises.score import lay_out
from attentive_owl.core.instruments import INSTRUMENTS
from attentive_owl.core.listening import hear_open_string
from attentive_owl.core.listening.tuning_check import StringHeard
from attentive_owl.core.playing import Habits, perform_score, render
from attentive_owl.core.theory import KeySignature, Meter
from tests.conftest import RATE

# Strings in pure fifths from A4 = 440, in Hz (ratio 3:2; the bass in pure fourths, 4:3).
PURE_HZ = {
    "violin": {"G": 195.556, "D": 293.333, "A": 440.0, "E": 660.0},
    "cello": {"C": 65.185, "G": 97.778, "D": 146.667, "A": 220.0},
}


@pytest.mark.parametrize("key", INSTRUMENTS)
@pytest.mark.parametrize("cents", [-60.0, 0.0, 14.0])
def test_every_string_is_known_and_measured(key: str, cents: float) -> None:
    player = INSTRUMENTS[key]
    for string in player.strings:
        score = lay_out(
            [(string.pitch, 1, None)], title="", instrument_key=key, key=KeySignature(0), meter=Meter(), tempo_bpm=60
        )
        sound, _ = render(perform_score(score, Habits(tuning_cents=cents, lead_s=0.0)), key, RATE)
        heard = hear_open_string(sound[int(0.2 * RATE) : int(0.5 * RATE)], RATE, player)
        assert heard is not None
        assert heard.string == string.name
        hz = 440 * 2 ** ((string.pitch.midi - 69 + cents / 100) / 12)
        place = PURE_HZ.get(key, {}).get(string.name)
        if place is not None:
            assert heard.cents == pytest.approx(1200 * np.log2(hz / place), abs=2.5)


@pytest.mark.parametrize("a4", [430.0, 446.0])
def test_the_reference_moves_the_place(a4: float) -> None:
    time = np.arange(int(0.3 * RATE)) / RATE
    sound = sum(np.sin(2 * np.pi * a4 * n * time) / n for n in range(1, 8)).astype(np.float32) * 0.2
    heard = hear_open_string(sound, RATE, INSTRUMENTS["viola"], a4)
    assert heard is not None
    assert (heard.string, heard.cents) == ("A", pytest.approx(0.0, abs=0.5))


def test_noise_and_silence_are_no_string() -> None:
    rng = np.random.default_rng(1)
    for sound in (np.zeros(RATE // 3), rng.normal(0, 0.1, RATE // 3)):
        assert hear_open_string(sound.astype(np.float32), RATE, INSTRUMENTS["violin"]) is None


def test_what_nobody_hears_is_in_tune() -> None:
    assert [StringHeard("A", cents, 0.5).word for cents in (-9.0, -5.0, 0.0, 6.0, 9.0)] == [
        "low", "in tune", "in tune", "in tune", "high",
    ]  # fmt: skip
    # A wobbling string is not called out of tune by less than its wobble.
    assert StringHeard("C", -12.0, 7.0).word == "in tune"
