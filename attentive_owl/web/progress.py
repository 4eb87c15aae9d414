"""Seeing the class: pupils by steps, what they get wrong together, what might come next, and one pupil over months."""

from __future__ import annotations

import uuid
from collections import defaultdict
from collections.abc import Iterable
from datetime import UTC, date, datetime, timedelta
from functools import partial
from typing import Any

from flask_openapi3 import APIBlueprint, Tag
from sqlalchemy.orm import Session

from attentive_owl.core.exercises import Recipe, title
from attentive_owl.core.planning import PassedBefore, PupilSoFar, StepAhead, shared, suggest
from attentive_owl.store.exercises import document_from_recipe, recipe_from_document, score_or_none, step_key
from attentive_owl.store.models import LearningPath, Pupil, Take
from attentive_owl.web.access import own_row, own_studio, teacher_only
from attentive_owl.web.clock import StudioClock, studio_clock
from attentive_owl.web.figures import Figures, HeardIn, heard_in
from attentive_owl.web.paging import Page
from attentive_owl.web.passing import keys_and_patterns, passed_by, passed_out
from attentive_owl.web.people.pupils import active_pupils
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.common import ById, Problem
from attentive_owl.web.schemas.progress import (
    Cell,
    ClassQuestion,
    Habit,
    HabitWeek,
    Progress,
    ProgressQuestion,
    PupilRow,
    SharedOut,
    StepOut,
    Story,
    StoryGo,
    StoryStep,
    SuggestionOut,
    Suggestions,
    SuggestionsForPupil,
    SuggestionsQuestion,
    Together,
)
from attentive_owl.web.standings import LOOKED_BACK, PupilStanding, StepOfPupil, heard_lately, standings
from attentive_owl.web.studio import settings_of
from attentive_owl.web.workshop import recipe_out

api = APIBlueprint(
    "progress", __name__, url_prefix="/api", abp_tags=[Tag(name="progress")], abp_responses={401: Problem, 404: Problem}
)


_PER_PAGE = 50


def step_out(key: str, name: str, recipe: Recipe) -> StepOut:
    return StepOut(key=key, title=name, recipe=recipe_out(document_from_recipe(recipe)))


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
    pupils = active_pupils(session, query.class_id)
    paged = Page(len(pupils), per_page or max(len(pupils), 1), query.page)
    pupils = pupils[paged.own]
    known = standings(session, [own.id for own in pupils], clock)
    if query.path_id is not None:
        steps = _steps_of(own_row(session, LearningPath, query.path_id))
    else:
        steps = _steps_set(known.values())
    return Progress(
        steps=[step_out(own.key, own.title, own.recipe) for own in steps],
        pupils=[_row(own, known[own.id], steps, clock) for own in pupils],
        page=paged.page,
        pages=paged.pages,
    )


def _steps_of(path: LearningPath) -> list[StepAhead]:
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
        cells=[_cell(standing, own.key, clock) for own in steps],
    )


def _cell(standing: PupilStanding, key: str, clock: StudioClock) -> Cell:
    own, at = standing.steps.get(key), standing.standpoint(key, clock)
    return Cell(
        state=at.state,
        since=at.since,
        goes=at.goes,
        best_bpm=at.best_bpm,
        take_id=own.goes[-1].take_id if own and own.goes else None,
    )


@api.get("/together", responses={200: Together})
@teacher_only
def together(query: ClassQuestion) -> Any:
    """What several pupils got wrong in the last two weeks, with the warm-up that mends it."""
    with own_studio() as session:
        pupils = active_pupils(session, query.class_id)
        heard = heard_lately(session, pupils, settings_of(session).names, datetime.now(UTC))
        return reply(
            Together(
                of=len(heard),
                shared=[
                    SharedOut(
                        title=own.title,
                        pupils=list(own.pupils),
                        heard_in=title(own.recipe),
                        warm_up=recipe_out(document_from_recipe(own.warm_up)) if own.warm_up else None,
                        warm_up_title=title(own.warm_up) if own.warm_up else "",
                    )
                    for own in shared(one for own in heard.values() for one in own)
                ],
            )
        )


@api.get("/suggestions", responses={200: Suggestions})
@teacher_only
def suggestions(query: SuggestionsQuestion) -> Any:
    """What might come next for each pupil, with the reason in one line."""
    clock = studio_clock()
    with own_studio() as session:
        if query.pupil_id is not None:
            pupils = [own_row(session, Pupil, query.pupil_id)]
        else:
            pupils = active_pupils(session, query.class_id)
        lately = heard_lately(session, pupils, settings_of(session).names, datetime.now(UTC))
        known = standings(session, [own.id for own in pupils], clock)
        wanted = {own.path_id for own in pupils if own.path_id}
        paths = {own: _steps_of(session.get_one(LearningPath, own)) for own in wanted}
        found = []
        for own in pupils:
            standing = known[own.id]
            heard = [(one.trouble, one.recipe) for one in lately.get(own.id, [])]
            so_far = PupilSoFar(
                path=paths.get(own.path_id, []) if own.path_id else [],
                behind=own.path_step,
                passed=_passed(standing, clock),
                now={
                    key: standing.standpoint(key, clock).state
                    for key, step in standing.steps.items()
                    if step.passed is None and step.set_on is not None and _is_now(step, clock)
                },
                troubles=heard,
                known=own.known,
            )
            made = suggest(so_far, partial(score_or_none, own.instrument), clock.today())
            found.append(
                SuggestionsForPupil(
                    pupil_id=own.id,
                    name=own.name,
                    instrument=own.instrument,
                    suggestions=[
                        SuggestionOut(
                            kind=one.kind,
                            title=one.title or title(one.recipe),
                            recipe=recipe_out(document_from_recipe(one.recipe)),
                            reason=one.reason,
                        )
                        for one in made
                    ],
                )
            )
        return reply(Suggestions(pupils=found))


