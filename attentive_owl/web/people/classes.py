"""Classes and pupils: the teacher's list, passphrase cards, consent, instruments."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session, joinedload, selectinload

from attentive_owl.core.instruments import instrument
from attentive_owl.formats.roster import RosterRow, read_roster
from attentive_owl.store.models import ClassGroup, LearningPath, Pupil
from attentive_owl.store.passphrases import hash_secret, new_class_code, new_passphrase, passphrase_key
from attentive_owl.web.access import own_row, own_studio, people_only, services, teacher_only
from attentive_owl.web.people.blueprint import api
from attentive_owl.web.problems import ProblemError, not_found
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.common import ById, Problem
from attentive_owl.web.schemas.people import (
    Card,
    ClassList,
    ClassOut,
    NewClass,
    NewPupil,
    PupilChange,
    PupilOut,
    Roster,
    RosterFaultOut,
    RosterOut,
    RosterRowOut,
)


def pupil_out(pupil: Pupil) -> PupilOut:
    return PupilOut.model_validate(pupil, from_attributes=True)


@api.get("/classes", responses={200: ClassList})
@teacher_only
def classes() -> Any:
    with own_studio() as session:
        groups = session.scalars(
            select(ClassGroup)
            .options(
                selectinload(ClassGroup.pupils.and_(Pupil.archived_at.is_(None))),
                selectinload(ClassGroup.guests.and_(Pupil.archived_at.is_(None))),
            )
            .order_by(ClassGroup.name)
        ).all()
        gone = session.scalar(select(func.count()).where(Pupil.archived_at.is_not(None))) or 0
        return reply(ClassList(classes=[class_out(group) for group in groups], archived=gone))


def class_out(group: ClassGroup) -> ClassOut:
    return ClassOut.model_validate(group, from_attributes=True)


@api.post("/classes", responses={201: ClassOut})
@people_only
def new_class(body: NewClass) -> Any:
    with own_studio() as session:
        group = ClassGroup(name=body.name, code=new_class_code(), pupils=[], guests=[])
        session.add(group)
        session.flush()
        return reply(class_out(group), 201)


@api.patch("/classes/<uuid:id>", responses={200: ClassOut})
@people_only
def rename_class(path: ById, body: NewClass) -> Any:
    with own_studio() as session:
        group = own_row(session, ClassGroup, path.id)
        group.name = body.name
        return reply(class_out(group))


@api.delete("/classes/<uuid:id>", responses={200: ClassOut, 409: Problem})
@people_only
def drop_class(path: ById) -> Any:
    """Only while nobody is in it: a pupil is never lost with a class."""
    with own_studio() as session:
        group = own_row(session, ClassGroup, path.id)
        if group.pupils:
            raise ProblemError(409, "There are pupils in this class, or some who have left it, so it stays.")
        out = class_out(group)
        session.delete(group)
        return reply(out)


@api.post("/classes/<uuid:id>/roster", responses={200: RosterOut, 422: Problem})
@people_only
def read_list(path: ById, body: Roster) -> Any:
    """Pupils from a list: first looked at, then kept, all of them or none."""
    with own_studio() as session:
        group = own_row(session, ClassGroup, path.id)
        rows, faults = read_roster(body.text, [pupil.name for pupil in group.pupils])
        cards: list[Card] = []
        if body.keep:
            if faults or not rows:
                raise ProblemError(
                    422,
                    "Nobody was put in: "
                    + (f"line {faults[0].line}: {faults[0].words}" if faults else "the list is empty."),
                )
            cards = _new_cards(session, group, rows)
    return reply(
        RosterOut(
            rows=[RosterRowOut.model_validate(row, from_attributes=True) for row in rows],
            faults=[RosterFaultOut.model_validate(fault, from_attributes=True) for fault in faults],
            cards=cards,
        )
    )


@api.post("/pupils", responses={201: Card})
@people_only
def add(body: NewPupil) -> Any:
    with own_studio() as session:
        group = session.scalar(select(ClassGroup).where(ClassGroup.id == body.class_id))
        if group is None:
            raise not_found()
        length = body.string_length_mm or _default_length(body.instrument, body.size)
        pupil = Pupil(name=body.name, instrument=body.instrument, size=body.size, string_length_mm=length, group=group)
        with session.no_autoflush:
            card = new_card_for(session, pupil)
    return reply(card, 201)


@api.patch("/pupils/<uuid:id>", responses={200: PupilOut})
@people_only
def change(path: ById, body: PupilChange) -> Any:
    with own_studio() as session:
        pupil = _own_pupil(session, path.id)
        if body.name:
            pupil.name = body.name
        if body.size is not None:
            pupil.string_length_mm = _default_length(pupil.instrument, body.size)
            pupil.size = body.size
        if body.string_length_mm is not None:
            pupil.string_length_mm = body.string_length_mm
        if body.marks is not None:
            pupil.marks = [mark.model_dump() for mark in body.marks]
        if body.path_id is not None:
            pupil.path_id = _own_path(session, body.path_id) if body.path_id != "" else None
            pupil.path_step = 0
        if body.path_step is not None:
            pupil.path_step = body.path_step
        if body.goal is not None:
            pupil.goal = body.goal
        if body.remarks is not None:
            pupil.remarks = body.remarks
        if body.known is not None:
            pupil.known = list(body.known)
        if body.ease is not None:
            pupil.ease = body.ease.value
        if body.consent_by is not None:
            pupil.consent_by = body.consent_by or None
            pupil.consent_at = datetime.now(UTC) if body.consent_by else None
        if body.pictures_agreed is not None:
            pupil.pictures_agreed = body.pictures_agreed
        # No picture without a yes to recordings, of which it is a part.
        pupil.pictures_agreed = pupil.pictures_agreed and pupil.consent_at is not None
        return reply(pupil_out(pupil))


@api.post("/pupils/<uuid:id>/passphrase", responses={200: Card})
@people_only
def new_card(path: ById) -> Any:
    """New words for a pupil; the old ones stop working."""
    with own_studio() as session:
        card = new_card_for(session, _own_pupil(session, path.id))
    return reply(card)


def _own_path(session: Session, path_id: uuid.UUID) -> uuid.UUID:
    return own_row(session, LearningPath, path_id).id


def _own_pupil(session: Session, pupil_id: uuid.UUID) -> Pupil:
    pupil = session.scalar(select(Pupil).where(Pupil.id == pupil_id).options(joinedload(Pupil.group)))
    if pupil is None:
        raise not_found()
    return pupil


def _default_length(instrument_key: str, size: str) -> float:
    sizes = instrument(instrument_key).sizes
    if size not in sizes:
        raise ProblemError(422, f"Size: a {instrument_key} comes in {', '.join(sizes)}.")
    return sizes[size]


def _new_cards(session: Session, group: ClassGroup, rows: Sequence[RosterRow]) -> list[Card]:
    """Hashing words is slow on purpose, and does not hold the interpreter: a class of thirty takes two seconds on two cores."""
    phrases = [new_passphrase() for _ in rows]
    with ThreadPoolExecutor() as pool:
        hashes = list(pool.map(hash_secret, phrases))
    cards = []
    with session.no_autoflush:
        for row, phrase, hashed in zip(rows, phrases, hashes, strict=True):
            pupil = Pupil(
                name=row.name,
                instrument=row.instrument,
                size=row.size,
                string_length_mm=row.string_length_mm,
                group=group,
            )
            cards.append(_with_phrase(session, pupil, phrase, hashed))
    return cards


def new_card_for(session: Session, pupil: Pupil) -> Card:
    phrase = new_passphrase()
    return _with_phrase(session, pupil, phrase, hash_secret(phrase))


def _with_phrase(session: Session, pupil: Pupil, phrase: str, hashed: str) -> Card:
    pupil.phrase_key = passphrase_key(services().settings.secret_key, pupil.group.id, phrase)
    pupil.phrase_hash = hashed
    # Whoever came in with the old words is out.
    pupil.epoch = (pupil.epoch or 0) + 1
    session.add(pupil)
    session.flush()
    return Card(pupil=pupil_out(pupil), class_name=pupil.group.name, class_code=pupil.group.code, passphrase=phrase)
