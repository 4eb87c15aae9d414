"""What a note is called: letters, or do-re-mi by name (fixed) or by degree (movable)."""

from __future__ import annotations

from enum import StrEnum

from attentive_owl.core.theory.keys import KeySignature, Mode
from attentive_owl.core.theory.pitch import ALTER_WORDS, STEPS, Pitch

_SYLLABLES = ("do", "re", "mi", "fa", "sol", "la", "ti")


class NoteNames(StrEnum):
    """How notes are called: by letters, with do on C, or with do on the tonic."""

    LETTERS = "letters"
    FIXED = "fixed"
    MOVABLE = "movable"


def say(pitch: Pitch, names: NoteNames = NoteNames.LETTERS, key: KeySignature | None = None) -> str:
    """A pitch as said aloud, with no octave. Movable do is the tonic of the major key with this signature (so that a minor
    scale begins on la), and a sign is said only where the note leaves the signature; with no key it is C major's."""
    if names is NoteNames.LETTERS:
        return pitch.spoken
    if names is NoteNames.FIXED:
        return _SYLLABLES[STEPS.index(pitch.step)] + ALTER_WORDS[pitch.alter]
    key = key or KeySignature(0)
    home = KeySignature(key.fifths, Mode.MAJOR).tonic
    degree = (STEPS.index(pitch.step) - STEPS.index(home[0])) % 7
    return _SYLLABLES[degree] + ALTER_WORDS.get(pitch.alter - key.alter(pitch.step), "")
