"""Database sessions. A session is opened for one studio and can neither read nor write another one's rows."""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from sqlalchemy import Connection, Engine, create_engine, event
from sqlalchemy.orm import ORMExecuteState, Session, SessionTransaction, with_loader_criteria
from sqlalchemy.orm.unitofwork import UOWTransaction

from attentive_owl.store.models import StudioOwned
from attentive_owl.store.wall import stay_inside

_SCOPE = "studio_id"
_UNSCOPED = "unscoped"


class ScopeError(RuntimeError):
    """A query or a row went outside the session's studio: always a programming error."""


def make_engine(url: str, pool_size: int = 10) -> Engine:
    # What stands in a row is nothing for a log.
    return create_engine(url, pool_size=pool_size, max_overflow=10, pool_pre_ping=True, hide_parameters=True)


@contextmanager
def studio_session(engine: Engine, studio_id: uuid.UUID) -> Iterator[Session]:
    """A transaction that sees one studio; committed at the end, rolled back on an exception."""
    with Session(engine, expire_on_commit=False, info={_SCOPE: studio_id}) as session, session.begin():
        yield session


@contextmanager
def open_session(engine: Engine, why: str) -> Iterator[Session]:
    """A transaction over all studios. Only for what comes before a studio is known (signing in, jobs, set-up); `why`
    is said so that every use can be found and judged."""
    with Session(engine, expire_on_commit=False, info={_UNSCOPED: why}) as session, session.begin():
        yield session


@event.listens_for(Session, "after_begin")
def _behind_the_wall(session: Session, _: SessionTransaction, connection: Connection) -> None:
    """Two walls: below, each statement is kept inside by us; and the database shows no other rows, should one of ours be forgotten."""
    if _UNSCOPED not in session.info and _SCOPE in session.info:
        stay_inside(connection, session.info[_SCOPE])


@event.listens_for(Session, "do_orm_execute")
def _keep_inside(state: ORMExecuteState) -> None:
    if _UNSCOPED in state.session.info:
        return
    studio_id = state.session.info.get(_SCOPE)
    if studio_id is None:
        raise ScopeError("this session belongs to no studio")
    if state.is_select or state.is_update or state.is_delete:
        state.statement = state.statement.options(
            with_loader_criteria(StudioOwned, lambda cls: cls.studio_id == studio_id, include_aliases=True)
        )


@event.listens_for(Session, "before_flush")
def _write_inside(session: Session, _: UOWTransaction, __: Any) -> None:
    if _UNSCOPED in session.info:
        return
    studio_id = session.info.get(_SCOPE)
    for row in (*session.new, *session.dirty, *session.deleted):
        if isinstance(row, StudioOwned):
            if row in session.new and row.studio_id is None:
                row.studio_id = studio_id
            if row.studio_id != studio_id:
                raise ScopeError(f"a {type(row).__name__} of another studio was written")
