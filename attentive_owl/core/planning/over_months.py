"""One pupil over months: habits that came and went, and the keys and patterns that are passed."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Hashable, Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from attentive_owl.core.exercises import PATTERNS, Recipe

_LEAST_TAKES = 2
"""What was heard in a single take is no habit."""


@dataclass(frozen=True)
class FoundIn:
    """One cause, as it was found in one take."""

    kind: str
    key: str
    """Which finger, string or note of that kind."""
    title: str
    mm: float | None
    """How far off; none where it is no matter of the hand."""
    towards: str | None
    """Where the finger has to go: "bridge" or "scroll"."""


@dataclass(frozen=True)
class TakeHeard:
    """One take, and all that was found in it."""

    take: Hashable
    day: date
    found: Sequence[FoundIn]


@dataclass(frozen=True)
class WeekOfHabit:
    """How often a habit was found in the takes of one week."""

    monday: date
    takes: int
    """In which it was found."""
    of: int
    mm: float | None
    """How far off in the mean, towards the bridge above nothing, towards the scroll below it."""


@dataclass(frozen=True)
class HabitOverMonths:
    """One habit, week by week."""

    kind: str
    title: str
    weeks: tuple[WeekOfHabit, ...]
    """All weeks in which something was heard, the oldest first."""


def habits_over_months(takes: Iterable[TakeHeard]) -> list[HabitOverMonths]:
    """What was found in more than one take, the most frequent first."""
    by_week: dict[date, list[TakeHeard]] = defaultdict(list)
    for take in takes:
        by_week[take.day - timedelta(days=take.day.weekday())].append(take)
    found: dict[tuple[str, str], dict[date, dict[Hashable, float | None]]] = defaultdict(lambda: defaultdict(dict))
    titles: dict[tuple[str, str], str] = {}
    for monday, own in by_week.items():
        for take in own:
            for one in take.found:
                titles[one.kind, one.key] = one.title
                found[one.kind, one.key][monday][take.take] = _stands(one)
    habits = [
        HabitOverMonths(
            place[0],
            titles[place],
            tuple(
                WeekOfHabit(monday, len(in_takes), len(by_week[monday]), _mean(in_takes.values()))
                for monday in sorted(by_week)
                for in_takes in [weeks.get(monday, {})]
            ),
        )
        for place, weeks in found.items()
        if sum(map(len, weeks.values())) >= _LEAST_TAKES
    ]
    return sorted(habits, key=lambda own: -sum(week.takes for week in own.weeks))


def _stands(one: FoundIn) -> float | None:
    """Where the finger has to go is the other side from where it stands."""
    if one.mm is None:
        return None
    return -one.mm if one.towards == "bridge" else one.mm


def _mean(values: Iterable[float | None]) -> float | None:
    known = [own for own in values if own is not None]
    return round(sum(known) / len(known), 1) if known else None


def keys_and_patterns(passed: Iterable[Recipe]) -> tuple[list[str], list[str]]:
    """Keys of which a whole scale is passed, and rhythm patterns, in the order in which they were."""
    keys, patterns = {}, {}
    for recipe in passed:
        if recipe.family == "scale" and recipe.bars is None:
            octaves = ", two octaves" if recipe.octaves == 2 else ""
            keys[f"{recipe.tonic_spoken} {recipe.form.value}{octaves}"] = True
        if recipe.family in ("scale", "open-string", "lower-half", "upper-half", "arpeggio"):
            patterns[PATTERNS[recipe.pattern].name] = True
    return list(keys), list(patterns)
