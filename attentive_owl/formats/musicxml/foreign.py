"""Any MusicXML, from any program, through music21: it knows repeats, ties, transposition and many odd writers. It takes most of a
second to import, so it is imported when the first such file is read."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from typing import Any

from attentive_owl.core.theory import KeySignature, Meter, Mode, Pitch
from attentive_owl.formats.musicxml.part import ScoreFileError, WrittenEvent, WrittenNote, WrittenPart
from attentive_owl.formats.musicxml.words import SLOWING, syllable


def read_foreign(path: Path) -> WrittenPart:
    """Raises ScoreFileError for a file that can not be read, has several parts or chords."""
    from music21 import converter
    from music21.exceptions21 import Music21Exception

    try:
        parsed: Any = converter.parse(path, format="musicxml")
    except (Music21Exception, ValueError, KeyError, AttributeError, TypeError, OSError, SyntaxError) as error:
        raise ScoreFileError(f"{path.name} could not be read as MusicXML.") from error
    parts = list(parsed.parts)
    if len(parts) != 1:
        raise ScoreFileError(f"{path.name} has {len(parts)} parts; an exercise has one.")
    return _part(parts[0], path, parsed)


def _part(part: Any, path: Path, parsed: Any) -> WrittenPart:
    from music21 import clef, expressions, key, meter, tempo
    from music21.exceptions21 import Music21Exception

    _tell_slurs(part)
    try:
        part = part.expandRepeats()
    except Music21Exception as error:
        raise ScoreFileError(f"{path.name} has repeats that do not add up.") from error
    for measure in part.getElementsByClass("Measure"):
        if len(measure.voices) > 1 or measure.recurse().getElementsByClass("Chord"):
            raise ScoreFileError(
                f"{path.name}: measure {measure.number} has several notes at once; an exercise has one line."
            )
    flat_part = part.stripTies(inPlace=False).flatten()
    sounding = part.toSoundingPitch(inPlace=False).stripTies(inPlace=False).flatten()
    written = [n for n in flat_part.notes if n.isNote and not n.duration.isGrace]
    sounded = [n for n in sounding.notes if n.isNote and not n.duration.isGrace]
    if not written:
        raise ScoreFileError(f"{path.name} has no notes.")

    meters = list(part.recurse().getElementsByClass(meter.TimeSignature))
    signature = meters[0] if meters else meter.TimeSignature("4/4")
    keys = list(part.recurse().getElementsByClass(key.KeySignature))
    own_key = KeySignature(keys[0].sharps) if keys else KeySignature(0)
    if keys and isinstance(keys[0], key.Key) and keys[0].mode == "minor":
        own_key = replace(own_key, mode=Mode.MINOR)
    marks = list(part.recurse().getElementsByClass(tempo.MetronomeMark))
    clefs = list(part.recurse().getElementsByClass(clef.Clef))
    own_meter = Meter(signature.numerator, signature.denominator)
    first_measure = part.getElementsByClass("Measure").first()
    slowing = [
        _beats(own.getOffsetInHierarchy(part))
        for own in part.recurse().getElementsByClass(expressions.TextExpression)
        if SLOWING.match(own.content)
    ]
    names, program = _player(part)
    return WrittenPart(
        title=parsed.metadata.title if parsed.metadata else None,
        names=names,
        program=program,
        clef=getattr(clefs[0], "sign", None) if clefs else None,
        key=own_key,
        meter=own_meter,
        bpm=marks[0].getQuarterBPM() if marks and marks[0].number else None,
        first_measure=own_meter.measure_beats if first_measure is None else _beats(first_measure.highestTime),
        written_above=written[0].pitch.midi - sounded[0].pitch.midi,
        notes=_under_slurs([_note(own, sound) for own, sound in zip(written, sounded, strict=True)], written),
        rests=tuple(
            WrittenEvent(_beats(rest.offset), _beats(rest.quarterLength))
            for rest in flat_part.getElementsByClass("Rest")
        ),
        slows_from=min(slowing, default=None),
    )


def _beats(value: Any) -> Fraction:
    return Fraction(value).limit_denominator(960)


def _note(own: Any, sound: Any) -> WrittenNote:
    from music21 import articulations

    finger = string = bow = None
    staccato = pizzicato = False
    for mark in own.articulations:
        if isinstance(mark, articulations.Fingering):
            finger = int(mark.fingerNumber)
        elif isinstance(mark, articulations.StringIndication):
            string = int(mark.number)
        elif isinstance(mark, articulations.DownBow):
            bow = "down"
        elif isinstance(mark, articulations.UpBow):
            bow = "up"
        elif isinstance(mark, articulations.Staccato):
            staccato = True
        elif isinstance(mark, articulations.Pizzicato):
            pizzicato = True
    pitch = Pitch(sound.pitch.step, int(sound.pitch.alter), sound.pitch.octave)
    cue = syllable(own.lyrics[0].text, own.lyrics[0].syllabic) if own.lyrics else None
    return WrittenNote(
        _beats(own.offset), _beats(own.quarterLength), pitch, finger, string, bow, staccato, pizzicato, cue
    )


def _tell_slurs(part: Any) -> None:
    """Each note told under which slur it stands, and whether it begins it: a repeat copies notes and not the slurs over them."""
    from music21 import spanner

    notes = list(part.recurse().notes)
    place = {id(own): number for number, own in enumerate(notes)}
    for number, slur in enumerate(part.recurse().getElementsByClass(spanner.Slur)):
        first, last = (place.get(id(end)) for end in (slur.getFirst(), slur.getLast()))
        if first is not None and last is not None:
            for at in range(first, last + 1):
                notes[at].editorial.slur = (number, at == first)


def _under_slurs(notes: list[WrittenNote], written: list[Any]) -> tuple[WrittenNote, ...]:
    out: list[WrittenNote] = []
    count = -1
    before: int | None = None
    for note, own in zip(notes, written, strict=True):
        number, begins = own.editorial.get("slur", None) or (None, False)
        if number is not None:
            count += begins or number != before
            note = replace(note, slur=count)
        before = number
        out.append(note)
    return tuple(out)


def _player(part: Any) -> tuple[str, int | None]:
    from music21 import instrument

    found = part.getInstrument(returnDefault=False)
    names = [part.partName or "", getattr(found, "instrumentName", "") or ""]
    program = None
    if found is not None and not isinstance(found, instrument.Piano) and found.midiProgram is not None:
        program = found.midiProgram + 1
    return " ".join(names), program
