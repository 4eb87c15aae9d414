"""What is said of the strings, and only where an open one was heard: DESIGN's rule, on performances made up note by note."""

from __future__ import annotations

from collections.abc import Callable
from math import hypot, sqrt
from statistics import median

import pytest

from attentive_owl.core.exercises import LineNote, Recipe, Score, build
from attentive_owl.core.judging import Expectations, Report, judge
from attentive_owl.core.listening.performance import HeardNote, HeardPass, Performance

SCALE = build(Recipe("D", tempo_bpm=60), "violin")
FLAT = build(Recipe("Eb", tempo_bpm=60), "violin")
"""E flat major has no open string in it."""


def report(
    score: Score, cents: Callable[[str, int], float], glides: tuple[str, float] = ("", 0.0), **expected: object
) -> Report:
    """Every note on time, so many cents from its place by its string and finger. `glides`: a string, and how far the pitch of its open
    notes spreads."""
    notes = []
    for note in score.notes:
        place = note.placement
        assert place is not None
        off = cents(place.string, place.finger)
        at = float(note.start_beats)
        scatter = glides[1] if (place.string, place.finger) == (glides[0], 0) else 1.0
        notes.append(HeardNote(note.index, "played", note.midi + off / 100, at, at + 0.95, 0.99, scatter_cents=scatter))
    heard = Performance((HeardPass(tuple(notes), 0.0, 16.0, True),), (), 0.0, 0)
    return judge(heard, score, Expectations(60, **expected))  # type: ignore[arg-type]


def kinds(own: Report) -> list[str]:
    return [cause.key for cause in own.causes]


def test_e_flat_has_no_open_string() -> None:
    assert all(note.placement and note.placement.finger for note in FLAT.notes)


def test_a_flat_hand_with_no_open_string_sends_nobody_to_the_pegs() -> None:
    own = report(FLAT, lambda string, finger: -30)
    assert kinds(own) == ["hand"]
    said = " ".join(a.text + a.parent for a in own.advice)
    assert "open strings" in said
    assert "tune it" not in said
    assert own.tuning.strings == {}
    assert own.tuning.a4_hz is None
    assert not own.causes[0].sure


def test_the_days_tuning_check_settles_it() -> None:
    strings = ("G", "D", "A", "E")
    hand = report(FLAT, lambda string, finger: -30, open_strings=dict.fromkeys(strings, 1.0))
    assert kinds(hand) == ["hand"]
    assert "not the strings" in hand.advice[1].parent
    flat = report(FLAT, lambda string, finger: -30, open_strings=dict.fromkeys(strings, -30.0))
    assert kinds(flat) == ["instrument"]
    assert flat.judgement is not None
    assert flat.judgement.pitch.word == "home"
    assert {entry.source for entry in flat.tuning.certainty.values()} == {"check"}


def test_one_string_out_on_a_clean_hand_is_a_clean_take() -> None:
    own = report(SCALE, lambda string, finger: -34 if string == "A" else 0)
    assert kinds(own) == ["string:A"]
    assert own.good_go is not None
    assert own.good_go.good
    assert all(note.home for note in own.notes)
    off = [note for note in own.notes if note.string == "A"]
    assert all(not note.home_as_heard and note.cents == pytest.approx(-34, abs=0.1) for note in off)
    assert all(note.tuned_cents == pytest.approx(0, abs=0.1) for note in off)
    assert own.tuning.taken_off == {"A": pytest.approx(-34, abs=0.1)}
    # It is the one thing, and the first that is said.
    assert [a.kind for a in own.advice] == ["praise", "change", "next"]
    assert "A string is a little low" in own.advice[1].text


@pytest.mark.parametrize(
    ("string", "scatter", "told"), [("A", 7.9, ["string:A"]), ("A", 8.1, []), ("D", 8.1, ["string:A"])]
)
def test_an_open_note_that_glides_tells_nothing_of_its_string(string: str, scatter: float, told: list[str]) -> None:
    own = report(SCALE, lambda name, finger: -34 if (name, finger) == ("A", 0) else 0, glides=(string, scatter))
    assert kinds(own) == told
    assert ("A" in own.tuning.strings) is bool(told)


def test_two_strings_out_are_both_named_in_one_sentence() -> None:
    own = report(SCALE, lambda string, finger: {"A": -34, "D": 26}.get(string, 0))
    assert kinds(own) == ["string:A", "string:D"]
    assert own.advice[1].text.startswith("The D and A strings are")
    assert sum(a.kind == "change" for a in own.advice) == 1


