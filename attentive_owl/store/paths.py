"""The learning paths that ship, as a studio's own."""

from __future__ import annotations

import uuid

from attentive_owl.core.exercises import PATHS
from attentive_owl.store.exercises import document_from_recipe
from attentive_owl.store.models import LearningPath


def shipped_paths(studio_id: uuid.UUID) -> list[LearningPath]:
    """Rows that are not added yet."""
    return [
        LearningPath(
            studio_id=studio_id,
            name=path.name,
            about=path.about,
            place=place,
            steps=[
                {"title": name, "recipe": document_from_recipe(step)}
                for name, step in zip(path.titles, path.steps, strict=True)
            ],
        )
        for place, path in enumerate(PATHS)
    ]
