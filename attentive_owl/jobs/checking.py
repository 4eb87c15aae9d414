"""Checking one take: read it, hear it, keep the report. Safe to run twice."""

from __future__ import annotations

import uuid
from datetime import timedelta

from sqlalchemy import Engine, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from attentive_owl.core.checking import check
from attentive_owl.core.instruments import INSTRUMENTS, UnplayableError
from attentive_owl.core.judging import ENGINE, Expectations, not_read
from attentive_owl.core.judging import Report as JudgedReport
from attentive_owl.core.listening import OtherLine
from attentive_owl.core.theory import NoteNames, NoteValues, Temperament
from attentive_owl.formats.audio import AudioFileError
from attentive_owl.jobs.reading import samples_of
from attentive_owl.store.audio import AudioStore
from attentive_owl.store.erasure import remove_files
from attentive_owl.store.exercises import line_of_take, score_for
from attentive_owl.store.levels import good_go_of, level_of
from attentive_owl.store.models import Assignment, AssignmentPupil, Report, Studio, Take
from attentive_owl.store.session import open_session
from attentive_owl.store.tapes import tapes_of
from attentive_owl.store.tuning import open_strings_at

_DONE = ("checked", "refused")
_REMEMBERED = timedelta(days=60)
_MOST_OTHERS = 8


def check_one(engine: Engine, audio: AudioStore, take_id: uuid.UUID) -> None:
    """Check a take that has no report of this engine yet. A take that is gone is no error; one that was checked by an
    earlier engine shows that report until the new one stands."""
    with open_session(engine, "a job knows only the take") as session:
        take = session.get(Take, take_id, with_for_update={"of": Take})
        if take is None:
            return
        known = session.scalar(select(Report.id).where(Report.take_id == take_id, Report.engine == ENGINE))
        if known is not None and take.state in _DONE:
            return
        if take.state not in _DONE:
            take.state = "checking"
        settings = session.scalar(select(Studio.settings).where(Studio.id == take.studio_id))
        score = line_of_take(session, take).score
        expectations = Expectations(
            target_bpm=take.asked_bpm,
            level=level_of(take.assignment.level, settings or {}),
            temperament=Temperament(take.assignment.temperament),
            a4_hz=take.assignment.a4_hz,
            mode=take.mode or take.assignment.mode,
            string_length_mm=take.pupil.string_length_mm,
            tapes=tapes_of(settings or {}, take.pupil.instrument, take.pupil.marks),
            names=NoteNames((settings or {}).get("names", NoteNames.LETTERS)),
            values=NoteValues((settings or {}).get("values", NoteValues.QUARTER)),
            open_strings=open_strings_at(session, take.pupil_id, take.recorded_at),
            good_go=good_go_of(settings or {}),
            focus=take.focus,
        )
        others = other_lines(session, take)
        sha256, claimed_s = take.sha256, take.duration_s or None
    try:
        samples, rate = samples_of(audio, sha256, claimed_s)
        report, duration_s = check(samples, rate, score, expectations, others), len(samples) / rate
    except AudioFileError as error:
        report, duration_s = not_read(str(error), expectations), None
    with open_session(engine, "a job knows only the take") as session:
        take = session.get(Take, take_id, with_for_update={"of": Take})
        if take is not None:
            _keep(session, take, report, duration_s)
        else:
            # Erased while it was listened to: what was read of it goes too.
            remove_files(session, audio, [sha256])


def other_lines(session: Session, take: Take) -> list[OtherLine]:
    """What the pupil may have played instead: what else was set to them of late, the newest first, and the parts of the other
    instruments. A few bars are like those of many a line: they are taken for none."""
    if take.bars is not None:
        return []
    assignment, key = take.assignment, take.pupil.instrument
    known = session.execute(
        select(Assignment, AssignmentPupil.ease)
        .join(AssignmentPupil, AssignmentPupil.assignment_id == Assignment.id)
        .where(
            AssignmentPupil.pupil_id == take.pupil_id,
            Assignment.id != assignment.id,
            Assignment.created_at > take.recorded_at - _REMEMBERED,
        )
        .order_by(Assignment.created_at.desc())
        .limit(_MOST_OTHERS)
    ).all()
    lines = []
    for other, ease in known:
        name = f"{other.exercise.title} (due {other.due_on:%A}, {other.due_on.day} {other.due_on:%B})"
        lines.append(OtherLine(name, score_for(other.exercise.recipe, key, other.target_bpm, ease), str(other.id)))
    for instrument in INSTRUMENTS.values():
        if instrument.key != key:
            try:
                part = score_for(assignment.exercise.recipe, instrument.key, assignment.target_bpm)
            except UnplayableError:
                # That instrument has no such line.
                continue
            lines.append(OtherLine(instrument.name.lower(), part, of_instrument=True))
    return lines


def _keep(session: Session, take: Take, report: JudgedReport, duration_s: float | None) -> None:
    """`duration_s`: of what was read; None where nothing was."""
    session.execute(
        insert(Report)
        .values(
            id=uuid.uuid4(), take_id=take.id, studio_id=take.studio_id, engine=ENGINE, document=report.to_document()
        )
        .on_conflict_do_nothing(index_elements=["take_id", "engine"])
    )
    take.state = "checked" if report.accepted else "refused"
    if duration_s is not None:
        take.duration_s = duration_s


def give_up(engine: Engine, take_id: uuid.UUID) -> None:
    """After the last attempt the page must not wait for ever."""
    with open_session(engine, "a job knows only the take") as session:
        take = session.get(Take, take_id)
        if take is not None and take.state not in _DONE:
            take.state = "stuck"