def test_an_instrument_and_a_finger_are_two_things_and_the_tuning_is_said_first() -> None:
    own = report(SCALE, lambda string, finger: -30 + (-35 if finger == 2 else 0))
    assert kinds(own) == ["instrument", "finger:2"]
    assert [a.kind for a in own.advice] == ["praise", "change", "change", "next"]
    assert "instrument" in own.advice[1].text
    assert "second finger" in own.advice[2].text
    assert own.causes[1].cents == pytest.approx(-35, abs=1)


def test_a_hand_that_puts_a_false_string_right_by_ear_is_not_blamed() -> None:
    """The open A is low; every stopped note on it stands where it should."""
    own = report(SCALE, lambda string, finger: -30 if string == "A" and finger == 0 else 0)
    assert kinds(own) == ["string:A"]
    assert all(note.home for note in own.notes)


@pytest.mark.parametrize(("names", "by_ear"), [(("A4", "B4", "C#5"), True), (("A4", "B4", "B4"), False)])
def test_one_finger_alone_puts_no_string_right(names: tuple[str, ...], by_ear: bool) -> None:
    """It may have a habit that happens to make up for the string."""
    line = Recipe("D", family="own", line=tuple(LineNote(name, "1") for name in ("D4", *names) * 4))
    own = report(build(line, "violin"), lambda string, finger: -30 if string == "A" and finger == 0 else 0)
    stopped = [note.tuned_cents for note in own.notes if note.string == "A" and note.finger]
    assert stopped == pytest.approx([0.0 if by_ear else 30.0] * len(stopped), abs=0.1)


def test_what_nobody_hears_is_nothing() -> None:
    assert kinds(report(SCALE, lambda string, finger: -11 if string == "A" else 0)) == []
    assert kinds(report(SCALE, lambda string, finger: -13 if string == "A" else 0)) == ["string:A"]


def test_a_double_bass_has_no_fine_tuners() -> None:
    bass = build(Recipe("D", tempo_bpm=60), "bass")
    own = report(bass, lambda string, finger: -30)
    assert kinds(own) == ["instrument"]
    change = own.advice[1]
    assert "fine tuners" not in change.text
    assert "machine" in change.parent


@pytest.mark.parametrize("cents", [(-20.0, -14.0, -26.0, -20.0), (8.0,)])
def test_how_sure_a_string_is_by_the_formula_for_a_median(cents: tuple[float, ...]) -> None:
    """1.2533 times the deviation over the square root of n is the standard error of a median (Kendall and Stuart, from memory); the ear's
    own cent is added as squares are. The deviation is robust: 1.4826 times the median distance (the same)."""
    line = Recipe("D", family="own", line=tuple(LineNote(name, "1") for name in ("D4", "E4") * len(cents)))
    at = iter(cents)
    own = report(build(line, "violin"), lambda string, finger: 0.0 if finger else next(at))
    spread = max(1.4826 * median([abs(one - median(cents)) for one in cents]), 1.0)
    expected = hypot(1.25 * spread / sqrt(len(cents)), 1.0)
    assert own.tuning.certainty["D"].plus_minus_cents == pytest.approx(expected, abs=0.06)


def test_where_one_finger_wanders_it_is_that_finger_though_it_is_most_of_the_line() -> None:
    names = ("E4", "G4", "G4", "G4", "E4", "G4", "G4", "G4", "E4", "G4", "G4", "G4")
    line = Recipe("D", family="own", line=tuple(LineNote(name, "1") for name in names))
    away = iter((45.0, -40.0, 50.0, -48.0, 42.0, -52.0, 47.0, -44.0, 49.0))
    own = report(build(line, "violin"), lambda string, finger: next(away) if finger == 3 else 1.0)
    assert [(cause.kind, cause.finger) for cause in own.causes] == [("scatter", 3)]


def test_what_is_taken_off_is_told_to_a_tenth_of_a_cent() -> None:
    """The strings stand in pure fifths of 701.955 cents, the line in equal ones of 700: each string is out by that too."""
    own = report(FLAT, lambda string, finger: -30.4, open_strings=dict.fromkeys(("G", "D", "A", "E"), -30.4))
    assert own.tuning.taken_off == {"G": -34.3, "D": -32.4, "A": -30.4, "E": -28.4}
    assert report(SCALE, lambda string, finger: 0.02).tuning.taken_off == {}


def test_where_the_pupils_own_strings_are_asked_for_they_are_what_all_is_measured_by() -> None:
    own = report(SCALE, lambda string, finger: -6.0, a4_hz=None)
    assert kinds(own) == []
    assert own.tuning.a4_hz == pytest.approx(440 * 2 ** (-6 / 1200), abs=0.01)
    assert [note.tuned_cents for note in own.notes] == pytest.approx([0.0] * 16, abs=0.2)
