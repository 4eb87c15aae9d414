"""Signing in and out."""

from __future__ import annotations

from typing import Any, Literal

from flask import request
from flask import session as cookie
from flask_login import current_user, login_user, logout_user
from flask_wtf.csrf import generate_csrf
from sqlalchemy import func, select, text

from attentive_owl.store.models import ClassGroup, Pupil, Studio, Teacher
from attentive_owl.store.passphrases import hash_secret, nobody, normal_passphrase, passphrase_key, verify_secret
from attentive_owl.store.session import open_session
from attentive_owl.web.access import (
    Visitor,
    end_sessions,
    own_studio,
    services,
    teacher_only,
    visitor,
    visitor_for_pupil,
    visitor_for_teacher,
)
from attentive_owl.web.areas import Area
from attentive_owl.web.problems import ProblemError
from attentive_owl.web.replies import reply
from attentive_owl.web.roles import Rank
from attentive_owl.web.schemas.common import Problem
from attentive_owl.web.schemas.people import (
    FirstAccount,
    PasswordChange,
    Person,
    PupilSignIn,
    SessionState,
    TeacherSignIn,
)
from attentive_owl.web.throttle import CLASS, TEACHER, Attempt, Pace, begin, was_right

api = Area("session", __name__, 400, 429, url_prefix="/api/session")
_SHUT = "There is a studio here already, so this door is shut."
_WHY = "signing in comes before a studio is known"


@api.get("", responses={200: SessionState})
def who() -> Any:
    """Who is signed in, and the token that every changing request must carry."""
    person = current_user.person if current_user.is_authenticated else None
    return reply(_state(person))


def _state(person: Person | None) -> SessionState:
    here: Literal["nothing", "demo", "studio"] = "studio" if person else _what_is_here()
    return SessionState(person=person, csrf_token=generate_csrf(), here=here)


def _what_is_here() -> Literal["nothing", "demo", "studio"]:
    with open_session(services().engine, _WHY) as session:
        kinds = set(session.scalars(select(Studio.demo).distinct()))
    return "studio" if False in kinds else "demo" if kinds else "nothing"


@api.post("/first", responses={201: SessionState, 409: Problem, 422: Problem})
def first(body: FirstAccount) -> Any:
    """The first teacher makes a studio; once there is one, the door is shut."""
    if _what_is_here() == "studio":
        raise ProblemError(409, _SHUT)
    hashed = hash_secret(body.password)
    with open_session(services().engine, _WHY) as session:
        # Two at once: the second waits, and finds a studio.
        session.execute(text("SELECT pg_advisory_xact_lock(7390414)"))
        if session.scalar(select(Studio.id).where(~Studio.demo).limit(1)) is not None:
            raise ProblemError(409, _SHUT)
        if session.scalar(select(Teacher.id).where(func.lower(Teacher.email) == body.email.lower())) is not None:
            raise ProblemError(422, "This e-mail has an account already.")
        studio = Studio(name=body.studio)
        session.add(studio)
        session.flush()
        teacher = Teacher(studio_id=studio.id, email=body.email, name=body.name, password_hash=hashed, rank=Rank.OWNER)
        session.add(teacher)
        session.flush()
        found = visitor_for_teacher(teacher, studio)
    return welcome(found, 201)


@api.post("/teacher", responses={200: SessionState, 401: Problem})
def teacher(body: TeacherSignIn) -> Any:
    email = body.email.lower()
    attempt = _begin(TEACHER, email, body.password)
    with open_session(services().engine, _WHY) as session:
        row = session.execute(
            select(Teacher, Studio)
            .join(Studio, Studio.id == Teacher.studio_id)
            .where(func.lower(Teacher.email) == email, Teacher.rank != Rank.LEFT)
        ).first()
        hashed = row[0].password_hash if row else nobody()
        found = visitor_for_teacher(*row) if row else None
    if not verify_secret(hashed, body.password) or found is None:
        raise ProblemError(401, "This e-mail and password do not belong together.")
    was_right(services().engine, attempt)
    return welcome(found)


@api.post("/pupil", responses={200: SessionState, 401: Problem})
def pupil(body: PupilSignIn) -> Any:
    code = body.class_code.upper().replace(" ", "")
    phrase = normal_passphrase(body.passphrase)
    attempt = _begin(CLASS, code, phrase)
    with open_session(services().engine, _WHY) as session:
        group = session.scalar(select(ClassGroup).where(ClassGroup.code == code))
        row = None
        if group is not None:
            key = passphrase_key(services().settings.secret_key, group.id, phrase)
            row = session.execute(
                select(Pupil, Studio)
                .join(Studio, Studio.id == Pupil.studio_id)
                .where(Pupil.group_id == group.id, Pupil.phrase_key == key, Pupil.archived_at.is_(None))
            ).first()
        hashed = row[0].phrase_hash if row else nobody()
        found = visitor_for_pupil(*row, Rank.ADULT if body.adult else Rank.PUPIL) if row else None
    if not verify_secret(hashed, phrase) or found is None:
        raise ProblemError(401, "That class code and those words do not belong together. Look at your card once more.")
    was_right(services().engine, attempt)
    return welcome(found)


@api.delete("", responses={200: SessionState})
def leave() -> Any:
    """Ends every session of whoever leaves, on the server: a cookie that somebody kept opens nothing."""
    if current_user.is_authenticated:
        end_sessions(current_user.person.role, current_user.person.id)
    return leave_now()


def leave_now() -> Any:
    logout_user()
    cookie.clear()
    return reply(_state(None))


@api.post("/password", responses={200: SessionState, 401: Problem, 422: Problem})
@teacher_only
def change_password(body: PasswordChange) -> Any:
    """Another password; every other session ends."""
    own_id = visitor().person.id
    attempt = _begin(TEACHER, str(own_id), body.old)
    with own_studio() as session:
        own = session.get_one(Teacher, own_id)
        if not verify_secret(own.password_hash, body.old):
            raise ProblemError(401, "That is not your password until now.")
        own.password_hash = hash_secret(body.new)
        own.epoch += 1
        session.flush()
        found = visitor_for_teacher(own, session.get_one(Studio, own.studio_id))
    was_right(services().engine, attempt)
    return welcome(found)


def _begin(pair: Pace, subject: str, tried: str) -> Attempt:
    return begin(services().engine, services().settings.secret_key, pair, subject, request.remote_addr or "", tried)


def welcome(found: Visitor | None, status: int = 200) -> Any:
    assert found is not None
    # A new session for a new person: nothing that was in the old cookie goes on.
    cookie.clear()
    cookie.permanent = True
    login_user(found)
    return reply(_state(found.person), status)
