"""Between the recipe of the wire and that of the core."""

from __future__ import annotations

from typing import Any

from attentive_owl.core import exercises
from attentive_owl.store.exercises import document_from_recipe, recipe_from_document
from attentive_owl.web.schemas.recipes import Recipe


def recipe_in(asked: Recipe) -> exercises.Recipe:
    """Raises RecipeError where the choices do not go together."""
    return recipe_from_document(asked.model_dump(mode="json"))


def recipe_out(recipe: exercises.Recipe) -> Recipe:
    return Recipe.model_validate(document_from_recipe(recipe))


def kept_recipe_out(document: dict[str, Any]) -> Recipe:
    """Also one that was kept before later choices were known."""
    return recipe_out(recipe_from_document(document))
