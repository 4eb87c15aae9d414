"""Bows and strokes: what goes in one bow, where it stops, and what a piece of a line begins with."""

from __future__ import annotations

from fractions import Fraction
from itertools import pairwise

import pytest

from attentive_owl.core.exercises import (
    FAMILIES,
    Bowing,
    BowPart,
    Direction,
    LineNote,
    Recipe,
    RecipeError,
    Score,
    build,
    title,
)
from attentive_owl.core.instruments import INSTRUMENTS, UnplayableError, unfit_words

LINE = tuple(LineNote(name, "1") for name in ("D4", "E4", "F#4"))


def bows(score: Score) -> list[list[int]]:
    groups: list[list[int]] = []
    for note in score.notes:
        if note.index and note.slurred_from(score.notes[note.index - 1]):
            groups[-1].append(note.index)
        else:
            groups.append([note.index])
    return groups


@pytest.mark.parametrize("bowing", [Bowing.SLUR_2, Bowing.SLUR_3, Bowing.SLUR_4, Bowing.SLUR_8])
@pytest.mark.parametrize("pattern", ["sixteenths-eighths", "quarter-eighths", "eighths"])
def test_a_slur_stays_on_its_note_where_a_note_is_played_several_times(bowing: Bowing, pattern: str) -> None:
    score = build(Recipe("D", pattern, bowing=bowing), "violin")
    for group in bows(score):
        notes = [score.notes[index] for index in group]
        assert len(group) <= bowing.notes_a_bow
        assert len({note.midi for note in notes}) == 1
        # What is struck again in one bow is told apart by a stop.
        assert all(note.staccato for note in notes) == (len(group) > 1)
    assert max(map(len, bows(score))) > 1


def test_one_note_a_degree_is_slurred_over_the_degrees() -> None:
    score = build(Recipe("D", bowing=Bowing.SLUR_8), "violin")
    assert bows(score) == [list(range(8)), list(range(8, 16))]
    stopped = build(Recipe("D", bowing=Bowing.STOPPED), "violin")
    assert all(len(group) == 2 for group in bows(stopped))
    assert all(note.staccato for note in stopped.notes)


def test_two_short_notes_go_in_one_up_bow() -> None:
    score = build(Recipe("D", "quarter-eighths", bowing=Bowing.LINKED), "cello")
    for group in bows(score):
        first = score.notes[group[0]]
        assert (first.bow, len(group)) in (("down", 1), ("up", 2))
        assert first.duration_beats == (1 if len(group) == 1 else Fraction(1, 2))


def test_a_piece_of_a_line_begins_with_the_bow_it_has() -> None:
    whole = build(Recipe("D", "dotted-halves", meter="3/4"), "violin")
    for bar in (1, 2, 3):
        piece = build(Recipe("D", "dotted-halves", meter="3/4", bars=(bar, bar)), "violin")
        assert piece.notes[0].bow == whole.notes[bar - 1].bow
    slurred = build(Recipe("D", bowing=Bowing.SLUR_2, bars=(2, 3)), "violin")
    assert slurred.notes[0].bow == build(Recipe("D", bowing=Bowing.SLUR_2), "violin").notes[4].bow


def test_a_drill_on_the_strings_has_only_the_signs_that_it_uses() -> None:
    assert build(Recipe("D", family="open-string"), "violin").key.fifths == 0
    assert build(Recipe("D", family="crossings"), "violin").key.fifths == 0
    assert build(Recipe("D", family="second-finger", string="A"), "violin").key.fifths == 2
    for family in ("second-finger", "chromatic", "crossings", "one-finger", "across"):
        for note in build(Recipe("Bb", family=family, string="D", finger=2), "violin").notes:
            assert note.pitch.alter <= 0, (family, note.pitch)


