"""Pieces of a line to practise by themselves: the hardest bar alone and then with its neighbours, or the line from its end (common
practice: chunks, and backwards chaining)."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

Bars = tuple[int, int]
"""The first and the last bar, counted from 1; a pickup goes with bar 1."""


def hardest_first(trouble: Mapping[int, float], bars: Sequence[int]) -> tuple[Bars, ...]:
    """The bar with the most trouble alone; with the bar before it; with the one after it too. Empty where nothing was in trouble
    or where the line has but one bar. `trouble`: bar -> how much went wrong in it, of any unit; `bars`: those of the line."""
    hard = {bar: amount for bar, amount in trouble.items() if amount > 0 and bar in bars}
    if len(bars) < 2 or not hard:
        return ()
    worst = min(hard, key=lambda bar: (-hard[bar], bar))
    first, last = max(worst - 1, min(bars)), min(worst + 1, max(bars))
    joined = [(worst, worst), (first, worst), (first, last)]
    return tuple(own for own in dict.fromkeys(joined) if own != (min(bars), max(bars)))


def from_the_end(bars: Sequence[int]) -> tuple[Bars, ...]:
    """The last bar, the last two, and so on; the whole line is no piece."""
    last = max(bars, default=0)
    return tuple((first, last) for first in sorted(bars, reverse=True)[:-1])


def bars_of(measures: Iterable[int]) -> list[int]:
    """The bars of a line whose notes stand in these measures (a pickup stands in measure 0)."""
    return sorted({max(measure, 1) for measure in measures})
