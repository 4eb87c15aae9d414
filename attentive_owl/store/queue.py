"""Putting a check into the queue, in the same transaction as the take that it is about."""

from __future__ import annotations

import uuid

import procrastinate
from sqlalchemy.orm import Session

CHECK_TASK = "check_take"
TAKES_QUEUE = "takes"

_deferring = procrastinate.App(connector=procrastinate.SyncPsycopgConnector())


def defer_check(session: Session, take_id: uuid.UUID, priority: int = 0) -> None:
    """Committed or rolled back together with everything else in the session's transaction.
    Higher priority goes first: a new take never waits behind old ones that are checked again."""
    connection = session.connection().connection.driver_connection
    _deferring.configure_task(
        CHECK_TASK,
        queue=TAKES_QUEUE,
        lock=f"take-{take_id}",
        connection=connection,
        priority=priority,
        allow_unknown=True,
    ).defer(take_id=str(take_id))
