"""What might come next for each pupil, with the reason; and "not now", which can be taken back."""

from __future__ import annotations

import uuid
from collections import defaultdict
from collections.abc import Sequence
from datetime import UTC, datetime
from functools import partial
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from attentive_owl.core.exercises import Recipe, title
from attentive_owl.core.planning import PassedBefore, PupilSoFar, StepAhead, still_declined, suggest
from attentive_owl.store.exercises import document_from_recipe, recipe_from_document, score_or_none, step_key
from attentive_owl.store.models import DeclinedSuggestion, LearningPath, Pupil
from attentive_owl.web.access import own_row, own_studio, teacher_only, visitor
from attentive_owl.web.areas import Area
from attentive_owl.web.clock import StudioClock, studio_clock
from attentive_owl.web.people.listing import active_pupils
from attentive_owl.web.progress import steps_of
from attentive_owl.web.recipes import recipe_in, recipe_out
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.common import ById, Done
from attentive_owl.web.schemas.progress import (
    Declined,
    SuggestionOut,
    Suggestions,
    SuggestionsForPupil,
    SuggestionsQuestion,
)
from attentive_owl.web.standings import PupilStanding, heard_lately, standings
from attentive_owl.web.studio import studio_settings

api = Area("suggesting", __name__, 401, 404, tag="progress")


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
        ids = [own.id for own in pupils]
        lately = heard_lately(session, pupils, studio_settings().names, datetime.now(UTC))
        known = standings(session, ids, clock)
        declined = _declined(session, ids, clock)
        paths = {
            own.id: steps_of(own)
            for own in session.scalars(select(LearningPath).where(LearningPath.id.in_({own.path_id for own in pupils})))
        }
        found = []
        for own in pupils:
            standing = known[own.id]
            so_far = PupilSoFar(
                path=paths.get(own.path_id, []) if own.path_id else [],
                behind=own.path_step,
                passed=_passed(standing, clock),
                now={
                    key: standing.standpoint(key, clock).state
                    for key, step in standing.steps.items()
                    if step.passed is None and step.set_on is not None and step.is_now(clock)
                },
                troubles=[(one.trouble, one.recipe) for one in lately.get(own.id, [])],
                known=own.known,
                declined=declined[own.id],
            )
            found.append(
                SuggestionsForPupil(
                    pupil_id=own.id,
                    name=own.name,
                    instrument=own.instrument,
                    suggestions=[
                        SuggestionOut(
                            kind=one.kind,
                            title=one.title or title(one.recipe),
                            recipe=recipe_out(one.recipe),
                            reason=one.reason,
                        )
                        for one in suggest(so_far, partial(score_or_none, own.instrument), clock.today())
                    ],
                )
            )
        return reply(Suggestions(pupils=found))


def _declined(session: Session, pupil_ids: Sequence[uuid.UUID], clock: StudioClock) -> dict[uuid.UUID, list[Recipe]]:
    found: dict[uuid.UUID, list[Recipe]] = defaultdict(list)
    for own in session.scalars(select(DeclinedSuggestion).where(DeclinedSuggestion.pupil_id.in_(pupil_ids))):
        if still_declined(clock.local(own.created_at).date(), clock.today()):
            found[own.pupil_id].append(recipe_from_document(own.recipe))
    return found


def _passed(standing: PupilStanding, clock: StudioClock) -> list[PassedBefore]:
    """In the order in which they were passed."""
    found = []
    for own in standing.steps.values():
        if own.passed is not None:
            on = clock.local(own.passed.created_at).date()
            last = max(on, own.last_played(clock) or on)
            found.append(PassedBefore(StepAhead(own.key, own.title, own.recipe), on, last))
    return sorted(found, key=lambda own: own.on)


@api.put("/pupils/<uuid:id>/declined", responses={200: Done})
@teacher_only
def decline(path: ById, body: Declined) -> Any:
    """Not now: for three weeks it is not suggested again; or, with `rests` false, it may be at once."""
    document = document_from_recipe(recipe_in(body.recipe))
    key = step_key(document)
    with own_studio() as session:
        pupil = own_row(session, Pupil, path.id)
        if not body.rests:
            known = select(DeclinedSuggestion).where(
                DeclinedSuggestion.pupil_id == pupil.id, DeclinedSuggestion.key == key
            )
            for own in session.scalars(known):
                session.delete(own)
            return reply(Done())
        session.execute(
            insert(DeclinedSuggestion)
            .values(id=uuid.uuid4(), studio_id=visitor().studio_id, pupil_id=pupil.id, key=key, recipe=document)
            .on_conflict_do_update(index_elements=["pupil_id", "key"], set_={"created_at": func.now()})
        )
        return reply(Done())
