"""Handing in takes, for several tests."""

from __future__ import annotations

import hashlib
import io
import uuid
from typing import Any

from sqlalchemy import Engine, select

from attentive_owl.store.models import Take
from attentive_owl.store.session import open_session
from tests.conftest import Filled, Visitor


def hand_in(visitor: Visitor, filled: Filled, sound: bytes, **changes: Any) -> Any:
    fields = {
        "assignment_id": str(filled.assignment_id),
        "client_key": str(uuid.uuid4()),
        "sha256": hashlib.sha256(sound).hexdigest(),
        "hand_in": "true",
        **changes,
    }
    name = fields.pop("file_name", "take.flac")
    return visitor.post(
        "/api/takes", data={**fields, "sound": (io.BytesIO(sound), name)}, content_type="multipart/form-data"
    )


def state(engine: Engine, take_id: str) -> str:
    with open_session(engine, "tests look") as session:
        return session.scalars(select(Take.state).where(Take.id == uuid.UUID(take_id))).one()
