"""The count before the music: what is said on which beat (common practice)."""

from __future__ import annotations

from fractions import Fraction

import pytest

from attentive_owl.core.exercises import PATTERNS, Recipe, Score, build
from attentive_owl.core.exercises.patterns import REST_WORD
from attentive_owl.core.playing import CountStyle, count_in


def line(meter: str = "4/4", pattern: str = "quarters", pickup: bool = False) -> Score:
    return build(Recipe("D", pattern, meter=meter, pickup=pickup), "violin")


@pytest.mark.parametrize(
    ("style", "meter", "words"),
    [
        (CountStyle.NUMBERS, "4/4", "1 2 3 4"),
        (CountStyle.READY, "4/4", "1 2 ready go"),
        (CountStyle.READY, "3/4", "1 ready go"),
        (CountStyle.READY, "2/4", "1 2"),
        (CountStyle.AND, "4/4", "1 and 2 and 3 and 4 and"),
        (CountStyle.AND, "2/4", "1 and 2 and"),
        (CountStyle.BACKWARDS, "3/4", "3 2 1"),
    ],
)
def test_one_measure_in_every_style(style: CountStyle, meter: str, words: str) -> None:
    counted, beats = count_in(line(meter), style)
    assert " ".join(word.word for word in counted) == words
    assert beats == Fraction(meter.split("/")[0])
    # A number falls on a beat and is struck; an "and" falls half way and is not.
    assert [word.at_beats for word in counted if word.beat] == list(range(int(beats)))
    assert all(word.at_beats % 1 == Fraction(1, 2) for word in counted if not word.beat)


def test_the_count_ends_where_the_pickup_begins() -> None:
    counted, beats = count_in(line(pattern="quarter-eighths", pickup=True))
    assert ([word.word for word in counted], beats) == (["1", "2", "3"], 3)
    # One beat alone is no count: a measure goes before it.
    counted, beats = count_in(line("2/4", "quarter-eighths", pickup=True))
    assert ([word.word for word in counted], beats) == (["1", "2", "1"], 3)


def test_six_eight_is_counted_in_six_or_in_two() -> None:
    score = line("6/8", "three-eighths")
    in_six, beats = count_in(score)
    assert ([w.word for w in in_six], [w.at_beats for w in in_six][1], beats) == (list("123456"), Fraction(1, 2), 3)
    in_two, beats = count_in(score, CountStyle.AND, in_six=False)
    assert ([w.word for w in in_two], [w.at_beats for w in in_two], beats) == (["1", "2"], [0, Fraction(3, 2)], 3)


def test_a_word_has_one_syllable_a_stroke_and_a_rest_its_own() -> None:
    """Each entry is one syllable: vowels in one group (a rough reader of English), and none is lost to a rest."""
    for pattern in PATTERNS.values():
        for syllable in pattern.cue:
            groups = "".join("v" if letter in "aeiouy" else " " for letter in syllable.rstrip("-").rstrip("e")).split()
            assert len(groups) <= 1, (pattern.key, syllable)
    assert REST_WORD


def test_a_stressed_syllable_stands_on_every_beat_that_has_a_stroke() -> None:
    """The syllables that begin a word, or stand alone, are those that are stressed in these words."""
    unstressed = {"on", "the", "and", "a", "in"}
    for pattern in PATTERNS.values():
        pulse = Fraction(3, 2) if pattern.meters == ("6/8",) else Fraction(1)
        at, strokes = Fraction(0), []
        for value in pattern.values:
            if value > 0:
                strokes.append(at)
            at += abs(value)
        begins = [place == 0 or not pattern.cue[place - 1].endswith("-") for place in range(pattern.notes)]
        for place, when in enumerate(strokes):
            if when % pulse == 0:
                assert begins[place], (pattern.key, pattern.cue[place])
                assert pattern.cue[place] not in unstressed, pattern.key
