"""All the lines of a key, as bare pitches: what else a pupil may have played."""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache
from itertools import groupby, product

from attentive_owl.core.exercises.building import build
from attentive_owl.core.exercises.families import FAMILIES
from attentive_owl.core.exercises.patterns import RecipeError
from attentive_owl.core.exercises.recipe import Recipe
from attentive_owl.core.exercises.score import Score
from attentive_owl.core.instruments import UnplayableError, instrument
from attentive_owl.core.theory import Mode, ScaleForm

Line = tuple[int, ...]
"""Key numbers, of notes that repeat a pitch one."""


def line_of(score: Score) -> Line:
    """The pitches of a score one after another as they are written, (key number, ...); a repeated pitch once."""
    return tuple(midi for midi, _ in groupby(note.midi for note in score.notes))


@lru_cache(maxsize=64)
def lines_in(tonic: str, mode: Mode, instrument_key: str) -> Mapping[Line, str]:
    """Every line that the families make in a key on an instrument, with its name: in one octave and in two, on each string and
    with each finger where that matters, in every form of the scale. Where two are alike the first family names it."""
    forms = [form for form in ScaleForm if form.mode is mode]
    strings = [string.name for string in instrument(instrument_key).strings]
    lines: dict[Line, str] = {}
    for family in FAMILIES.values():
        for form, octaves, string, finger in product(
            forms if "form" in family.uses else forms[:1],
            (1, 2) if "octaves" in family.uses else (1,),
            strings if "string" in family.uses else strings[:1],
            (1, 2, 3, 4) if "finger" in family.uses else (1,),
        ):
            recipe = Recipe(tonic, family=family.key, form=form, octaves=octaves, string=string, finger=finger)
            try:
                line = line_of(build(recipe, instrument_key))
            except (RecipeError, UnplayableError):
                # There is no such line on this instrument.
                continue
            where = f", {recipe.tonic_spoken} {form.value}" if "tonic" in family.uses else ""
            lines.setdefault(line, family.name + where + (", two octaves" if octaves == 2 else ""))
    return lines
