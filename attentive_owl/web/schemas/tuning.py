"""A moment of one open string."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from attentive_owl.web.schemas.common import Out, Upload


class MomentUpload(BaseModel):
    sound: Upload


class StringReading(Out):
    """What a moment of one open string says; all none where no string was heard."""

    string: str | None
    cents: float | None
    plus_minus_cents: float | None
    word: Literal["in tune", "low", "high"] | None
    words: str | None
    """To the child."""
