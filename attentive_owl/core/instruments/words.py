"""What a teacher's words say of strings and fingers that an instrument does not have."""

from __future__ import annotations

import re
from collections.abc import Collection

from attentive_owl.core.instruments.catalogue import INSTRUMENTS, Instrument

_STRING = re.compile(r"\b(?:open ([A-G])|([A-G])[- ]strings?)\b")
_ON_STRING = re.compile(r"\bon (?:the )?([A-G]) string\b")
_FINE_TUNERS = re.compile(r"\bfine tuners?\b", re.IGNORECASE)
_THIRD_FINGER = re.compile(r"\b(?:third|3rd) finger\b", re.IGNORECASE)
_TOUCH = re.compile(r"\bfingers? touch", re.IGNORECASE)


def unfit_words(text: str, instrument_keys: Collection[str]) -> list[str]:
    """One sentence for each thing that the text speaks of and some of these instruments do not have; none where all fits."""
    players = [entry for key, entry in INSTRUMENTS.items() if key in instrument_keys]
    found = []
    names = {a or b for a, b in _STRING.findall(text)} | set(_ON_STRING.findall(text))
    for name in sorted(names):
        without = [p for p in players if name not in [string.name for string in p.strings]]
        found += _sentence(without, f"no {name} string")
    if _FINE_TUNERS.search(text):
        found += _sentence([p for p in players if not p.fine_tuners], "no fine tuners")
    if _THIRD_FINGER.search(text):
        found += _sentence(
            [p for p in players if not p.uses_third_finger], "no third finger of its own in these positions"
        )
    if _TOUCH.search(text):
        found += _sentence(
            [p for p in players if not p.fingers_touch], "fingers that keep their spacing at a half step"
        )
    return found


def _sentence(without: list[Instrument], what: str) -> list[str]:
    if not without:
        return []
    names = [p.name.lower() for p in without]
    listed = names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
    has = "has" if len(names) == 1 else "have"
    return [f"The {listed} {has} {what}."]
