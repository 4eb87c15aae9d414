"""What a note's length and a measure are called: two vocabularies, one a studio."""

from __future__ import annotations

import re
from enum import StrEnum
from functools import partial


class NoteValues(StrEnum):
    """What the lengths of notes are called."""

    QUARTER = "quarter"
    """whole, half, quarter, eighth, sixteenth; measure."""
    CROTCHET = "crotchet"
    """semibreve, minim, crotchet, quaver, semiquaver; bar."""


_NAMES: dict[float, tuple[str, str, str]] = {
    4.0: ("whole note", "whole notes", "semibreve"),
    2.0: ("half note", "half notes", "minim"),
    1.0: ("quarter", "quarters", "crotchet"),
    0.5: ("eighth", "eighths", "quaver"),
    0.25: ("sixteenth", "sixteenths", "semiquaver"),
}
"""Length in quarter notes -> one and several in the first vocabulary, one in the second (which adds an s)."""


def value_name(beats: float, values: NoteValues, *, several: bool = True) -> str:
    """The name of a length in quarter notes; "notes" where it has none of its own."""
    for length, dotted in ((beats, ""), (beats / 1.5, "dotted ")):
        if length in _NAMES:
            one, many, other = _NAMES[length]
            if values is NoteValues.QUARTER:
                return dotted + (many if several else one)
            return dotted + other + ("s" if several else "")
    return "notes" if several else "note"


def measure_name(values: NoteValues, *, several: bool = False) -> str:
    """ "measure" or "bar", as the names of note values go with it; lower case."""
    return ("measure" if values is NoteValues.QUARTER else "bar") + ("s" if several else "")


_HALVES = "|halves"
"""Titles that were given before have "dotted halves"."""
_SAID = tuple(
    (re.compile(rf"\b({one}|{many}{_HALVES if length == 2.0 else ''})\b", re.IGNORECASE), other)
    for length, (one, many, other) in _NAMES.items()
)
_BAR = re.compile(r"\bbars?\b", re.IGNORECASE)


def in_vocabulary(text: str, values: NoteValues) -> str:
    """What an exercise is called, in the studio's vocabulary: titles are kept with "quarters" and "bar" in them. The page has its
    counterpart for what it shows (`frontend/src/ui/vocabulary.ts`)."""
    if values is NoteValues.QUARTER:
        return _BAR.sub(partial(_in_its_form, other=measure_name(values)), text)
    for pattern, other in _SAID:
        text = pattern.sub(partial(_in_its_form, other=other), text)
    return text


def _in_its_form(found: re.Match[str], other: str) -> str:
    """With the capital and the plural of what was found."""
    own = found[0]
    return (other.capitalize() if own[0].isupper() else other) + ("s" if own.endswith("s") else "")
