"""Results as CSV (RFC 4180), safe to open in a table program."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence

_BEGINS_A_FORMULA = ("=", "+", "-", "@", "\t", "\r")


def write_csv(heads: Sequence[str], rows: Iterable[Sequence[str | int | float | None]]) -> bytes:
    """UTF-8 with a mark, by which table programs know it. A text that a table program would take for a formula begins with an
    apostrophe; numbers are numbers."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(heads)
    for row in rows:
        writer.writerow([_cell(own) for own in row])
    return out.getvalue().encode("utf-8-sig")


def _cell(value: str | int | float | None) -> str | int | float:
    if value is None:
        return ""
    if isinstance(value, str) and value.startswith(_BEGINS_A_FORMULA):
        return f"'{value}"
    return value
