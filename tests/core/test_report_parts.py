"""What the report says beside causes: pulse and tempo scored by mir_eval, landings against the standard library's
deviation, the first note, and a piece of a line as a line of its own."""

from __future__ import annotations

from dataclasses import replace
from statistics import mean, stdev

import mir_eval
import numpy as np
import pytest

from attentive_owl.core.exercises import Pin, Recipe, RecipeError, build
from attentive_owl.core.judging import Expectations, judge
from attentive_owl.core.judging.pulse import find_pulse, tempo_curve
from attentive_owl.core.listening.performance import HeardPass
from attentive_owl.core.playing import Habits, perform_score
from bench.judging import performance


@pytest.mark.parametrize(
    "habits", [Habits(timing_ms=25), Habits(drift=0.15, timing_ms=10), Habits(stops={9: 1.3}, timing_ms=10)]
)
@pytest.mark.parametrize("pattern", ["quarters", "sixteenths-eighths"])
def test_beats_and_tempo_by_mir_evals_measures(habits: Habits, pattern: str) -> None:
    """Beats: mir_eval.beat's F-measure (window 70 ms) and P-score; tempo: mir_eval.tempo's detection within 8 per cent,
    and our own bar of half a per cent beside it."""
    score = build(Recipe("D", pattern, 80), "violin")
    heard = performance(score, habits, 11)
    pulse = find_pulse(score, heard.chosen, heard.strays)
    assert pulse is not None
    on_beat = [n.index for n in score.notes if n.start_beats.denominator == 1]
    truth = perform_score(score, Habits(drift=habits.drift, stops=habits.stops), 11).last_go()
    reference = np.array([truth[i].start_s for i in on_beat])
    estimated = np.array([pulse.expected_s[i] for i in on_beat])
    assert mir_eval.beat.f_measure(reference, estimated) == 1.0
    assert mir_eval.beat.p_score(reference, estimated) >= 0.9
    if not habits.drift:
        found = mir_eval.tempo.detection(
            np.array([40.0, 80.0]), 0.5, np.array([pulse.played_bpm / 2, pulse.played_bpm])
        )
        assert found[2]
        assert pulse.played_bpm == pytest.approx(80, rel=0.005)


def test_the_tempo_curve_follows_a_drift_and_passes_over_a_stop() -> None:
    score = build(Recipe("D", "eighths", 80), "violin")
    heard = performance(score, Habits(drift=0.2, stops={16: 1.5}), 3)
    pulse = find_pulse(score, heard.chosen, heard.strays)
    assert pulse is not None
    curve = dict(tempo_curve(score, heard.chosen, pulse))
    # By the definition of the habit: the tempo at a share s of the line is 80 * (1 + 0.2 s).
    for index in (2, 12, 20, 28):
        share = float(score.notes[index].start_beats / score.end_beats)
        assert curve[index] == pytest.approx(80 * (1 + 0.2 * share), rel=0.03)
    assert 15 not in curve


def test_where_most_is_unclear_only_an_even_pace_is_a_tempo() -> None:
    """A run of fast strokes that melted, heard at its beginnings: no tempo is told from guesses."""
    score = build(Recipe("D", "eighths", 80), "violin")
    heard = performance(score, Habits(), 3)
    rng = np.random.default_rng(2)

    def unclear(off_s: float) -> HeardPass:
        notes = [
            replace(note, status="unclear", onset_s=(note.onset_s or 0.0) + rng.uniform(-off_s, off_s))
            for note in heard.chosen.notes
        ]
        return replace(heard.chosen, notes=tuple(notes))

    even = find_pulse(score, unclear(0.01))
    assert even is not None
    assert even.played_bpm == pytest.approx(80, rel=0.005)
    assert find_pulse(score, unclear(0.15)) is None
    report = judge(replace(heard, passes=(unclear(0.15),)), score, Expectations(80)).to_document()
    assert report["accepted"]
    assert report["tempo"]["played_bpm"] is None


def test_landings_are_counted_by_their_scatter() -> None:
    score = build(Recipe("D", family="landing", string="D", finger=2, tempo_bpm=72), "violin")
    habits = Habits(scatter_cents=14, hand_cents=-10)
    document = judge(performance(score, habits, 5), score, Expectations(72)).to_document()
    (landing,) = document["landings"]
    cents = [n["cents"] for n in document["notes"]]
    assert len(cents) >= 6
    assert (landing["string"], landing["finger"]) == ("D", 2)
    assert landing["mean_cents"] == pytest.approx(mean(cents), abs=0.1)
    assert landing["spread_cents"] == pytest.approx(stdev(cents), abs=0.1)


