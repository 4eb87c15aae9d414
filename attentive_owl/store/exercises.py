"""Between the recipe that is kept and the Score that is played."""

from __future__ import annotations

from dataclasses import asdict
from functools import lru_cache
from typing import Any

from attentive_owl.core.exercises import Bowing, Direction, LineNote, Pin, Recipe, RecipeError, Score, build, look_at
from attentive_owl.core.instruments import FourthFinger, UnplayableError
from attentive_owl.core.theory import ScaleForm

_ENUMS = {"fourth_finger": FourthFinger, "form": ScaleForm, "direction": Direction, "bowing": Bowing}


def recipe_from_document(document: dict[str, Any]) -> Recipe:
    """Raises RecipeError for a document that makes no exercise. What it does not say is as it is by default."""
    fields: dict[str, Any] = {key: value for key, value in document.items() if key != "kind"}
    try:
        for name, enum in _ENUMS.items():
            if name in fields:
                fields[name] = enum(fields[name])
        fields["cue"] = tuple(fields.get("cue", ()))
        fields["bars"] = tuple(fields["bars"]) if fields.get("bars") else None
        fields["line"] = tuple(LineNote(**note) for note in fields.get("line", ()))
        fields["pins"] = tuple(Pin(**pin) for pin in fields.get("pins", ()))
        return Recipe(**fields)
    except RecipeError:
        raise
    except (TypeError, ValueError, AttributeError) as error:
        # Addresses of sounds are open to whoever is signed in: any value may stand in them.
        raise RecipeError("this is no recipe of an exercise") from error


def document_from_recipe(recipe: Recipe) -> dict[str, Any]:
    """Plain values, as JSON keeps them."""
    document = asdict(recipe)
    for name in _ENUMS:
        document[name] = document[name].value
    for name in ("cue", "line", "pins"):
        document[name] = list(document[name])
    document["bars"] = list(recipe.bars) if recipe.bars else None
    return document


@lru_cache(maxsize=512)
def _built(recipe: Recipe, instrument_key: str) -> Score:
    return build(recipe, instrument_key)


def score_for(document: dict[str, Any], instrument_key: str, tempo_bpm: float | None = None) -> Score:
    """The exercise on one instrument, at its own tempo or another."""
    score = _built(recipe_from_document(document), instrument_key)
    return score if tempo_bpm is None else score.at_tempo(tempo_bpm)


@lru_cache(maxsize=2048)
def _features(recipe: Recipe, instrument_key: str) -> frozenset[str]:
    try:
        return look_at(_built(recipe, instrument_key)).features
    except UnplayableError:
        # What an instrument could not play taught it nothing.
        return frozenset()


def features_of(document: dict[str, Any], instrument_key: str) -> frozenset[str]:
    """What an exercise asks for on one instrument, in words; nothing where it can not be played."""
    return _features(recipe_from_document(document), instrument_key)
