"""One take: what was heard and said of it, its score, its sound."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from attentive_owl.core.judging import Need, NeedKind, spots
from attentive_owl.store.exercises import line_of_take
from attentive_owl.store.models import Take
from attentive_owl.web.access import own_studio, signed_in, visitor
from attentive_owl.web.goes import LISTENED_TO
from attentive_owl.web.problems import ProblemError
from attentive_owl.web.recipes import kept_recipe_out
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.assignments import MarkOut
from attentive_owl.web.schemas.common import ById, Problem
from attentive_owl.web.schemas.practice import Bars
from attentive_owl.web.schemas.scores import ScoreOut, Width
from attentive_owl.web.schemas.takes import EarlierTake, TakeOut
from attentive_owl.web.scores import score_out
from attentive_owl.web.shown import shown_to_teacher
from attentive_owl.web.studio import marks_for, studio_settings
from attentive_owl.web.takes.blueprint import api
from attentive_owl.web.takes.marking import overrule_out
from attentive_owl.web.takes.sounds import can_be_played, play
from attentive_owl.web.takes.visible import judged, sound_is_gone, visible_take
from attentive_owl.web.takes.waiting import in_order_of_need, waits

_MOST_EARLIER = 20
"""Other takes of the same exercise to put beside one: those of a term, say."""


@api.get("/takes/<uuid:id>", responses={200: TakeOut})
@signed_in
def one(path: ById) -> Any:
    with own_studio() as session:
        take = visible_take(session, path.id)
        own, queue = visitor().person.role == "pupil", _Queue()
        if not own:
            queue = _place_in_queue(session, take)
        report = judged(take)
        seen = Take.thrown_away_at.is_(None) if own else shown_to_teacher(studio_settings().goes_seen)
        others = session.execute(
            select(Take.id, Take.recorded_at)
            .where(
                seen,
                Take.assignment_id == take.assignment_id,
                Take.pupil_id == take.pupil_id,
                Take.id != take.id,
                Take.state == "checked",
            )
            .order_by(Take.recorded_at.desc())
            .limit(_MOST_EARLIER)
        )
        return reply(
            TakeOut(
                id=take.id,
                assignment_id=take.assignment_id,
                recipe=kept_recipe_out(take.assignment.exercise.recipe),
                pupil_id=take.pupil_id,
                pupil_name=take.pupil.name,
                instrument=take.pupil.instrument,
                size=take.pupil.size,
                string_length_mm=take.pupil.string_length_mm,
                title=take.assignment.exercise.title,
                recorded_at=take.recorded_at,
                duration_s=take.duration_s,
                sha256=take.sha256,
                state=take.state,  # type: ignore[arg-type]
                handed_in=take.handed_in_at is not None,
                thrown_away=take.thrown_away_at is not None,
                kept=take.kept_at is not None,
                felt=take.felt,  # type: ignore[arg-type]
                focus=take.focus,  # type: ignore[arg-type]
                bars=Bars.of(take.bars),
                help_words=take.help_words,
                help_url=f"/api/takes/{take.id}/help" if take.help_sha256 and not sound_is_gone(take) else None,
                picture_url=f"/api/takes/{take.id}/picture"
                if take.picture_sha256 and take.pupil.pictures_agreed
                else None,
                picture_wanted=take.assignment.wants_picture and take.pupil.pictures_agreed,
                audio_url=f"/api/takes/{take.id}/audio"
                if can_be_played(take.sha256) and not sound_is_gone(take)
                else None,
                sound_gone=sound_is_gone(take),
                recorded_at_lesson=take.lesson_teacher_id is not None,
                target_bpm=take.asked_bpm,
                report=report,
                marks=[MarkOut.model_validate(mark, from_attributes=True) for mark in take.marks],
                overrules=[overrule_out(word) for word in take.overrules],
                engines=[report.engine for report in take.reports],
                others=[EarlierTake(id=other, recorded_at=at) for other, at in others],
                next_unmarked_id=queue.following,
                left=queue.left,
                need=queue.need.kind if queue.need else None,
                why=queue.need.why if queue.need else "",
                spots=spots(report) if report and not own else [],
            )
        )


@dataclass(frozen=True)
class _Queue:
    """Where a take stands among those that wait."""

    following: uuid.UUID | None = None
    left: int = 0
    need: Need | None = None


def _place_in_queue(session: Session, take: Take) -> _Queue:
    """The next one is the next in the teacher's list; after the last of it the first."""
    order = in_order_of_need(session, waits())
    need = next((own.need for own in order if own.take_id == take.id), None)
    others = [own for own in order if own.need.kind is not NeedKind.CHECKING or own.take_id == take.id]
    places = [own.take_id for own in others]
    at = places.index(take.id) if take.id in places else -1
    left = [own for own in (*places[at + 1 :], *places[: max(at, 0)]) if own != take.id]
    return _Queue(left[0] if left else None, len(left), need)


@api.get("/takes/<uuid:id>/score", responses={200: ScoreOut})
@signed_in
def take_score(path: ById, query: Width) -> Any:
    """What was to be played, on the pupil's instrument."""
    with own_studio() as session:
        take = visible_take(session, path.id, whole=False)
        line, own_marks = line_of_take(session, take), take.pupil.marks
    words = studio_settings()
    marks = marks_for(words, line.score.instrument_key, own_marks)
    return reply(score_out(line.score, line.recipe, query.width, words, marks=marks, ease=line.ease))


@api.get("/takes/<uuid:id>/audio", responses={410: Problem})
@signed_in
def sound(path: ById) -> Any:
    """The take as one-channel FLAC, whatever was handed in; ranges are served."""
    with own_studio() as session:
        take = visible_take(session, path.id, whole=False)
        if sound_is_gone(take):
            raise ProblemError(410, "The recording was deleted; what was measured of it stays.")
        sha256, read = take.sha256, take.state in LISTENED_TO
    if not read and not can_be_played(sha256):
        raise ProblemError(409, "This recording has arrived, and is being read.")
    return play(sha256)
