"""From what is set to what is for each day: evenly, with missed days spread again over those that are left, and never more than a
day can bear (little and often: common practice)."""

from __future__ import annotations

from collections.abc import Container, Iterable, Mapping
from dataclasses import dataclass, field
from datetime import date, timedelta
from math import ceil

_A_WEEK = 7
_MOST_SHARE = 1.5
"""What was missed makes a day half as long again at most; what does not fit is let go, and nobody is told."""


@dataclass(frozen=True)
class Task:
    """One exercise that is set, and the good goes that it had."""

    key: str
    set_on: date
    due_on: date
    """The last day on which it is practised."""
    repeats: int
    """Good goes a day."""
    days_a_week: int
    warm_up: bool = False
    """Comes first, whatever else there is."""
    done: Mapping[date, int] = field(default_factory=dict)
    played: frozenset[date] = frozenset()
    """Days on which anything was recorded. None of them was missed, whether its goes were good or not: most of what is practised
    is not recorded."""
    passed: bool = False
    """The teacher has accepted it: it only comes back now and then."""

    def __post_init__(self) -> None:
        if not (1 <= self.days_a_week <= _A_WEEK and self.repeats >= 1):
            raise ValueError("a task is practised on one to seven days a week, at least once a day")

    def asked(self, days_off: Container[date] = ()) -> int:
        """Good goes in all, from the day on which it was set to the day on which it is due."""
        return self.repeats * _practice_days(len(_days(self.set_on, self.due_on, days_off)), self.days_a_week)

    @property
    def most_a_day(self) -> int:
        return ceil(_MOST_SHARE * self.repeats)


@dataclass(frozen=True)
class Share:
    """Of one task on one day."""

    key: str
    wanted: int
    """Good goes, those that the day has had already with them."""
    done: int

    @property
    def left(self) -> int:
        return max(self.wanted - self.done, 0)


@dataclass(frozen=True)
class Day:
    """What a pupil practises on one day."""

    day: date
    shares: tuple[Share, ...]
    """In the order in which they are practised; a task that has nothing on that day is not there."""


def plan(tasks: Iterable[Task], today: date, days: int = _A_WEEK, days_off: Container[date] = ()) -> tuple[Day, ...]:
    """Today and the days after it. The same tasks, in whatever order, give the same plan. On `days_off` (a school break) nothing is
    wanted, and nothing of it falls on the days around."""
    ordered = sorted(tasks, key=lambda task: (not task.warm_up, task.due_on, task.set_on, task.key))
    dates = [today + timedelta(days=ahead) for ahead in range(days)]
    open_tasks = [task for task in ordered if not task.passed]
    in_turn = [task.key for task in open_tasks if _gap(task, today, days_off) > 1]
    by_task = {task.key: _spread(task, today, _shift(task, today, in_turn, days_off), days_off) for task in open_tasks}
    out = []
    for day in dates:
        shares = [
            Share(task.key, wanted, task.done.get(day, 0))
            for task in ordered
            if (wanted := by_task.get(task.key, {}).get(day, 0))
        ]
        out.append(Day(day, tuple(shares + ([] if day in days_off else _coming_back(ordered, day)))))
    return tuple(out)


def _days(first: date, last: date, days_off: Container[date]) -> list[date]:
    """From the first to the last, but for those that are off."""
    every = (first + timedelta(days=at) for at in range((last - first).days + 1))
    return [day for day in every if day not in days_off]


def _practice_days(available: int, days_a_week: int) -> int:
    """How many of the days that there are, are practised on."""
    return max(min(available, ceil(days_a_week * available / _A_WEEK)), 0)


def _gap(task: Task, today: date, days_off: Container[date]) -> int:
    """Days from one on which it is practised to the next."""
    available = len(_days(max(today, task.set_on), task.due_on, days_off))
    count = _practice_days(available, task.days_a_week)
    return available // count if count else 0


def _shift(task: Task, today: date, in_turn: list[str], days_off: Container[date]) -> int:
    """By how many days it begins later. What is not for every day takes turns, so that of several patterns one comes a day and each of
    them in the week; whose turn it is hangs on the date, and so a turn that was put off comes."""
    if task.key not in in_turn:
        return 0
    turns = min(_gap(task, today, days_off), len(in_turn))
    return (in_turn.index(task.key) - max(today, task.set_on).toordinal()) % turns


def _spread(task: Task, today: date, shift: int, days_off: Container[date]) -> dict[date, int]:
    """Good goes wanted on each day from today on. Today's are worked out from what stood in the morning, so that a go that is done
    takes nothing away from what is wanted."""
    available = _days(max(today, task.set_on), task.due_on, days_off)
    count = _practice_days(len(available), task.days_a_week)
    left = task.asked(days_off) - sum(_credit(task, day) for day in {*task.done, *task.played} if day < today)
    if count <= 0 or left <= 0:
        return {}
    # The first of them is the next day there is, or the next that is its turn; the others lie as far apart as they can.
    places = [place * len(available) // count + shift for place in range(count)]
    wanted = {}
    for at, place in enumerate(places):
        share = min(ceil(left / (count - at)), task.most_a_day)
        wanted[available[place]] = share
        left -= share
    return {day: share for day, share in wanted.items() if share > 0}


def _credit(task: Task, day: date) -> int:
    return max(task.done.get(day, 0), task.repeats if day in task.played else 0)


def _coming_back(tasks: list[Task], day: date) -> list[Share]:
    """Old material: one of what was passed, each in turn, once."""
    passed = [task for task in tasks if task.passed]
    if not passed:
        return []
    task = passed[day.toordinal() % len(passed)]
    return [Share(task.key, 1, task.done.get(day, 0))]
