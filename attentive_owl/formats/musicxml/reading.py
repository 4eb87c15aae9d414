"""MusicXML (.musicxml, .xml, .mxl) -> Score, for our own files and for files from elsewhere.

music21 reads the file (it knows repeats, ties, transposition and many odd writers); it takes about a second to import,
so it is imported when the first file is read.
"""

from __future__ import annotations

import re
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from typing import Any

from attentive_owl.core.exercises import Score, ScoreNote, ScoreRest
from attentive_owl.core.exercises.score import place_in_measure
from attentive_owl.core.instruments import INSTRUMENTS, FingerPlacement, Instrument, find_fingering
from attentive_owl.core.theory import KeySignature, Meter, Mode, Pitch

_SLOWING = re.compile(r"\s*(rit(\.|ard|en|\b)|rall)", re.IGNORECASE)


class ScoreFileError(ValueError):
    """The file is no score that can be checked; the message is one sentence for its owner."""


def read_musicxml(path: Path, instrument_key: str | None = None) -> Score:
    """Read a one-part melody. The instrument is the option, else found from name, program, clef and range.

    Raises ScoreFileError for a file that can not be read, has several parts, chords or no notes.
    """
    from music21 import converter
    from music21.exceptions21 import Music21Exception

    if not path.is_file():
        raise ScoreFileError(f"There is no file {path.name}.")
    try:
        parsed: Any = converter.parse(path, format="musicxml")
    except (Music21Exception, ValueError, KeyError, AttributeError, TypeError, OSError, SyntaxError) as error:
        raise ScoreFileError(f"{path.name} could not be read as MusicXML.") from error
    parts = list(parsed.parts)
    if len(parts) != 1:
        raise ScoreFileError(f"{path.name} has {len(parts)} parts; an exercise has one.")
    return _score(parts[0], path, instrument_key, parsed)


def _score(part: Any, path: Path, instrument_key: str | None, parsed: Any) -> Score:
    from music21 import clef, expressions, key, meter, tempo
    from music21.exceptions21 import Music21Exception

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

    clefs = list(part.recurse().getElementsByClass(clef.Clef))
    transposed = written[0].pitch.midi - sounded[0].pitch.midi
    player = (
        _named_instrument(instrument_key, path)
        if instrument_key
        else _find_instrument(part, clefs[0] if clefs else None, [n.pitch.midi for n in sounded], transposed)
    )
    # A bass part that says nothing of transposition is still read an octave down, as basses read it.
    down = player.written_octaves if transposed == 0 else 0

    meters = list(part.recurse().getElementsByClass(meter.TimeSignature))
    signature = meters[0] if meters else meter.TimeSignature("4/4")
    own_meter = Meter(signature.numerator, signature.denominator)
    keys = list(part.recurse().getElementsByClass(key.KeySignature))
    own_key = KeySignature(keys[0].sharps) if keys else KeySignature(0)
    if keys and isinstance(keys[0], key.Key) and keys[0].mode == "minor":
        own_key = replace(own_key, mode=Mode.MINOR)
    marks = list(part.recurse().getElementsByClass(tempo.MetronomeMark))
    bpm = marks[0].getQuarterBPM() if marks and marks[0].number else None

    first_measure = part.getElementsByClass("Measure").first()
    pickup = Fraction(0)
    if first_measure is not None:
        held = Fraction(first_measure.highestTime).limit_denominator(960)
        if held < own_meter.measure_beats:
            pickup = held

    notes = tuple(
        _note(index, own, sound, own_meter, pickup, down, player)
        for index, (own, sound) in enumerate(zip(written, sounded, strict=True))
    )
    rests = tuple(
        _rest(index, rest, own_meter, pickup) for index, rest in enumerate(flat_part.getElementsByClass("Rest"))
    )
    slowing = [
        _beats(own.getOffsetInHierarchy(part)) - pickup
        for own in part.recurse().getElementsByClass(expressions.TextExpression)
        if _SLOWING.match(own.content)
    ]
    title = (parsed.metadata.title if parsed.metadata else None) or path.stem
    score = Score(
        title,
        player.key,
        own_key,
        own_meter,
        float(bpm or 60.0),
        _slurs(notes, written, part),
        rests,
        pickup,
        min(slowing, default=None),
    )
    if any(note.placement is None for note in score.notes):
        placements, _ = find_fingering(player, [note.pitch for note in score.notes])
        score = replace(
            score,
            notes=tuple(replace(n, placement=n.placement or p) for n, p in zip(score.notes, placements, strict=True)),
        )
    return score


def _beats(value: Any) -> Fraction:
    return Fraction(value).limit_denominator(960)


def _pitch(own: Any, down: int) -> Pitch:
    return Pitch(own.step, int(own.alter), own.octave - down)


