"""What words and syllables in a score say."""

from __future__ import annotations

import re

from attentive_owl.core.exercises import BowPart, Dynamic, Fingers

SLOWING = re.compile(r"\s*(rit(\.|ard|en|\b)|rall)", re.IGNORECASE)
DYNAMICS = tuple(sign.value for sign in Dynamic if sign.value)
HOW = frozenset(word.value for kind in (BowPart, Fingers) for word in kind if word.value)
"""What may stand over the first note of a line of ours."""
PIZZICATO = "pizz."
POSITION_ROMAN = {
    "1/2": "½", "1": "I", "2 low": "II♭", "2": "II", "2 1/2": "II½", "3": "III", "3 1/2": "III½", "4": "IV", "5": "V",
}  # fmt: skip


def syllable(text: str, syllabic: str | None) -> str:
    """A cue as we keep it: with a hyphen where the word goes on."""
    return text + ("-" if syllabic in ("begin", "middle") else "")