_SET_LATELY = timedelta(days=21)


def _is_now(step: StepOfPupil, clock: StudioClock) -> bool:
    """Set or played within three weeks."""
    last = max([step.set_on or date.min, *(clock.local(go.recorded_at).date() for go in step.goes)])
    return clock.today() - last <= _SET_LATELY


def _passed(standing: PupilStanding, clock: StudioClock) -> list[PassedBefore]:
    """In the order in which they were passed."""
    found = []
    for own in standing.steps.values():
        if own.passed is not None:
            on = clock.local(own.passed.created_at).date()
            last = max([on, *(clock.local(go.recorded_at).date() for go in own.goes)])
            found.append(PassedBefore(StepAhead(own.key, own.title, own.recipe), on, last))
    return sorted(found, key=lambda own: own.on)


@api.get("/pupils/<uuid:id>/story", responses={200: Story})
@teacher_only
def story(path: ById) -> Any:
    """One pupil over months."""
    clock = studio_clock()
    with own_studio() as session:
        pupil = own_row(session, Pupil, path.id)
        return reply(story_of(session, pupil, clock))


def story_of(session: Session, pupil: Pupil, clock: StudioClock) -> Story:
    standing = standings(session, [pupil.id], clock)[pupil.id]
    since = datetime.now(UTC) - LOOKED_BACK
    passed = passed_by(session, pupil)
    keys, patterns = keys_and_patterns(passed)
    played = [own for own in standing.steps.values() if own.set_on is not None or own.goes]
    return Story(
        steps=[
            StoryStep(
                key=own.key,
                title=own.title,
                recipe=recipe_out(document_from_recipe(own.recipe)),
                cell=_cell(standing, own.key, clock),
                target_bpm=own.target_bpm,
                goes=[_story_go(go) for go in own.goes],
            )
            for own in sorted(played, key=lambda own: own.set_on or date.min, reverse=True)
        ],
        habits=_habits(heard_in(session, Take.pupil_id == pupil.id, Take.recorded_at > since), clock),
        passed=[passed_out(own) for own in passed],
        keys=keys,
        patterns=patterns,
    )


def _story_go(go: Figures) -> StoryGo:
    return StoryGo(
        take_id=go.take_id,
        recorded_at=go.recorded_at,
        bpm=go.bpm,
        pitch_share=go.pitch_share,
        time_share=go.time_share,
        good=go.good,
    )


_LEAST_TAKES = 2


def _habits(goes: list[HeardIn], clock: StudioClock) -> list[Habit]:
    """Causes that were found more than once, by week: those that came and went, and those that stay; in how many takes, and how far off."""
    by_week: dict[date, list[HeardIn]] = defaultdict(list)
    for go in goes:
        day = clock.local(go.recorded_at).date()
        by_week[day - timedelta(days=day.weekday())].append(go)
    found: dict[tuple[str, str], dict[date, dict[uuid.UUID, float | None]]] = defaultdict(lambda: defaultdict(dict))
    titles: dict[tuple[str, str], str] = {}
    for monday, own in by_week.items():
        for go in own:
            for cause in go.causes:
                key = (cause["kind"], cause.get("key") or "")
                titles[key] = cause.get("title") or cause["kind"]
                mm = cause.get("mm")
                # Where the finger has to go is the other side from where it stands.
                side = -1.0 if cause.get("towards") == "bridge" else 1.0
                found[key][monday][go.take_id] = None if mm is None else side * float(mm)
    habits = [
        Habit(
            title=titles[key],
            kind=key[0],
            weeks=[
                HabitWeek(monday=monday, takes=len(takes), of=len(by_week[monday]), mm=_mean(takes.values()))
                for monday in sorted(by_week)
                for takes in [weeks.get(monday, {})]
            ],
        )
        for key, weeks in found.items()
        if sum(map(len, weeks.values())) >= _LEAST_TAKES
    ]
    return sorted(habits, key=lambda own: -sum(week.takes for week in own.weeks))


def _mean(values: Iterable[float | None]) -> float | None:
    known = [own for own in values if own is not None]
    return round(sum(known) / len(known), 1) if known else None