def _note(
    index: int, own: Any, sound: Any, own_meter: Meter, pickup: Fraction, down: int, player: Instrument
) -> ScoreNote:
    from music21 import articulations

    start = _beats(own.offset) - pickup
    measure, beat = place_in_measure(start, own_meter)
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
    pitch = _pitch(sound.pitch, down)
    placement = None
    if finger is not None and string is not None and 1 <= string <= len(player.strings):
        open_string = player.strings[len(player.strings) - string]
        semitones = pitch.midi - open_string.pitch.midi
        if semitones >= 0:
            placement = FingerPlacement(open_string.name, finger, _position(player, finger, semitones), semitones)
    cue = own.lyrics[0].text + ("-" if own.lyrics[0].syllabic in ("begin", "middle") else "") if own.lyrics else None
    return ScoreNote(
        index, pitch, start, _beats(own.quarterLength), measure, beat, placement, bow, None, staccato, pizzicato, cue
    )


def _position(player: Instrument, finger: int, semitones: int) -> str:
    ordered = sorted(player.frames, key=lambda frame: frame.position != "1")
    for reach in ("normal", "stretched"):
        for frame in ordered:
            if semitones in getattr(frame, reach).get(finger, ()):
                return frame.position
    return "1"


def _rest(index: int, rest: Any, own_meter: Meter, pickup: Fraction) -> ScoreRest:
    start = _beats(rest.offset) - pickup
    measure, beat = place_in_measure(start, own_meter)
    return ScoreRest(index, start, _beats(rest.quarterLength), measure, beat)


def _slurs(notes: tuple[ScoreNote, ...], written: list[Any], part: Any) -> tuple[ScoreNote, ...]:
    from music21 import spanner

    starts = {note.start_beats: note.index for note in notes}
    pickup = -notes[0].start_beats if notes[0].start_beats < 0 else Fraction(0)
    slurred: dict[int, int] = {}
    for number, slur in enumerate(part.recurse().getElementsByClass(spanner.Slur)):
        first, last = slur.getFirst(), slur.getLast()
        if first is None or last is None:
            continue
        span = [starts.get(_beats(end.getOffsetInHierarchy(part)) - pickup) for end in (first, last)]
        if span[0] is not None and span[1] is not None:
            slurred |= dict.fromkeys(range(span[0], span[1] + 1), number)
    bow: str | None = None
    out: list[ScoreNote] = []
    for note in notes:
        number_here = slurred.get(note.index)
        same_bow = bool(out) and number_here is not None and out[-1].slur == number_here
        if note.bow:
            bow = note.bow
        elif bow is None:
            bow = "up" if note.start_beats < 0 else "down"
        elif not same_bow:
            bow = "up" if bow == "down" else "down"
        out.append(replace(note, slur=number_here, bow=bow))
    return tuple(out)


def _named_instrument(key_or_name: str, path: Path) -> Instrument:
    try:
        return INSTRUMENTS[key_or_name]
    except KeyError:
        raise ScoreFileError(f"{key_or_name!r} is none of {', '.join(INSTRUMENTS)}.") from None


_NAMES = {
    "bass": ("double bass", "contrabass", "string bass", "kontrabass", "contrebasse", "contrabbasso", "upright bass"),
    "cello": ("cello", "violoncello", "violoncelle"),
    "viola": ("viola", "bratsche", "alto"),
    "violin": ("violin", "violine", "geige", "violon", "violino", "fiddle"),
}


def _find_instrument(part: Any, clef: Any, midis: list[int], transposed: int) -> Instrument:
    from music21 import instrument as m21

    found = part.getInstrument(returnDefault=False)
    names = [part.partName or "", getattr(found, "instrumentName", "") or "", getattr(found, "partName", "") or ""]
    text = " ".join(names).lower()
    # 'violoncello' holds 'violon', so the longer names are asked first.
    for key in ("bass", "cello", "violin", "viola"):
        if any(name in text for name in _NAMES[key]):
            return INSTRUMENTS[key]
    if found is not None and not isinstance(found, m21.Piano) and found.midiProgram is not None:
        for entry in INSTRUMENTS.values():
            if entry.midi_program - 1 == found.midiProgram:
                return entry
    if transposed == 12:
        return INSTRUMENTS["bass"]
    sign = getattr(clef, "sign", "G")
    if sign == "C":
        return INSTRUMENTS["viola"]
    if sign == "F":
        return (
            INSTRUMENTS["cello"]
            if max(midis) > INSTRUMENTS["bass"].highest.midi or min(midis) >= 36
            else INSTRUMENTS["bass"]
        )
    if min(midis) < INSTRUMENTS["violin"].lowest.midi:
        raise ScoreFileError("No instrument of the four fits this part; name one with --instrument.")
    return INSTRUMENTS["violin"]
