"""What we write we read back whole; our quick reader and music21 read the same; lines that others wrote give a score or a sentence."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import replace
from itertools import cycle
from pathlib import Path

import pytest
from music21 import bar, corpus, note, spanner, stream

from attentive_owl.core.exercises import FAMILIES, Bowing, LineNote, Recipe, Score, build
from attentive_owl.core.instruments import INSTRUMENTS
from attentive_owl.formats.musicxml import ScoreFileError, read_musicxml, write_musicxml
from attentive_owl.formats.musicxml.foreign import read_foreign
from attentive_owl.formats.musicxml.part import WrittenPart
from attentive_owl.formats.musicxml.plain import read_plain

LINE = tuple(LineNote(name, beats) for name, beats in (("D4", "1"), ("F#4", "1/2"), (None, "1/2"), ("A4", "2")))


def _made(family: str, bowing: Bowing, key: str) -> Score:
    return build(Recipe("D", family=family, bowing=bowing, line=LINE if family == "own" else ()), key)


def _joined(score: Score) -> Score:
    """Only which notes share a bow: slurs have no numbers in a file that would last."""
    before = (None, *score.notes)
    return replace(
        score,
        notes=tuple(replace(n, slur=int(n.slurred_from(b))) for n, b in zip(score.notes, before, strict=False)),
    )


@pytest.mark.parametrize("key", INSTRUMENTS)
@pytest.mark.parametrize("family", FAMILIES)
def test_every_family_in_every_bowing_comes_back_whole(tmp_path: Path, family: str, key: str) -> None:
    path = tmp_path / "line.musicxml"
    for bowing in Bowing:
        score = _made(family, bowing, key)
        path.write_bytes(write_musicxml(score))
        assert read_plain(path) is not None
        assert _joined(read_musicxml(path)) == _joined(score)


def test_music21_reads_the_same_of_every_family(tmp_path: Path) -> None:
    """Positions and plucking have no sign that music21 keeps."""
    path = tmp_path / "line.musicxml"
    for family, bowing, key in zip(FAMILIES, cycle(Bowing), cycle(INSTRUMENTS), strict=False):
        path.write_bytes(write_musicxml(_made(family, bowing, key)))
        quick = read_plain(path)
        assert quick is not None
        plain = tuple(replace(n, position=None, pizzicato=False) for n in quick.notes)
        assert replace(quick, notes=plain) == read_foreign(path), (family, bowing, key)


def _slurred(measures: list[list[str]], slurs: list[tuple[int, int]], repeated: int | None) -> stream.Score:
    part = stream.Part()
    part.partName = "Violin"
    notes = []
    for number, names in enumerate(measures, 1):
        measure = stream.Measure(number=number)
        for name in names:
            notes.append(note.Note(name, quarterLength=1))
            measure.append(notes[-1])
        if number == repeated:
            measure.rightBarline = bar.Repeat(direction="end")
        part.append(measure)
    for first, last in slurs:
        part.insert(0, spanner.Slur(notes[first], notes[last]))
    return stream.Score([part])


@pytest.mark.parametrize("repeated", [None, 1, 2])
def test_slurs_last_through_repeats(tmp_path: Path, repeated: int | None) -> None:
    path = tmp_path / "slurs.musicxml"
    _slurred([["D4", "E4", "F#4", "G4"], ["A4", "B4", "C#5", "D5"]], [(0, 3), (5, 6)], repeated).write("musicxml", path)
    score = read_musicxml(path)
    joined = "".join("-" if n.slurred_from(b) else "." for n, b in zip(score.notes, (None, *score.notes), strict=False))
    first, second = ".---", "..-."
    assert joined == {None: first + second, 1: first + first + second, 2: 2 * (first + second)}[repeated]
    assert score.notes[0].bow == "down"
    assert {n.bow for n in score.notes[:4]} == {"down"}


@pytest.mark.parametrize(
    "change",
    [
        ("</measure>", '<barline location="right"><repeat direction="backward"/></barline></measure>'),
        ("<step>D</step>", "<step>D</step><alter>0.5</alter>"),
        ("<note id=\"note-3\">", "<note id=\"note-3\"><chord/>"),
        ("<duration>1</duration>", "<duration>0</duration>"),
        ("<beats>4</beats>", "<beats>three</beats>"),
        ("<words>rit.</words>", "<words>D.C. al Fine</words>"),
    ],
)  # fmt: skip
def test_what_the_quick_reader_does_not_know_it_leaves(tmp_path: Path, change: tuple[str, str]) -> None:
    path = tmp_path / "odd.musicxml"
    score = replace(
        _made("scale", Bowing.DETACHED, "violin"),
        slows_from=_made("scale", Bowing.DETACHED, "violin").notes[8].start_beats,
    )
    text = write_musicxml(score).decode()
    assert change[0] in text
    path.write_text(text.replace(*change, 1), encoding="utf-8")
    read: WrittenPart | None = read_plain(path)
    assert read is None


CORPUS = (
    "bach/bwv66.6",
    "haydn/opus1no1/movement1",
    "mozart/k80/movement1",
    "essenFolksong/altdeu10",
    "schoenberg/opus19/movement2",
)


@pytest.mark.parametrize("name", CORPUS)
def test_lines_of_others_give_a_score_or_a_sentence(tmp_path: Path, name: str) -> None:
    """Sixteen measures of every part of works that music21 carries, written by music21."""
    work = corpus.parse(name)
    if not isinstance(work, stream.Score):
        work = work.scores[0]
    path = tmp_path / "theirs.musicxml"
    read = 0
    for part in work.parts:
        part.measures(0, 16).write("musicxml", path)
        with suppress(ScoreFileError):
            score = read_musicxml(path)
            read += 1
            sounding = part.measures(0, 16).toSoundingPitch().stripTies().recurse().notes
            assert {n.midi % 12 for n in score.notes} <= {p.pitchClass for n in sounding for p in n.pitches}
    assert read or "schoenberg" in name
