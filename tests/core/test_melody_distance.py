"""Distances between a melody and lines, counted by hand, and against a plain table of edit distances."""

from __future__ import annotations

from itertools import product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from attentive_owl.core.exercises import FAMILIES, STRING_NAMES, Recipe, RecipeError, build, line_of, lines_in
from attentive_owl.core.instruments import INSTRUMENTS, UnplayableError
from attentive_owl.core.listening.acceptance.melody_distance import distances
from attentive_owl.core.theory import Mode, ScaleForm

SCALE = (62, 64, 66, 67, 69, 71, 73, 74)


def mistakes(melody: list[int], line: tuple[int, ...]) -> float:
    return float(distances(np.array(melody), [line])[0]) * len(melody)


@pytest.mark.parametrize(
    ("melody", "expected"),
    [
        ([*SCALE], 0.0),
        ([*SCALE, *SCALE], 0.0),
        ([62, 64, 65, 67, 69, 71, 73, 74], 0.5),
        ([62, 64, 80, 67, 69, 71, 73, 74], 1.0),
        ([62, 66, 67, 69, 71, 73, 74], 1.0),
        ([62, 64, 80, 66, 67, 69, 71, 73, 74], 1.0),
        ([67, 69, 71, 73, 74], 1.0),
        ([62, 64, 66, 67], 1.0),
        ([62, 64, 66, 62, 64, 66, 67, 69, 71, 73, 74], 1.0),
    ],
    ids=["all", "twice", "a slip", "far", "left out", "put in", "from the middle", "broken off", "begun again"],
)
def test_mistakes_are_counted(melody: list[int], expected: float) -> None:
    assert mistakes(melody, SCALE) == pytest.approx(expected)


def edit_distance(one: list[int], two: list[int]) -> int:
    """Wagner and Fischer, "The string-to-string correction problem", Journal of the ACM 21, 1974: the table, plainly."""
    row = list(range(len(two) + 1))
    for a in one:
        before, row[0] = row[0], row[0] + 1
        for place, b in enumerate(two, 1):
            before, row[place] = row[place], min(before + (a != b), row[place] + 1, row[place - 1] + 1)
    return row[-1]


pitches = st.lists(st.integers(0, 4).map(lambda step: 60 + 5 * step), min_size=1, max_size=9)


@given(pitches, pitches)
def test_it_is_never_more_than_the_edit_distance(melody: list[int], line: list[int]) -> None:
    """Where no two pitches are near one another, the distance is one of edits, with the ends of the line at a mistake each."""
    assert mistakes(melody, tuple(line)) <= edit_distance(melody, line)


@given(pitches, pitches, pitches)
def test_lines_are_compared_each_for_itself(melody: list[int], one: list[int], two: list[int]) -> None:
    together = distances(np.array(melody), [tuple(one), tuple(two)])
    alone = [float(distances(np.array(melody), [tuple(line)])[0]) for line in (one, two)]
    assert together == pytest.approx(alone)


def test_nothing_to_compare_is_said() -> None:
    with pytest.raises(ValueError, match="nothing to compare"):
        distances(np.array([]), [SCALE])
    with pytest.raises(ValueError, match="nothing to compare"):
        distances(np.array([62]), [])


@pytest.mark.parametrize("instrument", ["violin", "viola", "cello", "bass"])
def test_the_lines_of_a_key_hold_what_can_be_assigned(instrument: str) -> None:
    known = lines_in("D", Mode.MAJOR, instrument)
    for family in ("scale", "arpeggio", "thirds", "chromatic", "second-finger"):
        assert line_of(build(Recipe("D", "eighths", family=family), instrument)) in known


def test_lines_are_named_and_two_octaves_are_told_from_one() -> None:
    known = lines_in("G", Mode.MINOR, "violin")
    two = line_of(build(Recipe("G", octaves=2, form=ScaleForm.HARMONIC_MINOR), "violin"))
    assert known[two] == "Scale, G harmonic minor, two octaves"
    assert known[line_of(build(Recipe("G", family="arpeggio", form=ScaleForm.NATURAL_MINOR), "violin"))].startswith(
        "Arpeggio, G"
    )


@pytest.mark.parametrize("key", list(INSTRUMENTS))
def test_every_line_that_can_be_built_in_a_key_is_known(key: str) -> None:
    """Also those that come after one that the instrument has not."""
    known, built = lines_in("D", Mode.MAJOR, key), 0
    for family, string, finger in product(FAMILIES, STRING_NAMES, (1, 4)):
        try:
            score = build(Recipe("D", family=family, string=string, finger=finger), key)
        except (RecipeError, UnplayableError):
            continue
        assert line_of(score) in known, (family, string, finger)
        built += 1
    assert built > 150
