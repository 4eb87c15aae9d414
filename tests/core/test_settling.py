"""What alignment alone can not tell, on made-up hearings whose answer can be read off the pulse."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import pytest

from attentive_owl.core.exercises import Recipe, build
from attentive_owl.core.listening.change import Boundaries
from attentive_owl.core.listening.clicks import ClickPulse, quieten_clicks
from attentive_owl.core.listening.settling import settle_shifted, stroke_near

SCORE = build(Recipe("D", tempo_bpm=60), "violin")
"""A second a note: 62 64 66 67 69 71 73 74 74 73 ..."""


@dataclass(frozen=True)
class Heard:
    onset_s: float
    midi: float | None
    offset_s: float = 0.0


def heard(*, without: tuple[int, ...] = (), **changed: Heard) -> dict[int, Heard]:
    own = {
        note.index: Heard(float(note.index), float(note.midi), note.index + 0.9)
        for note in SCORE.notes
        if note.index not in without
    }
    return own | {int(name.removeprefix("n")): item for name, item in changed.items()}


def test_a_note_left_out_and_a_wrong_one_keep_the_pulse() -> None:
    # The fourth is left out, the fifth is played with the fourth's pitch, all on the beat; an alignment that knows no pulse
    # takes that for a late fourth, a late fifth and a missing sixth.
    late = heard(without=(5,), n3=Heard(4.0, 67.0, 4.9), n4=Heard(5.0, 71.0, 5.9))
    settled = settle_shifted(late, SCORE, 0.0)
    assert sorted(settled) == [index for index in range(16) if index != 3]
    assert (settled[4].midi, settled[5].midi) == (67.0, 71.0)


@pytest.mark.parametrize("late_s", [0.0, 0.3, 0.5])
def test_late_notes_are_not_moved_to_other_places(late_s: float) -> None:
    late = heard(without=(5,), n3=Heard(3.0 + late_s, 67.0, 3.9), n4=Heard(4.0 + late_s, 69.0, 4.9))
    assert settle_shifted(late, SCORE, 0.0) == late


def test_notes_that_would_all_be_wrong_stay_where_they_are() -> None:
    # Two notes a beat late, with their own pitches, and one left out: a stop, whatever the beat says.
    late = heard(without=(5,), n3=Heard(4.0, 67.0, 4.9), n4=Heard(5.0, 69.0, 5.9))
    assert settle_shifted(late, SCORE, 0.0) == late


def test_an_instrument_out_of_tune_is_no_other_pitch() -> None:
    late = heard(without=(5,), n3=Heard(4.0, 67.45, 4.9), n4=Heard(5.0, 71.45, 5.9))
    assert 3 not in settle_shifted(late, SCORE, 0.45)


def test_a_stroke_counts_in_the_time_of_the_missing_note_and_its_like() -> None:
    missing = heard(without=(5,))
    assert stroke_near(5, missing, SCORE, np.array([5.1]))
    assert not stroke_near(5, missing, SCORE, np.array([3.1, 5.97, 6.5]))
    # The eighth and ninth are one pitch: which of them is missing is a guess, so the time of both counts.
    assert stroke_near(8, heard(without=(8,)), SCORE, np.array([7.2]))


def test_a_tick_without_a_dip_tells_of_no_stroke() -> None:
    frames = np.array([0, 100, 150, 200, 300])
    marks = Boundaries(frames, np.array([0.02, 0.9, 0.9, 0.9, 0.02]), np.array([0.0, 0.5, 0.5, 8.0, 0.0]))
    quiet = quieten_clicks(marks, ClickPulse(bpm=120.0, first_s=0.0, clicks=8))
    # A tick at 0.5 s takes the stroke away; at 0.75 s there is none; at 1.0 s the level fell.
    assert quiet.attack.tolist() == [0.02, 0.1, 0.9, 0.9, 0.02]
