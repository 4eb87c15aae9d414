"""Rhythm: a pattern on an open string, and the ladder from long notes to slurred ones on a scale."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

from attentive_owl.core.exercises.families.scales import both_ways
from attentive_owl.core.exercises.families.shape import Family, Step, describe
from attentive_owl.core.exercises.patterns import pattern
from attentive_owl.core.exercises.recipe import Recipe
from attentive_owl.core.instruments import Instrument, OpenString, UnplayableError
from attentive_owl.core.theory import scale_pitch

_OPEN_MEASURES = 4


def open_string(recipe: Recipe, player: Instrument, above: int = 0) -> OpenString:
    """The chosen string, or the one so many `above` it. Raises UnplayableError where there is none."""
    names = [string.name for string in player.strings]
    if recipe.string not in names:
        raise UnplayableError(f"the {player.name.lower()} has no {recipe.string} string")
    place = names.index(recipe.string) + above
    if place >= len(names):
        raise UnplayableError(f"the {player.name.lower()} has no string above its {recipe.string} string")
    return player.strings[place]


def _on_open_string(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    rhythm = pattern(recipe.pattern)
    times = int(Fraction(4 * _OPEN_MEASURES) / rhythm.beats)
    return [Step(open_string(recipe, player).pitch, pattern=rhythm)] * times


def _ladder(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    """The rung, or the rungs one after the other, each from the beginning of a measure."""
    steps: list[Step] = []
    for rung in recipe.rungs or (recipe.rung,):
        own = _rung(recipe, rung, octave)
        steps += [*own[:-1], replace(own[-1], fills_measure=True)]
    return steps


def _rung(recipe: Recipe, rung: int, octave: int) -> list[Step]:
    steps: list[Step] = []
    rising = range(8)
    for place, degree in enumerate(both_ways(recipe, rising)):
        pitch = scale_pitch(recipe.key, octave, degree, recipe.form, place >= len(rising))
        match rung:
            case 1:
                steps += [Step(pitch, Fraction(1))] * 4
            case 2:
                steps.append(Step(pitch, pattern=pattern(recipe.pattern)))
            case 3:
                steps += [Step(pitch, Fraction(1, 4))] * 2
            case 4:
                steps.append(Step(pitch, Fraction(1, 4)))
            case _:
                steps.append(Step(pitch, Fraction(1, 4), slurred=place % 4 != 0))
    return steps


FAMILIES: tuple[Family, ...] = (
    describe(
        "open-string",
        "Pattern on an open string",
        "rhythm",
        "The bow alone: say it, then play it.",
        "string pattern meter pickup bowing",
        _on_open_string,
        on_strings=True,
    ),
    describe(
        "ladder",
        "Density ladder",
        "rhythm",
        "Five rungs on one scale: four long notes, the pattern, two sixteenths, one, slurred in fours.",
        "tonic form direction top_again rung rungs pattern fourth_finger",
        _ladder,
    ),
)
