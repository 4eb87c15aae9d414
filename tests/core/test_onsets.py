"""Onsets of low strings whose upper partials speak long after the note, on sounds whose onsets are put in."""

from __future__ import annotations

import numpy as np
import pytest

from attentive_owl.core.listening.features.frames import RATE_HZ
from attentive_owl.core.listening.features.levels import fine_level_db
from attentive_owl.core.listening.features.pitch_candidates import period_candidates
from attentive_owl.core.listening.notes.onsets import Span, find_onsets
from attentive_owl.core.theory import frequency_hz

FIRST_S, STEP_S, RINGS_S, SPEAKS_S = 0.5, 0.8, 0.06, 0.05
NOTES = (43, 45) * 4
"""G2 and A2 on a double bass."""


def string(midi: int, upper_late_s: float) -> np.ndarray:
    """A note that speaks within 50 ms and rings on for 60, its partials from the third on later than the others."""
    time = np.arange(int((STEP_S + RINGS_S) * RATE_HZ)) / RATE_HZ
    sound = np.zeros(len(time))
    for number in range(1, 11):
        late_s = upper_late_s if number > 2 else 0.0
        sound += (
            number**-0.7
            * np.sin(2 * np.pi * number * frequency_hz(midi) * time + number)
            * np.clip((time - late_s) / SPEAKS_S, 0.0, 1.0)
        )
    return sound * np.clip((STEP_S + RINGS_S - time) / RINGS_S, 0.0, 1.0) ** 2


def onset_errors_ms(slow: int, upper_late_s: float) -> np.ndarray:
    sound = np.random.default_rng(1).normal(0, 0.005, int((FIRST_S + STEP_S * (len(NOTES) + 1)) * RATE_HZ))
    begins = FIRST_S + STEP_S * np.arange(len(NOTES))
    for number, (midi, begin_s) in enumerate(zip(NOTES, begins, strict=True)):
        note = string(midi, upper_late_s if number == slow else 0.0)
        at = int(begin_s * RATE_HZ)
        sound[at : at + len(note)] += note
    samples = (0.1 * sound).astype(np.float32)
    spans = [
        Span(begin_s + 0.06, begin_s + 0.06 + STEP_S, midi, False) for midi, begin_s in zip(NOTES, begins, strict=True)
    ]
    onsets = find_onsets(spans, samples, fine_level_db(samples, 0.02), period_candidates(samples, 38.0, 500.0))
    return 1000.0 * (np.array(onsets) - begins)


@pytest.mark.parametrize("slow", [4, 5])
@pytest.mark.parametrize("upper_late_s", [0.0, 0.08, 0.1, 0.12, 0.15])
def test_late_upper_partials_do_not_make_a_low_note_late(slow: int, upper_late_s: float) -> None:
    """The partials that a low note has to itself are upper ones. By the time the level is lowest the note sounds."""
    errors = np.abs(onset_errors_ms(slow, upper_late_s))
    assert errors[slow] <= 20
    assert np.delete(errors, slow).max() <= 10
