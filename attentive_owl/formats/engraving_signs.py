"""A score's MusicXML made ready for the engraver: the signs that are wanted are put in, all others are taken out."""

from __future__ import annotations

from collections.abc import Collection
from itertools import pairwise

from lxml import etree

from attentive_owl.core.exercises import Score, Sign
from attentive_owl.core.exercises.patterns import REST_WORD
from attentive_owl.core.exercises.signs import Span, extension_sign, fingers_that_stay, low_or_high
from attentive_owl.formats.musicxml import add_words, note_id, score_tree
from attentive_owl.formats.musicxml.words import POSITION_ROMAN

_NEAREST = {"low": "L", "high": "H", "": ""}


def tree_with_signs(score: Score, signs: Collection[Sign]) -> etree._Element:
    """Raises ValueError for a duration that has no sign."""
    root = score_tree(score)
    for name in root.iter("part-name"):
        name.set("print-object", "no")
    _take_out(root, score, signs)
    notes = {str(element.get("id")): element for element in root.iter("note")}
    _fingers(notes, score, signs)
    if Sign.POSITIONS in signs:
        _positions(notes, score)
    if Sign.STRINGS in signs:
        _strings(notes, score)
    if Sign.KEEP_DOWN in signs:
        _lines(notes, fingers_that_stay(score))
    if Sign.BOWS in signs:
        _bows(notes, score)
    if Sign.CUE in signs and any(note.cue for note in score.notes):
        for identity, element in notes.items():
            if identity.startswith("rest-") and identity.count("-") == 1:
                _over(element, REST_WORD, "below")
    return root


def _take_out(root: etree._Element, score: Score, signs: Collection[Sign]) -> None:
    unwanted = [
        # The tempo mark is text in a music font that only an inline style would bring; every view says the tempo itself.
        *(mark.getparent().getparent() for mark in root.iter("metronome")),  # type: ignore[union-attr]
        *(sign for sign in root.iter("fingering") if Sign.FINGERS not in signs or sign.get("print-object") == "no"),
        *(lyric for lyric in root.iter("lyric") if Sign.CUE not in signs),
    ]
    if Sign.HOW not in signs:
        unwanted += [words.getparent().getparent() for words in root.iter("words") if words.text in score.how]  # type: ignore[union-attr]
        unwanted += [mark.getparent().getparent() for mark in root.iter("dynamics")]  # type: ignore[union-attr]
    for element in unwanted:
        if element is not None and (parent := element.getparent()) is not None:
            parent.remove(element)


def _fingers(notes: dict[str, etree._Element], score: Score, signs: Collection[Sign]) -> None:
    for note in score.notes:
        figure = notes[note_id(note.index)].find("notations/technical/fingering")
        if figure is None:
            continue
        stretched = extension_sign(score, note) if Sign.POSITIONS in signs else ""
        place = _NEAREST[low_or_high(score, note)] if Sign.LOW_HIGH in signs else ""
        figure.text = f"{stretched}{place}{figure.text}"


def _positions(notes: dict[str, etree._Element], score: Score) -> None:
    position = "1"
    for note in score.notes:
        if note.placement and note.placement.finger and note.placement.position != position:
            position = note.placement.position
            _over(notes[note_id(note.index)], POSITION_ROMAN[position])


def _strings(notes: dict[str, etree._Element], score: Score) -> None:
    string = ""
    for note in score.notes:
        if note.placement and note.placement.string != string:
            string = note.placement.string
            _over(notes[note_id(note.index)], f"on {string}")


def _bows(notes: dict[str, etree._Element], score: Score) -> None:
    for before, note in pairwise((None, *score.notes)):
        if note is None or note.bow is None or note.slurred_from(before):
            continue
        element = notes[note_id(note.index)]
        notations = element.find("notations")
        if notations is None:
            notations = etree.SubElement(element, "notations")
        technical = notations.find("technical")
        if technical is None:
            technical = etree.SubElement(notations, "technical")
        if technical.find(f"{note.bow}-bow") is None:
            technical.insert(0, etree.Element(f"{note.bow}-bow"))


def _lines(notes: dict[str, etree._Element], spans: Collection[Span]) -> None:
    """Brackets over each span, from its first note to its last; they follow one another, as the engraver wants them."""
    for span in spans:
        for index, end in ((span.first, "start"), (span.last, "stop")):
            direction = etree.Element("direction", placement="above")
            told = {"type": end, "line-end": "down", "line-type": "dashed", "number": "1"}
            etree.SubElement(etree.SubElement(direction, "direction-type"), "bracket", told)
            notes[note_id(index)].addprevious(direction)


def _over(element: etree._Element, words: str, placement: str = "above") -> None:
    measure = element.getparent()
    assert measure is not None
    add_words(measure, words, element, placement)
