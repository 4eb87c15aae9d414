"""Handing in takes, for several tests."""

from __future__ import annotations

import hashlib
import io
import uuid
from typing import Any

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
