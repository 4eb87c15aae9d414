"""From the steps of a line to its strokes: patterns spelt out, repeated, with waits, and taken in bows."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from attentive_owl.core.exercises.families import Step
from attentive_owl.core.exercises.recipe import Bowing, Recipe
from attentive_owl.core.theory import Meter, Pitch


@dataclass(frozen=True)
class Stroke:
    """A note or, without a pitch, a rest."""

    pitch: Pitch | None
    beats: Fraction
    cue: str | None
    joined: bool
    """In the bow of the stroke before."""
    string: str | None = None
    stopped: bool = False
    """The bow stops before the next one, as under a dot."""


def strokes_of(recipe: Recipe, steps: Sequence[Step], meter: Meter, bowed: bool, pickup: Fraction) -> list[Stroke]:
    """`bowed`: whether the family takes the recipe's bowing. `pickup`: beats before the first full measure."""
    strokes: list[Stroke] = []
    at = -pickup
    for place, step in enumerate(steps):
        if step.pattern is None:
            strokes.append(Stroke(step.pitch, step.beats or Fraction(1), None, step.slurred, step.string))
        else:
            for _ in range(recipe.times):
                strokes += _spelt_out(recipe, step)
        if step.fills_measure:
            at = _end(strokes, pickup)
            strokes += _silence(-at % meter.measure_beats)
        elif step.pattern is not None and recipe.wait and place + 1 < len(steps):
            at = _end(strokes, pickup)
            strokes += _silence(-at % meter.measure_beats or meter.measure_beats)
    if not bowed:
        return strokes
    if recipe.bowing is Bowing.LINKED:
        return _linked(strokes)
    if recipe.bowing.notes_a_bow > 1:
        several = any(step.pattern and step.pattern.notes * recipe.times > 1 for step in steps)
        strokes = _slurred(strokes, recipe.bowing.notes_a_bow, several)
    if recipe.bowing is Bowing.STACCATO:
        strokes = [replace(stroke, stopped=stroke.pitch is not None) for stroke in strokes]
    if recipe.bowing is Bowing.STOPPED:
        goes_on = [after.joined for after in strokes[1:]] + [False]
        strokes = [replace(own, stopped=own.joined or on) for own, on in zip(strokes, goes_on, strict=True)]
    return strokes


def _spelt_out(recipe: Recipe, step: Step) -> Iterator[Stroke]:
    assert step.pattern is not None
    words = iter(recipe.cue if recipe.cue and recipe.pattern == step.pattern.key else step.pattern.cue)
    for value in step.pattern.values:
        sounding = value > 0
        yield Stroke(
            step.pitch if sounding else None, abs(value), next(words) if sounding else None, False, step.string
        )


def _end(strokes: Sequence[Stroke], pickup: Fraction) -> Fraction:
    return sum((stroke.beats for stroke in strokes), Fraction(0)) - pickup


def _silence(beats: Fraction) -> list[Stroke]:
    return [Stroke(None, beats, None, False)] if beats else []


def _slurred(strokes: Sequence[Stroke], notes_a_bow: int, within: bool) -> list[Stroke]:
    """So many strokes in a bow. `within`: each note of the line is played several times; then a bow never goes over to
    the next note, and its strokes are told apart by stops. Else a note that is played again begins a new bow. A rest
    always does."""
    out: list[Stroke] = []
    in_bow = 0
    for place, stroke in enumerate(strokes):
        before = strokes[place - 1].pitch if place else None
        joined = (
            stroke.pitch is not None
            and before is not None
            and (before == stroke.pitch) is within
            and in_bow < notes_a_bow
        )
        in_bow = 0 if stroke.pitch is None else in_bow + 1 if joined else 1
        if joined and within:
            out[-1] = replace(out[-1], stopped=True)
        out.append(replace(stroke, joined=joined, stopped=joined and within))
    return out


def _linked(strokes: Sequence[Stroke]) -> list[Stroke]:
    """Down, then two equal short notes in one up-bow, as often as two follow; a longer note has a bow of its own."""
    out = list(strokes)
    up = False
    place = 0
    while place < len(out):
        here, after = out[place], out[place + 1] if place + 1 < len(out) else None
        pair = up and after is not None and here.pitch and after.pitch and here.beats == after.beats <= 1
        if pair and after is not None:
            out[place] = replace(here, stopped=True)
            out[place + 1] = replace(after, joined=True, stopped=True)
            place += 1
        up = not up if here.pitch else up
        place += 1
    return out
