"""MusicXML (.musicxml, .xml, .mxl) -> Score, for our own files and for files from elsewhere."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from pathlib import Path

from attentive_owl.core.exercises import Score, ScoreNote, ScoreRest
from attentive_owl.core.exercises.score import place_in_measure
from attentive_owl.core.instruments import INSTRUMENTS, Extension, FingerPlacement, Instrument, find_fingering
from attentive_owl.formats.musicxml.foreign import read_foreign
from attentive_owl.formats.musicxml.part import ScoreFileError, WrittenNote, WrittenPart
from attentive_owl.formats.musicxml.plain import read_plain


def read_musicxml(path: Path, instrument_key: str | None = None) -> Score:
    """Read a one-part melody. The instrument is the option, else found from name, program, clef and range.

    Raises ScoreFileError for a file that can not be read, has several parts, chords, no notes, or notes that the
    instrument does not have.
    """
    if not path.is_file():
        raise ScoreFileError(f"There is no file {path.name}.")
    part = read_plain(path) or read_foreign(path)
    if not part.notes:
        raise ScoreFileError(f"{path.name} has no notes.")
    player = _named_instrument(instrument_key) if instrument_key else _find_instrument(part)
    try:
        return _score(part, path.stem, player)
    except ValueError as error:
        # A note out of reach, a meter or a pitch that our theory does not know: each says which.
        raise ScoreFileError(f"{path.name}: {error}.") from error


def _score(part: WrittenPart, name: str, player: Instrument) -> Score:
    # A bass part that says nothing of transposition is still read an octave down, as basses read it.
    down = player.written_octaves if part.written_above == 0 else 0
    pickup = part.first_measure if part.first_measure < part.meter.measure_beats else Fraction(0)
    placed = [place_in_measure(own.start - pickup, part.meter) for own in (*part.notes, *part.rests)]
    notes = [
        ScoreNote(
            index,
            own.pitch.octaves_up(-down),
            own.start - pickup,
            own.duration,
            *placed[index],
            _placement(own, own.pitch.octaves_up(-down).midi, player),
            None,
            own.slur,
            own.staccato,
            own.pizzicato,
            own.cue,
        )
        for index, own in enumerate(part.notes)
    ]
    rests = tuple(
        ScoreRest(index, own.start - pickup, own.duration, *placed[len(notes) + index])
        for index, own in enumerate(part.rests)
    )
    if any(note.placement is None for note in notes):
        placements, _ = find_fingering(player, [note.pitch for note in notes])
        notes = [replace(n, placement=n.placement or p) for n, p in zip(notes, placements, strict=True)]
    return Score(
        part.title or name,
        player.key,
        part.key,
        part.meter,
        float(part.bpm or 60.0),
        _bowed(notes, [own.bow for own in part.notes]),
        rests,
        pickup,
        None if part.slows_from is None else part.slows_from - pickup,
        part.dynamic,
        part.how,
    )


def _placement(own: WrittenNote, midi: int, player: Instrument) -> FingerPlacement | None:
    if own.finger is None or own.string is None or not 1 <= own.string <= len(player.strings):
        return None
    open_string = player.strings[len(player.strings) - own.string]
    semitones = midi - open_string.pitch.midi
    if semitones < 0:
        return None
    return FingerPlacement(
        open_string.name, own.finger, own.position or _position(player, own.finger, semitones), semitones
    )


def _position(player: Instrument, finger: int, semitones: int) -> str:
    """The position in which the finger stands there with the hand at rest, else with it opened; the first if it can."""
    found = [
        (extension is not Extension.NONE, frame.position != "1", frame.position)
        for frame in player.frames
        if (extension := frame.extension(finger, semitones)) is not None
    ]
    return min(found, default=(False, False, "1"), key=lambda option: option[:2])[2]


def _bowed(notes: list[ScoreNote], signs: list[str | None]) -> tuple[ScoreNote, ...]:
    """Down and up by turns, an upbeat up, a slur in one bow, a written sign as it stands; none where it is plucked."""
    bow: str | None = None
    out: list[ScoreNote] = []
    for note, sign in zip(notes, signs, strict=True):
        if note.pizzicato:
            out.append(note)
            continue
        same_bow = bool(out) and note.slur is not None and out[-1].slur == note.slur
        if sign:
            bow = sign
        elif bow is None:
            bow = "up" if note.start_beats < 0 else "down"
        elif not same_bow:
            bow = "up" if bow == "down" else "down"
        out.append(replace(note, bow=bow))
    return tuple(out)


def _named_instrument(key_or_name: str) -> Instrument:
    try:
        return INSTRUMENTS[key_or_name]
    except KeyError:
        raise ScoreFileError(f"{key_or_name!r} is none of {', '.join(INSTRUMENTS)}.") from None


def _find_instrument(part: WrittenPart) -> Instrument:
    text = part.names.lower()
    called = [(name, entry) for entry in INSTRUMENTS.values() for name in (entry.name.lower(), *entry.also_called)]
    # 'violoncello' holds 'violon', so the longer names are asked first.
    for name, entry in sorted(called, key=lambda own: -len(own[0])):
        if name in text:
            return entry
    for entry in INSTRUMENTS.values():
        if entry.midi_program == part.program:
            return entry
    midis = [note.pitch.midi for note in part.notes]
    if part.written_above == 12:
        return INSTRUMENTS["bass"]
    if part.clef == "C":
        return INSTRUMENTS["viola"]
    if part.clef == "F":
        return (
            INSTRUMENTS["cello"]
            if max(midis) > INSTRUMENTS["bass"].highest.midi or min(midis) >= 36
            else INSTRUMENTS["bass"]
        )
    if min(midis) < INSTRUMENTS["violin"].lowest.midi:
        raise ScoreFileError("No instrument of the four fits this part; name one with --instrument.")
    return INSTRUMENTS["violin"]
