"""Between the recipe that is kept and the Score that is played."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable
from dataclasses import asdict, dataclass, fields
from enum import StrEnum
from functools import lru_cache
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from attentive_owl.core.exercises import (
    NOT_OF_THE_STEP,
    Bowing,
    BowPart,
    Direction,
    Dynamic,
    Ease,
    Fingers,
    LineNote,
    Pin,
    Recipe,
    RecipeError,
    Register,
    Score,
    Sign,
    Way,
    build,
    look_at,
)
from attentive_owl.core.instruments import FourthFinger, UnplayableError
from attentive_owl.core.theory import ScaleForm
from attentive_owl.store.models import Assignment, AssignmentPupil, Pupil, Take

_ENUMS: dict[str, type[StrEnum]] = {
    "fourth_finger": FourthFinger,
    "form": ScaleForm,
    "direction": Direction,
    "bowing": Bowing,
    "bow_part": BowPart,
    "dynamic": Dynamic,
    "fingers": Fingers,
}
_LISTS: dict[str, Callable[[Any], Any]] = {
    "cue": str,
    "line": lambda own: LineNote(**own),
    "rungs": int,
    "ways": Way,
    "signs": Sign,
    "registers": lambda own: Register(**own),
    "pins": lambda own: Pin(**own),
}
_KINDS: dict[type, str] = {int: "a whole number", float: "a number", bool: "true or false", str: "a word"}


def recipe_from_document(document: dict[str, Any]) -> Recipe:
    """What it does not say is as it is by default. Raises RecipeError, with the name of the choice and what is allowed, for
    a document that makes no exercise."""
    given: dict[str, Any] = {key: value for key, value in document.items() if key != "kind"}
    plain = Recipe()
    names = [own.name for own in fields(Recipe)]
    for name, value in given.items():
        if name not in names:
            raise RecipeError(f"there is no choice {str(name)[:40]!r}: the choices are {', '.join(names)}")
        if name in _ENUMS:
            given[name] = _one_of(name, _ENUMS[name], value)
        elif name in _LISTS:
            given[name] = _list_of(name, value)
        elif name == "bars":
            given[name] = _bars(value)
        else:
            kind = type(getattr(plain, name))
            # A whole number is a number too, but no truth is one.
            right = isinstance(value, (int, float) if kind is float else kind) and isinstance(value, bool) == (
                kind is bool
            )
            if not right:
                raise RecipeError(f"{name} is {_KINDS[kind]}, and {str(value)[:40]!r} is not")
    return Recipe(**given)


def _one_of(name: str, choices: type[StrEnum], value: Any) -> StrEnum:
    try:
        return choices(value)
    except ValueError as error:
        allowed = ", ".join(repr(own.value) for own in choices)
        raise RecipeError(f"{name} is one of {allowed}, and {str(value)[:40]!r} is not") from error


def _list_of(name: str, value: Any) -> tuple[Any, ...]:
    if not isinstance(value, (list, tuple)):
        raise RecipeError(f"{name} is a list")
    try:
        return tuple(_LISTS[name](own) for own in value)
    except RecipeError:
        raise
    except (TypeError, ValueError) as error:
        # Addresses of sounds are open to whoever is signed in: any value may stand in them.
        raise RecipeError(f"one of the {name} is none") from error


def _bars(value: Any) -> tuple[int, int] | None:
    if value in (None, []):
        return None
    if not isinstance(value, (list, tuple)) or len(value) != 2 or not all(type(own) is int for own in value):
        raise RecipeError("bars are two whole numbers, the first and the last")
    return value[0], value[1]


def document_from_recipe(recipe: Recipe) -> dict[str, Any]:
    """Plain values, as JSON keeps them."""
    document = asdict(recipe)
    for name in _ENUMS:
        document[name] = document[name].value
    for name in _LISTS:
        document[name] = [getattr(own, "value", own) for own in document[name]]
    document["bars"] = list(recipe.bars) if recipe.bars else None
    return document


def step_key(document: dict[str, Any]) -> str:
    """What an exercise is as a step of somebody's way: the same at whatever tempo and with whatever fingering it was played."""
    whole = document_from_recipe(recipe_from_document(document))
    step = {name: value for name, value in whole.items() if name not in NOT_OF_THE_STEP}
    return hashlib.sha256(json.dumps(step, sort_keys=True).encode()).hexdigest()


def score_for(
    document: dict[str, Any], instrument_key: str, tempo_bpm: float | None = None, ease: str = Ease.USUAL
) -> Score:
    """The exercise on one instrument, at its own tempo or another, in the usual, the easier or the harder line."""
    score = build(recipe_from_document(document), instrument_key, Ease(ease))
    return score if tempo_bpm is None else score.at_tempo(tempo_bpm)


def score_or_none(instrument_key: str, recipe: Recipe) -> Score | None:
    """None where the instrument can not play it, or where there is nothing to play."""
    try:
        return build(recipe, instrument_key)
    except (UnplayableError, RecipeError):
        return None


def ease_as_set(session: Session, assignment: Assignment, pupil: Pupil) -> Ease:
    """Which line was a pupil's when the assignment was set."""
    kept = session.scalar(
        select(AssignmentPupil.ease).where(
            AssignmentPupil.assignment_id == assignment.id, AssignmentPupil.pupil_id == pupil.id
        )
    )
    return Ease(kept or Ease.USUAL)


@dataclass(frozen=True)
class LineAsSet:
    """What is set to a pupil, in the line that was theirs when it was set: all of it or some bars, at the target tempo or another."""

    recipe: dict[str, Any]
    ease: Ease
    score: Score


def line_as_set(
    session: Session,
    assignment: Assignment,
    pupil: Pupil,
    tempo_bpm: float | None = None,
    bars: tuple[int, int] | None = None,
) -> LineAsSet:
    """`bars` are counted within what is set. Raises RecipeError where it has no such bars."""
    recipe, ease = assignment.exercise.recipe, ease_as_set(session, assignment, pupil)
    if bars is not None:
        # Of an exercise that is itself some bars of a line, they are counted from the first of these.
        first = (recipe.get("bars") or [1])[0]
        recipe = {**recipe, "bars": [first + bar - 1 for bar in bars]}
    return LineAsSet(recipe, ease, score_for(recipe, pupil.instrument, tempo_bpm or assignment.target_bpm, ease))


def line_of_take(session: Session, take: Take) -> LineAsSet:
    """What was to be played in a take."""
    return line_as_set(session, take.assignment, take.pupil, take.bpm, take.bars)


def eases_of(document: dict[str, Any], instrument_key: str) -> list[Ease]:
    """The usual line, and the others where the instrument has different ones."""
    usual = score_for(document, instrument_key).notes
    others = (Ease.EASIER, Ease.HARDER)
    return [Ease.USUAL, *(ease for ease in others if score_for(document, instrument_key, ease=ease).notes != usual)]


@lru_cache(maxsize=2048)
def _features(recipe: Recipe, instrument_key: str) -> frozenset[str]:
    try:
        return look_at(build(recipe, instrument_key)).features
    except UnplayableError:
        # What an instrument could not play taught it nothing.
        return frozenset()


def features_of(document: dict[str, Any], instrument_key: str) -> frozenset[str]:
    """What an exercise asks for on one instrument, in words; nothing where it can not be played."""
    return _features(recipe_from_document(document), instrument_key)
