"""Takes: handed in by pupils, followed while they are checked, heard and marked by teachers."""

from __future__ import annotations

import io
import tempfile
import uuid
from datetime import UTC, datetime, timedelta
from math import ceil
from pathlib import Path
from typing import Any

from flask import send_file
from flask_openapi3 import APIBlueprint, Tag
from sqlalchemy import Select, func, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session, joinedload, selectinload

from attentive_owl.core.instruments import INSTRUMENTS
from attentive_owl.core.judging import ENGINE
from attentive_owl.core.judging import Report as JudgedReport
from attentive_owl.formats.audio import AudioFileError, decode_to_flac
from attentive_owl.formats.paper.report import Heading, report_pdf
from attentive_owl.store.audio import file_sha256
from attentive_owl.store.exercises import score_as_set
from attentive_owl.store.models import Mark, Overrule, Report, Studio, Take
from attentive_owl.store.queue import defer_check
from attentive_owl.web.access import own_row, own_studio, pupil_only, services, signed_in, teacher_only, visitor
from attentive_owl.web.assigning import own_assignment
from attentive_owl.web.clock import studio_clock
from attentive_owl.web.problems import ProblemError, not_found
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.assignments import MarkOut
from attentive_owl.web.schemas.common import ById, Problem
from attentive_owl.web.schemas.reports import overruling_of, report_from
from attentive_owl.web.schemas.scores import ScoreOut, Width
from attentive_owl.web.schemas.takes import (
    EarlierTake,
    NewMark,
    NewOverrule,
    NewTake,
    OverruleOut,
    RecheckOut,
    TakeList,
    TakeOut,
    TakePage,
    TakeQuestion,
    TakeReceipt,
    TakeRow,
)
from attentive_owl.web.scores import score_out
from attentive_owl.web.studio import marks_for, studio_words

api = APIBlueprint(
    "takes", __name__, url_prefix="/api", abp_tags=[Tag(name="takes")], abp_responses={401: Problem, 404: Problem}
)
_PER_PAGE = 25
_LATER = -10
_ENDED = ("checked", "refused", "stuck")
_ROW = (
    joinedload(Take.pupil),
    joinedload(Take.assignment),
    selectinload(Take.reports),
    selectinload(Take.marks),
    selectinload(Take.overrules),
)


@api.post("/takes", responses={201: TakeReceipt, 200: TakeReceipt, 413: Problem, 422: Problem})
@pupil_only
def hand_in(form: NewTake) -> Any:
    """One recording as multipart: the fields, and the sound as `sound`. The same client_key again is the same take.

    The answer comes after the take and its job are committed; its sha256 is of what was stored.
    """
    if not visitor().person.may_record:
        raise ProblemError(403, "An adult has to say yes before your first recording. Ask your teacher.")
    own_id = visitor().person.id
    with own_studio() as session:
        own_assignment(session, form.assignment_id)
        known = session.scalar(select(Take).where(Take.pupil_id == own_id, Take.client_key == form.client_key))
        if known is not None:
            return reply(TakeReceipt(id=known.id, sha256=known.sha256))
    with tempfile.TemporaryDirectory() as folder:
        original, playback = Path(folder, "original"), Path(folder, "playback.flac")
        form.sound.save(original)
        sha256 = file_sha256(original)
        if sha256 != form.sha256:
            raise ProblemError(422, "The recording was damaged on the way; please send it again.")
        try:
            decoded = decode_to_flac(original, playback, form.claimed_s)
        except AudioFileError as error:
            raise ProblemError(422, str(error)) from error
        size = original.stat().st_size
        # Files first, row after: a row never points at a file that is not there.
        services().audio.put(original, sha256, "original")
        services().audio.put(playback, sha256, "playback")
    take = Take(
        pupil_id=own_id,
        assignment_id=form.assignment_id,
        client_key=form.client_key,
        sha256=sha256,
        file_name=Path(form.sound.filename or "take").name[:120],
        size_bytes=size,
        duration_s=decoded.duration_s,
        recorded_at=_plausible(form.recorded_at),
    )
    try:
        with own_studio() as session:
            session.add(take)
            session.flush()
            defer_check(session, take.id)
    except IntegrityError:
        # The same take arrived twice at once; the other request won.
        with own_studio() as session:
            twin = session.scalar(select(Take).where(Take.pupil_id == own_id, Take.client_key == form.client_key))
            if twin is None:
                raise
            return reply(TakeReceipt(id=twin.id, sha256=twin.sha256))
    return reply(TakeReceipt(id=take.id, sha256=sha256), 201)


def _plausible(recorded_at: datetime | None) -> datetime:
    """A device's clock is believed within the last month (takes may wait for a network), never into the future."""
    now = datetime.now(UTC)
    if recorded_at is None or recorded_at.tzinfo is None or not now - timedelta(days=31) < recorded_at <= now:
        return now
    return recorded_at


