"""What we write, an independent reader (music21) reads back; what we engrave has one element a note."""

from __future__ import annotations

import re
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import pytest
from lxml import etree
from music21 import articulations, converter, note, stream, tempo

from attentive_owl.core.exercises import Recipe, build, lay_out
from attentive_owl.core.instruments import INSTRUMENTS
from attentive_owl.core.theory import KeySignature, Meter, Pitch
from attentive_owl.formats.engraving import engrave
from attentive_owl.formats.musicxml import ScoreFileError, note_id, read_musicxml, write_musicxml


@pytest.mark.parametrize("key", INSTRUMENTS)
@pytest.mark.parametrize("pattern", ["quarters", "sixteenths-eighths"])
def test_music21_reads_the_same_notes(tmp_path: Path, key: str, pattern: str) -> None:
    score = build(Recipe("A", pattern, 88), key)
    path = tmp_path / "a.musicxml"
    path.write_bytes(write_musicxml(score))
    part = converter.parse(path).parts[0]
    sounding = list(part.toSoundingPitch().flatten().notes)
    assert [n.pitch.midi for n in sounding] == [n.midi for n in score.notes]
    assert [Fraction(n.quarterLength) for n in sounding] == [n.duration_beats for n in score.notes]
    assert part.recurse().getElementsByClass(tempo.MetronomeMark)[0].number == 88
    fingers = [
        next(a.fingerNumber for a in n.articulations if isinstance(a, articulations.Fingering)) for n in sounding
    ]
    strings = [
        next(a.number for a in n.articulations if isinstance(a, articulations.StringIndication)) for n in sounding
    ]
    names = [s.name for s in reversed(score.instrument.strings)]
    assert fingers == [n.placement.finger for n in score.notes if n.placement]
    assert [names[s - 1] for s in strings] == [n.placement.string for n in score.notes if n.placement]
    assert "".join(n.lyric for n in sounding[:6]) == ("rippleonthewater" if pattern != "quarters" else "boat" * 6)


@pytest.mark.parametrize("key", INSTRUMENTS)
def test_our_own_file_comes_back_whole(tmp_path: Path, key: str) -> None:
    score = build(Recipe("D", "eighths", 72), key)
    path = tmp_path / "d.musicxml"
    path.write_bytes(write_musicxml(score))
    assert read_musicxml(path) == score


def test_notes_over_a_barline_are_tied_and_read_as_one(tmp_path: Path) -> None:
    line = [
        (Pitch.parse("D4"), Fraction(3), None),
        (Pitch.parse("E4"), Fraction(5, 2), None),
        (None, Fraction(5, 2), None),
    ]
    score = lay_out(line, title="t", instrument_key="violin", key=KeySignature(2), meter=Meter(), tempo_bpm=60)
    path = tmp_path / "t.musicxml"
    path.write_bytes(write_musicxml(score))
    back = read_musicxml(path)
    assert [(n.pitch.name, n.start_beats, n.duration_beats) for n in back.notes] == [
        ("D4", 0, 3),
        ("E4", 3, Fraction(5, 2)),
    ]
    assert sum(r.duration_beats for r in back.rests) == Fraction(5, 2)


def test_a_foreign_file_gets_an_instrument_and_fingers(tmp_path: Path) -> None:
    part = stream.Part([note.Note(n, quarterLength=1) for n in ("G2", "A2", "B2", "C3")])
    part.partName = "Violoncello"
    path = tmp_path / "foreign.musicxml"
    stream.Score([part]).write("musicxml", path)
    score = read_musicxml(path)
    assert score.instrument_key == "cello"
    assert [(n.placement.string, n.placement.finger) for n in score.notes if n.placement] == [
        ("G", 0),
        ("G", 1),
        ("G", 3),
        ("G", 4),
    ]


@pytest.mark.parametrize(
    ("make", "says"),
    [
        (lambda p: p.write_text("no xml at all"), "could not be read"),
        (lambda p: p.write_bytes(b""), "could not be read"),
        (
            lambda p: stream.Score([stream.Part([note.Note("D4")]), stream.Part([note.Note("D4")])]).write(
                "musicxml", p
            ),
            "2 parts",
        ),
        (lambda p: stream.Score([stream.Part([note.Rest(quarterLength=4)])]).write("musicxml", p), "no notes"),
    ],
)
def test_bad_files_get_one_sentence(tmp_path: Path, make, says: str) -> None:
    path = tmp_path / "bad.musicxml"
    make(path)
    with pytest.raises(ScoreFileError, match=says):
        read_musicxml(path)


@pytest.mark.parametrize("width", [320, 640, 1200])
def test_engraving_has_each_note_once_in_reading_order(width: int) -> None:
    score = build(Recipe("C", "eighths"), "viola")
    systems = engrave(score, width)
    assert [n.index for system in systems for n in system.notes] == list(range(len(score.notes)))
    for system in systems:
        xs = [n.x for n in system.notes]
        assert xs == sorted(xs)
        assert 0 < xs[0] < xs[-1] < 1
        ids = re.findall(r'id="(note-\d+)"', system.svg)
        assert ids == [note_id(n.index) for n in system.notes]
        assert system.width == width
        # The page's security policy forbids style inside pictures.
        assert "<style" not in system.svg
        assert 'style="' not in system.svg
    assert engrave(score, width) == systems


def test_written_files_are_well_formed_and_of_version_four() -> None:
    root = etree.fromstring(write_musicxml(build(Recipe("G"), "bass")))
    assert root.get("version") == "4.0"
    assert root.findtext(".//transpose/octave-change") == "-1"
    assert len(root.findall(".//note")) == 16


def test_a_ritardando_goes_out_and_comes_back(tmp_path: Path) -> None:
    """music21 reads what we write: one text "rit." before the last bar; and we read it where it stands."""
    score = build(Recipe("D", tempo_bpm=72, pickup=True), "cello")
    written = replace(score, slows_from=next(n.start_beats for n in score.notes if n.measure == 4))
    path = tmp_path / "rit.musicxml"
    path.write_bytes(write_musicxml(written))
    words = converter.parse(path).recurse().getElementsByClass("TextExpression")
    assert [(own.content, own.measureNumber) for own in words] == [("rit.", 4)]
    assert read_musicxml(path).slows_from == written.slows_from
    assert "rit." in engrave(written, 900)[-1].svg
