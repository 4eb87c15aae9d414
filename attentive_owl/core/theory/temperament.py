"""What 'in tune' means: by how much a pitch of a given school differs from equal temperament."""

from __future__ import annotations

import math
from collections.abc import Sequence
from enum import StrEnum

from attentive_owl.core.theory.pitch import Pitch, octaves_apart

PURE_FIFTH_CENTS = 1200 * math.log2(3 / 2)
"""701.955 cents."""

_JUST_RATIOS = {
    0: 1 / 1,
    1: 16 / 15,
    2: 9 / 8,
    3: 6 / 5,
    4: 5 / 4,
    5: 4 / 3,
    6: 45 / 32,
    7: 3 / 2,
    8: 8 / 5,
    9: 5 / 3,
    10: 9 / 5,
    11: 15 / 8,
}


class Temperament(StrEnum):
    """Where the notes of a scale lie between one another."""

    EQUAL = "equal"
    PYTHAGOREAN = "pythagorean"
    RINGING = "ringing"
    JUST = "just"


def _fifths_from_a(pitch: Pitch) -> int:
    """Places on the chain of fifths, A = 0, E = 1, D = -1, C sharp = 4."""
    return "FCGDAEB".index(pitch.step) - 4 + 7 * pitch.alter


def pitch_offset_cents(
    pitch: Pitch,
    temperament: Temperament,
    tonic: Pitch,
    open_strings: Sequence[Pitch] = (),
) -> float:
    """Cents by which `pitch` in this temperament stands above equal temperament with the same A4.

    Pythagorean: the chain of pure fifths through A. Ringing: pitch classes of the open strings are taken from strings
    tuned in pure fifths (fourths on the bass) from A, all others are equal. Just: 5-limit ratios over the tonic (the
    drone), whose own pitch is equal-tempered (ratios: Helmholtz, "On the Sensations of Tone", table of intervals).
    """
    pythagorean = _fifths_from_a(pitch) * (PURE_FIFTH_CENTS - 700.0)
    if temperament is Temperament.EQUAL:
        return 0.0
    if temperament is Temperament.PYTHAGOREAN:
        return pythagorean
    if temperament is Temperament.RINGING:
        rings = octaves_apart(pitch.midi, (string.midi for string in open_strings))
        return pythagorean if rings else 0.0
    semitones = (pitch.midi - tonic.midi) % 12
    return 1200 * math.log2(_JUST_RATIOS[semitones]) - 100 * semitones
