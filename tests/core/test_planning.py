"""The week's plan by its properties (hypothesis), and a week worked out by hand."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from attentive_owl.core.planning import Day, Task, plan

MONDAY = date(2026, 11, 30)


@st.composite
def tasks(draw: st.DrawFn, key: str = "a") -> Task:
    length = draw(st.integers(0, 20))
    return Task(key, MONDAY, MONDAY + timedelta(days=length), draw(st.integers(1, 12)), draw(st.integers(1, 7)))


def wanted(days: tuple[Day, ...], key: str = "a") -> dict[date, int]:
    return {day.day: share.wanted for day in days for share in day.shares if share.key == key}


@given(tasks())
def test_every_repeat_that_is_asked_is_in_the_days_until_it_is_due(task: Task) -> None:
    days = wanted(plan([task], MONDAY, 30))
    assert sum(days.values()) == task.asked()
    assert max(days) <= task.due_on
    assert len(days) <= (task.due_on - MONDAY).days + 1
    # Nothing was missed: no day has more than its own.
    assert max(days.values()) == task.repeats
    assert MONDAY in days


@given(tasks(), st.integers(0, 25), st.integers(0, 40))
def test_what_was_missed_is_spread_and_no_day_is_over_its_share(task: Task, later: int, done: int) -> None:
    today = MONDAY + timedelta(days=later)
    behind = replace(task, done={MONDAY - timedelta(days=1): 0, MONDAY: done})
    days = wanted(plan([behind], today, 30))
    left = max(task.asked() - (done if later else 0), 0)
    assert all(1 <= share <= task.most_a_day for share in days.values())
    assert all(today <= day <= task.due_on for day in days)
    assert sum(days.values()) == min(left, task.most_a_day * len(days)) or not days
    if today > task.due_on or left == 0:
        assert days == {}
    # The days that are left are alike: none is kept free for another.
    assert not days or max(days.values()) - min(days.values()) <= 1 or max(days.values()) == task.most_a_day


@given(tasks(), st.integers(0, 12))
def test_a_go_takes_nothing_away_from_what_is_wanted_today(task: Task, goes: int) -> None:
    """Otherwise the end of the day would move away from whoever comes near to it."""
    before = plan([task], MONDAY)[0].shares[0]
    after = plan([replace(task, done={MONDAY: goes})], MONDAY)[0].shares[0]
    assert (after.wanted, after.done, after.left) == (before.wanted, goes, max(before.wanted - goes, 0))


@given(tasks("a"), tasks("b"), tasks("c"))
def test_the_order_in_which_tasks_are_told_does_not_matter(a: Task, b: Task, c: Task) -> None:
    c = replace(c, warm_up=True)
    assert plan([a, b, c], MONDAY) == plan([c, b, a], MONDAY)
    assert plan([a, b, c], MONDAY)[0].shares[0].key == "c"


def test_a_week_by_hand() -> None:
    """Ten good goes on five of seven days, a lesson on Sunday: fifty in all. Monday to Wednesday were missed."""
    task = Task("scale", MONDAY, MONDAY + timedelta(days=6), 10, 5)
    assert list(wanted(plan([task], MONDAY), "scale").values()) == [10] * 5
    thursday = plan([task], MONDAY + timedelta(days=3))
    # Fifty are left for three days, and no day has more than fifteen.
    assert list(wanted(thursday, "scale").values()) == [15, 15, 15]
    done = replace(task, done={MONDAY: 12, MONDAY + timedelta(days=1): 13})
    assert list(wanted(plan([done], MONDAY + timedelta(days=3)), "scale").values()) == [9, 8, 8]
    assert wanted(plan([task], MONDAY + timedelta(days=7)), "scale") == {}


@given(st.integers(2, 5), st.integers(0, 6))
def test_of_several_patterns_one_comes_a_day_and_all_of_them_in_the_week(count: int, weekday: int) -> None:
    """Each is for two days of the week; the days are lived through one by one, and what is wanted is played."""
    first = MONDAY + timedelta(days=weekday)
    done: dict[str, dict[date, int]] = {f"pattern {n}": {} for n in range(count)}
    for day in (first + timedelta(days=ahead) for ahead in range(7)):
        tasks = [Task(key, first, first + timedelta(days=6), 4, 2, True, done=own) for key, own in done.items()]
        shares = plan(tasks, day)[0].shares
        assert len(shares) <= max(1, (count + 1) // 2)
        for share in shares:
            done[share.key][day] = share.wanted
    assert all(sum(own.values()) == 8 for own in done.values())


def test_what_was_passed_comes_back_one_a_day_in_turn() -> None:
    passed = [Task(key, MONDAY, MONDAY, 5, 5, passed=True) for key in "xyz"]
    days = plan([*passed, Task("new", MONDAY, MONDAY + timedelta(days=6), 3, 7)], MONDAY)
    back = [day.shares[-1].key for day in days]
    assert {*back[:3]} == {"x", "y", "z"}
    assert back[:3] == back[3:6]
    assert all(day.shares[0].key == "new" and day.shares[-1].wanted == 1 for day in days)


@pytest.mark.parametrize(("days", "repeats"), [(0, 5), (8, 5), (3, 0)])
def test_what_is_no_task(days: int, repeats: int) -> None:
    with pytest.raises(ValueError, match="one to seven days"):
        Task("a", MONDAY, MONDAY, repeats, days)


def test_a_day_on_which_anything_was_played_was_not_missed() -> None:
    task = Task("scale", MONDAY, MONDAY + timedelta(days=6), 10, 7)
    tuesday = MONDAY + timedelta(days=1)
    assert wanted(plan([task], tuesday), "scale")[tuesday] == 12
    assert wanted(plan([replace(task, played=frozenset({MONDAY}))], tuesday), "scale")[tuesday] == 10
    # More good goes than were asked are worth what they are.
    more = replace(task, played=frozenset({MONDAY}), done={MONDAY: 16})
    assert wanted(plan([more], tuesday), "scale")[tuesday] == 9


@given(tasks(), st.sets(st.integers(0, 20), max_size=8))
def test_nothing_is_wanted_on_a_day_off_and_the_other_days_bear_no_more(task: Task, off: set[int]) -> None:
    days_off = frozenset(MONDAY + timedelta(days=at) for at in off)
    days = {day.day: day for day in plan([task], MONDAY, 28, days_off)}
    assert not any(days[day].shares for day in days_off if day in days)
    free = {day.day: day for day in plan([task], MONDAY, 28)}
    if not days_off:
        assert days == free
    assert all(share.wanted <= task.most_a_day for day in days.values() for share in day.shares)
    # What is asked in all shrinks with the days that there are.
    assert task.asked(days_off) <= task.asked()
