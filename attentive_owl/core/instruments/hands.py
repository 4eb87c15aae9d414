"""What a hand reaches: positions, and the shapes that a hand takes in each (common practice of first-position teaching).

Violin and viola have one shape, in which each finger has a low and a high place. The cello's hand is closed (a half step
from finger to finger) or opened between first and second finger, forward or back. The bass has fingers 1, 2 and 4.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

Reach = Mapping[int, Mapping[int, float]]
"""Finger -> semitones above the open string -> what it costs the hand, in the currency of `fingering` (0: at rest)."""

_LOW_FIRST, _LOW_THIRD, _HIGH_THIRD, _LOW_FOURTH, _HIGH_FOURTH = 0.5, 1.0, 0.8, 0.8, 3.0
_EXTENDED = 0.7
_COST_A_NOTE = {
    "upper": {"1": 0.0, "2": 1.0, "3": 0.66, "4": 1.0, "5": 1.2},
    "cello": {"1/2": 0.9, "1": 0.0, "2 low": 0.7, "2": 0.9, "3": 0.6, "4": 0.6},
    "bass": {"1/2": 0.1, "1": 0.0, "2": 0.3, "2 1/2": 0.4, "3": 0.2, "3 1/2": 0.5, "4": 0.4},
}
"""What a stopped note costs in a position: first position is home, half position is a bass player's other home."""


class Extension(StrEnum):
    """Which way a hand is opened."""

    NONE = ""
    FORWARD = "forward"
    BACK = "back"


@dataclass(frozen=True)
class HandShape:
    """A hand in one position, open or closed, and what its fingers reach."""

    extension: Extension
    reach: Reach


@dataclass(frozen=True)
class HandFrame:
    """A position: where the fingers stand, in semitones above the open string, with the first finger at `base`."""

    position: str
    base: int
    shapes: tuple[HandShape, ...]
    """The hand at rest first."""
    cost: float
    """Of a stopped note here."""

    def places(self, finger: int) -> tuple[int, ...]:
        """Semitones at which a finger stands with the hand at rest."""
        return tuple(at for at, cost in self.shapes[0].reach.get(finger, {}).items() if cost == 0.0)

    @property
    def under_the_hand(self) -> tuple[tuple[int, int], ...]:
        """(semitones, the finger that reaches them most easily), the open string first."""
        best: dict[int, tuple[float, int]] = {0: (0.0, 0)}
        for shape in self.shapes:
            for finger, reached in shape.reach.items():
                for at, cost in reached.items():
                    best[at] = min(best.get(at, (cost, finger)), (cost, finger))
        return tuple((at, finger) for at, (_, finger) in sorted(best.items()))

    def extension(self, finger: int, semitones: int) -> Extension | None:
        """How the hand is opened for a finger to stand there, None where it does not reach."""
        for shape in self.shapes:
            if semitones in shape.reach.get(finger, {}):
                return shape.extension
        return None


def upper_frames() -> tuple[HandFrame, ...]:
    """Violin and viola, first to fifth position."""
    frames = []
    for position, base in (("1", 2), ("2", 4), ("3", 5), ("4", 7), ("5", 9)):
        # Further up there is no nut for the first finger to be close to: low and high are both its place.
        reach = {
            1: {base: 0.0, base - 1: _LOW_FIRST if position == "1" else 0.0},
            2: {base + 1: 0.0, base + 2: 0.0},
            3: {base + 3: 0.0, base + 2: _LOW_THIRD, base + 4: _HIGH_THIRD},
            4: {base + 5: 0.0, base + 4: _LOW_FOURTH, base + 6: _HIGH_FOURTH},
        }
        frames.append(HandFrame(position, base, (HandShape(Extension.NONE, reach),), _COST_A_NOTE["upper"][position]))
    return tuple(frames)


def cello_frames() -> tuple[HandFrame, ...]:
    """Half to fourth position; from first position on the hand opens, and then fingers 2 to 4 go together."""
    frames = []
    for position, base in (("1/2", 1), ("1", 2), ("2 low", 3), ("2", 4), ("3", 5), ("4", 7)):
        closed = {finger: {base + finger - 1: 0.0} for finger in (1, 2, 3, 4)}
        shapes = [HandShape(Extension.NONE, closed)]
        if base > 1:
            opened = {finger: {base + finger: _EXTENDED} for finger in (2, 3, 4)}
            shapes += [
                HandShape(Extension.FORWARD, {1: {base: 0.0}, **opened}),
                HandShape(Extension.BACK, {**closed, 1: {base - 1: _EXTENDED}}),
            ]
        frames.append(HandFrame(position, base, tuple(shapes), _COST_A_NOTE["cello"][position]))
    return tuple(frames)


def bass_frames() -> tuple[HandFrame, ...]:
    """Half to fourth position, a whole step from first finger to fourth."""
    places = (("1/2", 1), ("1", 2), ("2", 3), ("2 1/2", 4), ("3", 5), ("3 1/2", 6), ("4", 7))
    return tuple(
        HandFrame(
            position,
            base,
            (HandShape(Extension.NONE, {1: {base: 0.0}, 2: {base + 1: 0.0}, 4: {base + 2: 0.0}}),),
            _COST_A_NOTE["bass"][position],
        )
        for position, base in places
    )
