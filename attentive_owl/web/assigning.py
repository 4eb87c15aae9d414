"""Assignments: the teacher sets them and follows the week; the pupil sees what is set for today."""

from __future__ import annotations

import uuid
from collections import defaultdict
from collections.abc import Iterable, Mapping
from datetime import date, timedelta
from typing import Any, Protocol

from sqlalchemy import func, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session, joinedload, selectinload

from attentive_owl.core.exercises import RecipeError, family
from attentive_owl.core.instruments import unfit_words
from attentive_owl.core.theory import Temperament
from attentive_owl.store.exercises import line_as_set, recipe_from_document
from attentive_owl.store.models import Assignment, AssignmentPupil, ClassGroup, Pupil, Take
from attentive_owl.web.access import own_studio, pupil_only, teacher_only, visitor
from attentive_owl.web.areas import Area
from attentive_owl.web.clock import studio_clock
from attentive_owl.web.figures import GoBrief, goes_of_week
from attentive_owl.web.problems import ProblemError, not_found
from attentive_owl.web.recipes import kept_recipe_out
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.assignments import (
    AssignmentOut,
    NewAssignment,
    Standing,
    Terms,
    Week,
)
from attentive_owl.web.schemas.common import ById, Problem
from attentive_owl.web.schemas.practice import PieceQuestion
from attentive_owl.web.schemas.recipes import Recipe
from attentive_owl.web.schemas.scores import STAFF_SHARES, ScoreOut
from attentive_owl.web.scores import score_out
from attentive_owl.web.shelf import kept_exercise
from attentive_owl.web.shown import HANDED_IN
from attentive_owl.web.studio import marks_for, studio_settings
from attentive_owl.web.summaries import TakeSummary, summaries

api = Area("assigning", __name__, 401, 404)
_HEARD_TWICE = 2
"""Tries at an echo by ear alone, before its notes are shown."""
_KEPT_ON_SHOW = timedelta(days=21)


def takes_of(
    session: Session, assignment_ids: Iterable[uuid.UUID], pupil_id: uuid.UUID | None = None
) -> list[TakeSummary]:
    """Takes of these assignments, oldest first."""
    question = select(Take).where(Take.assignment_id.in_(list(assignment_ids))).order_by(Take.recorded_at)
    return summaries(session, question if pupil_id is None else question.where(Take.pupil_id == pupil_id))


@api.get("/week", responses={200: Week})
@teacher_only
def week() -> Any:
    """Everything on one page: what is set, who has practised it, what waits for the teacher."""
    now = studio_clock().today()
    with own_studio() as session:
        assignments = session.scalars(
            select(Assignment)
            .where(Assignment.due_on >= now - _KEPT_ON_SHOW)
            .order_by(Assignment.due_on.desc(), Assignment.created_at.desc())
            .limit(30)
        ).all()
        ids = [a.id for a in assignments]
        by_pair, given_to = goes_of_week(session, ids), _pupils_of(session, ids)
        unmarked = session.scalar(
            select(func.count())
            .select_from(Take)
            .where(HANDED_IN, Take.state.in_(("checked", "refused", "stuck")), ~Take.marks.any())
        )
        checking = session.scalar(
            select(func.count()).select_from(Take).where(HANDED_IN, Take.state.in_(("waiting", "checking")))
        )
        classes, pupils, sent = (
            session.scalar(select(func.count()).select_from(counted))
            for counted in (ClassGroup, Pupil, select(Take.id).where(HANDED_IN).subquery())
        )
        return reply(
            Week(
                today=now,
                assignments=[_assignment_out(a, given_to[a.id], by_pair) for a in assignments],
                unmarked=unmarked or 0,
                checking=checking or 0,
                classes=classes or 0,
                pupils=pupils or 0,
                takes=sent or 0,
            )
        )


class _Named(Protocol):
    """A pupil, or what stands of one in a list."""

    @property
    def id(self) -> uuid.UUID: ...
    @property
    def name(self) -> str: ...
    @property
    def instrument(self) -> str: ...


def _pupils_of(session: Session, assignment_ids: Iterable[uuid.UUID]) -> dict[uuid.UUID, list[_Named]]:
    """By assignment, in the order of their names; not as pupils, of whom a school has hundreds, but as three columns."""
    rows = session.execute(
        select(AssignmentPupil.assignment_id, Pupil.id, Pupil.name, Pupil.instrument)
        .join(Pupil, Pupil.id == AssignmentPupil.pupil_id)
        .where(AssignmentPupil.assignment_id.in_(list(assignment_ids)))
        .order_by(Pupil.name)
    )
    found: dict[uuid.UUID, list[_Named]] = defaultdict(list)
    for row in rows:
        found[row.assignment_id].append(row)
    return found


