"""Kept exercises and learning paths."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated
from uuid import UUID

from pydantic import Field, StringConstraints

from attentive_owl.web.schemas.common import In, Out
from attentive_owl.web.schemas.recipes import Recipe, Tag


class ExerciseOut(Out):
    id: UUID
    title: str
    recipe: Recipe
    tags: list[str]
    version: int
    created_at: datetime
    retired: bool
    assigned: int


class ExerciseList(Out):
    exercises: list[ExerciseOut]
    page: int
    pages: int


class ShelfQuestion(In):
    search: Annotated[str, StringConstraints(strip_whitespace=True, max_length=60)] = ""
    retired: bool = False
    page: Annotated[int, Field(ge=1)] = 1


class NewExercise(In):
    recipe: Recipe
    title: Annotated[str, StringConstraints(strip_whitespace=True, max_length=120)] = ""
    """Empty: named after its recipe."""
    tags: Annotated[list[Tag], Field(max_length=8)] = []
    path_id: UUID | None = None
    """The learning path at whose end it is also put."""


class PathStep(In):
    title: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=160)]
    recipe: Recipe


class PathOut(Out):
    id: UUID
    name: str
    about: str
    steps: list[PathStep]


class PathList(Out):
    paths: list[PathOut]


class PathChange(In):
    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80)]
    about: Annotated[str, StringConstraints(strip_whitespace=True, max_length=300)] = ""
    steps: Annotated[list[PathStep], Field(max_length=120)]
