"""Good data, damaged at random."""

from __future__ import annotations

import random
from typing import Any


def damaged(data: bytes, drawn: random.Random) -> bytes:
    """A few bytes changed, a piece left out, a piece twice, or an end that is missing."""
    at, long = drawn.randrange(len(data)), drawn.randrange(1, 200)
    changed = bytearray(data)
    for _ in range(drawn.randrange(1, 12)):
        changed[drawn.randrange(len(changed))] = drawn.randrange(256)
    return drawn.choice(
        [bytes(changed), data[:at] + data[at + long :], data[:at] + data[at : at + long] * 3 + data[at:], data[:at]]
    )


def spoil(value: Any, drawn: random.Random) -> None:
    """One thing in it becomes something else."""
    while True:
        key = drawn.choice(list(value) if isinstance(value, dict) else range(len(value)))
        if not (isinstance(value[key], (dict, list)) and value[key]) or drawn.random() < 0.1:
            value[key] = drawn.choice([None, 7, -1e40, "x", "\x00", [], {}, [[1]], {"a": None}, True, "9" * 500])
            return
        value = value[key]
