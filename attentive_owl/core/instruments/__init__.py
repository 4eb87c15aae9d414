"""Strings, fingers and positions of the four instruments, and how a fingering is found."""

from attentive_owl.core.instruments.care import (
    PLAYING_CARE,
    checklist,
    tuning_care,
    tuning_care_for_adults,
    tuning_words,
)
from attentive_owl.core.instruments.catalogue import INSTRUMENTS, Instrument, OpenString, instrument
from attentive_owl.core.instruments.fingering import (
    FingerPlacement,
    FourthFinger,
    UnplayableError,
    Wanted,
    extension_of,
    find_fingering,
    possible_places,
)
from attentive_owl.core.instruments.hands import Extension
from attentive_owl.core.instruments.marks import TAPE_SHADES, Mark
from attentive_owl.core.instruments.tapes import PlacedMark, distance_mm, place_marks
from attentive_owl.core.instruments.words import unfit_words

__all__ = [
    "INSTRUMENTS",
    "PLAYING_CARE",
    "TAPE_SHADES",
    "Extension",
    "FingerPlacement",
    "FourthFinger",
    "Instrument",
    "Mark",
    "OpenString",
    "PlacedMark",
    "UnplayableError",
    "Wanted",
    "checklist",
    "distance_mm",
    "extension_of",
    "find_fingering",
    "instrument",
    "place_marks",
    "possible_places",
    "tuning_care",
    "tuning_care_for_adults",
    "tuning_words",
    "unfit_words",
]
