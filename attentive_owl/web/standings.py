"""Where pupils stand: what is set, played and passed, by step, and what keeps going wrong; for the picture of a class and for what
might come next."""

from __future__ import annotations

import uuid
from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from datetime import UTC, date, datetime, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from attentive_owl.core.exercises import Recipe
from attentive_owl.core.planning import GoMade, HeardTrouble, OnStep, Standpoint, Trouble, is_now, standpoint
from attentive_owl.core.theory import NoteNames, Pitch, say
from attentive_owl.store.exercises import recipe_from_document, step_key
from attentive_owl.store.models import Assignment, AssignmentPupil, Exercise, PassedStep, Pupil, Take
from attentive_owl.web.clock import StudioClock
from attentive_owl.web.figures import Figures, HeardIn, figures, heard_in
from attentive_owl.web.schemas.progress import Cell

LOOKED_BACK = timedelta(weeks=16)
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

    def last_played(self, clock: StudioClock) -> date | None:
        return clock.local(self.goes[-1].recorded_at).date() if self.goes else None

    def is_now(self, clock: StudioClock) -> bool:
        return is_now(self.set_on, self.last_played(clock), clock.today())


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
    set_at: datetime
    target_bpm: float


def standings(session: Session, pupil_ids: Iterable[uuid.UUID], clock: StudioClock) -> dict[uuid.UUID, PupilStanding]:
    """Of the last sixteen weeks; what is passed is never forgotten."""
    ids = list(pupil_ids)
    since = datetime.now(UTC) - LOOKED_BACK
    rows = session.execute(
        select(AssignmentPupil.pupil_id, Assignment.exercise_id, Assignment.created_at, Assignment.target_bpm)
        .join(Assignment, Assignment.id == AssignmentPupil.assignment_id)
        .where(AssignmentPupil.pupil_id.in_(ids), Assignment.created_at > since)
        .order_by(Assignment.created_at)
    ).all()
    exercises = {
        own.id: own
        for own in session.scalars(
            select(Exercise).where(Exercise.id.in_({exercise_id for _, exercise_id, *_ in rows}))
        )
    }
    keys = {own.id: step_key(own.recipe) for own in exercises.values()}
    recipes = {keys[own.id]: recipe_from_document(own.recipe) for own in exercises.values()}
    was_set: dict[tuple[uuid.UUID, str], _Set] = {}
    for pupil_id, exercise_id, set_at, target in rows:
        place = pupil_id, keys[exercise_id]
        before = was_set.get(place)
        was_set[place] = _Set(exercises[exercise_id].title, before.set_at if before else set_at, target)
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
        if key not in recipes and own_passed is not None:
            recipes[key] = recipe_from_document(own_passed.recipe)
        found[pupil_id].steps[key] = StepOfPupil(
            key,
            own_set.title if own_set else own_passed.title if own_passed else "",
            recipes[key],
            clock.local(own_set.set_at).date() if own_set else None,
            own_set.target_bpm if own_set else 0.0,
            tuple(goes.get(place, ())),
            own_passed,
        )
    return found


def heard_lately(
    session: Session, pupils: Iterable[Pupil], names: NoteNames, now: datetime
) -> dict[uuid.UUID, list[HeardTrouble]]:
    """What was heard of each pupil in the last two weeks, the newest first: of each take its causes, and wrong notes by name. Pupils
    of whom nothing was heard are not there; those whose takes were clean have an empty list."""
    known = {own.id: own.name for own in pupils}
    found: dict[uuid.UUID, list[HeardTrouble]] = {}
    lately = heard_in(session, Take.pupil_id.in_(known), Take.recorded_at > now - LATELY)
    recipes = {
        row_id: recipe_from_document(recipe)
        for row_id, recipe in session.execute(
            select(Exercise.id, Exercise.recipe).where(Exercise.id.in_({own.exercise_id for own in lately}))
        )
    }
    for own in reversed(lately):
        heard = found.setdefault(own.pupil_id, [])
        heard += (
            HeardTrouble(known[own.pupil_id], trouble, recipes[own.exercise_id])
            for trouble in _troubles(own, recipes[own.exercise_id], names)
        )
    return found


def _troubles(own: HeardIn, recipe: Recipe, names: NoteNames) -> Iterator[Trouble]:
    """Each take says a thing once."""
    said = set()
    for cause in own.causes:
        key = (cause["kind"], cause.get("finger"), cause.get("string"))
        # What is told of them is which note: it comes by its name.
        if key not in said and cause["kind"] not in ("key_signature", "place"):
            yield Trouble(cause["kind"], cause.get("title") or cause["kind"], cause.get("finger"), cause.get("string"))
        said.add(key)
    for name in dict.fromkeys(own.wrong_names):
        yield Trouble("note", f"{say(Pitch.parse(name), names, recipe.key)} on another pitch", note=name)


def cell_out(standing: PupilStanding, key: str, clock: StudioClock) -> Cell:
    """Where one pupil stands with one step, for the page."""
    own, at = standing.steps.get(key), standing.standpoint(key, clock)
    return Cell(
        state=at.state,
        since=at.since,
        goes=at.goes,
        best_bpm=at.best_bpm,
        take_id=own.goes[-1].take_id if own and own.goes else None,
    )
