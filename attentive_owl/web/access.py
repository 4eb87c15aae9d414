"""Who is asking, and the one studio that they may see."""

from __future__ import annotations

import functools
import uuid
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any, ParamSpec, TypeVar, cast

from flask import Flask, current_app, request
from flask import session as cookie
from flask_login import LoginManager, UserMixin, current_user
from flask_wtf.csrf import CSRFProtect
from sqlalchemy import Engine, select, update
from sqlalchemy.orm import Session

from attentive_owl.formats.limits import MAX_BYTES
from attentive_owl.settings import Settings
from attentive_owl.store.audio import AudioStore
from attentive_owl.store.models import Pupil, Studio, StudioOwned, Teacher
from attentive_owl.store.session import open_session, studio_session
from attentive_owl.web.problems import ProblemError, not_found
from attentive_owl.web.roles import MAY, WHY_NOT, Rank, Right
from attentive_owl.web.schemas.people import Person

_LONGEST = timedelta(days=90)
_IDLE = {"teacher": timedelta(days=7), "pupil": timedelta(days=45), "adult": timedelta(days=45)}
"""A session that is not used for so long is over; a child comes back after the holidays with the card."""
_NOTED_EVERY_S = 3600.0
P = ParamSpec("P")
R = TypeVar("R")
Row = TypeVar("Row", bound=StudioOwned)


@dataclass(frozen=True)
class Services:
    """What a request needs beside itself; one for the application."""

    settings: Settings
    engine: Engine
    audio: AudioStore


class Visitor(UserMixin):
    """A signed-in person, as the cookie names them: 'teacher:<id>:<epoch>', 'pupil:<id>:<epoch>' or, with the pupil's id,
    'adult:<id>:<epoch>'. A cookie of an earlier epoch names nobody."""

    def __init__(self, person: Person, studio: Studio, epoch: int) -> None:
        self.person = person
        self.studio_id = studio.id
        self.settings = studio.settings or {}
        """As they stand in the database: read with the person, at each request."""
        self.epoch = epoch

    def get_id(self) -> str:
        door = "adult" if self.person.rank is Rank.ADULT else self.person.role
        return f"{door}:{self.person.id}:{self.epoch}"


def services() -> Services:
    return cast(Services, current_app.extensions["owl"])


def visitor() -> Visitor:
    return cast(Visitor, current_user)


@contextmanager
def own_studio() -> Iterator[Session]:
    """A transaction that sees only the visitor's studio."""
    with studio_session(services().engine, visitor().studio_id) as session:
        yield session


def own_row(session: Session, model: type[Row], row_id: uuid.UUID) -> Row:
    """A row of the visitor's studio by its id. Raises 404."""
    row = session.scalar(select(model).where(model.id == row_id))
    if row is None:
        raise not_found()
    return row


def visitor_for_teacher(teacher: Teacher, studio: Studio) -> Visitor:
    rank = Rank(teacher.rank)
    person = Person(
        role="teacher",
        rank=rank,
        may=sorted(MAY[rank]),
        id=teacher.id,
        name=teacher.name,
        studio=studio.name,
        instrument=None,
        size=None,
        may_record=False,
        most_bytes=MAX_BYTES,
    )
    return Visitor(person, studio, teacher.epoch)


def visitor_for_pupil(pupil: Pupil, studio: Studio, rank: Rank = Rank.PUPIL) -> Visitor:
    person = Person(
        role="pupil",
        rank=rank,
        may=sorted(MAY[rank]),
        id=pupil.id,
        name=pupil.name,
        studio=studio.name,
        instrument=pupil.instrument,
        size=pupil.size,
        may_record=pupil.consent_at is not None,
        most_bytes=MAX_BYTES,
    )
    return Visitor(person, studio, pupil.epoch)


def _too_old(door: str) -> bool:
    """Whether the session began too long ago, or was not used for too long; what is used now is noted."""
    now = datetime.now(UTC).timestamp()
    # A clock that was set back makes nobody's session longer.
    for name in ("begun", "used"):
        if cookie.get(name, now) > now:
            cookie[name] = now
    begun, used = cookie.get("begun", now), cookie.get("used", now)
    if now - begun > _LONGEST.total_seconds() or now - used > _IDLE[door].total_seconds():
        return True
    cookie.setdefault("begun", now)
    # Not at every request: a cookie that does not change is not sent.
    if now - used > _NOTED_EVERY_S or "used" not in cookie:
        cookie["used"] = now
    return False


def _person(door: str, own_id: uuid.UUID) -> Visitor | None:
    with open_session(services().engine, "the cookie says who, not which studio") as session:
        if door == "teacher":
            row = session.execute(
                select(Teacher, Studio)
                .join(Studio, Studio.id == Teacher.studio_id)
                .where(Teacher.id == own_id, Teacher.rank != Rank.LEFT)
            ).first()
            return visitor_for_teacher(*row) if row else None
        found = session.execute(
            select(Pupil, Studio)
            .join(Studio, Studio.id == Pupil.studio_id)
            .where(Pupil.id == own_id, Pupil.archived_at.is_(None))
        ).first()
        return visitor_for_pupil(*found, Rank(door)) if found else None


def end_sessions(role: str, own_id: uuid.UUID) -> None:
    """Every session of a person, on whatever device."""
    model = Teacher if role == "teacher" else Pupil
    with open_session(services().engine, "who leaves is nobody afterwards") as session:
        session.execute(update(model).where(model.id == own_id).values(epoch=model.epoch + 1))


def make_login_manager() -> LoginManager:
    manager = LoginManager()
    manager.session_protection = None

    @manager.user_loader
    def load(key: str) -> Visitor | None:
        door, _, rest = key.partition(":")
        identity, _, epoch = rest.partition(":")
        try:
            own_id = uuid.UUID(identity)
        except ValueError:
            return None
        if door not in _IDLE or _too_old(door):
            return None
        found = _person(door, own_id)
        return found if found is not None and str(found.epoch) == epoch else None

    return manager


def _check(right: Right | None) -> None:
    """Raises 401 for somebody signed out, 403 for somebody without the right; `right` None lets everybody else in."""
    if not current_user.is_authenticated:
        raise ProblemError(401, "Please sign in first.")
    if right is not None and right not in visitor().person.may:
        raise ProblemError(403, WHY_NOT[right])


def _requires(right: Right | None) -> Callable[[Callable[P, R]], Callable[P, R]]:
    def decorate(view: Callable[P, R]) -> Callable[P, R]:
        @functools.wraps(view)
        def guarded(*args: P.args, **kwargs: P.kwargs) -> R:
            _check(right)
            return view(*args, **kwargs)

        cast(Any, guarded).requires = right or "anyone"
        return guarded

    return decorate


def guard_before_body(app: Flask) -> None:
    """Who it is, is asked before anything of a body is read: a stranger can not make us wait for one."""

    @app.before_request
    def guard() -> None:
        view = app.view_functions.get(request.endpoint or "")
        wanted = getattr(view, "requires", None)
        if wanted is not None:
            _check(None if wanted == "anyone" else Right(wanted))


class CsrfByHeader(CSRFProtect):
    """The token is looked for in the header alone: looking for it in a form would read the whole body first."""

    def _get_csrf_token(self) -> str | None:
        for name in current_app.config["WTF_CSRF_HEADERS"]:
            if token := request.headers.get(name):
                return token
        return None


signed_in = _requires(None)
pupil_only = _requires(Right.PRACTISE)
teacher_only = _requires(Right.TEACH)
people_only = _requires(Right.PEOPLE)
house_only = _requires(Right.HOUSE)
