"""Seeing the class: pupils by steps, and what they get wrong together."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import UTC, date, datetime
from typing import Any

from sqlalchemy.orm import Session

from attentive_owl.core.exercises import Recipe, title
from attentive_owl.core.planning import StepAhead, shared
from attentive_owl.store.exercises import recipe_from_document, step_key
from attentive_owl.store.models import LearningPath, Pupil
from attentive_owl.web.access import own_row, own_studio, teacher_only
from attentive_owl.web.areas import Area
from attentive_owl.web.clock import StudioClock, studio_clock
from attentive_owl.web.paging import Page, count_of
from attentive_owl.web.people.listing import active_pupils, by_name, there
from attentive_owl.web.recipes import recipe_out
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.progress import (
    ClassQuestion,
    Progress,
    ProgressQuestion,
    PupilRow,
    SharedOut,
    StepOut,
    Together,
)
from attentive_owl.web.standings import PupilStanding, StepOfPupil, cell_out, heard_lately, standings
from attentive_owl.web.studio import studio_settings

api = Area("progress", __name__, 401, 404)


_PER_PAGE, _ALL = 30, 10_000


def step_out(key: str, name: str, recipe: Recipe) -> StepOut:
    return StepOut(key=key, title=name, recipe=recipe_out(recipe))


@api.get("/progress", responses={200: Progress})
@teacher_only
def progress(query: ProgressQuestion) -> Any:
    """Pupils by steps: those of a path, or what was set in the last sixteen weeks."""
    with own_studio() as session:
        return reply(class_picture(session, query, studio_clock(), _PER_PAGE))


def class_picture(
    session: Session, query: ProgressQuestion, clock: StudioClock, per_page: int | None = None
) -> Progress:
    """`per_page`: how many pupils; none: all of them, on one page."""
    question = there(session, query.class_id)
    paged = Page(count_of(session, question), per_page or _ALL, query.page)
    pupils = session.scalars(by_name(question).limit(paged.per_page).offset(paged.first)).all()
    known = standings(session, [own.id for own in pupils], clock)
    if query.path_id is not None:
        steps = steps_of(own_row(session, LearningPath, query.path_id))
    else:
        steps = _steps_set(known.values())
    return Progress(
        steps=[step_out(own.key, own.title, own.recipe) for own in steps],
        pupils=[_row(own, known[own.id], steps, clock) for own in pupils],
        page=paged.page,
        pages=paged.pages,
    )


def steps_of(path: LearningPath) -> list[StepAhead]:
    """Each step once, where it comes first."""
    steps: dict[str, tuple[str, Recipe]] = {}
    for own in path.steps:
        recipe = recipe_from_document(own["recipe"])
        steps.setdefault(step_key(own["recipe"]), (own["title"], recipe))
    return [StepAhead(key, name, recipe) for key, (name, recipe) in steps.items()]


def _steps_set(known: Iterable[PupilStanding]) -> list[StepAhead]:
    """What was set, in the order in which it was set first."""
    found: dict[str, StepOfPupil] = {}
    for standing in known:
        for key, own in standing.steps.items():
            earlier = found.get(key)
            if own.set_on and (earlier is None or earlier.set_on is None or own.set_on < earlier.set_on):
                found[key] = own
    ordered = sorted(found.values(), key=lambda own: (own.set_on or date.max, own.title))
    return [StepAhead(own.key, own.title, own.recipe) for own in ordered]


def _row(pupil: Pupil, standing: PupilStanding, steps: list[StepAhead], clock: StudioClock) -> PupilRow:
    heard = [go.recorded_at for own in standing.steps.values() for go in own.goes]
    return PupilRow(
        id=pupil.id,
        name=pupil.name,
        instrument=pupil.instrument,
        last_heard=clock.local(max(heard)).date() if heard else None,
        cells=[cell_out(standing, own.key, clock) for own in steps],
    )


@api.get("/together", responses={200: Together})
@teacher_only
def together(query: ClassQuestion) -> Any:
    """What several pupils got wrong in the last two weeks, with the warm-up that mends it."""
    with own_studio() as session:
        pupils = active_pupils(session, query.class_id)
        heard = heard_lately(session, pupils, studio_settings().names, datetime.now(UTC))
        return reply(
            Together(
                of=len(heard),
                shared=[
                    SharedOut(
                        title=own.title,
                        pupils=list(own.pupils),
                        heard_in=title(own.recipe),
                        warm_up=recipe_out(own.warm_up) if own.warm_up else None,
                        warm_up_title=title(own.warm_up) if own.warm_up else "",
                    )
                    for own in shared(one for own in heard.values() for one in own)
                ],
            )
        )
