"""From the steps of a line to its strokes: patterns spelt out, repeated, with waits, and taken in bows."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from attentive_owl.core.exercises.families import Family, Step
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


def strokes_of(recipe: Recipe, own: Family, steps: Sequence[Step], meter: Meter, pickup: Fraction) -> list[Stroke]:
    """`pickup`: beats before the first full measure. Choices of the recipe that the family does not use are passed over."""
    times = recipe.times if "times" in own.uses else 1
    waits = recipe.wait and "wait" in own.uses
    strokes: list[Stroke] = []
    for place, step in enumerate(steps):
        if step.pattern is None:
            strokes.append(Stroke(step.pitch, step.beats or Fraction(1), None, step.slurred, step.string))
        else:
            for _ in range(times):
                strokes += _spelt_out(recipe, step)
        wait = waits and step.pattern is not None and place + 1 < len(steps)
        if wait or step.fills_measure:
            end = sum((stroke.beats for stroke in strokes), Fraction(0)) - pickup
            rest = -end % meter.measure_beats or (meter.measure_beats if wait else Fraction(0))
            strokes += [Stroke(None, rest, None, False)] if rest else []
    if "bowing" not in own.uses:
        return strokes
    if recipe.bowing is Bowing.LINKED:
        return _linked(strokes)
    if recipe.bowing is Bowing.STACCATO:
        return [replace(stroke, stopped=stroke.pitch is not None) for stroke in strokes]
    if recipe.bowing.notes_a_bow == 1:
        return strokes
    within = any(step.pattern and step.pattern.notes * times > 1 for step in steps)
    slurred = _slurred(strokes, recipe.bowing.notes_a_bow, within)
    return _stopped_in_bows(slurred) if within or recipe.bowing is Bowing.STOPPED else slurred


def _spelt_out(recipe: Recipe, step: Step) -> Iterator[Stroke]:
    assert step.pattern is not None
    words = iter(recipe.cue if recipe.cue and recipe.pattern == step.pattern.key else step.pattern.cue)
    for value in step.pattern.values:
        sounding = value > 0
        yield Stroke(
            step.pitch if sounding else None, abs(value), next(words) if sounding else None, False, step.string
        )


def _slurred(strokes: Sequence[Stroke], notes_a_bow: int, within: bool) -> list[Stroke]:
    """So many strokes in a bow. `within`: each note of the line is played several times; then a bow never goes over to
    the next note. Else a note that is played again begins a new bow. A rest always does."""
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
        out.append(replace(stroke, joined=joined))
    return out


def _stopped_in_bows(strokes: Sequence[Stroke]) -> list[Stroke]:
    """What shares a bow is told apart by stops; a bow of its own goes on to its end."""
    goes_on = [after.joined for after in strokes[1:]] + [False]
    return [replace(own, stopped=own.joined or on) for own, on in zip(strokes, goes_on, strict=True)]


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
