"""What the worker gives the ear beside the line that is open: the pupil's other exercises, and the other instruments' parts."""

from __future__ import annotations

import uuid
from datetime import UTC, date, datetime, timedelta

from sqlalchemy import Engine

from attentive_owl.core.exercises import Recipe, title
from attentive_owl.jobs.checking import other_lines
from attentive_owl.store.exercises import document_from_recipe
from attentive_owl.store.models import Assignment, Exercise, Pupil, Take
from attentive_owl.store.session import open_session
from tests.conftest import Filled


def test_other_exercises_of_the_pupil_and_other_instruments_parts(engine: Engine, filled: Filled) -> None:
    with open_session(engine, "tests make exercises") as session:
        recipes = {"mine": Recipe("G", tempo_bpm=80), "another's": Recipe("A", tempo_bpm=80)}
        pupils = {"mine": filled.pupil_id, "another's": filled.other_pupil_id}
        ids = {}
        for name, recipe in recipes.items():
            exercise = Exercise(studio_id=filled.studio_id, title=title(recipe), recipe=document_from_recipe(recipe))
            assignment = Assignment(
                studio_id=filled.studio_id, exercise=exercise, due_on=date.today() + timedelta(days=2), target_bpm=80,
                good_repeats=1, pupils=[session.get_one(Pupil, pupils[name])],
            )  # fmt: skip
            session.add_all([exercise, assignment])
            session.flush()
            ids[name] = str(assignment.id)
        take = Take(
            studio_id=filled.studio_id, pupil_id=filled.pupil_id, assignment_id=filled.assignment_id, client_key=uuid.uuid4().hex,
            sha256="0" * 64, file_name="take", size_bytes=1, duration_s=1.0, recorded_at=datetime.now(UTC),
        )  # fmt: skip
        session.add(take)
        session.flush()
        lines = other_lines(session, take)
    known = {line.known_as: line.name for line in lines if not line.of_instrument}
    assert set(known) == {ids["mine"]}
    assert known[ids["mine"]].startswith("G major, one octave, quarters (due ")
    assert {line.name for line in lines if line.of_instrument} == {"viola", "cello", "double bass"}
    assert {line.score.instrument_key for line in lines if line.of_instrument} == {"viola", "cello", "bass"}
