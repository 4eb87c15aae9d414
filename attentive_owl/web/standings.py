"""Where pupils stand: what is set, played and passed, by step, and what keeps going wrong; for the picture of a class and for what
might come next."""

from __future__ import annotations

import uuid
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import UTC, date, datetime, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from attentive_owl.core.exercises import Recipe
from attentive_owl.core.planning import GoMade, HeardTrouble, OnStep, Standpoint, Trouble, standpoint
from attentive_owl.core.theory import NoteNames, Pitch, say
from attentive_owl.store.exercises import recipe_from_document, step_key
from attentive_owl.store.models import Assignment, AssignmentPupil, Exercise, PassedStep, Take
from attentive_owl.web.clock import StudioClock
from attentive_owl.web.figures import Figures, figures

_LOOKED_BACK = timedelta(weeks=16)
LATELY = timedelta(days=14)
"""What is heard within two weeks is of now."""


@dataclass(frozen=True)
class StepOfPupil:
    key: str
    title: str
    recipe: Recipe
    set_on: date | None
    target_bpm: float
    goes: tuple[Figures, ...]
    passed: PassedStep | None


@dataclass
class PupilStanding:
    """Everything about one pupil, by the key of the step."""

    steps: dict[str, StepOfPupil] = field(default_factory=dict)

    def standpoint(self, key: str, clock: StudioClock) -> Standpoint:
        own = self.steps.get(key)
        if own is None:
            return standpoint(OnStep(), clock.today())
        goes = tuple(GoMade(clock.local(go.recorded_at).date(), go.good, go.home_share, go.bpm) for go in own.goes)
        return standpoint(
            OnStep(
                own.set_on,
                own.target_bpm,
                goes,
                any(go.accepted for go in own.goes),
                clock.local(own.passed.created_at).date() if own.passed else None,
            ),
            clock.today(),
        )


@dataclass
class _Set:
    title: str
    recipe: dict[str, object]
    set_at: datetime
    target_bpm: float


def standings(session: Session, pupil_ids: Iterable[uuid.UUID], clock: StudioClock) -> dict[uuid.UUID, PupilStanding]:
    """Of the last sixteen weeks; what is passed is never forgotten."""
    ids = list(pupil_ids)
    since = datetime.now(UTC) - _LOOKED_BACK
    keys: dict[uuid.UUID, str] = {}
    was_set: dict[tuple[uuid.UUID, str], _Set] = {}
    rows = session.execute(
        select(
            AssignmentPupil.pupil_id,
            Exercise.id,
            Exercise.title,
            Exercise.recipe,
            Assignment.created_at,
            Assignment.target_bpm,
        )
        .join(Assignment, Assignment.id == AssignmentPupil.assignment_id)
        .join(Exercise, Exercise.id == Assignment.exercise_id)
        .where(AssignmentPupil.pupil_id.in_(ids), Assignment.created_at > since)
        .order_by(Assignment.created_at)
    )
    for pupil_id, exercise_id, title, recipe, set_at, target in rows:
        key = keys.setdefault(exercise_id, "") or step_key(recipe)
        keys[exercise_id] = key
        before = was_set.get((pupil_id, key))
        was_set[pupil_id, key] = _Set(title, recipe, before.set_at if before else set_at, target)
    goes: dict[tuple[uuid.UUID, str], list[Figures]] = defaultdict(list)
    for go in figures(session, Take.pupil_id.in_(ids), Take.recorded_at > since):
        if go.exercise_id in keys:
            goes[go.pupil_id, keys[go.exercise_id]].append(go)
    passed = {
        (own.pupil_id, own.key): own for own in session.scalars(select(PassedStep).where(PassedStep.pupil_id.in_(ids)))
    }
    found: dict[uuid.UUID, PupilStanding] = {own: PupilStanding() for own in ids}
    for place in {**was_set, **passed}:
        pupil_id, key = place
        own_set, own_passed = was_set.get(place), passed.get(place)
        document = own_set.recipe if own_set else own_passed.recipe if own_passed else {}
        found[pupil_id].steps[key] = StepOfPupil(
            key,
            own_set.title if own_set else own_passed.title if own_passed else "",
            recipe_from_document(dict(document)),
            clock.local(own_set.set_at).date() if own_set else None,
            own_set.target_bpm if own_set else 0.0,
            tuple(goes.get(place, ())),
            own_passed,
        )
    return found


def troubles(standing: PupilStanding, name: str, now: datetime, names: NoteNames) -> list[HeardTrouble]:
    """What was heard of one pupil in the last two weeks, the newest first: of each take its causes, and wrong notes by name."""
    heard = []
    for step in standing.steps.values():
        for go in step.goes:
            if now - go.recorded_at > LATELY:
                continue
            # Each take says a thing once.
            found = {
                (own["kind"], own.get("finger"), own.get("string")): Trouble(
                    own["kind"], own.get("title") or own["kind"], own.get("finger"), own.get("string")
                )
                for own in go.causes
                if own["kind"] not in ("key_signature", "place")
            }
            notes = {
                own: f"{say(Pitch.parse(own), names, step.recipe.key)} on another pitch"
                for own in dict.fromkeys(go.wrong_names)
            }
            heard += [(go.recorded_at, HeardTrouble(name, own, step.recipe)) for own in found.values()]
            heard += [
                (go.recorded_at, HeardTrouble(name, Trouble("note", words, note=own), step.recipe))
                for own, words in notes.items()
            ]
    return [own for _, own in sorted(heard, key=lambda one: one[0], reverse=True)]
