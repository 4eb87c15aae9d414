"""The studio's shelf of exercises, and its learning paths."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import String, cast, func, or_, select
from sqlalchemy.orm import Session

from attentive_owl.core.exercises import title
from attentive_owl.store.exercises import document_from_recipe, recipe_from_document
from attentive_owl.store.models import Assignment, Exercise, LearningPath, Studio
from attentive_owl.store.paths import shipped_paths
from attentive_owl.web.access import own_studio, teacher_only, visitor
from attentive_owl.web.areas import Area
from attentive_owl.web.paging import Page, count_of
from attentive_owl.web.problems import not_found
from attentive_owl.web.recipes import kept_recipe_out, recipe_in
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.common import ById, Problem
from attentive_owl.web.schemas.recipes import Recipe
from attentive_owl.web.schemas.shelf import (
    ExerciseList,
    ExerciseOut,
    NewExercise,
    PathChange,
    PathList,
    PathOut,
    PathStep,
    ShelfQuestion,
)

api = Area("shelf", __name__, 401)
_PER_PAGE = 50


@api.get("/exercises", responses={200: ExerciseList})
@teacher_only
def shelf(query: ShelfQuestion) -> Any:
    """What stands on the shelf (or what was retired), newest first; the search looks at titles and tags."""
    assigned = select(Assignment.exercise_id, func.count().label("count")).group_by(Assignment.exercise_id).subquery()
    question = (
        select(Exercise, func.coalesce(assigned.c.count, 0))
        .outerjoin(assigned, assigned.c.exercise_id == Exercise.id)
        .where(Exercise.retired_at.is_not(None) if query.retired else Exercise.retired_at.is_(None))
        .order_by(Exercise.created_at.desc(), Exercise.id)
    )
    for word in query.search.split():
        like = f"%{word}%"
        question = question.where(or_(Exercise.title.ilike(like), cast(Exercise.tags, String).ilike(like)))
    with own_studio() as session:
        paged = Page(count_of(session, question), _PER_PAGE, query.page)
        rows = session.execute(question.limit(_PER_PAGE).offset(paged.first)).all()
        return reply(
            ExerciseList(
                exercises=[exercise_out(exercise, int(count)) for exercise, count in rows],
                page=paged.page,
                pages=paged.pages,
            )
        )


@api.post("/exercises", responses={201: ExerciseOut, 404: Problem})
@teacher_only
def keep(body: NewExercise) -> Any:
    with own_studio() as session:
        exercise = kept_exercise(session, body.recipe)
        exercise.retired_at = None
        _describe(exercise, body)
        if body.path_id is not None:
            path = _own_path(session, body.path_id)
            path.steps = [*path.steps, {"title": exercise.title, "recipe": exercise.recipe}]
        session.flush()
        return reply(exercise_out(exercise, _assigned(session, exercise)), 201)


@api.put("/exercises/<uuid:id>", responses={200: ExerciseOut, 404: Problem})
@teacher_only
def edit(path: ById, body: NewExercise) -> Any:
    """An exercise that nobody has been set changes; one that has been stays as it is, and a new version takes its
    place on the shelf."""
    with own_studio() as session:
        exercise = _own_exercise(session, path.id)
        document = document_from_recipe(recipe_in(body.recipe))
        if document != exercise.recipe and _assigned(session, exercise):
            newer = Exercise(
                title=exercise.title, recipe=document, version=exercise.version + 1, replaces_id=exercise.id
            )
            exercise.retired_at = datetime.now(UTC)
            session.add(newer)
            exercise = newer
        exercise.recipe = document
        _describe(exercise, body)
        session.flush()
        session.refresh(exercise)
        return reply(exercise_out(exercise, _assigned(session, exercise)))


@api.post("/exercises/<uuid:id>/retire", responses={200: ExerciseOut, 404: Problem})
@teacher_only
def retire(path: ById) -> Any:
    """Off the shelf. What is assigned goes on."""
    return _shelved(path.id, datetime.now(UTC))


@api.post("/exercises/<uuid:id>/restore", responses={200: ExerciseOut, 404: Problem})
@teacher_only
def restore(path: ById) -> Any:
    return _shelved(path.id, None)


def _shelved(exercise_id: uuid.UUID, retired_at: datetime | None) -> Any:
    with own_studio() as session:
        exercise = _own_exercise(session, exercise_id)
        exercise.retired_at = retired_at
        return reply(exercise_out(exercise, _assigned(session, exercise)))


def kept_exercise(session: Session, recipe: Recipe) -> Exercise:
    """The shelf's exercise of this recipe; made if it is new (the same recipe twice is one exercise)."""
    own = recipe_in(recipe)
    document = document_from_recipe(own)
    known: Exercise | None = session.scalar(
        select(Exercise).where(Exercise.recipe == document).order_by(Exercise.retired_at.is_not(None)).limit(1)
    )
    if known is not None:
        return known
    exercise = Exercise(title=title(own), recipe=document)
    session.add(exercise)
    session.flush()
    session.refresh(exercise)
    return exercise


def _describe(exercise: Exercise, body: NewExercise) -> None:
    exercise.title = body.title or title(recipe_from_document(exercise.recipe))
    exercise.tags = list(dict.fromkeys(tag.lower() for tag in body.tags))


def _assigned(session: Session, exercise: Exercise) -> int:
    return (
        session.scalar(select(func.count()).select_from(Assignment).where(Assignment.exercise_id == exercise.id)) or 0
    )


def _own_exercise(session: Session, exercise_id: uuid.UUID) -> Exercise:
    exercise = session.scalar(select(Exercise).where(Exercise.id == exercise_id))
    if exercise is None:
        raise not_found()
    return exercise


def exercise_out(exercise: Exercise, assigned: int) -> ExerciseOut:
    return ExerciseOut(
        id=exercise.id,
        title=exercise.title,
        recipe=kept_recipe_out(exercise.recipe),
        tags=exercise.tags,
        version=exercise.version,
        created_at=exercise.created_at,
        retired=exercise.retired_at is not None,
        assigned=assigned,
    )


@api.get("/paths", responses={200: PathList})
@teacher_only
def paths() -> Any:
    """The studio's learning paths; the three that ship become its own when they are first opened."""
    with own_studio() as session:
        # Two that open them at one time: the second waits, and finds them made.
        session.execute(select(Studio.id).where(Studio.id == visitor().studio_id).with_for_update())
        found = list(session.scalars(select(LearningPath).order_by(LearningPath.place)))
        if not found:
            found = shipped_paths(visitor().studio_id)
            session.add_all(found)
            session.flush()
        return reply(PathList(paths=[_path_out(path) for path in found]))


@api.put("/paths/<uuid:id>", responses={200: PathOut, 404: Problem})
@teacher_only
def change_path(path: ById, body: PathChange) -> Any:
    with own_studio() as session:
        own = _own_path(session, path.id)
        own.name, own.about = body.name, body.about
        own.steps = [
            {
                "title": step.title,
                "recipe": document_from_recipe(recipe_in(step.recipe)),
            }
            for step in body.steps
        ]
        return reply(_path_out(own))


def _own_path(session: Session, path_id: uuid.UUID) -> LearningPath:
    path = session.scalar(select(LearningPath).where(LearningPath.id == path_id))
    if path is None:
        raise not_found()
    return path


def _path_out(path: LearningPath) -> PathOut:
    return PathOut(
        id=path.id,
        name=path.name,
        about=path.about,
        steps=[PathStep(title=step["title"], recipe=kept_recipe_out(step["recipe"])) for step in path.steps],
    )
