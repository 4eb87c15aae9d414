"""Checking one take: read it, hear it, keep the report. Safe to run twice."""

from __future__ import annotations

import uuid
from typing import Any

from sqlalchemy import Engine, select
from sqlalchemy.dialects.postgresql import insert

from attentive_owl.core.checking import check
from attentive_owl.core.judging import ENGINE, Expectations
from attentive_owl.core.theory import NoteNames, Temperament
from attentive_owl.formats.audio import read_flac
from attentive_owl.store.audio import AudioStore
from attentive_owl.store.exercises import score_for
from attentive_owl.store.levels import level_of
from attentive_owl.store.models import Report, Studio, Take
from attentive_owl.store.session import open_session
from attentive_owl.store.tapes import tapes_of

_DONE = ("checked", "refused")


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
        words = session.scalar(select(Studio.words).where(Studio.id == take.studio_id))
        score = score_for(take.assignment.exercise.recipe, take.pupil.instrument)
        expectations = Expectations(
            target_bpm=take.assignment.target_bpm,
            level=level_of(take.assignment.level, words or {}),
            temperament=Temperament(take.assignment.temperament),
            a4_hz=take.assignment.a4_hz,
            mode=take.assignment.mode,
            string_length_mm=take.pupil.string_length_mm,
            tapes=tapes_of(words or {}, take.pupil.instrument, take.pupil.marks),
            names=NoteNames((words or {}).get("names", NoteNames.LETTERS)),
        )
        sha256, studio_id = take.sha256, take.studio_id
    samples, rate = read_flac(audio.read(sha256, "playback"))
    document = check(samples, rate, score, expectations).to_document()
    _keep(engine, take_id, studio_id, document)


def _keep(engine: Engine, take_id: uuid.UUID, studio_id: uuid.UUID, document: dict[str, Any]) -> None:
    with open_session(engine, "a job knows only the take") as session:
        session.execute(
            insert(Report)
            .values(id=uuid.uuid4(), take_id=take_id, studio_id=studio_id, engine=ENGINE, document=document)
            .on_conflict_do_nothing(index_elements=["take_id", "engine"])
        )
        take = session.get(Take, take_id)
        if take is not None:
            take.state = "checked" if document["accepted"] else "refused"


def give_up(engine: Engine, take_id: uuid.UUID) -> None:
    """After the last attempt the page must not wait for ever."""
    with open_session(engine, "a job knows only the take") as session:
        take = session.get(Take, take_id)
        if take is not None and take.state not in _DONE:
            take.state = "stuck"
