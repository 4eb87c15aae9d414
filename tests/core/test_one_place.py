"""One note of a finger that lands off is that note, and no finger that wanders."""

from __future__ import annotations

import pytest

from bench.judging import named
from tests.core.judged import heard, kinds, scale

CS5, FS4, C5, G5, TOP = 73, 66, 72, 79, 74


@pytest.mark.parametrize(("cents", "level", "way"), [(-38, "low", "bridge"), (38, "high", "scroll")])
def test_it_is_told_with_where_the_finger_has_to_go(cents: float, level: str, way: str) -> None:
    """C sharp with the second finger, which has F sharp on the other string; twice in a scale of quarters."""
    report = heard(scale(), note_cents={CS5: cents}, scatter_cents=2)
    assert kinds(report) == [("one_place", 2)]
    (cause,) = report.causes
    assert cause.notes == [6, 9]
    assert cause.title == f"C sharp stands {level}"
    said = next(own for own in report.advice if own.kind == "change")
    assert (
        said.text == f"Your C sharp comes out a little {level}. Put the second finger a little nearer the {way} there."
    )


def test_a_finger_that_is_off_in_one_form_on_two_strings_is_one_cause() -> None:
    """Over two octaves of G the second finger is low on the upper strings and high on the lower ones; there is a C of the third finger, too, and an
    open G."""
    report = heard(scale("G", octaves=2), note_cents={C5: 38, G5: 38}, scatter_cents=4)
    assert kinds(report) == [("one_place", 2)]
    assert report.causes[0].title == "C on the A string and G on the E string stand high"


def test_what_is_off_at_all_places_of_a_finger_is_the_finger() -> None:
    assert kinds(heard(scale(), note_cents={CS5: -38, FS4: -38}, scatter_cents=4)) == [("finger", 2)]


def test_a_note_is_not_named_alone_where_the_finger_is_off_elsewhere_too() -> None:
    """More than twice as far on one string as on the other: "its other notes are right" would not be so."""
    assert kinds(heard(scale(), note_cents={CS5: -48, FS4: -20}, scatter_cents=2)) == [("finger", 2)]


def test_what_is_right_where_the_finger_is_low_is_not_high() -> None:
    """Three of four places of the first finger are low; the one on the G string is right."""
    score = scale("G", octaves=2)
    places = {note.midi for note in score.notes if note.placement and note.placement.finger == 1}
    report = heard(score, finger_cents={1: -40}, note_cents={min(places): 40}, scatter_cents=2)
    assert ("finger", 1) in kinds(report)
    assert "one_place" not in {cause.kind for cause in report.causes}


def test_where_the_whole_hand_is_low_no_other_note_of_the_finger_is_right() -> None:
    found = kinds(heard(scale(), hand_cents=-30, note_cents={CS5: -28}, scatter_cents=2))
    assert found == [("hand", None)]


def test_one_landing_says_nothing() -> None:
    """The strokes on the top note follow one another: the finger came there once."""
    assert kinds(heard(scale(pattern="sixteenths"), note_cents={TOP: -38}, scatter_cents=4)) == []


def test_two_landings_apart_say_nothing_and_are_no_wandering_finger() -> None:
    """49 and 24 cents low, of four notes of a finger: too few for either."""
    assert kinds(heard(scale(), note_cents={CS5: -38}, scatter_cents=4)) == []


@pytest.mark.parametrize(("cents", "told"), [(21, []), (29, [("one_place", 2)])])
def test_what_is_in_tune_both_times_is_no_habit(cents: float, told: list[tuple[str, int | None]]) -> None:
    """At this level a note is in tune within 25 cents."""
    assert kinds(heard(scale(), note_cents={CS5: cents}, scatter_cents=1)) == told


def test_nothing_is_said_of_a_place_where_the_hand_lands_loosely() -> None:
    report = heard(scale(), note_cents={CS5: -24}, scatter_cents=14)
    assert ("one_place", 2) not in kinds(report)


def test_a_finger_that_wanders_wanders() -> None:
    assert ("scatter", 2) in kinds(heard(scale(pattern="eighths"), finger_scatter={2: 45}, scatter_cents=4))


def test_a_hand_of_which_each_place_stands_elsewhere_does_not_scatter() -> None:
    """More places than causes are told of one hand."""
    off = {64: 30, 66: -34, 67: 28, 71: -30, 73: 36}
    report = heard(scale(pattern="eighths"), note_cents=off, scatter_cents=3)
    assert "scatter" not in {cause.kind for cause in report.causes}


@pytest.mark.parametrize("seed", [110, 119, 123, 146])
def test_of_a_hand_that_wanders_no_finger_is_blamed_by_chance(seed: int) -> None:
    """Each of these had a finger, too, that stood out of the scatter by less than four standard errors."""
    assert named("scatter", seed) == {"scatter"}
