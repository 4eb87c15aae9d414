"""Classes and pupils: the teacher's list, passphrase cards, consent, instruments."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime
from typing import Any

from flask_openapi3 import APIBlueprint, Tag
from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload, selectinload

from attentive_owl.core.instruments import instrument
from attentive_owl.store.models import ClassGroup, Pupil
from attentive_owl.store.passphrases import hash_secret, new_passphrase, passphrase_key
from attentive_owl.web.access import own_studio, services, teacher_only
from attentive_owl.web.problems import ProblemError, not_found
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.common import ById, Problem
from attentive_owl.web.schemas.people import Card, ClassList, ClassOut, NewPupil, PupilChange, PupilOut

api = APIBlueprint(
    "people", __name__, url_prefix="/api", abp_tags=[Tag(name="people")], abp_responses={401: Problem, 404: Problem}
)


def pupil_out(pupil: Pupil) -> PupilOut:
    return PupilOut.model_validate(pupil, from_attributes=True)


@api.get("/classes", responses={200: ClassList})
@teacher_only
def classes() -> Any:
    with own_studio() as session:
        groups = session.scalars(
            select(ClassGroup).options(selectinload(ClassGroup.pupils)).order_by(ClassGroup.name)
        ).all()
        return reply(ClassList(classes=[ClassOut.model_validate(group, from_attributes=True) for group in groups]))


@api.post("/pupils", responses={201: Card})
@teacher_only
def add(body: NewPupil) -> Any:
    with own_studio() as session:
        group = session.scalar(select(ClassGroup).where(ClassGroup.id == body.class_id))
        if group is None:
            raise not_found()
        length = body.string_length_mm or _default_length(body.instrument, body.size)
        pupil = Pupil(name=body.name, instrument=body.instrument, size=body.size, string_length_mm=length, group=group)
        with session.no_autoflush:
            card = _new_card(session, pupil)
    return reply(card, 201)


@api.patch("/pupils/<uuid:id>", responses={200: PupilOut})
@teacher_only
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
        if body.known is not None:
            pupil.known = list(body.known)
        if body.ease is not None:
            pupil.ease = body.ease.value
        if body.consent_by is not None:
            pupil.consent_by = body.consent_by or None
            pupil.consent_at = datetime.now(UTC) if body.consent_by else None
        return reply(pupil_out(pupil))


@api.post("/pupils/<uuid:id>/passphrase", responses={200: Card})
@teacher_only
def new_card(path: ById) -> Any:
    """New words for a pupil; the old ones stop working."""
    with own_studio() as session:
        card = _new_card(session, _own_pupil(session, path.id))
    return reply(card)


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


def _new_card(session: Session, pupil: Pupil) -> Card:
    phrase = new_passphrase()
    pupil.phrase_key = passphrase_key(services().settings.secret_key, pupil.group.id, phrase)
    pupil.phrase_hash = hash_secret(phrase)
    session.add(pupil)
    session.flush()
    return Card(pupil=pupil_out(pupil), class_name=pupil.group.name, class_code=pupil.group.code, passphrase=phrase)
