"""One pupil over months, and many of them at once for paper."""

from __future__ import annotations

import uuid
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import asdict
from datetime import UTC, date, datetime
from typing import Any

from sqlalchemy.orm import Session

from attentive_owl.core.planning import FoundIn, HabitOverMonths, TakeHeard, habits_over_months, keys_and_patterns
from attentive_owl.store.exercises import recipe_from_document
from attentive_owl.store.models import PassedStep, Pupil, Take
from attentive_owl.web.access import own_row, own_studio, teacher_only
from attentive_owl.web.areas import Area
from attentive_owl.web.clock import StudioClock, studio_clock
from attentive_owl.web.figures import Figures, HeardIn, heard_in
from attentive_owl.web.passing import passed_by, passed_out
from attentive_owl.web.recipes import recipe_out
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.common import ById
from attentive_owl.web.schemas.progress import Habit, HabitWeek, Story, StoryGo, StoryStep
from attentive_owl.web.standings import LOOKED_BACK, PupilStanding, cell_out, standings

api = Area("story", __name__, 401, 404, tag="progress")


@api.get("/pupils/<uuid:id>/story", responses={200: Story})
@teacher_only
def story(path: ById) -> Any:
    """One pupil over months."""
    clock = studio_clock()
    with own_studio() as session:
        pupil = own_row(session, Pupil, path.id)
        return reply(stories_of(session, [pupil], clock)[pupil.id])


def stories_of(session: Session, pupils: Sequence[Pupil], clock: StudioClock) -> dict[uuid.UUID, Story]:
    """As many statements for a class as for one."""
    ids = [own.id for own in pupils]
    known = standings(session, ids, clock)
    passed = passed_by(session, ids)
    heard: dict[uuid.UUID, list[HeardIn]] = defaultdict(list)
    for own in heard_in(session, Take.pupil_id.in_(ids), Take.recorded_at > datetime.now(UTC) - LOOKED_BACK):
        heard[own.pupil_id].append(own)
    return {own: _story(known[own], passed[own], heard[own], clock) for own in ids}


def _story(standing: PupilStanding, passed: list[PassedStep], heard: list[HeardIn], clock: StudioClock) -> Story:
    keys, patterns = keys_and_patterns(recipe_from_document(own.recipe) for own in reversed(passed))
    played = [own for own in standing.steps.values() if own.set_on is not None or own.goes]
    return Story(
        steps=[
            StoryStep(
                key=own.key,
                title=own.title,
                recipe=recipe_out(own.recipe),
                cell=cell_out(standing, own.key, clock),
                target_bpm=own.target_bpm,
                goes=[_story_go(go) for go in own.goes],
            )
            for own in sorted(played, key=lambda own: own.set_on or date.min, reverse=True)
        ],
        habits=[_habit(own) for own in habits_over_months(_take_heard(own, clock) for own in heard)],
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


def _take_heard(own: HeardIn, clock: StudioClock) -> TakeHeard:
    found = [
        FoundIn(
            cause["kind"],
            cause.get("key") or "",
            cause.get("title") or cause["kind"],
            None if cause.get("mm") is None else float(cause["mm"]),
            cause.get("towards"),
        )
        for cause in own.causes
    ]
    return TakeHeard(own.take_id, clock.local(own.recorded_at).date(), found)


def _habit(own: HabitOverMonths) -> Habit:
    return Habit(title=own.title, kind=own.kind, weeks=[HabitWeek(**asdict(week)) for week in own.weeks])
