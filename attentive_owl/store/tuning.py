"""What the tuning check before playing found: one reading a string, the newest, good for the day."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime, timedelta

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from attentive_owl.store.models import TuningReading

_GOOD_FOR = timedelta(hours=12)
"""An instrument that lies for a night is another one."""


def keep_reading(session: Session, studio_id: uuid.UUID, pupil_id: uuid.UUID, string: str, cents: float) -> None:
    now = datetime.now(UTC)
    statement = insert(TuningReading).values(
        id=uuid.uuid4(), studio_id=studio_id, pupil_id=pupil_id, string=string, cents=cents, heard_at=now
    )
    newest = {"cents": statement.excluded.cents, "heard_at": statement.excluded.heard_at}
    session.execute(statement.on_conflict_do_update(index_elements=["pupil_id", "string"], set_=newest))


def open_strings_at(session: Session, pupil_id: uuid.UUID, moment: datetime) -> dict[str, float]:
    """String -> cents over its place, as it was found on the day of a moment, before it."""
    rows = session.execute(
        select(TuningReading.string, TuningReading.cents).where(
            TuningReading.pupil_id == pupil_id,
            TuningReading.heard_at <= moment + timedelta(minutes=1),
            TuningReading.heard_at > moment - _GOOD_FOR,
            func.abs(TuningReading.cents) < 200,
        )
    )
    return {row.string: row.cents for row in rows}