@api.get("/takes", responses={200: TakePage})
@teacher_only
def listing(query: TakeQuestion) -> Any:
    """The teacher's list: what waits for a mark, oldest first; or everything, newest first."""
    with own_studio() as session:
        question = select(Take)
        if query.only == "unmarked":
            question = question.where(~Take.marks.any()).order_by(Take.recorded_at, Take.id)
        else:
            question = question.order_by(Take.recorded_at.desc(), Take.id)
        total = session.scalar(select(func.count()).select_from(question.order_by(None).subquery())) or 0
        pages = max(ceil(total / _PER_PAGE), 1)
        page = min(query.page, pages)
        takes = session.scalars(question.options(*_ROW).limit(_PER_PAGE).offset((page - 1) * _PER_PAGE)).unique().all()
        return reply(TakePage(takes=[_row(take) for take in takes], page=page, pages=pages, total=total))


def _row(take: Take) -> TakeRow:
    report = _report(take)
    judgement = report.judgement if report else None
    return TakeRow(
        id=take.id,
        pupil_name=take.pupil.name,
        instrument=take.pupil.instrument,  # type: ignore[arg-type]
        title=take.assignment.exercise.title,
        recorded_at=take.recorded_at,
        duration_s=take.duration_s,
        state=take.state,  # type: ignore[arg-type]
        refusal=report.refusal.title if report and report.refusal else None,
        pitch_word=judgement.pitch.word if judgement else None,
        rhythm_word=judgement.rhythm.word if judgement else None,
        good=bool(report and report.good_go and report.good_go.good),
        played_bpm=report.tempo.played_bpm if report else None,
        target_bpm=take.assignment.target_bpm,
        verdict=take.marks[-1].verdict if take.marks else None,  # type: ignore[arg-type]
    )


@api.get("/assignments/<uuid:id>/takes", responses={200: TakeList})
@pupil_only
def own_takes(path: ById) -> Any:
    """The pupil's own takes of one assignment, newest first."""
    with own_studio() as session:
        own_assignment(session, path.id)
        takes = session.scalars(
            select(Take)
            .where(Take.assignment_id == path.id, Take.pupil_id == visitor().person.id)
            .options(*_ROW)
            .order_by(Take.recorded_at.desc())
            .limit(50)
        ).unique()
        return reply(TakeList(takes=[_row(take) for take in takes]))


def _visible_take(session: Session, take_id: uuid.UUID) -> Take:
    question = select(Take).where(Take.id == take_id).options(*_ROW)
    if visitor().person.role == "pupil":
        question = question.where(Take.pupil_id == visitor().person.id)
    take = session.scalars(question).unique().one_or_none()
    if take is None:
        raise not_found()
    return take


@api.get("/takes/<uuid:id>", responses={200: TakeOut})
@signed_in
def one(path: ById) -> Any:
    with own_studio() as session:
        take = _visible_take(session, path.id)
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
                instrument=take.pupil.instrument,  # type: ignore[arg-type]
                size=take.pupil.size,
                string_length_mm=take.pupil.string_length_mm,
                title=take.assignment.exercise.title,
                recorded_at=take.recorded_at,
                duration_s=take.duration_s,
                sha256=take.sha256,
                state=take.state,  # type: ignore[arg-type]
                audio_url=f"/api/takes/{take.id}/audio",
                target_bpm=take.assignment.target_bpm,
                report=_report(take),
                marks=[MarkOut.model_validate(mark, from_attributes=True) for mark in take.marks],
                overrules=[_overrule_out(own) for own in take.overrules],
                engines=[report.engine for report in take.reports],
                others=[EarlierTake(id=own, recorded_at=at) for own, at in others],
                next_unmarked_id=following,
            )
        )


def _overrule_out(own: Overrule) -> OverruleOut:
    return OverruleOut(
        id=own.id,
        created_at=own.created_at,
        teacher_name=own.teacher.name,
        note_index=own.note_index,
        cause=own.cause,
        says=own.says,  # type: ignore[arg-type]
        remark=own.remark,
    )


def _report(take: Take) -> JudgedReport | None:
    """The newest report, with the teacher's ear laid over it."""
    if take.report is None:
        return None
    return report_from(take.report.document, map(overruling_of, take.overrules))


@api.get("/takes/<uuid:id>/score", responses={200: ScoreOut})
@signed_in
def take_score(path: ById, query: Width) -> Any:
    """What was to be played, on the pupil's instrument."""
    with own_studio() as session:
        take = _visible_take(session, path.id)
        recipe, own_marks = take.assignment.exercise.recipe, take.pupil.marks
        score = score_as_set(session, take.assignment, take.pupil, take.assignment.target_bpm)
    words = studio_words()
    marks = marks_for(words, score.instrument_key, own_marks)
    return reply(score_out(score, recipe, query.width, words, marks=marks))


@api.get("/takes/<uuid:id>/audio")
@signed_in
def sound(path: ById) -> Any:
    """The take as one-channel FLAC, whatever was handed in; ranges are served."""
    with own_studio() as session:
        sha256 = _visible_take(session, path.id).sha256
    data = services().audio.read(sha256, "playback")
    return send_file(io.BytesIO(data), mimetype="audio/flac", conditional=True, etag=sha256, max_age=0)


