"""A cause: what makes a group of notes stand away, and where the finger has to go."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

INSTRUMENT_CENTS = 12.0
"""From here on an instrument counts as out of tune."""
LEAST_NOTES = 3
LEAST_AGREE = 0.75
"""A cause is carried by so many notes, and by so great a share of them."""


@dataclass(frozen=True)
class Cause:
    kind: str
    notes: tuple[int, ...]
    confidence: float
    string: str | None = None
    finger: int | None = None
    cents: float | None = None
    mm: float | None = None
    towards: str | None = None
    """bridge or scroll: where the finger has to go."""
    detail: dict[str, float | str] | None = None


def cause_key(kind: str, string: str | None, finger: int | None) -> str:
    """By what a cause is known again in another report: its kind, and the string or finger where it is of one."""
    of = string if kind == "string" else finger
    return kind if of is None else f"{kind}:{of}"


def millimetres(cents: float, semitones: int, string_length_mm: float) -> float:
    """How far a finger stands off when it is `cents` off, `semitones` above the open string:
    remaining length * ln 2 / 1200 * cents (derivative of length = L * 2 ** (-n / 12))."""
    return string_length_mm * 2.0 ** (-semitones / 12.0) * float(np.log(2.0)) / 1200.0 * abs(cents)
