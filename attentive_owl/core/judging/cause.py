"""A cause: what makes a group of notes stand away, and where the finger has to go."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from statistics import median

import numpy as np
from numpy.typing import NDArray

LEAST_NOTES = 3
"""Two notes may agree by chance: a habit shows in three."""
LEAST_AGREE = 0.75
"""A cause is carried by so many notes, and by so great a share of them."""


@dataclass(frozen=True)
class Cause:
    """One thing behind what was heard: a habit, or something that happened."""

    kind: str
    notes: tuple[int, ...]
    confidence: float
    string: str | None = None
    finger: int | None = None
    cents: float | None = None
    mm: float | None = None
    towards: str | None = None
    """bridge or scroll: where the finger has to go."""
    detail: Mapping[str, float | str] = field(default_factory=dict)

    @property
    def low(self) -> bool:
        return (self.cents or 0.0) < 0

    def figure(self, name: str) -> float:
        return float(self.detail[name])


def cause_key(kind: str, string: str | None, finger: int | None) -> str:
    """By what a cause is known again in another report: its kind, and the string or finger where it is of one."""
    of = string if kind == "string" else finger
    return kind if of is None else f"{kind}:{of}"


def millimetres(cents: float, semitones: int, string_length_mm: float) -> float:
    """How far a finger stands off when it is `cents` off, `semitones` above the open string:
    remaining length * ln 2 / 1200 * cents (derivative of length = L * 2 ** (-n / 12))."""
    return float(string_length_mm * 2.0 ** (-semitones / 12.0) * np.log(2.0) / 1200.0 * abs(cents))


def robust_deviation(values: list[float]) -> float:
    """1.4826 times the median distance from the median: the standard deviation of normal values. Of a few values, for which a plain
    median is quicker than one of arrays."""
    if not values:
        return 0.0
    middle = median(values)
    return 1.4826 * median(abs(own - middle) for own in values)


def even_slope(at: NDArray[np.float64], values: NDArray[np.float64]) -> float:
    """Change of some values with each unit of `at`, which rises; shapes (values,). The median over all pairs (Theil and Sen, from memory); 0
    for a single value."""
    one, two = np.triu_indices(len(at), 1)
    return float(np.median((values[two] - values[one]) / np.maximum(at[two] - at[one], 1e-3))) if len(one) else 0.0
