"""Of two habits at once: what the table of all pairs counts as what, and which pairs it can not play."""

import pytest

from bench.judging import HABITS, Outcome, case
from bench.two_habits import pairs, said_of


@pytest.mark.parametrize(
    ("outcome", "expected"),
    [
        (("accepted", {"hand", "stop"}), "both"),
        (("accepted", {"stop"}), "one of them"),
        (("accepted", set()), "nothing"),
        (("accepted", {"hand", "stop", "drift"}), "something else named"),
        (("accepted", {"hand", "drift"}), "something else named"),
        (("another_rhythm", {"hand", "stop"}), "refused"),
    ],
)
def test_what_is_untrue_counts_before_what_is_missing(outcome: Outcome, expected: str) -> None:
    assert said_of("hand + stop", outcome) == expected


def test_every_habit_is_paired_with_each_other_one_once() -> None:
    names = pairs()
    assert "none" in HABITS
    assert not any("none" in name.split(" + ") for name in names)
    assert len({frozenset(name.split(" + ")) for name in names}) == len(names)
    assert (
        sum("hand" in name.split(" + ") for name in names)
        == len({part for name in names for part in name.split(" + ")}) - 1
    )


def test_two_habits_that_need_the_same_setting_are_not_played_at_once() -> None:
    assert all(case("wrong_string + octave_off", seed) is None for seed in range(25))
    assert any(case("wrong_string + hand", seed) for seed in range(25))
