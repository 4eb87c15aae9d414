"""The first note, tried before the line: tones made by a formula (equal temperament, A4 = 440 Hz: ISO 16), and what is said of them."""

from __future__ import annotations

import numpy as np
import pytest

from attentive_owl.core.exercises import Recipe, build
from attentive_owl.core.instruments import INSTRUMENTS, checklist, tuning_care, tuning_words
from attentive_owl.core.judging import answer_first_note, walk_to_first_note
from attentive_owl.core.listening import OneNote, hear_one_note

RATE = 44100


def tone(midi: float, seconds: float = 0.5) -> np.ndarray:
    hz = 440.0 * 2 ** ((midi - 69) / 12)
    t = np.arange(int(seconds * RATE)) / RATE
    return (0.2 * sum(np.sin(2 * np.pi * hz * n * t) / n for n in range(1, 12))).astype(np.float32)


@pytest.mark.parametrize("key", list(INSTRUMENTS))
@pytest.mark.parametrize("off", [0.0, -0.3, 0.25])
def test_the_note_is_heard_with_its_cents(key: str, off: float) -> None:
    player = INSTRUMENTS[key]
    for wanted in (player.lowest.midi, player.strings[2].pitch.midi + 2):
        heard = hear_one_note(tone(wanted + off), RATE, player, wanted)
        assert heard is not None
        assert heard.cents == pytest.approx(100 * off, abs=2.0)


@pytest.mark.parametrize("away", [-12, -5, -1, 1, 2, 7, 12])
def test_another_note_is_another_note(away: int) -> None:
    player, wanted = INSTRUMENTS["violin"], 69
    heard = hear_one_note(tone(wanted + away), RATE, player, wanted)
    assert heard is not None
    assert heard.cents is None
    assert heard.midi == pytest.approx(wanted + away, abs=0.05)


def test_a_soft_sound_an_octave_below_is_not_taken_for_the_note() -> None:
    """An open string that rings along, 24 dB down; what is played is the D above it."""
    both = tone(86) + 0.06 * tone(74)
    heard = hear_one_note(both, RATE, INSTRUMENTS["violin"], 74)
    assert heard is not None
    assert heard.cents is None


def test_noise_and_silence_are_no_note() -> None:
    player = INSTRUMENTS["viola"]
    hiss = np.random.default_rng(1).normal(0, 0.1, RATE // 2).astype(np.float32)
    assert hear_one_note(hiss, RATE, player, 60) is None
    assert hear_one_note(np.zeros(RATE // 2, np.float32), RATE, player, 60) is None


def test_what_is_said_of_it() -> None:
    score = build(Recipe("E"), "violin")
    wanted = float(score.notes[0].midi)
    assert score.notes[0].placement is not None
    assert score.notes[0].placement.finger == 1

    def said(cents: float | None, midi: float = wanted, string: float = 0.0) -> tuple[str, str]:
        answer = answer_first_note(score, OneNote(midi, cents), 20.0, string)
        return answer.word, answer.words

    assert said(4.0) == ("home", "E: that is it. Remember how it feels.")
    assert said(20.0)[0] == "home"
    assert said(-26.0) == ("low", "E, a little low. Slide the finger a little towards the bridge.")
    assert said(26.0) == ("high", "E, a little high. Slide the finger a little towards the scroll.")
    # A string that is itself low takes its finger with it: the hand is right.
    assert said(-26.0, string=-24.0)[0] == "home"
    assert said(None, wanted - 2) == ("another", "I heard D. The line begins on E.")
    assert said(None, wanted + 2) == ("another", "I heard F sharp. The line begins on E.")
    assert said(None, wanted + 12) == ("another", "That is E, but higher: the line begins on the other one.")
    assert said(None, wanted - 12)[1] == "That is E, but lower: the line begins on the other one."
    open_d = build(Recipe("D"), "violin")
    answer = answer_first_note(open_d, OneNote(62, -30.0), 20.0)
    assert answer.words == "Your open D is a little low. Tune it first, or ask an adult."


def test_the_way_from_the_open_string() -> None:
    assert walk_to_first_note(build(Recipe("D"), "violin")) == ()
    assert [p.name for p in walk_to_first_note(build(Recipe("C"), "violin"))] == ["G3", "A3", "B3", "C4"]
    # In E flat the string under the first note is no note of the key: the hand begins there all the same.
    flat = [p.name for p in walk_to_first_note(build(Recipe("Eb"), "cello"))]
    assert flat[0] in {"C2", "G2", "D3"}
    assert flat[-1].startswith("Eb")


def test_cautions_fit_the_instrument() -> None:
    for player in INSTRUMENTS.values():
        assert "snap" in tuning_care(player)
        assert ("Instrument up" in checklist(player)) != player.stands
        low, high = tuning_words(player, "A", -20, False), tuning_words(player, "A", 20, False)
        if player.fine_tuners:
            assert ("right" in low, "left" in high, "left" in low) == (True, True, False)
        else:
            assert "adult" in low
            assert "fine tuner" not in low + high
        assert tuning_words(player, "A", -60, False) == "A is much too low. Ask an adult to tune it."
        assert tuning_words(player, "A", -3, True) == "A is in tune."
