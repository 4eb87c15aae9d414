"""The four instruments against music21's, against General MIDI (by music21), and against what is taught of the hand (common practice,
from memory)."""

from __future__ import annotations

from itertools import pairwise

import music21
import pytest

from attentive_owl.core.instruments import INSTRUMENTS, instrument

OTHERS = {
    "violin": music21.instrument.Violin,
    "viola": music21.instrument.Viola,
    "cello": music21.instrument.Violoncello,
    "bass": music21.instrument.Contrabass,
}


@pytest.mark.parametrize("key", INSTRUMENTS)
def test_strings_and_program_are_those_of_music21(key: str) -> None:
    own, other = instrument(key), OTHERS[key]()
    assert [string.pitch.midi for string in own.strings] == [pitch.midi for pitch in other.stringPitches]
    assert own.lowest.midi + 12 * own.written_octaves == other.lowestNote.midi
    assert own.midi_program == other.midiProgram + 1


@pytest.mark.parametrize(
    ("key", "places"),
    [
        ("violin", {1: (1, 2), 2: (3, 4), 3: (5, 6), 4: (7, 8)}),
        ("viola", {1: (1, 2), 2: (3, 4), 3: (5, 6), 4: (7, 8)}),
        ("cello", {1: (1, 2), 2: (3,), 3: (4,), 4: (5, 6)}),
        ("bass", {1: (2,), 2: (3,), 4: (4,)}),
    ],
)
def test_each_half_step_lies_under_its_finger_in_first_position(key: str, places: dict[int, tuple[int, ...]]) -> None:
    under = {semitones: finger for finger, own in places.items() for semitones in own}
    assert dict(instrument(key).first_position.under_the_hand) == {0: 0, **under}


@pytest.mark.parametrize(
    ("key", "semitones"), [("violin", [2, 4, 5, 7]), ("viola", [2, 4, 5, 7]), ("cello", [2, 4, 5]), ("bass", [2, 4, 5])]
)
def test_tapes_lie_where_the_major_scale_stands_on_one_string(key: str, semitones: list[int]) -> None:
    own = instrument(key)
    assert [tape.semitones for tape in own.tapes] == semitones


@pytest.mark.parametrize("key", INSTRUMENTS)
def test_each_smaller_size_has_a_string_shorter_by_up_to_a_sixth(key: str) -> None:
    lengths = list(instrument(key).sizes.values())
    assert all(0.83 < small / large < 0.96 for small, large in pairwise(lengths))
