"""Pitch, keys, temperaments and durations against published tables and music21."""

from __future__ import annotations

import math
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st
from music21 import key as m21_key
from music21 import pitch as m21_pitch
from music21 import scale as m21_scale

from attentive_owl.core.theory import (
    KeySignature,
    Meter,
    Mode,
    NoteNames,
    Pitch,
    Temperament,
    cents_between,
    frequency_hz,
    midi_from_hz,
    pitch_offset_cents,
    say,
    scale_pitches,
)

# Equal-tempered frequencies with A4 = 440 Hz (ISO 16:1975), as printed in the usual tables of piano key frequencies.
PRINTED_HZ = {"E1": 41.20, "A1": 55.00, "C2": 65.41, "G2": 98.00, "D3": 146.83, "G3": 196.00, "C4": 261.63,
              "D4": 293.66, "A4": 440.00, "E5": 659.26, "B5": 987.77}  # fmt: skip

# Interval sizes in cents: Helmholtz/Ellis, "On the Sensations of Tone", appendix on intervals (just and Pythagorean).
MAJOR_SCALE_CENTS = {
    Temperament.EQUAL: {"D": 200, "E": 400, "F": 500, "G": 700, "A": 900, "B": 1100},
    Temperament.PYTHAGOREAN: {"D": 203.91, "E": 407.82, "F": 498.04, "G": 701.96, "A": 905.87, "B": 1109.78},
    Temperament.JUST: {"D": 203.91, "E": 386.31, "F": 498.04, "G": 701.96, "A": 884.36, "B": 1088.27},
}


@pytest.mark.parametrize(("name", "hz"), PRINTED_HZ.items())
def test_frequencies_are_those_of_the_tables(name: str, hz: float) -> None:
    assert frequency_hz(Pitch.parse(name).midi) == pytest.approx(hz, abs=0.006)


@given(st.floats(20, 5000))
def test_frequency_and_key_number_undo_each_other(hz: float) -> None:
    assert frequency_hz(midi_from_hz(hz)) == pytest.approx(hz)


@given(st.sampled_from("CDEFGAB"), st.integers(-2, 2), st.integers(0, 8))
def test_pitches_agree_with_music21(step: str, alter: int, octave: int) -> None:
    ours = Pitch(step, alter, octave)
    theirs = m21_pitch.Pitch(ours.name.replace("b", "-"))
    assert (theirs.midi, theirs.diatonicNoteNum) == (ours.midi, ours.diatonic + 1) or ours.midi < 0 or ours.midi > 127
    assert Pitch.parse(ours.name) == ours


@pytest.mark.parametrize("tonic", ["C", "G", "D", "A", "E", "B", "F#", "F", "Bb", "Eb", "Ab", "Db", "Gb", "Cb", "C#"])
def test_major_scales_and_signatures_agree_with_music21(tonic: str) -> None:
    name = tonic.replace("b", "-")
    signature = KeySignature.of(tonic)
    assert signature.fifths == m21_key.Key(name).sharps
    assert signature.tonic == tonic
    theirs = m21_scale.MajorScale(name).getPitches(f"{name}4", m21_pitch.Pitch(f"{name}5"))
    assert [p.name.replace("b", "-") for p in scale_pitches(signature, 4)] == [p.nameWithOctave for p in theirs]


@pytest.mark.parametrize("tonic", ["A", "E", "D", "G", "C", "F#"])
def test_minor_signatures_agree_with_music21(tonic: str) -> None:
    assert KeySignature.of(tonic, Mode.MINOR).fifths == m21_key.Key(tonic, "minor").sharps
    assert KeySignature.of(tonic, Mode.MINOR).tonic == tonic


@pytest.mark.parametrize("temperament", list(MAJOR_SCALE_CENTS))
def test_temperaments_give_the_printed_intervals(temperament: Temperament) -> None:
    tonic = Pitch.parse("C4")
    for name, cents in MAJOR_SCALE_CENTS[temperament].items():
        pitch = Pitch.parse(f"{name}4")
        offset = pitch_offset_cents(pitch, temperament, tonic) - pitch_offset_cents(tonic, temperament, tonic)
        assert 100 * (pitch.midi - tonic.midi) + offset == pytest.approx(cents, abs=0.006)


