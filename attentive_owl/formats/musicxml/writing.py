"""Score -> MusicXML 4.0 (W3C Music Notation Community Group, partwise)."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from math import lcm

from lxml import etree

from attentive_owl.core.exercises import Score, ScoreNote, ScoreRest
from attentive_owl.formats.musicxml.words import PIZZICATO, POSITION_ROMAN

_TYPES = {
    Fraction(4): "whole",
    Fraction(2): "half",
    Fraction(1): "quarter",
    Fraction(1, 2): "eighth",
    Fraction(1, 4): "16th",
    Fraction(1, 8): "32nd",
}
_NOTATABLE = {
    value * dots: (name, count)
    for value, name in _TYPES.items()
    for dots, count in ((Fraction(1), 0), (Fraction(3, 2), 1))
}
_ACCIDENTALS = {-2: "flat-flat", -1: "flat", 0: "natural", 1: "sharp", 2: "double-sharp"}


def note_id(index: int) -> str:
    """The id that note `index` carries in the file and in the engraving."""
    return f"note-{index}"


@dataclass(frozen=True)
class _Piece:
    """What stands within one measure and one printable value."""

    event: ScoreNote | ScoreRest
    start: Fraction
    duration: Fraction
    first: bool
    last: bool


def _printable(duration: Fraction) -> list[Fraction]:
    """Split a duration into values that have a sign of their own, the longest first."""
    parts: list[Fraction] = []
    while duration > 0:
        fitting = [value for value in _NOTATABLE if value <= duration]
        if not fitting:
            raise ValueError(f"a duration of {duration} quarter notes can not be written")
        parts.append(max(fitting))
        duration -= parts[-1]
    return parts


def _pieces(score: Score) -> list[_Piece]:
    length = score.meter.measure_beats
    pieces: list[_Piece] = []
    for event in sorted(score.events, key=lambda e: e.start_beats):
        at, left = event.start_beats, event.duration_beats
        own: list[tuple[Fraction, Fraction]] = []
        while left > 0:
            barline = (at // length + 1) * length
            for value in _printable(min(left, barline - at)):
                own.append((at, value))
                at += value
                left -= value
        pieces += [
            _Piece(event, start, value, place == 0, place == len(own) - 1) for place, (start, value) in enumerate(own)
        ]
    return pieces


def _beams(pieces: list[_Piece], score: Score) -> dict[int, list[tuple[int, str]]]:
    """Beam marks by place in `pieces`: notes shorter than a quarter within one pulse are joined."""
    pulse = score.meter.pulse_beats
    groups: list[list[int]] = []
    last_pulse: Fraction | None = None
    for place, piece in enumerate(pieces):
        own_pulse = Fraction(piece.start // pulse)
        short = isinstance(piece.event, ScoreNote) and piece.duration < 1
        if not short:
            last_pulse = None
            continue
        if last_pulse == own_pulse:
            groups[-1].append(place)
        else:
            groups.append([place])
        last_pulse = own_pulse
    marks: dict[int, list[tuple[int, str]]] = {}
    for group in (group for group in groups if len(group) > 1):
        levels = {place: 2 if pieces[place].duration < Fraction(1, 2) else 1 for place in group}
        for level in (1, 2):
            run = [levels[place] >= level for place in group]
            for at, place in enumerate(group):
                if not run[at]:
                    continue
                before, after = at > 0 and run[at - 1], at + 1 < len(run) and run[at + 1]
                kind = {
                    (False, True): "begin",
                    (True, True): "continue",
                    (True, False): "end",
                    (False, False): "backward hook" if at else "forward hook",
                }[before, after]
                marks.setdefault(place, []).append((level, kind))
    return marks


def _accidentals(pieces: list[_Piece], score: Score) -> dict[int, str]:
    """Printed signs by place in `pieces`: where a note differs from what the signature, or an earlier sign of its
    measure, says of its line or space."""
    signs: dict[int, str] = {}
    measure: int | None = None
    said: dict[tuple[str, int], int] = {}
    for place, piece in enumerate(pieces):
        if not isinstance(piece.event, ScoreNote) or not piece.first:
            continue
        if piece.event.measure != measure:
            measure, said = piece.event.measure, {}
        pitch = piece.event.pitch
        line = (pitch.step, pitch.octave)
        if said.get(line, score.key.alter(pitch.step)) != pitch.alter:
            signs[place] = _ACCIDENTALS[pitch.alter]
            said[line] = pitch.alter
    return signs


def write_musicxml(score: Score) -> bytes:
    """The score as an uncompressed MusicXML document. Raises ValueError for a duration that has no sign."""
    return etree.tostring(
        score_tree(score),
        xml_declaration=True,
        encoding="UTF-8",
        pretty_print=True,
        doctype='<!DOCTYPE score-partwise PUBLIC "-//Recordare//DTD MusicXML 4.0 Partwise//EN" '
        '"http://www.musicxml.org/dtds/partwise.dtd">',
    )


def score_tree(score: Score) -> etree._Element:
    """The same as elements. Raises ValueError for a duration that has no sign."""
    pieces = _pieces(score)
    divisions = lcm(*(piece.duration.denominator for piece in pieces), score.meter.measure_beats.denominator)
    root = etree.Element("score-partwise", version="4.0")
    _text(etree.SubElement(root, "work"), "work-title", score.title)
    part_list = etree.SubElement(root, "part-list")
    score_part = etree.SubElement(part_list, "score-part", id="P1")
    _text(score_part, "part-name", score.instrument.name)
    _text(etree.SubElement(score_part, "score-instrument", id="P1-I1"), "instrument-name", score.instrument.name)
    midi = etree.SubElement(score_part, "midi-instrument", id="P1-I1")
    _text(midi, "midi-program", score.instrument.midi_program)
    part = etree.SubElement(root, "part", id="P1")

    beams = _beams(pieces, score)
    signs = _accidentals(pieces, score)
    length = score.meter.measure_beats
    measure: etree._Element | None = None
    number = 0
    for place, piece in enumerate(pieces):
        own_number = int(piece.start // length) + 1
        if measure is None or own_number != number:
            first = measure is None
            number = own_number
            measure = etree.SubElement(part, "measure", number=str(number), id=f"measure-{number}")
            if number == 0:
                measure.set("implicit", "yes")
            if first:
                _attributes(measure, score, divisions)
                _tempo(measure, score)
                for word in score.how:
                    add_words(measure, word)
                if score.dynamic:
                    _dynamic(measure, score.dynamic)
        if piece.first and piece.event.start_beats == score.slows_from:
            add_words(measure, "rit.")
        if isinstance(piece.event, ScoreRest):
            _rest(measure, piece, divisions)
        else:
            previous = score.notes[piece.event.index - 1] if piece.event.index else None
            following = score.notes[piece.event.index + 1] if piece.event.index + 1 < len(score.notes) else None
            _note(measure, piece, divisions, beams.get(place, []), signs.get(place), score, previous, following)
    if measure is not None:
        barline = etree.SubElement(measure, "barline", location="right")
        _text(barline, "bar-style", "light-heavy")
    return root


def add_words(
    measure: etree._Element, words: str, before: etree._Element | None = None, placement: str = "above"
) -> None:
    """Words over (or under) what comes next in the measure, or over the element `before`."""
    direction = etree.Element("direction", placement=placement)
    _text(etree.SubElement(direction, "direction-type"), "words", words)
    measure.insert(len(measure) if before is None else measure.index(before), direction)


def _dynamic(measure: etree._Element, sign: str) -> None:
    direction = etree.SubElement(measure, "direction", placement="below")
    etree.SubElement(etree.SubElement(etree.SubElement(direction, "direction-type"), "dynamics"), sign)


def _text(parent: etree._Element, tag: str, text: object, **attributes: str) -> etree._Element:
    element = etree.SubElement(parent, tag)
    for name, value in attributes.items():
        element.set(name, value)
    element.text = str(text)
    return element


def _attributes(measure: etree._Element, score: Score, divisions: int) -> None:
    attributes = etree.SubElement(measure, "attributes")
    _text(attributes, "divisions", divisions)
    key = etree.SubElement(attributes, "key")
    _text(key, "fifths", score.key.fifths)
    _text(key, "mode", score.key.mode.value)
    time = etree.SubElement(attributes, "time")
    _text(time, "beats", score.meter.beats)
    _text(time, "beat-type", score.meter.beat_unit)
    clef = etree.SubElement(attributes, "clef")
    _text(clef, "sign", score.instrument.clef[0])
    _text(clef, "line", score.instrument.clef[1])
    if score.instrument.written_octaves:
        transpose = etree.SubElement(attributes, "transpose")
        _text(transpose, "diatonic", 0)
        _text(transpose, "chromatic", 0)
        _text(transpose, "octave-change", -score.instrument.written_octaves)


def _tempo(measure: etree._Element, score: Score) -> None:
    direction = etree.SubElement(measure, "direction", placement="above")
    metronome = etree.SubElement(etree.SubElement(direction, "direction-type"), "metronome")
    _text(metronome, "beat-unit", "quarter")
    _text(metronome, "per-minute", f"{score.tempo_bpm:g}")
    etree.SubElement(direction, "sound", tempo=f"{score.tempo_bpm:g}")


def _rest(measure: etree._Element, piece: _Piece, divisions: int) -> None:
    note = etree.SubElement(
        measure, "note", id=f"rest-{piece.event.index}" + ("" if piece.first else f"-{piece.start}")
    )
    etree.SubElement(note, "rest")
    _duration(note, piece, divisions)


def _duration(note: etree._Element, piece: _Piece, divisions: int, tied: bool = False, sign: str | None = None) -> None:
    _text(note, "duration", int(piece.duration * divisions))
    if tied and not piece.first:
        etree.SubElement(note, "tie", type="stop")
    if tied and not piece.last:
        etree.SubElement(note, "tie", type="start")
    _text(note, "voice", 1)
    name, dots = _NOTATABLE[piece.duration]
    _text(note, "type", name)
    for _ in range(dots):
        etree.SubElement(note, "dot")
    if sign:
        _text(note, "accidental", sign)


def _note(
    measure: etree._Element,
    piece: _Piece,
    divisions: int,
    beams: list[tuple[int, str]],
    sign: str | None,
    score: Score,
    previous: ScoreNote | None,
    following: ScoreNote | None,
) -> None:
    event = piece.event
    assert isinstance(event, ScoreNote)
    written = event.pitch.octaves_up(score.instrument.written_octaves)
    identity = note_id(event.index) + ("" if piece.first else f"-tied-{piece.start}".replace("/", "_"))
    note = etree.SubElement(measure, "note", id=identity)
    pitch = etree.SubElement(note, "pitch")
    _text(pitch, "step", written.step)
    if written.alter:
        _text(pitch, "alter", written.alter)
    _text(pitch, "octave", written.octave)
    _duration(note, piece, divisions, tied=True, sign=sign)
    for level, kind in beams:
        _text(note, "beam", kind, number=str(level))
    notations = etree.SubElement(note, "notations")
    if not piece.first:
        etree.SubElement(notations, "tied", type="stop")
    if not piece.last:
        etree.SubElement(notations, "tied", type="start")
    if piece.first:
        _slur_marks(notations, event, previous, following)
        _technical(notations, score, event, previous)
    if event.cue and piece.first:
        lyric = etree.SubElement(note, "lyric", number="1")
        _text(lyric, "syllabic", _syllabic(event.cue, previous.cue if previous else None))
        _text(lyric, "text", event.cue.rstrip("-"))
    if not len(notations):
        note.remove(notations)


def _syllabic(cue: str, before: str | None) -> str:
    goes_on, began = cue.endswith("-"), bool(before and before.endswith("-"))
    return {(False, False): "single", (True, False): "begin", (True, True): "middle", (False, True): "end"}[
        goes_on, began
    ]


def _slur_marks(
    notations: etree._Element, event: ScoreNote, previous: ScoreNote | None, following: ScoreNote | None
) -> None:
    if event.slur is None:
        return
    joined_on = following is not None and following.slurred_from(event)
    if event.slurred_from(previous):
        if not joined_on:
            etree.SubElement(notations, "slur", type="stop", number="1")
    elif joined_on:
        etree.SubElement(notations, "slur", type="start", number="1")


def _technical(notations: etree._Element, score: Score, event: ScoreNote, previous: ScoreNote | None) -> None:
    technical = etree.Element("technical")
    before = previous.placement if previous else None
    if event.bow and previous is None:
        etree.SubElement(technical, f"{event.bow}-bow")
    if event.placement:
        # After a barline the figure is said again.
        new_place = (
            before is None
            or previous is None
            or previous.measure != event.measure
            or (before.string, before.finger, before.position)
            != (
                event.placement.string,
                event.placement.finger,
                event.placement.position,
            )
        )
        # A repeated note keeps its figure in the file for readers, but the engraving shows it once.
        printed = "yes" if new_place else "no"
        _text(technical, "fingering", event.placement.finger, **{"print-object": printed} if printed == "no" else {})
        names = [string.name for string in score.instrument.strings]
        # MusicXML counts strings from the highest, 1.
        _text(technical, "string", len(names) - names.index(event.placement.string))
        if event.placement.position != (before.position if before else "1"):
            _text(technical, "other-technical", POSITION_ROMAN[event.placement.position])
    if event.pizzicato:
        _text(technical, "other-technical", PIZZICATO)
    if len(technical):
        notations.append(technical)
    if event.staccato:
        articulations = etree.SubElement(notations, "articulations")
        etree.SubElement(articulations, "staccato")
