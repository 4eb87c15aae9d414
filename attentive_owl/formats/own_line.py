"""A teacher's own line from a file: MusicXML, .mxl or MIDI, one note at a time."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

from attentive_owl.core.exercises import HIGHEST_TEMPO_BPM, LOWEST_TEMPO_BPM, METERS, LineNote, RecipeError, ScoreNote
from attentive_owl.core.theory import KeySignature, Mode, ScaleForm
from attentive_owl.formats.confined import read_confined
from attentive_owl.formats.musicxml import ScoreFileError, read_musicxml

_MUSICXML = (".musicxml", ".xml", ".mxl")
_MIDI = (".mid", ".midi")
_GRID = Fraction(1, 4)
"""MIDI times are rounded to sixteenths."""


@dataclass(frozen=True)
class OwnLine:
    title: str
    tonic: str
    form: ScaleForm
    meter: str
    tempo_bpm: float
    line: tuple[LineNote, ...]


def read_line(path: Path, name: str) -> OwnLine:
    """Raises ScoreFileError, one sentence for its owner, for a file that holds no single line of notes."""
    suffix = path.suffix.lower()
    try:
        if suffix in _MUSICXML:
            return _from_musicxml(path, name)
        if suffix in _MIDI:
            return _from_midi(path, name)
    except RecipeError as error:
        raise ScoreFileError(f"{name}: {error}.") from error
    raise ScoreFileError(f"{name} is neither MusicXML (.musicxml, .xml, .mxl) nor MIDI (.mid).")


def read_strangers_line(path: Path, name: str, cpu_s: int = 10) -> OwnLine:
    """The same in a process of its own, which may take so many seconds, for files that nobody knows. Raises ScoreFileError."""
    try:
        found = read_confined("attentive_owl.formats.line_child", [str(path), name, str(cpu_s)], path.parent)
    except TimeoutError as error:
        raise ScoreFileError(f"{name} took too long to read.") from error
    if "line" not in found:
        raise ScoreFileError(str(found.get("error", f"{name} could not be read as a line of notes.")))
    told = found["line"]
    return OwnLine(
        **{**told, "form": ScaleForm(told["form"]), "line": tuple(LineNote(**note) for note in told["line"])}
    )


def _from_musicxml(path: Path, name: str) -> OwnLine:
    score = read_musicxml(path)
    line: list[LineNote] = []
    for event in sorted(score.events, key=lambda e: e.start_beats):
        beats = str(event.duration_beats)
        if isinstance(event, ScoreNote):
            before = score.notes[event.index - 1] if event.index else None
            line.append(LineNote(event.pitch.name, beats, event.slurred_from(before)))
        else:
            line.append(LineNote(None, beats))
    return OwnLine(
        score.title if score.title != path.stem else Path(name).stem,
        score.key.tonic,
        _form(score.key),
        _meter(score.meter.beats, score.meter.beat_unit, name),
        _tempo(score.tempo_bpm),
        tuple(line),
    )


def _from_midi(path: Path, name: str) -> OwnLine:
    from music21 import converter, key, meter, tempo
    from music21.exceptions21 import Music21Exception

    try:
        parsed: Any = converter.parse(path, format="midi", quarterLengthDivisors=(4,))
    except (Music21Exception, ValueError, KeyError, IndexError, TypeError, OSError, EOFError) as error:
        raise ScoreFileError(f"{name} could not be read as MIDI.") from error
    parts = [part for part in parsed.parts if part.recurse().notes]
    if len(parts) != 1:
        raise ScoreFileError(f"{name} has {len(parts)} parts with notes; an exercise has one.")
    flat = parts[0].flatten()
    line: list[LineNote] = []
    at = Fraction(0)
    for note in flat.notes:
        if not note.isNote:
            raise ScoreFileError(f"{name} has several notes at once; an exercise has one line.")
        start, length = (_rounded(value) for value in (note.offset, note.quarterLength))
        if start < at:
            raise ScoreFileError(f"{name} has several notes at once; an exercise has one line.")
        if start > at:
            line.append(LineNote(None, str(start - at)))
        length = max(length, _GRID)
        line.append(LineNote(note.pitch.nameWithOctave.replace("-", "b"), str(length)))
        at = start + length
    keys = list(flat.getElementsByClass(key.KeySignature))
    own_key = KeySignature(keys[0].sharps) if keys else KeySignature(0)
    meters = list(flat.getElementsByClass(meter.TimeSignature))
    marks = list(flat.getElementsByClass(tempo.MetronomeMark))
    return OwnLine(
        Path(name).stem,
        own_key.tonic,
        _form(own_key),
        _meter(meters[0].numerator, meters[0].denominator, name) if meters else "4/4",
        _tempo(float(marks[0].getQuarterBPM()) if marks and marks[0].number else 72.0),
        tuple(line),
    )


def _rounded(value: Any) -> Fraction:
    return round(Fraction(value) / _GRID) * _GRID


def _form(own: KeySignature) -> ScaleForm:
    return ScaleForm.NATURAL_MINOR if own.mode is Mode.MINOR else ScaleForm.MAJOR


def _meter(beats: int, unit: int, name: str) -> str:
    text = f"{beats}/{unit}"
    if text not in METERS:
        raise ScoreFileError(f"{name} is in {text}; a line here is in {', '.join(METERS)}.")
    return text


def _tempo(bpm: float) -> float:
    return float(round(min(max(bpm, LOWEST_TEMPO_BPM), HIGHEST_TEMPO_BPM)))
