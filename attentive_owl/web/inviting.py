"""Further teachers come in by a link that works once; the demo can be thrown away."""

from __future__ import annotations

import hashlib
import secrets
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import func, select

from attentive_owl.store.erasure import erase_studio, remove_files
from attentive_owl.store.models import Invitation, Studio, Teacher
from attentive_owl.store.passphrases import hash_secret
from attentive_owl.store.session import open_session
from attentive_owl.web.access import house_only, own_row, own_studio, services, visitor, visitor_for_teacher
from attentive_owl.web.areas import Area
from attentive_owl.web.problems import ProblemError, not_found
from attentive_owl.web.replies import reply
from attentive_owl.web.roles import Rank
from attentive_owl.web.schemas.common import ById, Done, Problem
from attentive_owl.web.schemas.people import (
    InvitationOut,
    InvitationQuestion,
    Invited,
    InvitedAccount,
    NewInvitation,
    RankChange,
    SessionState,
    Staff,
    TeacherOut,
)
from attentive_owl.web.signing_in import leave_now, welcome

api = Area("inviting", __name__, 401, 404)
_GOOD_FOR = timedelta(days=7)
_WHY = "who comes by a link is nobody yet"


@api.get("/teachers", responses={200: Staff})
@house_only
def staff() -> Any:
    with own_studio() as session:
        teachers = session.scalars(select(Teacher).order_by(Teacher.name)).all()
        links = session.scalars(
            select(Invitation).where(Invitation.used_at.is_(None), Invitation.expires_at > func.now())
        ).all()
        studio = session.get_one(Studio, visitor().studio_id)
        return reply(
            Staff(
                teachers=[TeacherOut.model_validate(own, from_attributes=True) for own in teachers],
                open=[InvitationOut.model_validate(own, from_attributes=True) for own in links],
                demo=studio.demo,
            )
        )


@api.post("/invitations", responses={201: Invited})
@house_only
def invite(body: NewInvitation) -> Any:
    """A link, shown this once: it is handed over by whatever way the teachers have."""
    token = secrets.token_urlsafe(24)
    with own_studio() as session:
        own = Invitation(token_hash=_hash(token), expires_at=datetime.now(UTC) + _GOOD_FOR, rank=body.rank)
        session.add(own)
        session.flush()
        return reply(Invited(id=own.id, path=f"/join/{token}", expires_at=own.expires_at), 201)


@api.patch("/teachers/<uuid:id>", responses={200: TeacherOut, 409: Problem})
@house_only
def change_rank(path: ById, body: RankChange) -> Any:
    """Owner, teacher, assistant, or left; sessions that began with another rank end. A studio always has an owner."""
    with own_studio() as session:
        everybody = {own.id: own for own in session.scalars(select(Teacher).order_by(Teacher.id).with_for_update())}
        own = everybody.get(path.id)
        if own is None:
            raise not_found()
        others = [one for one in everybody.values() if one.rank == Rank.OWNER and one.id != own.id]
        if body.rank is not Rank.OWNER and not others:
            raise ProblemError(409, "Somebody has to run the studio: make another one the owner first.")
        if own.rank != body.rank:
            own.rank, own.epoch = body.rank, own.epoch + 1
        return reply(TeacherOut.model_validate(own, from_attributes=True))


@api.delete("/invitations/<uuid:id>", responses={200: Done})
@house_only
def withdraw(path: ById) -> Any:
    with own_studio() as session:
        session.delete(own_row(session, Invitation, path.id))
    return reply(Done())


@api.get("/session/invitation", responses={200: Invited, 404: Problem})
def look_at(query: InvitationQuestion) -> Any:
    """Whether a link still opens, and into which studio."""
    with open_session(services().engine, _WHY) as session:
        row = session.execute(_open(query.token)).first()
        if row is None:
            raise not_found()
        own, studio = row
        return reply(Invited(id=own.id, path="", expires_at=own.expires_at, studio=studio.name))


@api.post("/session/invitation", responses={201: SessionState, 404: Problem, 422: Problem})
def join(body: InvitedAccount) -> Any:
    hashed = hash_secret(body.password)
    with open_session(services().engine, _WHY) as session:
        row = session.execute(_open(body.token).with_for_update(of=Invitation)).first()
        if row is None:
            raise ProblemError(404, "This link was used already, or is too old. Ask for a new one.")
        own, studio = row
        if session.scalar(select(Teacher.id).where(func.lower(Teacher.email) == body.email.lower())) is not None:
            raise ProblemError(422, "This e-mail has an account already.")
        teacher = Teacher(studio_id=studio.id, email=body.email, name=body.name, password_hash=hashed, rank=own.rank)
        session.add(teacher)
        own.used_at = datetime.now(UTC)
        session.flush()
        found = visitor_for_teacher(teacher, studio)
    return welcome(found, 201)


def _open(token: str) -> Any:
    return (
        select(Invitation, Studio)
        .join(Studio, Studio.id == Invitation.studio_id)
        .where(Invitation.token_hash == _hash(token), Invitation.used_at.is_(None), Invitation.expires_at > func.now())
    )


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


@api.delete("/studio", responses={200: SessionState, 409: Problem})
@house_only
def throw_demo_away() -> Any:
    """The invented studio, whole. A real one is never thrown away by a button."""
    studio_id = visitor().studio_id
    with own_studio() as session:
        if not session.get_one(Studio, studio_id).demo:
            raise ProblemError(409, "Only the demo can be thrown away here.")
    with open_session(services().engine, "a whole studio goes") as session:
        hashes = erase_studio(session, studio_id)
    with open_session(services().engine, "its files may be another studio's too") as session:
        remove_files(session, services().audio, hashes)
    return leave_now()
