"""A small fixed part of the benchmark, with bars that fail when the ear gets worse."""

from __future__ import annotations

import numpy as np
import pytest

from attentive_owl.core.exercises import Recipe, build
from attentive_owl.core.playing import Habits, perform_score
from bench import sampled
from bench.families import FAMILIES, NOT_ALL_TOLD, REFUSED_KINDS
from bench.listening import run, total
from bench.sampled import render_sampled

HARD = ("repeated, re-bowed", "sixteenths at 112", "slurred in 2 and 4", "noise 18 dB", "ringing room", "low cut",
        "voice before", "wrong and missed", "going back", "E1 and B5", "50 cents flat", "metronome heard")  # fmt: skip


def test_true_takes_are_heard() -> None:
    tallies = run(list(HARD), range(40, 41), verbose=False)
    whole = total(tallies)
    assert whole.refused == 0
    assert whole.agree / whole.total >= 0.985
    assert whole.accused / whole.right <= 0.003
    assert whole.wrong_found / whole.wrong >= 0.97
    assert np.median(whole.cents) <= 1.5
    assert np.percentile(whole.cents, 95) <= 10
    assert np.median(whole.tempo_percent) <= 0.5
    # The onset of a fast repeated note has no place of its own in samples that ring into one another. The other
    # families here are the hard ones: over all families the figures are those of docs/benchmark.md.
    timed = total({name: tally for name, tally in tallies.items() if name != "sixteenths at 112"})
    assert np.median(timed.onset_ms) <= 8
    assert np.percentile(timed.onset_ms, 95) <= 35


@pytest.mark.parametrize("name", [kind for kind in REFUSED_KINDS if kind not in NOT_ALL_TOLD])
def test_what_is_not_the_exercise_is_refused(name: str) -> None:
    tally = run([name], range(40, 41), verbose=False)[name]
    assert tally.refused == tally.takes


def test_a_sampled_note_is_the_same_whatever_was_measured_before() -> None:
    """Two scales share some notes, of which the first of one is in the middle of the other."""
    habits = Habits(scatter_cents=4, timing_ms=20)
    lower, upper = (perform_score(build(Recipe(key, tempo_bpm=100), "violin"), habits, 1) for key in ("C", "D"))
    sampled.use_soundfont(sampled.FLUID)
    alone = render_sampled(upper, "violin")[1]
    sampled.use_soundfont(sampled.FLUID)
    render_sampled(lower, "violin")
    assert render_sampled(upper, "violin")[1] == alone


def test_a_family_is_made_the_same_by_the_same_seed() -> None:
    from bench.families import make_take

    one, two, three = (make_take("noise 18 dB", seed) for seed in (1, 1, 2))
    assert np.array_equal(one.sound, two.sound)
    assert not np.array_equal(one.sound, three.sound)
    assert len(FAMILIES) >= 30
