"""Scales and what is cut from them: tetrachords, arpeggios, broken thirds."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from attentive_owl.core.exercises.families.shape import Family, Step, describe
from attentive_owl.core.exercises.patterns import pattern
from attentive_owl.core.exercises.recipe import Direction, Recipe
from attentive_owl.core.instruments import Instrument, UnplayableError
from attentive_owl.core.theory import scale_pitch


def walk(recipe: Recipe, octave: int, degrees: Sequence[int]) -> list[Step]:
    """Degrees (0: the tonic) with the recipe's pattern on each; forms that differ going down are spelt by direction."""
    steps = []
    rhythm = pattern(recipe.pattern)
    for place, degree in enumerate(degrees):
        before = degrees[place - 1] if place else degree
        after = degrees[place + 1] if place + 1 < len(degrees) else degree
        descending = before > degree or (before == degree > after)
        steps.append(Step(scale_pitch(recipe.key, octave, degree, recipe.form, descending), pattern=rhythm))
    return steps


def both_ways(recipe: Recipe, up: Sequence[int]) -> list[int]:
    """The rising degrees in the direction that is wanted."""
    down = list(reversed(up))
    if recipe.direction is Direction.UP:
        return list(up)
    if recipe.direction is Direction.DOWN:
        return down
    return [*up, *(down if recipe.top_again else down[1:])]


def _scale(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    return walk(recipe, octave, both_ways(recipe, range(7 * recipe.octaves + 1)))


def _lower_half(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    return walk(recipe, octave, both_ways(recipe, range(4)))


def _upper_half(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    return walk(recipe, octave, both_ways(recipe, range(4, 8)))


def _arpeggio(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    rising = [7 * turn + degree for turn in range(recipe.octaves) for degree in (0, 2, 4)] + [7 * recipe.octaves]
    return walk(recipe, octave, both_ways(recipe, rising))


def _thirds(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    top = 7 * recipe.octaves
    up = [degree for low in range(top - 1) for degree in (low, low + 2)] + [top]
    down = [degree for high in range(top, 1, -1) for degree in (high, high - 2)] + [0]
    if recipe.direction is Direction.UP:
        return walk(recipe, octave, up)
    if recipe.direction is Direction.DOWN:
        return walk(recipe, octave, down)
    return walk(recipe, octave, [*up, *(down if recipe.top_again else down[1:])])


def _growing(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    """One note, two, three ... from the tonic up, or from the upper tonic down, each time from the beginning."""
    degrees = list(range(8))
    if recipe.direction is Direction.DOWN:
        degrees.reverse()
    steps: list[Step] = []
    for notes in range(1, len(degrees) + 1):
        part = walk(recipe, octave, degrees[:notes])
        steps += [*part[:-1], replace(part[-1], fills_measure=True)]
    return steps


def _between_open(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    """Every degree with an open string of the key after it: the tonic's, else the fifth's, else the lowest of the key."""
    in_key = [s for s in player.strings if recipe.key.contains(s.pitch.midi)]
    if not in_key:
        raise UnplayableError(f"no open string of the {player.name.lower()} is in {recipe.tonic_spoken}")
    tonic, fifth = (scale_pitch(recipe.key, 4, degree).midi % 12 for degree in (0, 4))
    wanted = min(in_key, key=lambda s: (s.pitch.midi % 12 != tonic, s.pitch.midi % 12 != fifth))
    steps = []
    for step in walk(recipe, octave, both_ways(recipe, range(8))):
        steps += [step, replace(step, pitch=wanted.pitch, string=wanted.name)]
    return steps


_COMMON = "tonic form direction top_again pattern times wait meter pickup bowing fourth_finger"

FAMILIES: tuple[Family, ...] = (
    describe("scale", "Scale", "scales", "The whole scale, one octave or two.", f"{_COMMON} octaves", _scale),
    describe(
        "lower-half",
        "Lower half of a scale",
        "scales",
        "The first four notes: one hand, one string.",
        _COMMON,
        _lower_half,
    ),
    describe(
        "upper-half", "Upper half of a scale", "scales", "The last four notes, up to the tonic.", _COMMON, _upper_half
    ),
    describe("arpeggio", "Arpeggio", "scales", "Tonic, third, fifth and octave.", f"{_COMMON} octaves", _arpeggio),
    describe(
        "grow",
        "Scale that grows",
        "scales",
        "One note, two, three: from the bottom or from the top, each time a note more.",
        "tonic form direction pattern meter bowing fourth_finger",
        _growing,
        one_way=True,
    ),
    describe(
        "between-open",
        "Scale and open string",
        "scales",
        "Every note in turn with an open string of the key: the ear comes home each time.",
        "tonic form direction top_again pattern meter bowing fourth_finger",
        _between_open,
        one_way=True,
    ),
    describe("thirds", "Broken thirds", "scales", "Every note with its third: frames and crossings.", _COMMON, _thirds),
)
