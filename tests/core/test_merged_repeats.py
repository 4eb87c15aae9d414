"""Fast runs on one pitch that can not be told apart."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from attentive_owl.core.exercises import Recipe, build
from attentive_owl.core.listening import HeardNote, Performance, Refusal, listen
from attentive_owl.core.listening.acceptance.merged_repeats import Joined, filled, join_runs, strokes_inside
from attentive_owl.core.listening.features.frames import HOP_S
from attentive_owl.core.listening.features.novelty import Boundaries
from attentive_owl.core.listening.performance import Doubt, HeardPass, StrayNote
from attentive_owl.core.playing import Habits, Room, perform_score, place_in_room, render
from bench.families import RATE, make_take, sounding

SCORE = build(Recipe("D", "sixteenths", 108), "cello")
"""Four strokes on each of sixteen degrees."""


def joined() -> Joined:
    found = join_runs(SCORE)
    assert found is not None
    return found


def test_each_degree_is_one_note_of_a_beat() -> None:
    notes = joined().score.notes
    # The top note stands twice, so that eight strokes are on one pitch.
    assert [len(run) for run in joined().runs] == [4] * 7 + [8] + [4] * 7
    assert [note.index for note in notes] == list(range(15))
    assert {note.duration_beats for note in notes} == {Fraction(1), Fraction(2)}
    assert [note.midi for note in notes] == [SCORE.notes[run.start].midi for run in joined().runs]


def test_slow_strokes_go_with_the_fast_ones_on_their_pitch() -> None:
    found = join_runs(build(Recipe("D", "sixteenths-eighths", 108), "cello"))
    assert found is not None
    assert [len(run) for run in found.runs] == [6] * 7 + [12] + [6] * 7


def test_slow_notes_are_no_runs() -> None:
    assert join_runs(build(Recipe("D", "eighths", 72), "cello")) is None
    assert join_runs(build(Recipe("D", "quarters", 108), "cello")) is None


def heard(*missing: int) -> Performance:
    """The joined score, two seconds a note."""
    notes = tuple(
        HeardNote(note.index, "missed", None, None, None, 0.9)
        if note.index in missing
        else HeardNote(note.index, "played", float(note.midi), 2.0 * note.index, 2.0 * note.index + 1.9, 0.99)
        for note in joined().score.notes
    )
    return Performance((HeardPass(notes, 0.0, 30.0, True, restarts=((3, 1),)),), (), 0.0, 0)


def test_what_was_heard_of_a_run_is_unclear_and_what_was_not_is_missed() -> None:
    joint = joined().part(heard(2), SCORE).passes[0]
    assert [note.index for note in joint.notes] == list(range(len(SCORE.notes)))
    assert {note.status for note in joint.notes[8:12]} == {"missed"}
    assert {note.status for note in joint.notes if note.index not in range(8, 12)} == {"unclear"}
    assert {note.reason for note in joint.notes[:4]} == {"joined"}
    assert {note.reason for note in joined().part(heard(2), SCORE, Doubt.HELD).passes[0].notes[:4]} == {"held"}
    assert joint.restarts == ((12, 4),)


def test_a_stray_on_the_pitch_of_a_run_is_one_of_its_strokes() -> None:
    """How many there are nobody knows; one on another pitch is one too many all the same."""
    first, second = (float(note.midi) for note in joined().score.notes[:2])
    strays = tuple(StrayNote(1.95, 2.0, midi, 1) for midi in (first + 0.35, second + 0.25, first + 5.3, first - 0.65))
    told = joined().part(replace(heard(), strays=strays, tuning_cents=30.0), SCORE).strays
    assert [stray.heard_midi for stray in told] == [first + 5.3, first - 0.65]
    assert {stray.before for stray in told} == {4}


@pytest.mark.parametrize(
    ("lasting_s", "missing", "long"), [(1.9, (), True), (1.0, (), True), (0.7, (), False), (1.9, range(4, 15), False)]
)
def test_what_sounds_for_a_moment_of_each_run_is_no_held_note(
    lasting_s: float, missing: Sequence[int], long: bool
) -> None:
    """Two seconds for each of fifteen notes; or four of them, and something else in the time of the others."""
    own = heard(*missing)
    notes = tuple(replace(n, offset_s=None if n.onset_s is None else n.onset_s + lasting_s) for n in own.chosen.notes)
    assert filled(replace(own, passes=(replace(own.chosen, notes=notes),))) is long


def test_a_stray_on_the_pitch_of_a_single_note_stays() -> None:
    plain = build(Recipe("D", "quarters"), "cello")
    merged = join_runs(plain, fast_s=10.0)
    assert merged is not None
    notes = tuple(
        HeardNote(n.index, "played", float(n.midi), float(n.index), n.index + 0.9, 0.99) for n in merged.score.notes
    )
    strays = tuple(StrayNote(0.9, 0.95, float(merged.score.notes[at].midi), at + 1) for at in (0, 7))
    take = Performance((HeardPass(notes, 0.0, 15.0, True),), strays, 0.0, 0)
    # The eighth is the top note, which stands twice.
    assert merged.part(take, plain).strays == (strays[0],)


def test_only_where_a_run_begins_is_known() -> None:
    first, second = joined().part(heard(), SCORE).passes[0].notes[4:6]
    assert first.onset_s == 2.0
    assert second.onset_s is None
    # A sixteenth is a quarter of the beat.
    assert first.offset_s == pytest.approx(2.0 + 1.9 / 4, abs=1e-3)


@pytest.mark.parametrize(
    ("probability", "tempo_bpm", "struck"),
    [
        (0.3, 108.0, True),
        (0.05, 108.0, False),
        # Two seconds for each degree where four and more are written: as if one note were held, and faint strokes are none.
        (0.3, 14.0, False),
        (0.5, 14.0, True),
        (0.3, 4.0, True),
    ],
)
def test_held_notes_have_no_strokes_inside(probability: float, tempo_bpm: float, struck: bool) -> None:
    time = np.arange(0.0, 32.0, 0.2)
    attack = np.where(np.isclose(time % 2.0, 0.0), 0.95, probability)
    marks = Boundaries((time / HOP_S).astype(np.int64), attack, np.full(len(time), 8.0))
    assert strokes_inside(heard(), joined(), marks, replace(SCORE, tempo_bpm=tempo_bpm)) is struck


def test_nearly_all_of_a_line_with_its_runs_as_one_is_that_line() -> None:
    assert joined().is_all_of(heard(2), SCORE)
    assert not joined().is_all_of(heard(2, 5), SCORE)
    # Where hardly a note is repeated, the pitches alone are no line.
    plain = build(Recipe("D", "quarters"), "cello")
    merged = join_runs(plain, fast_s=10.0)
    assert merged is not None
    assert not merged.is_all_of(heard(), plain)


def test_a_true_take_whose_strokes_melt_is_heard_and_nothing_is_held_against_it() -> None:
    """Sixteenths on a sampled cello whose strings speak in 90 ms: hardly a stroke of 140 ms is left of them."""
    take = make_take("sixteenths at 112", 380)
    performance = listen(take.sound, RATE, take.score)
    assert isinstance(performance, Performance)
    statuses = [note.status for note in performance.chosen.notes]
    assert set(statuses) <= {"played", "unclear"}
    starts = [note for note in performance.chosen.notes if note.onset_s is not None]
    assert len(starts) >= 15


def test_held_notes_for_fast_strokes_are_another_rhythm() -> None:
    asked, given = (build(Recipe("G", pattern, 96), "bass") for pattern in ("sixteenths", "quarters"))
    dry, _ = render(perform_score(given, Habits(scatter_cents=8, timing_ms=8), 3), "bass", RATE, 3)
    result = listen(place_in_room(dry, RATE, Room(40, 0.2), 3), RATE, asked)
    assert isinstance(result, Refusal)
    assert result.code == "another_rhythm"


def test_a_line_whose_strokes_are_lost_is_no_other_exercise() -> None:
    """Sampled strings at twice the tempo that is set: all pitches are there, and with how many strokes is left to the teacher."""
    asked, given = (build(Recipe("A", "sixteenths-eighths", tempo), "bass") for tempo in (60, 120))
    dry, _ = sounding("sampled", perform_score(given, Habits(scatter_cents=5, timing_ms=12), 7701), "bass", 7701)
    performance = listen(place_in_room(dry, RATE, Room(38, 0.2), 7701), RATE, asked)
    assert isinstance(performance, Performance)
    assert {(note.status, note.reason) for note in performance.chosen.notes} == {("unclear", "held")}
