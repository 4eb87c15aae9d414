"""Between the recipe that is kept and the Score that is played."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from attentive_owl.core.exercises import ScaleRecipe, Score, build_scale
from attentive_owl.core.instruments import FourthFinger


def recipe_from_document(document: dict[str, Any]) -> ScaleRecipe:
    """Raises ValueError for a document that makes no exercise."""
    if document.get("kind") != "scale":
        raise ValueError(f"{document.get('kind')!r} is no kind of exercise")
    return ScaleRecipe(
        str(document["tonic"]),
        str(document["pattern"]),
        float(document["tempo_bpm"]),
        FourthFinger(document.get("fourth_finger", "open")),
    )


def document_from_recipe(recipe: ScaleRecipe) -> dict[str, Any]:
    return {
        "kind": "scale",
        "tonic": recipe.tonic,
        "pattern": recipe.pattern,
        "tempo_bpm": recipe.tempo_bpm,
        "fourth_finger": recipe.fourth_finger.value,
    }


@lru_cache(maxsize=512)
def _built(recipe: ScaleRecipe, instrument_key: str) -> Score:
    return build_scale(recipe, instrument_key)


def score_for(document: dict[str, Any], instrument_key: str, tempo_bpm: float | None = None) -> Score:
    """The exercise on one instrument, at its own tempo or another."""
    score = _built(recipe_from_document(document), instrument_key)
    return score if tempo_bpm is None else score.at_tempo(tempo_bpm)
