"""Two habits at once: each is named as what it is, and what one of them leaves over is no third."""

from __future__ import annotations

import pytest

from bench.judging import named
from tests.core.judged import heard, kinds, scale


@pytest.mark.parametrize(
    ("name", "seed"),
    [
        ("hand + finger", 9000),
        ("hand + direction", 9101),
        ("hand + octave", 9100),
        ("direction + sinking", 9100),
        ("octave + sinking", 9104),
        ("hand + key_signature", 9102),
        ("string + key_signature", 9103),
        ("scatter + drift", 9000),
        ("string + scatter", 9001),
    ],
)
def test_each_of_two_is_named_and_nothing_else(name: str, seed: int) -> None:
    assert named(name, seed) == set(name.split(" + "))


def test_fingers_that_stand_alike_are_the_hand() -> None:
    """A hand that is high but for one note of the first finger: not the second finger, and the fourth, and the other notes of the first."""
    assert "hand" in (named("hand + one_place", 9102) or ())


def test_a_finger_that_is_low_in_a_low_hand_is_not_in_its_other_place() -> None:
    """75 cents low against the strings is 35 from where the hand stands: half a step is neither."""
    report = heard(scale(octaves=2), hand_cents=-40.0, finger_cents={2: -35.0}, scatter_cents=3)
    assert sorted(kinds(report)) == [("finger", 2), ("hand", None)]
    (finger,) = (cause for cause in report.causes if cause.kind == "finger")
    assert finger.cents == pytest.approx(-35, abs=4)


@pytest.mark.parametrize("hand", [-35.0, 0.0, 35.0])
def test_a_half_step_from_where_the_hand_stands_is_the_other_place(hand: float) -> None:
    """G sharp for G in D major, wherever the hand is."""
    report = heard(scale(), hand_cents=hand, wrong={3: 1, 12: 1}, scatter_cents=3)
    assert sorted(kinds(report)) == ([("hand", None)] if hand else []) + [("place", 3)]


@pytest.mark.parametrize(("wrong", "told"), [((6, 7), []), ((6, 25), [("place", 3)])])
def test_strokes_that_follow_one_another_are_one_slip(
    wrong: tuple[int, ...], told: list[tuple[str, int | None]]
) -> None:
    """G sharp for G in D major, where each note is played twice: two in a row are one landing, and there is another that is right."""
    report = heard(scale(pattern="eighths"), scatter_cents=3, wrong=dict.fromkeys(wrong, 1))
    assert sorted(kinds(report)) == told


@pytest.mark.parametrize(("scatter_cents", "told"), [(3.0, True), (38.0, False)])
def test_two_notes_far_out_of_a_loose_hand_are_no_other_place(scatter_cents: float, told: bool) -> None:
    """75 cents off twice is half a step for a hand that is steady, and chance for one that lands anywhere."""
    score = scale()
    report = heard(score, seed=5, scatter_cents=scatter_cents, note_cents={67: 80.0})
    assert ("place" in {cause.kind for cause in report.causes}) is told


@pytest.mark.parametrize(
    ("name", "seed"),
    [("crossing_late", 9510), ("one_place + crossing_late", 9206), ("bow_late", 9507), ("octave + bow_late", 9124)],
)
def test_waits_that_lie_together_are_neither_a_rushed_measure_nor_a_drift(name: str, seed: int) -> None:
    """A measure in which no new string comes is shorter than those around it, and a line of which the second half alone has new bows gets slower: the
    notes between the waits do neither."""
    assert named(name, seed) == set(name.split(" + "))


@pytest.mark.parametrize(("name", "seed"), [("drift + bow_late", 9000), ("rushed + crossing_late", 9000)])
def test_with_waits_there_may_be_a_drift_or_a_rushed_measure_all_the_same(name: str, seed: int) -> None:
    found = (named(name, own) for own in range(seed, seed + 100))
    told = [own == set(name.split(" + ")) for own in found if own is not None][:10]
    assert len(told) == 10
    assert sum(told) >= 9
