"""Strings, fingers and positions of the four instruments, and how a fingering is found."""

from attentive_owl.core.instruments.catalogue import INSTRUMENTS, Instrument, OpenString, instrument
from attentive_owl.core.instruments.fingering import (
    FingerPlacement,
    FourthFinger,
    UnplayableError,
    find_fingering,
)

__all__ = [
    "INSTRUMENTS",
    "FingerPlacement",
    "FourthFinger",
    "Instrument",
    "OpenString",
    "UnplayableError",
    "find_fingering",
    "instrument",
]
