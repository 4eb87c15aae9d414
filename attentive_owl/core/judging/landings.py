"""Coming back to the same place: where one note landed each time, as the landing drill asks."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import groupby, pairwise

import numpy as np

from attentive_owl.core.judging.deviations import Deviation
from attentive_owl.core.listening.performance import NoteStatus

_LEAST_LANDINGS = 3
"""Twice is no spread."""


@dataclass(frozen=True)
class Landing:
    """One place of one finger, and how it was found again each time."""

    string: str
    finger: int
    name: str
    notes: tuple[int, ...]
    mean_cents: float
    spread_cents: float
    """Sample standard deviation (n - 1) over the landings; the drill is about this, not about the mean."""


def find_landings(found: tuple[Deviation, ...]) -> tuple[Landing, ...]:
    """Stopped places to which the finger came back at least three times, in the order of the strings. Notes of one place
    that follow one another without a rest or another note are one landing, by their mean."""
    places: dict[tuple[str, int, str], list[Deviation]] = {}
    runs = groupby(found, key=lambda d: (d.note.midi, d.string, d.finger))
    landed: dict[tuple[str, int, str], list[float]] = {}
    for (_, string, finger), group in runs:
        own = [d for d in group if d.heard.status == NoteStatus.PLAYED and d.cents is not None]
        if not own or string is None or not finger:
            continue
        key = (string, finger, own[0].note.pitch.name)
        for touch in _touches(own):
            places.setdefault(key, []).extend(touch)
            landed.setdefault(key, []).append(float(np.mean([d.cents for d in touch if d.cents is not None])))
    return tuple(
        Landing(
            *key,
            tuple(d.note.index for d in places[key]),
            float(np.mean(cents)),
            float(np.std(cents, ddof=1)),
        )
        for key, cents in sorted(landed.items())
        if len(cents) >= _LEAST_LANDINGS
    )


def _touches(own: list[Deviation]) -> list[list[Deviation]]:
    """Like notes in a row, cut where a rest lets the hand go."""
    touches = [[own[0]]]
    for before, after in pairwise(own):
        if after.note.start_beats > before.note.end_beats:
            touches.append([])
        touches[-1].append(after)
    return touches