@pytest.mark.parametrize(
    ("name", "cents"),
    [("Db", 111.73), ("Eb", 315.64), ("F#", 590.22), ("Ab", 813.69), ("Bb", 1017.60)],
)
def test_the_other_just_intervals_are_those_of_the_tables(name: str, cents: float) -> None:
    """16:15, 6:5, 45:32, 8:5 and 9:5 over C (Helmholtz/Ellis, appendix on intervals); those of the major scale stand in the table above."""
    pitch, tonic = Pitch.parse(f"{name}4"), Pitch.parse("C4")
    stands = 100 * (pitch.midi - tonic.midi) + pitch_offset_cents(pitch, Temperament.JUST, tonic)
    assert stands == pytest.approx(cents, abs=0.01)


@pytest.mark.parametrize(("tonic", "name"), [("D5", "F#3"), ("D3", "F#5"), ("G4", "B3"), ("Eb4", "G2")])
def test_a_just_third_is_pure_over_a_drone_in_any_octave(tonic: str, name: str) -> None:
    """5/4 is 386.31 cents: 13.69 under four equal semitones."""
    assert pitch_offset_cents(Pitch.parse(name), Temperament.JUST, Pitch.parse(tonic)) == pytest.approx(
        -13.69, abs=0.01
    )


def test_open_strings_in_pure_fifths_from_a() -> None:
    # 440 * (2/3)^2 / ... : G3 = 440 / (3/2)^2 / 1 = 195.56 Hz, E5 = 660 Hz (ratio 3:2 for each string).
    strings = [Pitch.parse(n) for n in ("G3", "D4", "A4", "E5")]
    sounding = [
        frequency_hz(p.midi + pitch_offset_cents(p, Temperament.RINGING, Pitch.parse("D4"), strings) / 100)
        for p in strings
    ]
    assert sounding == pytest.approx([440 * 4 / 9, 440 * 2 / 3, 440, 660], rel=1e-9)
    assert pitch_offset_cents(Pitch.parse("B4"), Temperament.RINGING, Pitch.parse("D4"), strings) == 0


def test_intervals_in_cents() -> None:
    assert cents_between(440, 880) == pytest.approx(1200)
    assert cents_between(2, 3) == pytest.approx(1200 * math.log2(1.5))


def test_meters() -> None:
    assert Meter(6, 8).measure_beats == 3
    assert Meter(6, 8).pulse_beats == Fraction(3, 2)
    assert Meter(3, 4).pulse_beats == 1
    compound = {(2, 2): False, (3, 4): False, (3, 8): False, (6, 8): True, (9, 8): True, (4, 2): False}
    assert {own: Meter(*own).compound for own in compound} == compound
    with pytest.raises(ValueError, match="5/7"):
        Meter(5, 7)


@pytest.mark.parametrize(("name", "midi"), [("F##4", 67), ("Bbb3", 57), ("C#5", 73), ("Eb2", 39), ("B4", 71)])
def test_a_name_is_read_and_written_again(name: str, midi: int) -> None:
    assert (Pitch.parse(name).midi, Pitch.parse(name).name) == (midi, name)


@pytest.mark.parametrize("text", ["H4", "C", "4", "C###4", ""])
def test_what_is_no_pitch_is_refused(text: str) -> None:
    with pytest.raises(ValueError, match="no pitch"):
        Pitch.parse(text)


@pytest.mark.parametrize("alter", range(-2, 3))
@pytest.mark.parametrize("step", "CDEFGAB")
def test_a_note_is_said_as_music21_says_it(step: str, alter: int) -> None:
    """Letters, and fixed do by the syllables of the scale of C."""
    pitch = Pitch(step, alter, 4)
    said = m21_pitch.Pitch(step, accidental=alter, octave=4).fullName.removesuffix(" in octave 4")
    accidental = said[1:].replace("-natural", "").replace("-", " ")
    assert pitch.spoken == step + accidental
    syllable = ("do", "re", "mi", "fa", "sol", "la", "ti")["CDEFGAB".index(step)]
    assert say(pitch, NoteNames.FIXED) == syllable + accidental
