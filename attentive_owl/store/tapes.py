"""The tapes of one instrument: the pupil's own, else the studio's, else ours."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from attentive_owl.core.instruments import INSTRUMENTS, Mark


def tapes_of(settings: dict[str, Any], instrument_key: str, own: Sequence[dict[str, Any]] = ()) -> tuple[Mark, ...]:
    """`settings`: the studio's, as they are kept; `own`: the pupil's tapes, as they are kept."""
    kept = own or settings.get("marks", {}).get(instrument_key, [])
    return (
        tuple(Mark(m["name"], m["colour"], m["semitones"], m.get("own_shade", "")) for m in kept)
        or INSTRUMENTS[instrument_key].tapes
    )