_VERDICTS = {"accepted": "Accepted", "once_more": "Once more", "come_and_see_me": "Come and see me"}
_SAID = {"home": "is home", "away": "is away", "missed": "was left out", "not_so": "is not so"}


@api.get("/takes/<uuid:id>/report.pdf", responses={409: Problem})
@signed_in
def report_on_paper(path: ById) -> Any:
    clock = studio_clock()
    with own_studio() as session:
        take = _visible_take(session, path.id)
        report = _report(take)
        if report is None or not report.accepted:
            raise ProblemError(409, "This take was not measured, so there is no report to print.")
        size = take.pupil.size
        heading = Heading(
            pupil=take.pupil.name,
            instrument=f"{INSTRUMENTS[take.pupil.instrument].name.lower()} {size}",
            title=take.assignment.exercise.title,
            day=f"{clock.local(take.recorded_at):%d %B %Y, %H:%M}",
            studio=session.scalar(select(Studio.name).where(Studio.id == visitor().studio_id)) or "",
            marks=tuple(f"{_VERDICTS[own.verdict]}. {own.remark}".strip() for own in take.marks),
            overruled=tuple(_overruled_words(own, report) for own in take.overrules),
        )
        score = score_as_set(session, take.assignment, take.pupil, take.assignment.target_bpm)
    pdf = report_pdf(report, heading, score, studio_words().names)
    return send_file(io.BytesIO(pdf), mimetype="application/pdf", download_name="report.pdf", max_age=0)


def _overruled_words(own: Overrule, report: JudgedReport) -> str:
    if own.note_index is None:
        title = next((cause.title for cause in report.causes if cause.key == own.cause), own.cause)
        what = f"“{title}”"
    else:
        note = next((note for note in report.notes if note.index == own.note_index), None)
        what = f"{note.name} in {note.measure}.{note.beat:g}" if note else f"Note {own.note_index + 1}"
    return f"{what} {_SAID[own.says]}. {own.remark}".strip()


@api.post("/takes/<uuid:id>/marks", responses={201: MarkOut})
@teacher_only
def mark(path: ById, body: NewMark) -> Any:
    with own_studio() as session:
        take = _visible_take(session, path.id)
        given = Mark(take_id=take.id, teacher_id=visitor().person.id, verdict=body.verdict, remark=body.remark)
        session.add(given)
        session.flush()
        session.refresh(given)
        return reply(MarkOut.model_validate(given, from_attributes=True), 201)


@api.delete("/marks/<uuid:id>", responses={200: MarkOut})
@teacher_only
def take_mark_back(path: ById) -> Any:
    """Undo of a mark."""
    with own_studio() as session:
        given = own_row(session, Mark, path.id)
        out = MarkOut.model_validate(given, from_attributes=True)
        session.delete(given)
        return reply(out)


@api.post("/takes/<uuid:id>/overrules", responses={201: OverruleOut, 422: Problem})
@teacher_only
def overrule(path: ById, body: NewOverrule) -> Any:
    """The teacher's ear against the check, of one note or one cause; said again, the newer word replaces the older."""
    with own_studio() as session:
        take = _visible_take(session, path.id)
        notes = len(take.report.document["notes"]) if take.report else 0
        if body.note_index is not None and body.note_index >= notes:
            raise ProblemError(422, "The line has no such note.")
        for earlier in take.overrules:
            if (earlier.note_index, earlier.cause) == (body.note_index, body.cause):
                session.delete(earlier)
        session.flush()
        own = Overrule(take_id=take.id, teacher_id=visitor().person.id, **body.model_dump())
        session.add(own)
        session.flush()
        session.refresh(own)
        return reply(_overrule_out(own), 201)


@api.delete("/overrules/<uuid:id>", responses={200: OverruleOut})
@teacher_only
def take_overrule_back(path: ById) -> Any:
    with own_studio() as session:
        own = own_row(session, Overrule, path.id)
        out = _overrule_out(own)
        session.delete(own)
        return reply(out)


def _behind() -> Select[Any]:
    """Takes that were checked, but not by the engine of today."""
    current = select(Report.id).where(Report.take_id == Take.id, Report.engine == ENGINE)
    return select(Take.id).where(Take.state.in_(("checked", "refused")), ~current.exists())


def _recheck_out(session: Session) -> RecheckOut:
    behind = session.scalar(select(func.count()).select_from(_behind().subquery())) or 0
    total = session.scalar(select(func.count()).select_from(Take)) or 0
    return RecheckOut(engine=ENGINE, behind=behind, total=total)


@api.get("/recheck", responses={200: RecheckOut})
@teacher_only
def recheck_progress() -> Any:
    with own_studio() as session:
        return reply(_recheck_out(session))


@api.post("/recheck", responses={202: RecheckOut})
@teacher_only
def recheck() -> Any:
    """Has every take that an earlier engine checked be checked again, behind what pupils hand in meanwhile. Earlier
    reports, marks and overrules stay."""
    with own_studio() as session:
        for take_id in session.scalars(_behind().order_by(Take.recorded_at.desc())):
            defer_check(session, take_id, priority=_LATER)
        return reply(_recheck_out(session), 202)
