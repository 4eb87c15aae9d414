"""A class from a list: typed, pasted out of a table, or a CSV file. Every row that can not be used is named; none is guessed."""

from __future__ import annotations

import csv
import re
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from attentive_owl.core.instruments import INSTRUMENTS, Instrument

MOST_PUPILS = 60
_LONGEST_NAME = 60
_SHORTEST_MM, _LONGEST_MM = 150.0, 1300.0
_DELIMITERS = "\t;,"
_HEADINGS = {
    "name": ("name", "pupil", "child"),
    "instrument": ("instrument", "plays"),
    "size": ("size",),
    "length": ("string", "length", "string length", "mm", "string length mm"),
}
_ORDER = ("name", "instrument", "size", "length")


@dataclass(frozen=True)
class RosterRow:
    line: int
    """Of the text, counted from 1."""
    name: str
    instrument: str
    size: str
    string_length_mm: float


@dataclass(frozen=True)
class RosterFault:
    line: int
    words: str
    """One sentence: what is wrong, and what would be right."""


def read_roster(text: str, known: Iterable[str] = ()) -> tuple[list[RosterRow], list[RosterFault]]:
    """Name, instrument, size and, where it was measured, the string length in mm: in this order, or under headings. Columns are parted by
    tabs, semicolons or commas. `known`: who is in the class already."""
    lines = text.lstrip("\ufeff").splitlines()
    filled = [line for line in lines if line.strip()]
    delimiter = max(_DELIMITERS, key=lambda own: sum(own in line for line in filled))
    rows: list[RosterRow] = []
    faults: list[RosterFault] = []
    columns: Sequence[str] | None = None
    for number, line in enumerate(lines, 1):
        if not line.strip():
            continue
        fields = [field.strip() for field in next(csv.reader([line], delimiter=delimiter, skipinitialspace=True))]
        if columns is None:
            columns = _headings(fields)
            if columns is not None:
                continue
            columns = _ORDER
        row = _row(number, dict(zip(columns, fields, strict=False)))
        (rows if isinstance(row, RosterRow) else faults).append(row)  # type: ignore[arg-type]
    faults += _twice(rows, {name.casefold() for name in known})
    if len(rows) > MOST_PUPILS:
        faults.append(RosterFault(rows[MOST_PUPILS].line, f"A class has {MOST_PUPILS} pupils at most."))
    return rows, sorted(faults, key=lambda own: own.line)


def _headings(fields: Sequence[str]) -> list[str] | None:
    """Which column is which, where the first row says so."""
    found = [
        next((name for name, words in _HEADINGS.items() if re.sub(r"[^a-z]+", " ", field.lower()).strip() in words), "")
        for field in fields
    ]
    return found if "name" in found and "instrument" in found else None


def _row(line: int, fields: dict[str, str]) -> RosterRow | RosterFault:
    name, played, size, length = (fields.get(own, "") for own in _ORDER)
    if not name:
        return RosterFault(line, "There is no name.")
    if len(name) > _LONGEST_NAME:
        return RosterFault(line, f"This name is longer than {_LONGEST_NAME} letters.")
    if not played:
        return RosterFault(
            line, f"Which instrument does {name} play? {_listed(own.name.lower() for own in INSTRUMENTS.values())}."
        )
    player = _instrument(played)
    if player is None:
        names = _listed(own.name.lower() for own in INSTRUMENTS.values())
        return RosterFault(line, f"“{played[:30]}” is none of {names}.")
    given = size.replace("″", "in").replace('"', "in").replace("full", "4/4").strip()
    wanted = next((own for own in player.sizes if own.replace(" ", "") == given.replace(" ", "").lower()), None)
    if wanted is None:
        what = f"“{size[:20]}” is no size" if size else "The size is not there"
        return RosterFault(line, f"{what}: a {player.name.lower()} comes in {_listed(player.sizes)}.")
    try:
        millimetres = float(length.lower().removesuffix("mm").replace(",", ".")) if length else player.sizes[wanted]
    except ValueError:
        return RosterFault(line, f"“{length[:20]}” is no length in millimetres.")
    if not _SHORTEST_MM <= millimetres <= _LONGEST_MM:
        return RosterFault(
            line, f"A string of {millimetres:g} mm is none; it lies between {_SHORTEST_MM:g} and {_LONGEST_MM:g}."
        )
    return RosterRow(line, name, player.key, wanted, millimetres)


def _instrument(text: str) -> Instrument | None:
    word = text.casefold().strip()
    for own in INSTRUMENTS.values():
        if word in (own.key, own.name.casefold(), *own.also_called):
            return own
    return None


def _twice(rows: Sequence[RosterRow], known: set[str]) -> list[RosterFault]:
    count = Counter(row.name.casefold() for row in rows)
    faults = [
        RosterFault(row.line, f"{row.name} is in the class already.") for row in rows if row.name.casefold() in known
    ]
    seen: set[str] = set()
    for row in rows:
        name = row.name.casefold()
        if count[name] > 1 and name in seen:
            faults.append(
                RosterFault(row.line, f"{row.name} stands here twice; give one of them another name to show.")
            )
        seen.add(name)
    return faults


def _listed(words: Iterable[str]) -> str:
    every = list(words)
    return f"{', '.join(every[:-1])} or {every[-1]}"
