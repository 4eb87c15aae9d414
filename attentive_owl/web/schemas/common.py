"""Closed choices and bases of what goes over the wire, for all features."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any, Literal
from uuid import UUID

import werkzeug.datastructures
from flask_openapi3 import FileStorage
from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, StringConstraints, model_validator

from attentive_owl.core.exercises import (
    FAMILIES,
    FRAMES,
    HIGHEST_TEMPO_BPM,
    LOWEST_TEMPO_BPM,
    METERS,
    PATTERNS,
    STRING_NAMES,
)
from attentive_owl.core.instruments import INSTRUMENTS

TONICS = ("D", "G", "A", "C", "F", "Bb", "Eb", "E", "B", "Ab", "Db", "Gb", "F#", "C#", "G#")


LevelKey = Literal["first-steps", "settling", "secure", "concert"]


ModeKey = Literal["steady", "pauses", "repeats"]


Verdict = Literal["accepted", "once_more", "come_and_see_me"]


OverruleWord = Literal["home", "away", "missed", "not_so"]


TakeState = Literal["waiting", "checking", "checked", "refused", "stuck"]


Tempo = Annotated[float, Field(ge=LOWEST_TEMPO_BPM, le=HIGHEST_TEMPO_BPM)]


Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60)]


def _is_file(value: Any) -> Any:
    """A part of a form that has no name of a file is a text."""
    if not isinstance(value, werkzeug.datastructures.FileStorage):
        raise ValueError("a file is wanted")
    return value


Upload = Annotated[FileStorage, BeforeValidator(_is_file)]


def _one_of(*values: str) -> Any:
    """A closed choice whose values stand in the core; the document shows them, the core says them."""
    return Literal[values]


if TYPE_CHECKING:
    # A type checker can not see values that are read from the core.
    Tonic = str
    PatternKey = str
    FamilyKey = str
    MeterName = str
    StringName = str
    FrameName = str
    Instrument = str
else:
    Tonic = _one_of(*TONICS)
    PatternKey = _one_of(*PATTERNS)
    FamilyKey = _one_of(*FAMILIES)
    MeterName = _one_of(*METERS)
    StringName = _one_of(*STRING_NAMES)
    FrameName = _one_of(*FRAMES)
    Instrument = _one_of(*INSTRUMENTS)


def _holds_control(value: Any) -> bool:
    if isinstance(value, str):
        return any((sign < " " and sign not in "\n\r\t") or sign == "\x7f" for sign in value)
    if isinstance(value, dict):
        return any(_holds_control(own) for pair in value.items() for own in pair)
    return isinstance(value, list) and any(map(_holds_control, value))


class In(BaseModel):
    model_config = ConfigDict(extra="forbid")

    @model_validator(mode="before")
    @classmethod
    def _can_be_written(cls, data: Any) -> Any:
        """The database writes no NUL, and XML (a score, a page) none of the other control characters."""
        if _holds_control(data):
            raise ValueError("there are signs in it that can not be written")
        return data


class Out(BaseModel):
    pass


class Problem(Out):
    error: str
    """One sentence for a person."""


class Done(Out):
    done: Literal[True] = True


class ById(In):
    id: UUID
