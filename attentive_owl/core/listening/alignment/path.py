"""What an alignment says of a take: which piece of its sound is which note, and where the pupil went back or on."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal


@dataclass(frozen=True)
class Segment:
    """A piece of sound between two boundaries: a written note, one on another pitch, or none that is written."""

    kind: Literal["note", "wrong", "stray"]
    index: int
    """Written note, or for a stray the note that was to come."""
    start: int
    stop: int
    """Boundary numbers."""
    midi: int
    """Key number on the tuned grid."""
    margin: float
    """Log-likelihood of this pitch over the best other that is no neighbour (half way between two is no
    doubt), no octave and no partial."""
    at_partial: bool = False
    """A right note that was heard in an octave or at a twelfth, and hardly where it is written."""


@dataclass(frozen=True)
class Move:
    """A jump at a boundary: from having played up to `origin` to `target` (0: begin again; further on: turned round early)."""

    boundary: int
    origin: int
    target: int

    @property
    def goes_back(self) -> bool:
        return self.target < self.origin


@dataclass(frozen=True)
class Path:
    """The likeliest way through the line: what each piece of sound is, in order."""

    events: tuple[Segment | Move, ...]
    score: float
    length: int | None = None
    """How many notes are written."""

    def passes(self) -> list[list[tuple[int, Segment | Move]]]:
        """The events, each with its place, parted where the pupil began again from the beginning, and where the line had come to its end: who then plays
        a measure once more has not gone back in it. The move there to a later measure stays, as the first event."""
        passes: list[list[tuple[int, Segment | Move]]] = [[]]
        for place, event in enumerate(self.events):
            if isinstance(event, Move) and (event.target == 0 or event.origin == self.length):
                passes.append([(place, event)] if event.target else [])
            else:
                passes[-1].append((place, event))
        return passes
