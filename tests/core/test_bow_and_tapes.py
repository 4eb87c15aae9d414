"""Bow plans by arithmetic; tapes against the makers' table; company heard by its spectrum."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from attentive_owl.core.bowing import plan_bow
from attentive_owl.core.exercises import Bowing, Recipe, build
from attentive_owl.core.instruments import INSTRUMENTS, distance_mm, instrument, place_marks
from attentive_owl.core.playing import Company, demonstrate, demonstration_onsets
from attentive_owl.core.theory import frequency_hz
from attentive_owl.formats.paper.tape_strip import tape_strip_pdf


def test_even_strokes_come_back_and_dotted_ones_run_out() -> None:
    even = plan_bow(build(Recipe("D"), "violin"))
    assert even.runs_out_at is None
    assert even.drift == pytest.approx(0.0, abs=1e-9)
    # Down for a dotted quarter, up for an eighth: two quarters' worth of bow are lost in each measure of four beats.
    dotted = plan_bow(build(Recipe("D", "dotted"), "violin"))
    assert dotted.drift > 0.5
    assert dotted.runs_out_at is not None
    assert "runs out at note" in dotted.words


@given(st.sampled_from(["quarters", "eighths", "sixteenths", "sixteenths-eighths", "quarter-eighths"]))
def test_bow_is_spent_in_proportion_to_time(pattern: str) -> None:
    """Common practice: an eighth gets half of a quarter's bow, a sixteenth a quarter of it."""
    score = build(Recipe("G", pattern), "cello")
    plan = plan_bow(score)
    spent = {abs(s.end - s.start) / float(score.notes[s.notes[0]].duration_beats) for s in plan.strokes}
    assert max(spent) - min(spent) < 1e-3
    assert all(a.end == pytest.approx(b.start) and a.direction != b.direction for a, b in pairwise(plan.strokes))


def test_a_slur_is_one_stroke_and_plucking_takes_no_bow() -> None:
    slurred = plan_bow(build(Recipe("D", bowing=Bowing.SLUR_4), "violin"))
    assert [len(s.notes) for s in slurred.strokes] == [4, 4, 4, 4]
    assert plan_bow(build(Recipe("D", bowing=Bowing.PIZZICATO), "violin")).words == "Plucked: no bow."


@pytest.mark.parametrize("semitones", range(1, 13))
def test_tapes_are_where_makers_cut_frets(semitones: int) -> None:
    """The makers' rule: each place is the 17.817th part of the rest of the string further on (from memory)."""
    rest = 328.0
    for _ in range(semitones):
        rest -= rest / 17.817
    assert distance_mm(328.0, semitones) == pytest.approx(328.0 - rest, abs=0.05)


def test_an_octave_is_half_the_string_and_a_length_is_needed() -> None:
    assert distance_mm(690.0, 12) == pytest.approx(345.0)
    with pytest.raises(ValueError, match="length"):
        distance_mm(0.0, 2)


@pytest.mark.parametrize("key", INSTRUMENTS)
def test_marks_say_what_sounds_there_and_print_on_as_many_pages_as_they_need(key: str) -> None:
    player = instrument(key)
    size, length = list(player.sizes.items())[-1]
    marks = place_marks(player, length, player.tapes)
    assert [m.mm for m in marks] == sorted(m.mm for m in marks)
    assert len(marks[0].notes) == 4
    pdf = tape_strip_pdf(player, size, length, marks)
    assert pdf.startswith(b"%PDF")
    assert pdf.count(b"/Type /Page\n") == (2 if marks[-1].mm + 12 > 237 else 1)


def _share_near(sound: np.ndarray, rate: int, hz: float) -> float:  # type: ignore[type-arg]
    power = np.abs(np.fft.rfft(sound * np.hanning(len(sound)))) ** 2
    at = np.fft.rfftfreq(len(sound), 1 / rate)
    near = np.zeros(len(at), bool)
    for octave in (0.5, 1, 2, 4):
        near |= np.abs(1200 * np.log2(np.maximum(at, 1.0) / (hz * octave))) < 40
    return float(power[near].sum() / power.sum())


def test_the_loop_goes_one_four_five_and_the_drone_holds_the_tonic() -> None:
    """Roots of the twelve bars (I I I I IV IV I I V IV I I) by the spectrum of each bar."""
    score = build(Recipe("D", "wholes", tempo_bpm=132), "violin")
    sound = demonstrate(score, company=Company.BACKING, with_line=False)
    bar_s = 4 * 60 / 132
    start = demonstration_onsets(score)[0]
    for bar, root in ((0, "D"), (4, "G"), (6, "D"), (8, "A"), (9, "G")):
        first = int((start + bar * bar_s) * sound.sample_rate)
        beat = sound.samples[first : first + int(0.25 * bar_s * sound.sample_rate)]
        shares = {
            name: _share_near(beat, sound.sample_rate, frequency_hz(midi))
            for name, midi in (("D", 50), ("G", 43), ("A", 45))
        }
        assert max(shares, key=lambda name: shares[name]) == root, (bar, shares)
    drone = demonstrate(score, company=Company.DRONE, with_line=False)
    middle = drone.samples[len(drone.samples) // 3 : len(drone.samples) // 2]
    assert _share_near(middle, drone.sample_rate, frequency_hz(50)) > 0.6


def test_a_click_goes_on_to_the_end_when_it_is_wanted() -> None:
    score = build(Recipe("D", tempo_bpm=120), "violin")
    ticks = demonstrate(score, company=Company.CLICK, with_line=False).samples
    rate = 32000
    heard = sum(
        np.abs(ticks[int((0.3 + 0.5 * n) * rate) : int((0.32 + 0.5 * n) * rate)]).max() > 0.1 for n in range(20)
    )
    assert heard == 20
