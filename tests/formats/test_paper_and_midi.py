"""What leaves the house: sheets as PDFs (read back by pypdf), MIDI (read back by mido and by our own reader), signs."""

from __future__ import annotations

import io
import re
from collections.abc import Iterator
from datetime import date
from pathlib import Path

import mido
import pytest
from pypdf import PdfReader
from reportlab.graphics.shapes import Circle, Group, Shape, String
from svglib.svglib import NoStrokePath

from attentive_owl.core.exercises import (
    USUAL_SIGNS,
    BowPart,
    Dynamic,
    Fingers,
    LineNote,
    Recipe,
    Score,
    Sign,
    Way,
    build,
    same_fingers,
)
from attentive_owl.core.instruments import INSTRUMENTS
from attentive_owl.formats.engraving import engrave
from attentive_owl.formats.midi import write_midi
from attentive_owl.formats.musicxml import read_musicxml, write_musicxml
from attentive_owl.formats.own_line import read_line
from attentive_owl.formats.paper.notation import drawing
from attentive_owl.formats.paper.sheet import Sheet, SheetPart, sheet_pdf

RECIPE = Recipe("D", "quarter-eighths", signs=(*USUAL_SIGNS, Sign.HALF_STEPS), ways=tuple(Way))


def sheet(**more: object) -> PdfReader:
    parts = [SheetPart(build(RECIPE, key), INSTRUMENTS[key].tapes) for key in INSTRUMENTS]
    told = {
        "studio": "Ferry Hall",
        "parts": parts,
        "signs": RECIPE.signs,
        "ways": RECIPE.ways,
        "days": 5,
        "good_repeats": 5,
    }
    return PdfReader(io.BytesIO(sheet_pdf(Sheet(**{**told, **more}))))  # type: ignore[arg-type]


def test_a_sheet_has_a_page_for_each_instrument_and_says_what_there_is_to_tell() -> None:
    pages = sheet(words="Sing it on the stairs", due_on=date(2026, 12, 5), count="1 2 3 4").pages
    assert len(pages) == 4
    text = " ".join(pages[0].extract_text().split())
    for words in (
        "D major, one octave, quarter, two eighths", "Violin", "Ferry Hall", "Sing it on the stairs", "Saturday 5 December",
        "Count in: 1 2 3 4", "Sing it, then pluck it, then bow it.", "second and third finger touch on D",
        "What to tell them", "amber: first finger", "Stop and shake out if anything hurts", "rope", "coil",
    ):  # fmt: skip
        assert words in text, words
    assert "touch" not in pages[2].extract_text()
    assert [round(float(side)) for side in pages[0].mediabox[2:]] == [595, 842]


def test_one_page_for_the_class_is_one_page_on_either_paper() -> None:
    for paper, size in (("a4", [595, 842]), ("letter", [612, 792])):
        pages = sheet(one_page=True, paper=paper).pages
        assert len(pages) == 1
        assert [round(float(side)) for side in pages[0].mediabox[2:]] == size
        text = pages[0].extract_text()
        assert all(entry.name in text for entry in INSTRUMENTS.values())
    long = Recipe("D", "sixteenths-eighths", octaves=2)
    parts = [SheetPart(build(long, key), INSTRUMENTS[key].tapes) for key in INSTRUMENTS]
    assert len(sheet(one_page=True, parts=parts).pages) == 1


def shapes(group: Group) -> Iterator[Shape]:
    for own in group.contents:
        yield from shapes(own) if isinstance(own, Group) else (own,)


def test_every_line_of_the_engraving_has_ink_and_no_sign_gets_a_second_edge() -> None:
    """Staff lines, stems, bars, the brackets of half steps: counted in the engraver's picture, outside its glyphs."""
    line = Recipe("D", "sixteenths-eighths", octaves=2, signs=tuple(Sign))
    for system in engrave(build(line, "violin"), 700, signs=tuple(Sign)):
        drawn = re.findall(
            r"<(?:path|polygon|rect|polyline)\b", re.sub("<defs>.*?</defs>", "", system.svg, flags=re.DOTALL)
        )
        inked = [
            own
            for own in shapes(drawing(system, 500))
            if not isinstance(own, (Circle, String, NoStrokePath)) and own.strokeColor is not None
        ]
        assert len(inked) == len(drawn) > 30


