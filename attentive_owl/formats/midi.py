"""Score -> a standard MIDI file (SMF 1.0, one track), for whoever plays it elsewhere."""

from __future__ import annotations

import io
from fractions import Fraction

import mido

from attentive_owl.core.exercises import Score
from attentive_owl.core.theory import Mode

_TICKS = 480
_VELOCITY = 80


def write_midi(score: Score) -> bytes:
    """Notes at their written lengths, with signature, meter, tempo and the instrument of General MIDI."""
    file = mido.MidiFile(type=0, ticks_per_beat=_TICKS)
    track = mido.MidiTrack()
    file.tracks.append(track)
    # A minor key is called by its own tonic, as 'F#m'.
    tonic = score.key.tonic + ("m" if score.key.mode is Mode.MINOR else "")
    track += [
        mido.MetaMessage("track_name", name=score.title.encode("latin-1", "replace").decode("latin-1")),
        mido.MetaMessage("key_signature", key=tonic),
        mido.MetaMessage("time_signature", numerator=score.meter.beats, denominator=score.meter.beat_unit),
        mido.MetaMessage("set_tempo", tempo=mido.bpm2tempo(score.tempo_bpm)),
        mido.Message("program_change", program=score.instrument.midi_program - 1),
    ]
    at = score.start_beats
    for note in score.notes:
        on = _ticks(note.start_beats - at)
        track.append(mido.Message("note_on", note=note.midi, velocity=_VELOCITY, time=on))
        track.append(mido.Message("note_off", note=note.midi, time=_ticks(note.duration_beats)))
        at = note.end_beats
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


def _ticks(beats: Fraction) -> int:
    return round(beats * _TICKS)