def test_notes_repeated_without_letting_go_are_one_landing() -> None:
    score = build(Recipe("D", "eighths", 80), "violin")
    document = judge(performance(score, Habits(), 1), score, Expectations(80)).to_document()
    # Each degree of the scale sounds twice in a row, on the way up and on the way down: never three landings.
    assert document["landings"] == []


def test_the_first_note_is_said_apart() -> None:
    score = build(Recipe("A", tempo_bpm=72), "cello")
    assert judge(performance(score, Habits(), 1), score, Expectations(72)).to_document()["first_note"]["home"]
    off = judge(performance(score, Habits(wrong={0: 1}), 1), score, Expectations(72)).to_document()["first_note"]
    assert not off["home"]
    assert off["cents"] == pytest.approx(100, abs=10)
    assert (
        judge(performance(score, Habits(missed=(0,)), 1), score, Expectations(72)).to_document()["first_note"] is None
    )


@pytest.mark.parametrize("pickup", [False, True])
def test_some_bars_of_a_line_are_a_line_of_their_own(pickup: bool) -> None:
    whole = build(Recipe("D", "quarter-eighths", 72, pickup=pickup), "violin")
    part = build(Recipe("D", "quarter-eighths", 72, pickup=pickup, bars=(2, 3)), "violin")
    cut = [n for n in whole.notes if n.measure in (2, 3)]
    assert [(n.pitch, n.duration_beats, n.placement, n.bow) for n in part.notes] == [
        (n.pitch, n.duration_beats, n.placement, n.bow) for n in cut
    ]
    assert [n.index for n in part.notes] == list(range(len(cut)))
    assert (part.notes[0].measure, part.notes[0].start_beats) == (1, cut[0].start_beats - whole.meter.measure_beats)
    assert part.title.endswith("bars 2 to 3")
    first = build(Recipe("D", "quarter-eighths", 72, pickup=pickup, bars=(1, 1)), "violin")
    assert first.pickup_beats == whole.pickup_beats
    assert first.start_beats == whole.start_beats


def test_pins_of_a_piece_are_counted_in_the_piece() -> None:
    part = build(Recipe("D", tempo_bpm=72, bars=(2, 2), pins=(Pin("violin", 0, "D", 4),)), "violin")
    assert part.notes[0].placement is not None
    assert (part.notes[0].placement.string, part.notes[0].placement.finger) == ("D", 4)


def test_bars_that_are_not_there_get_a_sentence() -> None:
    with pytest.raises(RecipeError, match="nothing to play in bars 9 to 10"):
        build(Recipe("D", tempo_bpm=72, bars=(9, 10)), "violin")
    with pytest.raises(RecipeError, match="counted from 1"):
        Recipe("D", tempo_bpm=72, bars=(3, 2))


def test_a_ritardando_is_free_where_it_is_written_and_only_there() -> None:
    """Each beat of the last bar takes a fifth more than the one before it."""
    score = build(Recipe("D", tempo_bpm=80), "violin")
    heard = performance(score, Habits(timing_ms=6), 4)
    late, notes = 0.0, []
    for note in heard.chosen.notes:
        if note.index > 12:
            late += 0.75 * (1.2 ** (note.index - 12) - 1.0)
        assert note.onset_s is not None
        assert note.offset_s is not None
        notes.append(replace(note, onset_s=note.onset_s + late, offset_s=note.offset_s + late))
    slowing = replace(heard, passes=(replace(heard.chosen, notes=tuple(notes)),))
    plain = judge(slowing, score, Expectations(80)).to_document()
    assert {c["kind"] for c in plain["causes"]} & {"drift", "stop"}
    written = replace(score, slows_from=score.notes[12].start_beats)
    free = judge(slowing, written, Expectations(80)).to_document()
    assert free["causes"] == []
    assert free["judgement"]["rhythm"]["word"] == "home"
    assert free["tempo"]["played_bpm"] == pytest.approx(80, rel=0.01)
    assert [n["timing_ms"] for n in free["notes"][12:]] == [None] * 4