def test_repeats_with_a_wait_begin_each_note_on_a_measure() -> None:
    score = build(Recipe("D", "quarter-eighths", times=4, wait=True), "violin")
    assert len(score.notes) == 16 * 4 * 3
    begins = [note for note in score.notes if note.index % 12 == 0]
    assert all(note.beat == 1 for note in begins)
    assert [b.measure - a.measure for a, b in pairwise(begins)] == [3] * 15
    straight = build(Recipe("D", "quarter-eighths", times=4), "violin")
    assert straight.end_beats < score.end_beats
    assert "four times each" in title(Recipe("D", times=4))


def test_the_last_measure_slows_and_the_part_of_the_bow_is_said() -> None:
    score = build(Recipe("D", slows=True, bow_part=BowPart.POINT), "violin")
    assert score.slows_from == 12
    assert score.how == ("at the point",)
    assert "at the point" in title(Recipe("D", bow_part=BowPart.POINT))


def test_the_growing_scale_and_its_kin() -> None:
    names = [n.pitch.name for n in build(Recipe("D", family="grow"), "violin").notes]
    assert names[:6] == ["D4", "D4", "E4", "D4", "E4", "F#4"]
    from_top = build(Recipe("D", family="grow", direction=Direction.DOWN), "violin")
    assert [n.pitch.name for n in from_top.notes[:6]] == ["D5", "D5", "C#5", "D5", "C#5", "B4"]
    between = build(Recipe("G", family="between-open"), "cello").notes
    assert {n.pitch.name for n in between[1::2]} == {"G2"}
    unisons = build(Recipe(family="unisons"), "violin").notes
    assert [(n.placement.string, n.placement.finger) for n in unisons[:2] if n.placement] == [("D", 0), ("G", 4)]
    assert all(a.midi == b.midi for a, b in zip(unisons[::2], unisons[1::2], strict=True))
    walk = build(Recipe("C", family="walk-up"), "violin").notes
    assert [n.pitch.name for n in walk[:4]] == ["G3", "A3", "B3", "C4"]
    across = build(Recipe(family="across", string="D", finger=1), "viola").notes
    assert {n.placement.string for n in across if n.placement} == {"D", "A"}
    answers = build(Recipe("D", family="call", seed=3), "violin")
    assert {note.measure % 2 for note in answers.notes} == {0}
    rungs = build(Recipe("D", family="ladder", rungs=(4, 1)), "violin").notes
    assert (rungs[0].duration_beats, rungs[16].duration_beats, len(rungs)) == (Fraction(1, 4), 1, 16 + 64)
    with pytest.raises(RecipeError, match="five rungs"):
        Recipe(family="ladder", rungs=(6,))


def test_every_family_with_every_bowing_is_made_for_every_instrument() -> None:
    for family in FAMILIES:
        for bowing in Bowing:
            for key in INSTRUMENTS:
                try:
                    score = build(Recipe(family=family, bowing=bowing, line=LINE), key)
                except UnplayableError:
                    assert family == "matches"
                    continue
                assert score.end_beats % score.meter.measure_beats == 0


@pytest.mark.parametrize(
    ("text", "players", "said"),
    [
        ("Listen for the open E.", {"violin"}, []),
        ("Listen for the open E.", {"violin", "viola", "cello"}, ["The viola and cello have no E string."]),
        ("Begin on the C string", {"violin", "bass"}, ["The violin and double bass have no C string."]),
        ("Ask somebody to turn the fine tuners", {"bass"}, ["The double bass has no fine tuners."]),
        ("The fingers touch at the half step", {"cello"}, ["The cello has fingers that keep their spacing at a half step."]),
        ("A good week, and a Cold morning: open Access", {"violin", "bass"}, []),
    ],
)  # fmt: skip
def test_words_about_what_an_instrument_does_not_have(text: str, players: set[str], said: list[str]) -> None:
    assert unfit_words(text, players) == said


def test_a_choice_that_a_family_does_not_use_is_passed_over() -> None:
    """It may be left from the family before: the page keeps it for when one comes back."""
    for family in ("open-string", "ladder", "long-tones", "grow"):
        plain, left = (Recipe("D", family=family, **more) for more in ({}, {"times": 4, "wait": True}))  # type: ignore[arg-type]
        assert build(left, "cello") == build(plain, "cello")
        assert title(left) == title(plain)
