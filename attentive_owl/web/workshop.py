"""Making exercises: the catalogue of choices, the living score, the shelf, the sound."""

from __future__ import annotations

import hashlib
import io
from typing import Any

from flask import send_file
from flask_openapi3 import APIBlueprint, Tag
from sqlalchemy import func, select

from attentive_owl.core.exercises import PATTERNS
from attentive_owl.core.exercises.scales import HIGHEST_TEMPO_BPM, LOWEST_TEMPO_BPM
from attentive_owl.core.instruments import INSTRUMENTS, UnplayableError
from attentive_owl.core.judging import LEVELS
from attentive_owl.core.playing import demonstrate
from attentive_owl.formats.audio import flac_bytes
from attentive_owl.store.exercises import document_from_recipe, recipe_from_document, score_for
from attentive_owl.store.models import Assignment, Exercise
from attentive_owl.web.access import own_studio, services, signed_in, teacher_only
from attentive_owl.web.problems import ProblemError
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas import (
    Catalogue,
    DemonstrationQuestion,
    ExerciseList,
    ExerciseOut,
    InstrumentOut,
    LevelOut,
    NewExercise,
    PatternOut,
    PreviewOut,
    PreviewQuestion,
    Problem,
    Recipe,
    SizeOut,
)
from attentive_owl.web.scores import score_out

api = APIBlueprint(
    "workshop", __name__, url_prefix="/api", abp_tags=[Tag(name="workshop")], abp_responses={401: Problem}
)
_TONICS = ("D", "G", "A", "C")
_DEMONSTRATION_VERSION = "1"


@api.get("/catalogue", responses={200: Catalogue})
@signed_in
def catalogue() -> Any:
    return reply(
        Catalogue(
            tonics=list(_TONICS),  # type: ignore[arg-type]
            patterns=[
                PatternOut(key=p.key, name=p.name, cue=list(p.cue), values=[float(v) for v in p.values])  # type: ignore[arg-type]
                for p in PATTERNS.values()
            ],
            instruments=[
                InstrumentOut(
                    key=entry.key,  # type: ignore[arg-type]
                    name=entry.name,
                    sizes=[SizeOut(name=size, string_length_mm=length) for size, length in entry.sizes.items()],
                )
                for entry in INSTRUMENTS.values()
            ],
            levels=[LevelOut.model_validate(level, from_attributes=True) for level in LEVELS.values()],
            lowest_tempo_bpm=LOWEST_TEMPO_BPM,
            highest_tempo_bpm=HIGHEST_TEMPO_BPM,
        )
    )


@api.post("/preview", responses={200: PreviewOut, 422: Problem})
@teacher_only
def preview(body: PreviewQuestion) -> Any:
    """The recipe on each instrument, engraved; nothing is kept."""
    document = body.recipe.model_dump()
    try:
        scores = [score_for(document, key) for key in body.instruments]
    except UnplayableError as error:
        raise ProblemError(422, f"{error}.") from error
    title = recipe_from_document(document).title
    return reply(PreviewOut(title=title, scores=[score_out(score, document, body.width, 0.84) for score in scores]))


@api.get("/exercises", responses={200: ExerciseList})
@teacher_only
def shelf() -> Any:
    with own_studio() as session:
        assigned = (
            select(Assignment.exercise_id, func.count().label("count")).group_by(Assignment.exercise_id).subquery()
        )
        rows = session.execute(
            select(Exercise, func.coalesce(assigned.c.count, 0))
            .outerjoin(assigned, assigned.c.exercise_id == Exercise.id)
            .order_by(Exercise.created_at.desc())
            .limit(200)
        ).all()
        return reply(ExerciseList(exercises=[exercise_out(exercise, int(count)) for exercise, count in rows]))


@api.post("/exercises", responses={201: ExerciseOut})
@teacher_only
def keep(body: NewExercise) -> Any:
    with own_studio() as session:
        exercise = kept_exercise(session, body.recipe)
        session.flush()
        return reply(exercise_out(exercise, 0), 201)


def kept_exercise(session: Any, recipe: Recipe) -> Exercise:
    """The shelf's exercise of this recipe; made if it is new (the same recipe twice is one exercise)."""
    own = recipe_from_document(recipe.model_dump())
    document = document_from_recipe(own)
    known: Exercise | None = session.scalar(select(Exercise).where(Exercise.recipe == document).limit(1))
    if known is not None:
        return known
    exercise = Exercise(title=own.title, recipe=document)
    session.add(exercise)
    session.flush()
    session.refresh(exercise)
    return exercise


def exercise_out(exercise: Exercise, assigned: int) -> ExerciseOut:
    return ExerciseOut(
        id=exercise.id,
        title=exercise.title,
        recipe=Recipe(**exercise.recipe),
        created_at=exercise.created_at,
        assigned=assigned,
    )


@api.get("/demonstration")
@signed_in
def demonstration(query: DemonstrationQuestion) -> Any:
    """The exercise as it should sound, after a counted measure: FLAC. Rendered once, then kept."""
    document = {"kind": "scale", **query.model_dump(exclude={"instrument"})}
    score = score_for(document, query.instrument)
    name = hashlib.sha256(f"{_DEMONSTRATION_VERSION}:{query.model_dump_json()}".encode()).hexdigest()
    audio = services().audio
    if not audio.exists(name, "demonstration"):
        sound = demonstrate(score)
        audio.put_bytes(flac_bytes(sound.samples, sound.sample_rate), name, "demonstration")
    data = audio.read(name, "demonstration")
    return send_file(io.BytesIO(data), mimetype="audio/flac", conditional=True, etag=name, max_age=86400)
