"""What words and syllables in a score say."""

from __future__ import annotations

import re

SLOWING = re.compile(r"\s*(rit(\.|ard|en|\b)|rall)", re.IGNORECASE)
PIZZICATO = "pizz."
POSITION_ROMAN = {"1/2": "½", "1": "I", "2": "II", "2 1/2": "II½", "3": "III", "4": "IV"}


def syllable(text: str, syllabic: str | None) -> str:
    """A cue as we keep it: with a hyphen where the word goes on."""
    return text + ("-" if syllabic in ("begin", "middle") else "")