def test_no_sheet_without_a_score_or_a_paper() -> None:
    for wrong in ({"parts": []}, {"paper": "napkin"}):
        with pytest.raises(ValueError, match=r"instrument|napkin"):
            sheet(**wrong)


@pytest.mark.parametrize("key", INSTRUMENTS)
def test_midi_out_is_what_was_written(tmp_path: Path, key: str) -> None:
    score = build(Recipe("Bb", "quarter-rest", tempo_bpm=80, octaves=1), key)
    path = tmp_path / "line.mid"
    path.write_bytes(write_midi(score))
    file = mido.MidiFile(path)
    at, heard = 0.0, []
    for message in file:
        at += message.time
        if message.type == "note_on":
            heard.append((message.note, round(at * 80 / 60, 6)))
    assert heard == [(n.midi, float(n.start_beats)) for n in score.notes]
    found = read_line(path, "line.mid")
    assert (found.tonic, found.meter, found.tempo_bpm) == ("Bb", "4/4", 80)
    # A rest at the end sounds as nothing, so it is not in the file.
    named = [LineNote(n.pitch.name, "1") for n in score.notes]
    assert [own for own in found.line if own.name] == named


def test_how_it_is_played_comes_back_from_the_file(tmp_path: Path) -> None:
    recipe = Recipe("G", bow_part=BowPart.LOWER, dynamic=Dynamic.PIANO, fingers=Fingers.KEPT, slows=True)
    score = build(recipe, "cello")
    path = tmp_path / "score.musicxml"
    path.write_bytes(write_musicxml(score))
    assert read_musicxml(path, "cello") == score


def drawn(score: Score, *signs: Sign) -> str:
    return "".join(system.svg for system in engrave(score, 900, signs=signs))


def test_each_sign_is_there_when_it_is_wanted_and_only_then() -> None:
    a_cello = build(Recipe("A", bow_part=BowPart.POINT), "cello")
    c_violin, d_bass = build(Recipe("C"), "violin"), build(Recipe("D", "quarter-rest"), "bass")
    for score, sign, mark in (
        (a_cello, Sign.FINGERS, ">4<"),
        (c_violin, Sign.STRINGS, "on A"),
        (c_violin, Sign.HALF_STEPS, 'class="half-step"'),
        (c_violin, Sign.NOTE_NAMES, "<circle"),
        (c_violin, Sign.CUE, "boat"),
        (c_violin, Sign.KEEP_DOWN, "bracketSpan"),
        (d_bass, Sign.POSITIONS, ">III<"),
        (d_bass, Sign.CUE, "hush"),
        (a_cello, Sign.HOW, "at the point"),
    ):
        others = [own for own in Sign if own is not sign]
        assert mark in drawn(score, sign), sign
        assert mark not in drawn(score), sign
        if sign is not Sign.FINGERS:
            assert mark not in drawn(score, *others) or sign in (Sign.POSITIONS,), sign
    assert ">x4<" in drawn(a_cello, Sign.FINGERS, Sign.POSITIONS)
    assert ">L2<" in drawn(c_violin, Sign.FINGERS, Sign.LOW_HIGH)
    # Every stroke has its bow, and a bow that goes on has none.
    assert drawn(c_violin, Sign.BOWS).count('class="artic') == 16


def test_systems_break_evenly() -> None:
    """Eight measures that the engraver would break 3, 3, 2 go two by two."""
    systems = engrave(build(Recipe("D", "sixteenths-eighths"), "violin"), 900)
    measures = [system.svg.count('class="measure') for system in systems]
    assert len(set(measures)) == 1
    assert sum(measures) == 8


def test_the_same_fingers_one_string_over() -> None:
    d, a, g, c = (build(Recipe(tonic), "violin") for tonic in ("D", "A", "G", "C"))
    assert (same_fingers(a, d), same_fingers(d, a), same_fingers(g, d), same_fingers(c, d)) == (1, -1, -1, None)
    assert same_fingers(d, d) is None
    assert same_fingers(build(Recipe("D"), "viola"), a) is None
