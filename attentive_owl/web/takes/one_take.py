"""One take: what was heard and said of it, its score, its sound."""

from __future__ import annotations

import io
from typing import Any

from flask import send_file
from sqlalchemy import select

from attentive_owl.store.exercises import ease_as_set, score_for
from attentive_owl.store.models import Take
from attentive_owl.web.access import own_studio, services, signed_in, visitor
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.assignments import MarkOut
from attentive_owl.web.schemas.common import ById
from attentive_owl.web.schemas.scores import ScoreOut, Width
from attentive_owl.web.schemas.takes import EarlierTake, TakeOut
from attentive_owl.web.scores import score_out
from attentive_owl.web.studio import marks_for, studio_settings
from attentive_owl.web.takes.blueprint import api
from attentive_owl.web.takes.marking import overrule_out
from attentive_owl.web.takes.visible import judged, visible_take

_ENDED = ("checked", "refused", "stuck")


@api.get("/takes/<uuid:id>", responses={200: TakeOut})
@signed_in
def one(path: ById) -> Any:
    with own_studio() as session:
        take = visible_take(session, path.id)
        following = None
        if visitor().person.role == "teacher":
            following = session.scalar(
                select(Take.id)
                .where(~Take.marks.any(), Take.state.in_(_ENDED), Take.id != take.id)
                .order_by(Take.recorded_at, Take.id)
                .limit(1)
            )
        others = session.execute(
            select(Take.id, Take.recorded_at)
            .where(
                Take.assignment_id == take.assignment_id,
                Take.pupil_id == take.pupil_id,
                Take.id != take.id,
                Take.state == "checked",
            )
            .order_by(Take.recorded_at.desc())
            .limit(20)
        )
        return reply(
            TakeOut(
                id=take.id,
                assignment_id=take.assignment_id,
                pupil_name=take.pupil.name,
                instrument=take.pupil.instrument,
                size=take.pupil.size,
                string_length_mm=take.pupil.string_length_mm,
                title=take.assignment.exercise.title,
                recorded_at=take.recorded_at,
                duration_s=take.duration_s,
                sha256=take.sha256,
                state=take.state,  # type: ignore[arg-type]
                audio_url=f"/api/takes/{take.id}/audio",
                target_bpm=take.assignment.target_bpm,
                report=judged(take),
                marks=[MarkOut.model_validate(mark, from_attributes=True) for mark in take.marks],
                overrules=[overrule_out(own) for own in take.overrules],
                engines=[report.engine for report in take.reports],
                others=[EarlierTake(id=own, recorded_at=at) for own, at in others],
                next_unmarked_id=following,
            )
        )


@api.get("/takes/<uuid:id>/score", responses={200: ScoreOut})
@signed_in
def take_score(path: ById, query: Width) -> Any:
    """What was to be played, on the pupil's instrument."""
    with own_studio() as session:
        take = visible_take(session, path.id)
        recipe, own_marks = take.assignment.exercise.recipe, take.pupil.marks
        ease = ease_as_set(session, take.assignment, take.pupil)
        score = score_for(recipe, take.pupil.instrument, take.assignment.target_bpm, ease)
    words = studio_settings()
    marks = marks_for(words, score.instrument_key, own_marks)
    return reply(score_out(score, recipe, query.width, words, marks=marks, ease=ease))


@api.get("/takes/<uuid:id>/audio")
@signed_in
def sound(path: ById) -> Any:
    """The take as one-channel FLAC, whatever was handed in; ranges are served."""
    with own_studio() as session:
        sha256 = visible_take(session, path.id).sha256
    data = services().audio.read(sha256, "playback")
    return send_file(io.BytesIO(data), mimetype="audio/flac", conditional=True, etag=sha256, max_age=0)
