"""Signing in and out."""

from __future__ import annotations

from typing import Any

from flask import request
from flask import session as cookie
from flask_login import current_user, login_user, logout_user
from flask_openapi3 import APIBlueprint, Tag
from flask_wtf.csrf import generate_csrf
from sqlalchemy import func, select

from attentive_owl.store.models import ClassGroup, Pupil, Studio, Teacher
from attentive_owl.store.passphrases import nobody, normal_passphrase, passphrase_key, verify_secret
from attentive_owl.store.session import open_session
from attentive_owl.web.access import Visitor, services, visitor_for_pupil, visitor_for_teacher
from attentive_owl.web.problems import ProblemError
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.common import Problem
from attentive_owl.web.schemas.people import PupilSignIn, SessionState, TeacherSignIn
from attentive_owl.web.throttle import check_rate, note_failure

api = APIBlueprint(
    "session",
    __name__,
    url_prefix="/api/session",
    abp_tags=[Tag(name="session")],
    abp_responses={400: Problem, 429: Problem},
)
_WHY = "signing in comes before a studio is known"


@api.get("", responses={200: SessionState})
def who() -> Any:
    """Who is signed in, and the token that every changing request must carry."""
    person = current_user.person if current_user.is_authenticated else None
    return reply(SessionState(person=person, csrf_token=generate_csrf()))


@api.post("/teacher", responses={200: SessionState, 401: Problem})
def teacher(body: TeacherSignIn) -> Any:
    email = body.email.lower()
    _throttle(email)
    with open_session(services().engine, _WHY) as session:
        row = session.execute(
            select(Teacher, Studio)
            .join(Studio, Studio.id == Teacher.studio_id)
            .where(func.lower(Teacher.email) == email)
        ).first()
        hashed = row[0].password_hash if row else nobody()
        found = visitor_for_teacher(*row) if row else None
    if not verify_secret(hashed, body.password) or found is None:
        _fail(email, "This e-mail and password do not belong together.")
    return _welcome(found)


@api.post("/pupil", responses={200: SessionState, 401: Problem})
def pupil(body: PupilSignIn) -> Any:
    code = body.class_code.upper().replace(" ", "")
    _throttle(code)
    phrase = normal_passphrase(body.passphrase)
    with open_session(services().engine, _WHY) as session:
        group = session.scalar(select(ClassGroup).where(ClassGroup.code == code))
        row = None
        if group is not None:
            key = passphrase_key(services().settings.secret_key, group.id, phrase)
            row = session.execute(
                select(Pupil, Studio)
                .join(Studio, Studio.id == Pupil.studio_id)
                .where(Pupil.group_id == group.id, Pupil.phrase_key == key)
            ).first()
        hashed = row[0].phrase_hash if row else nobody()
        found = visitor_for_pupil(*row) if row else None
    if not verify_secret(hashed, phrase) or found is None:
        _fail(code, "That class code and those three words do not belong together. Look at your card once more.")
    return _welcome(found)


@api.delete("", responses={200: SessionState})
def leave() -> Any:
    logout_user()
    cookie.clear()
    return reply(SessionState(person=None, csrf_token=generate_csrf()))


def _throttle(subject: str) -> None:
    check_rate(services().engine, services().settings.secret_key, subject, request.remote_addr or "")


def _fail(subject: str, sentence: str) -> None:
    note_failure(services().engine, services().settings.secret_key, subject, request.remote_addr or "")
    raise ProblemError(401, sentence)


def _welcome(found: Visitor | None) -> Any:
    assert found is not None
    # A new session for a new person: nothing that was in the old cookie goes on.
    cookie.clear()
    cookie.permanent = True
    login_user(found)
    return reply(SessionState(person=found.person, csrf_token=generate_csrf()))
