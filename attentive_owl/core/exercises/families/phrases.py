"""Echo phrases, made by rule, and the teacher's own line."""

from __future__ import annotations

import random
from fractions import Fraction

from attentive_owl.core.exercises.families.shape import Family, Step, describe
from attentive_owl.core.exercises.patterns import RecipeError
from attentive_owl.core.exercises.recipe import Recipe
from attentive_owl.core.instruments import Instrument
from attentive_owl.core.theory import Pitch, scale_pitch

_CELLS = ((1, 1), (1, 1), ("1/2", "1/2", 1), (1, "1/2", "1/2"), (2,), ("3/2", "1/2"))
_ECHO_MEASURES = 4
_BAR = Fraction(4)
AS_TYPED = 4
_HIGHEST_DEGREE = 7
_HOME = (0, 2, 4)


def _echo(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    """Four bars that begin on a note of the tonic chord, move by step with a leap now and then that is filled in from
    the other side, stay within the octave, and come home."""
    chance = random.Random(recipe.seed)
    beats = [Fraction(value) for _ in range(2 * _ECHO_MEASURES - 2) for value in chance.choice(_CELLS)]
    degree, last_move, degrees = chance.choice(_HOME), 0, []
    for _ in beats:
        degrees.append(degree)
        if abs(last_move) > 1:
            move = -1 if last_move > 0 else 1
        else:
            move = chance.choices((-2, -1, 0, 1, 2), (1, 4, 1, 4, 1))[0]
        if not 0 <= degree + move <= _HIGHEST_DEGREE:
            move = -move
        degree, last_move = degree + move, move
    # Home by step: from the last note to the tonic in half notes.
    degrees += [1 if degrees[-1] > 0 else 2, 0]
    beats += [Fraction(2), Fraction(2)]
    return [
        Step(scale_pitch(recipe.key, octave, degree, recipe.form), value)
        for degree, value in zip(degrees, beats, strict=True)
    ]


def _answers(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    """The echo phrase bar by bar, each after a silent bar in which somebody plays it first."""
    steps: list[Step] = []
    within = Fraction(0)
    for step in _echo(recipe, player, octave):
        if within == 0:
            steps.append(Step(None, _BAR))
        steps.append(step)
        within = (within + (step.beats or Fraction(0))) % _BAR
    return steps


def _own(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    """The typed line; `octave` AS_TYPED is the line as it was typed. Raises RecipeError for a line with no notes."""
    steps = []
    for note in recipe.line:
        pitch = None if note.name is None else Pitch.parse(note.name).octaves_up(octave - AS_TYPED)
        beats = Fraction(note.beats)
        if beats.denominator not in (1, 2, 4, 8):
            raise RecipeError(f"{note.beats!r} is no length that is written in one note or a few tied ones")
        steps.append(Step(pitch, beats, slurred=note.slurred))
    if not any(step.pitch for step in steps):
        raise RecipeError("the line has no notes yet")
    return steps


FAMILIES: tuple[Family, ...] = (
    describe(
        "echo",
        "Echo phrase",
        "phrases",
        "A short phrase that is heard, not seen, until it has been tried.",
        "tonic form seed fourth_finger",
        _echo,
        hidden=True,
    ),
    describe(
        "call",
        "Call and response",
        "phrases",
        "A bar is played to the pupil, and the pupil answers with the same bar.",
        "tonic form seed fourth_finger",
        _answers,
        hidden=True,
    ),
    describe(
        "own",
        "My own line",
        "phrases",
        "Typed in, or read from a file.",
        "tonic form meter line fourth_finger bowing",
        _own,
    ),
)