def _assignment_out(
    assignment: Assignment,
    pupils: Iterable[_Named],
    by_pair: Mapping[tuple[uuid.UUID, uuid.UUID], list[GoBrief]],
) -> AssignmentOut:
    standings = []
    for pupil in pupils:
        rows = by_pair.get((assignment.id, pupil.id), [])
        sent = [row for row in rows if row.handed_in]
        marked = [row.verdict for row in rows if row.verdict]
        standings.append(
            Standing(
                pupil_id=pupil.id,
                pupil_name=pupil.name,
                instrument=pupil.instrument,
                takes=sum(row.whole for row in rows),
                good=sum(row.good for row in rows),
                waiting=sum(row.verdict is None for row in sent),
                last_take_id=sent[-1].take_id if sent else None,
                last_verdict=marked[-1] if marked else None,  # type: ignore[arg-type]
            )
        )
    return AssignmentOut(
        id=assignment.id,
        title=assignment.exercise.title,
        recipe=kept_recipe_out(assignment.exercise.recipe),
        due_on=assignment.due_on,
        target_bpm=assignment.target_bpm,
        good_repeats=assignment.good_repeats,
        days_a_week=assignment.days_a_week,
        level=assignment.level,  # type: ignore[arg-type]
        note=assignment.note,
        temperament=Temperament(assignment.temperament),
        a4_hz=assignment.a4_hz,
        mode=assignment.mode,  # type: ignore[arg-type]
        ladder_from_bpm=assignment.ladder_from_bpm,
        ladder_step_bpm=assignment.ladder_step_bpm,
        ladder_clean=assignment.ladder_clean,
        wants_picture=assignment.wants_picture,
        sheet_id=assignment.sheet_id,
        standings=standings,
    )


@api.post("/assignments", responses={201: AssignmentOut, 422: Problem})
@teacher_only
def assign(body: NewAssignment) -> Any:
    not_in_the_past(body.due_on)
    with own_studio() as session:
        pupils = list(session.scalars(select(Pupil).where(Pupil.id.in_(set(body.pupil_ids))).order_by(Pupil.name)))
        if len(pupils) != len(set(body.pupil_ids)):
            raise not_found()
        assignment = set_exercise(session, body.recipe, body, pupils, body.due_on)
        return reply(_assignment_out(assignment, assignment.pupils, {}), 201)


def not_in_the_past(due_on: date) -> None:
    if due_on < studio_clock().today():
        raise ProblemError(422, "The due day lies in the past.")


def set_exercise(
    session: Session,
    recipe: Recipe,
    terms: Terms,
    pupils: list[Pupil],
    due_on: date,
    eases: Mapping[uuid.UUID, str] | None = None,
    sheet_id: uuid.UUID | None = None,
) -> Assignment:
    """`eases`: the line of single pupils, where it is another than theirs as a rule."""
    _check_words(terms.note, pupils)
    assignment = Assignment(
        exercise=kept_exercise(session, recipe),
        due_on=due_on,
        pupils=pupils,
        sheet_id=sheet_id,
        **terms.model_dump(mode="json", include=set(Terms.model_fields)),
    )
    session.add(assignment)
    session.flush()
    for pupil in pupils:
        session.get_one(AssignmentPupil, (assignment.id, pupil.id)).ease = (eases or {}).get(pupil.id, pupil.ease)
    return assignment


def _check_words(note: str, pupils: Iterable[Pupil]) -> None:
    """What is told of a string or a part has to be there on every instrument that is told it."""
    wrong = unfit_words(note, {pupil.instrument for pupil in pupils})
    if wrong:
        raise ProblemError(422, f"{' '.join(wrong)} Change the words, or set it to those instruments apart.")


@api.delete("/assignments/<uuid:id>", responses={200: AssignmentOut, 409: Problem})
@teacher_only
def take_back(path: ById) -> Any:
    """Undo of assigning: only while nobody has handed anything in."""
    with own_studio() as session:
        assignment = session.scalar(
            select(Assignment).where(Assignment.id == path.id).options(selectinload(Assignment.pupils))
        )
        if assignment is None:
            raise not_found()
        out = _assignment_out(assignment, assignment.pupils, {})
        session.delete(assignment)
        try:
            session.flush()
        except IntegrityError as error:
            # The table says so, also of a take that is being committed now: this waits for it.
            raise ProblemError(409, "Somebody has already handed in a take; the assignment stays.") from error
        return reply(out)


def own_assignment(session: Session, assignment_id: uuid.UUID) -> Assignment:
    """An assignment that the visitor may see: the studio's for a teacher, one's own for a pupil. Raises 404."""
    question = select(Assignment).where(Assignment.id == assignment_id).options(joinedload(Assignment.exercise))
    if visitor().person.role == "pupil":
        question = question.where(
            Assignment.id.in_(
                select(AssignmentPupil.assignment_id).where(AssignmentPupil.pupil_id == visitor().person.id)
            )
        )
    assignment = session.scalar(question)
    if assignment is None:
        raise not_found()
    return assignment


@api.get("/assignments/<uuid:id>/score", responses={200: ScoreOut, 422: Problem})
@pupil_only
def practice_score(path: ById, query: PieceQuestion) -> Any:
    """The pupil's own line, or some bars of it, on their instrument at the target tempo or another."""
    with own_studio() as session:
        assignment = own_assignment(session, path.id)
        pupil = session.get_one(Pupil, visitor().person.id)
        try:
            line = line_as_set(session, assignment, pupil, query.bpm, query.bars)
        except RecipeError as error:
            raise ProblemError(422, "The line has no such bars.") from error
        hidden = family(recipe_from_document(line.recipe).family).hidden and _tries(session, assignment) < _HEARD_TWICE
        own_marks = pupil.marks
    words = studio_settings()
    marks = marks_for(words, line.score.instrument_key, own_marks)
    share = STAFF_SHARES[query.size]
    return reply(
        score_out(line.score, line.recipe, query.width, words, share, hidden=hidden, marks=marks, ease=line.ease)
    )


def _tries(session: Session, assignment: Assignment) -> int:
    own = (Take.assignment_id == assignment.id, Take.pupil_id == visitor().person.id)
    return session.scalar(select(func.count()).select_from(Take).where(*own)) or 0
