"""What counts as a good go: each rule on both sides of its limit, with the reason as it is said."""

from __future__ import annotations

from dataclasses import replace

import pytest

from attentive_owl.core.exercises import Recipe, build
from attentive_owl.core.judging import Expectations, judge
from attentive_owl.core.judging.good import Circumstances, GoodGoRule, good_go
from attentive_owl.core.judging.overruling import Overruling, overruled
from attentive_owl.core.judging.report import ReportNote
from attentive_owl.core.playing import Habits
from bench.judging import performance

SCORE = build(Recipe("D", tempo_bpm=60), "violin")
CLEAN = judge(performance(SCORE, Habits(), 1), SCORE, Expectations(60)).notes
AROUND = Circumstances(
    elsewhere=False, strays=0, stops=0, restarts=0, below_tempo=False, far_above_tempo=False, timed=True
)


def changed(count: int, **fields: object) -> list[ReportNote]:
    """Sixteen clean notes, so many of which are otherwise."""
    return [replace(note, **fields) if note.index < count else note for note in CLEAN]  # type: ignore[arg-type]


def reasons(notes: list[ReportNote] | None = None, rule: GoodGoRule | None = None, **around: object) -> tuple[str, ...]:
    found = good_go(notes or list(CLEAN), replace(AROUND, **around), rule or GoodGoRule())  # type: ignore[arg-type]
    assert found.good is (not found.reasons)
    return found.reasons


def test_a_clean_go_is_good() -> None:
    assert reasons() == ()


@pytest.mark.parametrize(
    ("fields", "said"),
    [
        ({"status": "missed", "in_tune": False}, "1 note left out."),
        ({"status": "missed", "reason": "not_come_to", "in_tune": False}, "1 note not come to."),
        ({"status": "wrong_pitch", "in_tune": False}, "1 note on another pitch."),
    ],
)
def test_one_note_that_is_not_there_is_enough(fields: dict[str, object], said: str) -> None:
    assert reasons(changed(1, **fields)) == (said,)


def test_notes_left_out_and_not_come_to_are_counted_apart() -> None:
    notes = changed(3, status="missed", in_tune=False)
    notes[0] = replace(notes[0], reason="not_come_to")
    assert reasons(notes) == ("1 note not come to.", "2 notes left out.")


@pytest.mark.parametrize(("unclear", "good"), [(0, True), (5, True), (6, False), (16, False)])
def test_what_is_unclear_is_counted_against_nobody_up_to_a_third(unclear: int, good: bool) -> None:
    found = reasons(changed(unclear, status="unclear", in_tune=False, timing_ms=None, on_time=False))
    assert found == (() if good else (f"{unclear} notes could not be judged.",))


@pytest.mark.parametrize(("guessed", "good"), [(5, True), (6, False)])
def test_where_a_third_could_not_be_timed_nobody_can_call_it_good(guessed: int, good: bool) -> None:
    notes = changed(guessed, moment_guessed=True, timing_ms=None, on_time=False)
    assert reasons(notes) == (() if good else (f"{guessed} notes could not be timed.",))
    assert reasons(notes, timed=False) == ()


@pytest.mark.parametrize(("share", "off", "said"), [
    (0.9, 1, ()), (0.9, 2, ("14 of 16 in tune; 90 % are asked for.",)), (0.75, 4, ()), (0.75, 5, ("11 of 16 in tune; 75 % are asked for.",)),
])  # fmt: skip
def test_the_share_that_has_to_be_in_tune(share: float, off: int, said: tuple[str, ...]) -> None:
    assert reasons(changed(off, in_tune=False), GoodGoRule(pitch_share=share)) == said


def test_the_share_that_has_to_be_on_time_where_time_is_judged() -> None:
    late = changed(4, on_time=False)
    assert reasons(late) == ("12 of 16 on time; 90 % are asked for.",)
    assert reasons(late, timed=False) == ()
    assert reasons(late, GoodGoRule(time_share=0.75)) == ()


@pytest.mark.parametrize(
    ("around", "rule", "said"),
    [
        ({"strays": 2}, GoodGoRule(), ("2 notes too many.",)),
        ({"stops": 1}, GoodGoRule(), ("1 stop.",)),
        ({"stops": 1}, GoodGoRule(most_stops=1), ()),
        ({"stops": 2}, GoodGoRule(most_stops=1), ("2 stops.",)),
        ({"stops": 3, "timed": False}, GoodGoRule(), ()),
        ({"restarts": 1}, GoodGoRule(), ("Went back and played again.",)),
        ({"below_tempo": True}, GoodGoRule(), ()),
        ({"below_tempo": True}, GoodGoRule(at_tempo=True), ("Below the tempo that is set.",)),
        ({"far_above_tempo": True}, GoodGoRule(), ("Nearly twice as fast as is set, or faster.",)),
        ({"far_above_tempo": True, "timed": False}, GoodGoRule(), ()),
        ({"elsewhere": True}, GoodGoRule(), ("The line was played somewhere else.",)),
    ],
)
def test_what_is_around_the_notes(around: dict[str, object], rule: GoodGoRule, said: tuple[str, ...]) -> None:
    assert reasons(None, rule, **around) == said


def test_on_another_string_no_note_is_called_wrong_for_it() -> None:
    assert reasons(changed(16, status="wrong_pitch"), elsewhere=True) == ("The line was played somewhere else.",)


def test_what_ships_asks_for_nine_notes_of_ten_and_no_stop() -> None:
    """Of sixteen: fifteen are enough (0.94), fourteen are not (0.88); in tune, and on time."""
    assert GoodGoRule() == GoodGoRule(pitch_share=0.9, time_share=0.9, most_stops=0, at_tempo=False)
    for fault in ("in_tune", "on_time"):
        assert reasons(changed(1, **{fault: False})) == ()
        assert len(reasons(changed(2, **{fault: False}))) == 1
    assert len(reasons(stops=1)) == 1
    assert reasons(below_tempo=True) == ()


@pytest.mark.parametrize(("played_bpm", "good"), [(60, True), (104, True), (112, False), (120, False)])
def test_nearly_twice_the_tempo_is_another_note_value_and_no_good_go(played_bpm: int, good: bool) -> None:
    """60 is set; before the teacher's word and after it."""
    played = performance(replace(SCORE, tempo_bpm=played_bpm), Habits(), 1)
    own = judge(played, SCORE, Expectations(60))
    for told in (own, overruled(own, [Overruling("home", 3)])):
        assert told.good_go is not None
        assert told.good_go.reasons == ([] if good else ["Nearly twice as fast as is set, or faster."])
