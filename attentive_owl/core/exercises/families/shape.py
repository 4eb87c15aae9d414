"""What a family of exercises is: a name, the choices that it takes, and how its line is made."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction

from attentive_owl.core.exercises.patterns import RhythmPattern
from attentive_owl.core.exercises.recipe import Recipe
from attentive_owl.core.instruments import Instrument
from attentive_owl.core.theory import Pitch


@dataclass(frozen=True)
class Step:
    """One place of a line. With a pattern the pattern is played on it; else it has a length of its own."""

    pitch: Pitch | None
    """Sounding; None for a rest."""
    beats: Fraction | None = None
    pattern: RhythmPattern | None = None
    slurred: bool = False
    """In the bow of the step before."""
    string: str | None = None
    """The string that it is about, where the drill is about one."""
    fills_measure: bool = False
    """A rest follows to the end of the measure."""


Builder = Callable[[Recipe, Instrument, int], Sequence[Step]]
"""(recipe, instrument, octave of the tonic) -> steps. Raises UnplayableError where the instrument has no such line."""


@dataclass(frozen=True)
class Family:
    """A kind of exercise, and how its line is made."""

    key: str
    name: str
    group: str
    """scales, rhythm, intonation or phrases."""
    about: str
    """One sentence for the teacher: what it is for."""
    uses: frozenset[str]
    """Choices of the recipe that matter here, by field name."""
    build: Builder
    on_strings: bool
    """The line is tied to open strings: no octave is searched."""
    hidden: bool
    """Heard, not shown, until it has been tried."""
    one_way: bool
    """It comes back to its notes, and each is to be fingered one way."""


def describe(
    key: str,
    name: str,
    group: str,
    about: str,
    uses: str,
    build: Builder,
    on_strings: bool = False,
    hidden: bool = False,
    one_way: bool = False,
) -> Family:
    """A family; `uses` is a list of field names with spaces between."""
    return Family(key, name, group, about, frozenset(uses.split()), build, on_strings, hidden, one_way)
