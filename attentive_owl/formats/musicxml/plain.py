"""A file that holds one plain line: one part, one voice, no repeats, whole measures. It is read straight from its elements, which
takes milliseconds; whatever has an element that is not known here is left to `foreign`."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

from lxml import etree

from attentive_owl.core.theory import KeySignature, Meter, Mode, Pitch
from attentive_owl.formats.musicxml.part import WrittenEvent, WrittenNote, WrittenPart
from attentive_owl.formats.musicxml.words import DYNAMICS, HOW, PIZZICATO, POSITION_ROMAN, SLOWING, syllable

_KNOWN = frozenset(
    [
        "score-partwise",
        "work",
        "work-title",
        "identification",
        "encoding",
        "software",
        "encoding-date",
        "supports",
        "creator",
        "part-list",
        "score-part",
        "part-name",
        "score-instrument",
        "instrument-name",
        "midi-instrument",
        "midi-program",
        "midi-channel",
        "part",
        "measure",
        "attributes",
        "divisions",
        "key",
        "fifths",
        "mode",
        "time",
        "beats",
        "beat-type",
        "clef",
        "sign",
        "line",
        "transpose",
        "diatonic",
        "chromatic",
        "octave-change",
        "direction",
        "direction-type",
        "metronome",
        "beat-unit",
        "beat-unit-dot",
        "per-minute",
        "sound",
        "words",
        "dynamics",
        *DYNAMICS,
        "note",
        "rest",
        "pitch",
        "step",
        "alter",
        "octave",
        "duration",
        "tie",
        "tied",
        "voice",
        "type",
        "dot",
        "accidental",
        "stem",
        "beam",
        "notations",
        "slur",
        "technical",
        "fingering",
        "string",
        "other-technical",
        "up-bow",
        "down-bow",
        "articulations",
        "staccato",
        "lyric",
        "syllabic",
        "text",
        "barline",
        "bar-style",
    ]
)
_BEAT_UNITS = {"whole": 4.0, "half": 2.0, "quarter": 1.0, "eighth": 0.5, "16th": 0.25}
_POSITIONS = {numeral: position for position, numeral in POSITION_ROMAN.items()}


class _NotPlain(Exception):
    """Something here is not read by this module."""


def read_plain(path: Path) -> WrittenPart | None:
    """The part, or None where the file is no plain line (or no MusicXML at all)."""
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False)
    try:
        root = etree.parse(path, parser).getroot()
        return _part(root)
    except (etree.XMLSyntaxError, _NotPlain, ValueError, ZeroDivisionError, KeyError):
        # The other reader knows more, or says what is wrong.
        return None


def _part(root: etree._Element) -> WrittenPart:
    if root.tag != "score-partwise" or not {e.tag for e in root.iter(etree.Element)} <= _KNOWN:
        raise _NotPlain
    measures = root.findall("part/measure")
    first = _attributes(measures)
    events, lengths, slows_from, how = _events(measures, _number(first, "divisions"))
    meter = Meter(_number(first, "time/beats"), _number(first, "time/beat-type"))
    if len(root.findall("part")) != 1 or any(length != meter.measure_beats for length in lengths[1:-1]):
        raise _NotPlain
    raised = _number(first, "transpose/chromatic", 0) + 12 * _number(first, "transpose/octave-change", 0)
    if raised % 12:
        raise _NotPlain
    program = root.findtext("part-list/score-part/midi-instrument/midi-program")
    notes = tuple(e for e in events if isinstance(e, WrittenNote))
    return WrittenPart(
        title=root.findtext("work/work-title"),
        names=" ".join(e.text or "" for e in root.iterfind("part-list/score-part//*") if e.tag.endswith("-name")),
        program=int(program) if program else None,
        clef=first.findtext("clef/sign"),
        key=KeySignature(
            _number(first, "key/fifths", 0), Mode.MINOR if first.findtext("key/mode") == "minor" else Mode.MAJOR
        ),
        meter=meter,
        bpm=_bpm(root),
        first_measure=lengths[0],
        written_above=-raised,
        notes=_sounding(notes, raised // 12),
        rests=tuple(e for e in events if not isinstance(e, WrittenNote)),
        slows_from=slows_from,
        dynamic=next((own.tag for own in root.findall("part/measure/direction/direction-type/dynamics/*")), ""),
        how=how,
    )


def _attributes(measures: list[etree._Element]) -> etree._Element:
    """Said once, before the first note."""
    found = [own for measure in measures for own in measure.iterfind("attributes")]
    if len(found) != 1 or measures[0].index(found[0]) != 0:
        raise _NotPlain
    return found[0]


def _number(parent: etree._Element, path: str, default: int | None = None) -> int:
    text = parent.findtext(path)
    if text is None:
        if default is None:
            raise _NotPlain
        return default
    return int(text)


def _bpm(root: etree._Element) -> float | None:
    marks = list(root.iter("metronome"))
    sounds = list(root.iter("sound"))
    if any(set(sound.attrib) - {"tempo", "dynamics"} for sound in sounds) or (sounds and not marks):
        raise _NotPlain
    if not marks:
        return None
    dots = len(marks[0].findall("beat-unit-dot"))
    unit = _BEAT_UNITS[marks[0].findtext("beat-unit") or ""] * (2.0 - 0.5**dots)
    return float(marks[0].findtext("per-minute") or "") * unit


def _events(
    measures: list[etree._Element], divisions: int
) -> tuple[list[WrittenEvent], list[Fraction], Fraction | None, tuple[str, ...]]:
    """Notes and rests in order, the length of each measure, where it slows down, and how it is played."""
    events: list[WrittenEvent] = []
    lengths: list[Fraction] = []
    at = Fraction(0)
    slows_from = None
    how: list[str] = []
    slurs = _Slurs()
    for measure in measures:
        begin = at
        for element in measure:
            if element.tag == "direction":
                for words in _words(element):
                    if words in HOW:
                        how.append(words)
                    elif slows_from is None:
                        slows_from = at
            elif element.tag == "note":
                length = Fraction(_number(element, "duration"), divisions)
                _add(events, element, at, length, slurs)
                if not length:
                    raise _NotPlain
                at += length
        lengths.append(at - begin)
    if len({element.findtext("voice") for measure in measures for element in measure.iterfind("note")}) > 1:
        raise _NotPlain
    return events, lengths, slows_from, tuple(how)


def _words(direction: etree._Element) -> Iterator[str]:
    for words in direction.iter("words"):
        # Other words may be jumps ("D.C. al Fine").
        if (words.text or "") not in HOW and not SLOWING.match(words.text or ""):
            raise _NotPlain
        yield words.text or ""


class _Slurs:
    """Which slur a note stands under; one at a time."""

    def __init__(self) -> None:
        self._count = 0
        self._open = False

    def over(self, note: etree._Element) -> int | None:
        kinds = [slur.get("type") for slur in note.iterfind("notations/slur")]
        if kinds not in ([], ["start"], ["stop"]) or ((kinds == ["start"]) == self._open and kinds):
            raise _NotPlain
        if kinds == ["start"]:
            self._open, self._count = True, self._count + 1
        under = self._count - 1 if self._open else None
        if kinds == ["stop"]:
            self._open = False
        return under


def _add(events: list[WrittenEvent], note: etree._Element, at: Fraction, length: Fraction, slurs: _Slurs) -> None:
    ties = [tie.get("type") for tie in note.iterfind("tie")]
    if note.find("rest") is not None:
        if len(note.find("rest")):  # type: ignore[arg-type]
            raise _NotPlain
        events.append(WrittenEvent(at, length))
        return
    slur = slurs.over(note)
    pitch = Pitch(note.findtext("pitch/step") or "", _number(note, "pitch/alter", 0), _number(note, "pitch/octave"))
    if "stop" in ties:
        before = events[-1] if events else None
        if not isinstance(before, WrittenNote) or before.pitch != pitch:
            raise _NotPlain
        events[-1] = replace(before, duration=before.duration + length)
        return
    marks = note.find("notations")
    technical = marks.find("technical") if marks is not None else None
    lyrics = note.findall("lyric")
    others = [] if technical is None else [other.text for other in technical.iterfind("other-technical")]
    bows = [] if technical is None else [own.tag[:-4] for own in technical if own.tag in ("up-bow", "down-bow")]
    events.append(
        WrittenNote(
            at,
            length,
            pitch,
            None if technical is None or technical.find("fingering") is None else _number(technical, "fingering"),
            None if technical is None or technical.find("string") is None else _number(technical, "string"),
            bows[0] if bows else None,
            note.find("notations/articulations/staccato") is not None,
            PIZZICATO in others,
            syllable(lyrics[0].findtext("text") or "", lyrics[0].findtext("syllabic")) if lyrics else None,
            slur,
            _position(events, others),
        )
    )


def _position(events: list[WrittenEvent], signs: list[str | None]) -> str | None:
    """Said where it changes, and never where it is the first from the beginning."""
    said = [_POSITIONS[sign] for sign in signs if sign in _POSITIONS]
    if said:
        return said[-1]
    return next((event.position for event in reversed(events) if isinstance(event, WrittenNote)), None)


def _sounding(notes: tuple[WrittenNote, ...], octaves: int) -> tuple[WrittenNote, ...]:
    return tuple(replace(n, pitch=n.pitch.octaves_up(octaves)) for n in notes)
