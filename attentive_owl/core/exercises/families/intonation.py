"""Intonation: drills that put one note, one finger or one half step under the ear."""

from __future__ import annotations

from fractions import Fraction
from itertools import pairwise

from attentive_owl.core.exercises.families.rhythm import open_string
from attentive_owl.core.exercises.families.scales import both_ways
from attentive_owl.core.exercises.families.shape import Family, Step, describe
from attentive_owl.core.exercises.patterns import pattern
from attentive_owl.core.exercises.recipe import Recipe
from attentive_owl.core.instruments import Instrument, OpenString, UnplayableError
from attentive_owl.core.theory import Pitch, scale_pitch

_ONE, _TWO, _FOUR = Fraction(1), Fraction(2), Fraction(4)
_LANDINGS = 8
_FIRST_NOTE_TRIES = 4


def _scale(recipe: Recipe, octave: int, degrees: range) -> list[Pitch]:
    return [scale_pitch(recipe.key, octave, degree, recipe.form) for degree in degrees]


def spelt(midi: int, recipe: Recipe) -> Pitch:
    """A key number spelt for the recipe's key: its own note where it has one, else a sharp in sharp keys, a flat in
    flat ones; what is a white key keeps its plain letter."""
    own = [scale_pitch(recipe.key, 4, degree) for degree in range(7)]
    for pitch in own:
        if (pitch.midi - midi) % 12 == 0:
            return pitch.octaves_up((midi - pitch.midi) // 12)
    sign = -1 if recipe.key.fifths < 0 else 1
    for plain in (Pitch(step, 0, 4) for step in "CDEFGAB"):
        if (plain.midi - midi) % 12 == 0:
            return plain.octaves_up((midi - plain.midi) // 12)
    natural = next(Pitch(step, 0, 4) for step in "CDEFGAB" if (Pitch(step, 0, 4).midi + sign - midi) % 12 == 0)
    moved = Pitch(natural.step, sign, 4)
    return moved.octaves_up((midi - moved.midi) // 12)


def _matches(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    """Open string, then the stopped notes of the key that match it (unison or octave), in turn."""
    steps: list[Step] = []
    for pitch in _scale(recipe, octave, range(8)):
        for string in player.strings:
            above = pitch.midi - string.pitch.midi
            if above == 12:
                steps += [Step(string.pitch, _TWO), Step(pitch, _TWO)] * 2
    if not steps:
        raise UnplayableError(f"no note of {recipe.tonic_spoken} matches an open string in that octave")
    return steps


def _half_steps(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    pitches = _scale(recipe, octave, range(8))
    steps: list[Step] = []
    for low, high in pairwise(pitches):
        if high.midi - low.midi == 1:
            steps += [Step(low, _ONE), Step(high, _ONE)] * 2
    return steps


def _ringing(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    found = [p for p in _scale(recipe, octave, range(8)) if player.rings(p.midi)]
    if not found:
        raise UnplayableError(f"no note of {recipe.tonic_spoken} rings with an open string")
    return [Step(pitch, _FOUR) for pitch in (*found, *reversed(found))]


def _finger_place(recipe: Recipe, player: Instrument, string: OpenString) -> Pitch:
    """Where the chosen finger stands on a string in first position, in the key where the key says which place."""
    places = player.first_position.places(recipe.finger)
    if not places:
        raise UnplayableError(f"finger {recipe.finger} has no place of its own on the {player.name.lower()}")
    in_key = [above for above in places if recipe.key.contains(string.pitch.midi + above)]
    return spelt(string.pitch.midi + (in_key or list(places))[-1], recipe)


def _landing(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    string = open_string(recipe, player)
    pitch = _finger_place(recipe, player, string)
    return [step for _ in range(_LANDINGS) for step in (Step(pitch, _TWO, string=string.name), Step(None, _TWO))]


def _second_finger(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    string = open_string(recipe, player)
    places = (0, 2, 3, 2, 0, 2, 4, 2, 3, 4, 3, 4, 2, 0)
    return [Step(spelt(string.pitch.midi + above, recipe), _ONE, string=string.name) for above in places]


def _one_finger(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    """The finger on every string, up and down, with the open string before it."""
    return [
        Step(pitch, _ONE, string=string.name)
        for string in (*player.strings, *reversed(player.strings))
        for pitch in (string.pitch, _finger_place(recipe, player, string))
    ]


def _long_tones(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    return [Step(scale_pitch(recipe.key, octave, degree, recipe.form), _FOUR) for degree in both_ways(recipe, range(8))]


def _first_note(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    tonic = scale_pitch(recipe.key, octave, 0)
    return [step for _ in range(_FIRST_NOTE_TRIES) for step in (Step(tonic, _TWO), Step(None, _TWO))]


def _crossings(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    low, high = (open_string(recipe, player, above) for above in (0, 1))
    places = ((low, 0), (high, 0), (low, 0), (high, 0), (low, 2), (high, 0), (low, 2), (high, 0),
              (low, 2), (high, 2), (low, 0), (high, 2), (low, 0), (high, 0), (low, 0), (low, 0))  # fmt: skip
    return [Step(spelt(string.pitch.midi + above, recipe), _ONE, string=string.name) for string, above in places]


def _across(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    """One finger on a string and on the one above it, in turn, with the open strings first."""
    low, high = (open_string(recipe, player, above) for above in (0, 1))
    fingered = [(string, _finger_place(recipe, player, string)) for string in (low, high)]
    opened = [(string, string.pitch) for string in (low, high)]
    return [Step(pitch, _ONE, string=string.name) for string, pitch in (*opened, *fingered * 3)]


def _walk_up(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    """From the open string below the tonic, note by note of the key, to the tonic; then the tonic alone."""
    tonic = scale_pitch(recipe.key, octave, 0)
    below = [string for string in player.strings if string.pitch.midi <= tonic.midi]
    if not below:
        raise UnplayableError(f"no open string lies under {tonic.spoken} in that octave")
    string = below[-1]
    between = [
        pitch
        for pitch in _scale(recipe, octave - 1, range(7))
        if string.pitch.midi < pitch.midi < tonic.midi
    ]  # fmt: skip
    opened = spelt(string.pitch.midi, recipe)
    walk = [Step(opened, _ONE, string=string.name), *(Step(pitch, _ONE, string=string.name) for pitch in between)]
    arrived = Step(tonic, _TWO, string=string.name, fills_measure=True)
    return [*walk, arrived, *walk, arrived, arrived] if tonic.midi > string.pitch.midi else [arrived] * 3


def _unisons(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    """Each open string, and the same note stopped on the string below."""
    return [
        step
        for below, string in pairwise(player.strings)
        for _ in range(2)
        for step in (
            Step(string.pitch, _TWO, string=string.name),
            Step(string.pitch, _TWO, string=below.name),
        )
    ]


def _chromatic(recipe: Recipe, player: Instrument, octave: int) -> list[Step]:
    """Open, first, low and high second, third on each of two strings, up and down."""
    low, high = (open_string(recipe, player, above) for above in (0, 1))
    gap = high.pitch.midi - low.pitch.midi
    places = (0, 2, 3, 4, 5)
    up = [(low, above) for above in places if above < gap]
    up += [(high, above) for above in places if above < gap]
    return [
        Step(spelt(string.pitch.midi + above, recipe), pattern=pattern(recipe.pattern), string=string.name)
        for string, above in (*up, *reversed(up))
    ]


FAMILIES: tuple[Family, ...] = (
    describe(
        "matches",
        "Octave and unison checks",
        "intonation",
        "Open string, then the stopped note that matches it.",
        "tonic form fourth_finger",
        _matches,
    ),
    describe(
        "unisons",
        "Unisons with the open strings",
        "intonation",
        "Each open string, then the same note stopped on the string below: the fourth finger's check.",
        "",
        _unisons,
        on_strings=True,
    ),
    describe(
        "walk-up",
        "Walk up to the first note",
        "intonation",
        "From the open string, finger by finger, to the note that the scale begins on.",
        "tonic form",
        _walk_up,
    ),
    describe(
        "across",
        "One finger across two strings",
        "intonation",
        "One finger on two neighbouring strings in turn: the hand stays, the bow goes over.",
        "tonic form string finger bowing",
        _across,
        on_strings=True,
    ),
    describe(
        "half-steps",
        "Half-step pairs",
        "intonation",
        "Each half step of the key alone, as close as it is.",
        "tonic form fourth_finger bowing",
        _half_steps,
        one_way=True,
    ),
    describe(
        "ringing", "Ringing notes", "intonation", "Long notes that set an open string ringing.", "tonic form", _ringing
    ),
    describe(
        "landing",
        "Landing drill",
        "intonation",
        "Play, lift the hand, come back: does the finger land in the same place?",
        "tonic form string finger",
        _landing,
        on_strings=True,
    ),
    describe(
        "second-finger",
        "Low and high second finger",
        "intonation",
        "The two places of the second finger in turn.",
        "tonic form string bowing",
        _second_finger,
        on_strings=True,
    ),
    describe(
        "one-finger",
        "One finger on every string",
        "intonation",
        "The same finger across the strings.",
        "tonic form finger",
        _one_finger,
        on_strings=True,
    ),
    describe(
        "long-tones",
        "Long tones",
        "intonation",
        "A whole bow on every note of the scale, over a drone if you like.",
        "tonic form direction top_again fourth_finger",
        _long_tones,
        one_way=True,
    ),
    describe(
        "first-note", "First-note test", "intonation", "The tonic, four times, from silence.", "tonic form", _first_note
    ),
    describe(
        "crossings",
        "String crossings",
        "intonation",
        "Two neighbouring strings, the hand quiet.",
        "tonic form string bowing",
        _crossings,
        on_strings=True,
    ),
    describe(
        "chromatic",
        "Two-string chromatic walk",
        "intonation",
        "Open, first, low and high second, third, on two strings.",
        "tonic form string pattern times wait bowing",
        _chromatic,
        on_strings=True,
    ),
)
