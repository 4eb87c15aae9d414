"""Sampled strings: recorded instruments of a General MIDI soundfont (Debian's fluid-soundfont-gm, or another one),
by FluidSynth, or by
TiMidity from the recorded patches of Debian's freepats.

A sample has a tuning and an attack of its own, so each key is first rendered alone and measured (`measuring.py`); only then
are its onset and pitch called truth.
"""

from __future__ import annotations

import subprocess
import tempfile
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path

import mido
import numpy as np
import soundfile
from numpy.typing import NDArray

from attentive_owl.core.playing import Performed, PerformedNote
from attentive_owl.core.playing.synthesis import Truth
from bench.measuring import MEASURED_RATE, onset_of, track_pitch

FLUID = Path("/usr/share/sounds/sf2/FluidR3_GM.sf2")
_PROGRAMS = {"violin": 40, "viola": 41, "cello": 42, "bass": 43}
_PIZZICATO = 45
_CHANNELS = (0, 1, 2, 3, 4, 5, 6, 7)
_TICKS = 960
_TICKS_PER_S = _TICKS * 2
_BEND_SEMITONES = 2.0
_SHORTEST_S, _LONGEST_S, _STEP_S = 0.1, 1.6, 0.05
_ALONE_S, _DIES_AWAY_S = 0.25, 1.0
"""Silence before a sample that is measured, and after it."""
_SLOT_S = 3.2
"""One sample begins so long after another. A whole number of ticks, of milliseconds and of FluidSynth's blocks of 64 frames (2205 of
them), so that a sample is the same whatever is measured with it; its double sounds a slot before it, because a voice begins with what
the last note left in it."""


@dataclass(frozen=True)
class _Soundfont:
    path: Path
    programs: Mapping[str, int] = field(default_factory=lambda: _PROGRAMS)

    def command(self, midi: Path, wav: Path) -> list[str]:
        dry = ("-R", "0", "-C", "0", "-g", "0.6", "-r", str(MEASURED_RATE))
        # Only the instruments that play are read: the whole soundfont takes longer than the playing.
        few = ("-o", "synth.dynamic-sample-loading=1")
        # Whole numbers would be dithered by a sequence that goes on from note to note.
        return ["fluidsynth", "-ni", "-q", "-O", "float", *few, *dry, "-F", str(wav), str(self.path), str(midi)]


@dataclass(frozen=True)
class _Patches:
    """Gravis patches by TiMidity; one that has a violin and a cello lends them to viola and bass."""

    path: Path
    programs: Mapping[str, int] = field(default_factory=lambda: {"violin": 40, "viola": 40, "cello": 42, "bass": 42})

    def command(self, midi: Path, wav: Path) -> list[str]:
        dry = ("-EFreverb=0", "-EFchorus=0", "-EFdelay=d", "-A70", "--preserve-silence", "-s", str(MEASURED_RATE))
        return ["timidity", "-c", str(self.path), *dry, "-Ow", "-o", str(wav), str(midi)]


_bank: _Soundfont | _Patches = _Soundfont(FLUID)


class NoPitchError(RuntimeError):
    """A sample in which Praat hears no pitch: there is no truth to measure by."""


def use_soundfont(path: Path) -> None:
    """Renders from another General MIDI soundfont from now on."""
    global _bank
    _bank = _Soundfont(path)
    _known.clear()


def use_patches(config: Path) -> None:
    """Renders by TiMidity from now on, with the patches of this configuration."""
    global _bank
    _bank = _Patches(config)
    _known.clear()


def render_sampled(performed: Performed, instrument_key: str) -> tuple[NDArray[np.float32], tuple[Truth, ...]]:
    """The performance on sampled strings, and where each note really is. Slurs are bowed anew: samples know no slur."""
    sound = _render([_Sounded(n, n.start_s, n.end_s) for n in performed.notes], instrument_key, performed.duration_s)
    truths = []
    measured = _measured(performed, instrument_key)
    for note in performed.notes:
        own = measured[_sample_of(note, instrument_key)]
        truths.append(Truth(replace(note, midi=note.midi + own.pitch), note.start_s + own.attack_s, note.end_s))
    return sound, tuple(truths)


def render_in_tune(performed: Performed, instrument_key: str) -> NDArray[np.float32]:
    """The performance on sampled strings, each sample moved, all along, so that it sounds at the pitch that is played: what a recording's
    own tuning and sagging would add is no habit of the pupil's."""
    measured = _measured(performed, instrument_key)
    moved = [
        _Sounded(note, note.start_s, note.end_s, measured[_sample_of(note, instrument_key)].contour)
        for note in performed.notes
    ]
    return _render(moved, instrument_key, performed.duration_s)


Contour = tuple[tuple[float, float], ...]
"""(seconds from the beginning of a note, semitones by which its sample stands above its key from there on)."""


@dataclass(frozen=True)
class _Sounded:
    note: PerformedNote
    start_s: float
    end_s: float
    taken_off: Contour = ((0.0, 0.0),)


def _render(notes: list[_Sounded], instrument_key: str, duration_s: float) -> NDArray[np.float32]:
    events: list[tuple[float, int, mido.Message]] = []
    for number, own in enumerate(notes):
        channel = _CHANNELS[number % len(_CHANNELS)]
        midi, key = own.note.midi, round(own.note.midi)
        program = _PIZZICATO if own.note.pizzicato else _bank.programs[instrument_key]
        events += [
            (own.start_s, 1, mido.Message("program_change", channel=channel, program=program)),
            (own.start_s, 3, mido.Message("note_on", channel=channel, note=key, velocity=96)),
            (own.end_s, 0, mido.Message("note_off", channel=channel, note=key)),
        ]
        for after, above in own.taken_off:
            bend = int(np.clip((midi - above - key) / _BEND_SEMITONES * 8192, -8192, 8191))
            if own.start_s + after < own.end_s:
                events.append((own.start_s + after, 2, mido.Message("pitchwheel", channel=channel, pitch=bend)))
    track = mido.MidiTrack()
    now = 0
    for at, _, message in sorted(events, key=lambda e: (e[0], e[1])):
        tick = round(at * _TICKS_PER_S)
        track.append(message.copy(time=tick - now))
        now = tick
    track.append(mido.MetaMessage("end_of_track", time=_TICKS_PER_S))
    with tempfile.TemporaryDirectory() as folder:
        midi_path, wav_path = Path(folder, "line.mid"), Path(folder, "line.wav")
        song = mido.MidiFile(ticks_per_beat=_TICKS)
        song.tracks.append(track)
        song.save(midi_path)
        subprocess.run(_bank.command(midi_path, wav_path), check=True, capture_output=True)
        stereo, _ = soundfile.read(wav_path, dtype="float32", always_2d=True)
    sound = np.zeros(int(duration_s * MEASURED_RATE), np.float32)
    count = min(len(sound), len(stereo))
    sound[:count] = stereo[:count].mean(axis=1)
    return sound


@dataclass(frozen=True)
class _Sample:
    """A key played for so long: a sample drifts in its first tenths of a second, so a short note has another pitch."""

    instrument_key: str
    key: int
    pizzicato: bool
    length_s: float


@dataclass(frozen=True)
class _Measured:
    pitch: float
    """Semitones by which it stands above its key over the middle 60 % of its length."""
    attack_s: float
    """Until its level is within 20 dB of its own."""
    contour: Contour


_known: dict[_Sample, _Measured] = {}


def _sample_of(note: PerformedNote, instrument_key: str) -> _Sample:
    length = round(min(max(note.end_s - note.start_s, _SHORTEST_S), _LONGEST_S) / _STEP_S) * _STEP_S
    return _Sample(instrument_key, round(note.midi), note.pizzicato, round(length, 3))


def _measured(performed: Performed, instrument_key: str) -> Mapping[_Sample, _Measured]:
    """Every sample of a performance. Where a note is too short for Praat, the next longer one speaks for it. Raises
    NoPitchError."""
    _measure({_sample_of(note, instrument_key) for note in performed.notes} - _known.keys())
    return _known


def _measure(samples: set[_Sample]) -> None:
    """All of them one after another in one file: loading the samples takes longer than playing them."""
    if not samples:
        return
    order = sorted(samples, key=lambda sample: (sample.key, sample.length_s, sample.pizzicato))
    notes = []
    for number, sample in enumerate(order):
        for begin in (2 * number * _SLOT_S, (2 * number + 1) * _SLOT_S):
            note = PerformedNote(
                0, begin, begin + sample.length_s, float(sample.key), sample.key, False, 0.0, sample.pizzicato, 0
            )
            notes.append(_Sounded(note, note.start_s, note.end_s))
    sound = _render(notes, order[0].instrument_key, 2 * len(order) * _SLOT_S)
    longer: dict[_Sample, _Sample] = {}
    for sample, own in zip(order, notes[1::2], strict=True):
        begin, end = own.start_s - _ALONE_S, own.end_s + _DIES_AWAY_S
        alone = sound[round(begin * MEASURED_RATE) : round(end * MEASURED_RATE)]
        track = track_pitch(alone, sample.key)
        above = track.middle(_ALONE_S, sample.length_s)
        if above is not None:
            attack = onset_of(alone, sample.key, _ALONE_S, sample.length_s, plucked=own.note.pizzicato) - _ALONE_S
            contour = track.contour(_ALONE_S, sample.length_s) or ((0.0, above),)
            _known[sample] = _Measured(above, attack, contour)
        elif sample.length_s + 2 * _STEP_S > _LONGEST_S:
            raise NoPitchError(f"the {sample.instrument_key} sample of key {sample.key} has no pitch")
        else:
            longer[sample] = replace(sample, length_s=round(sample.length_s + 2 * _STEP_S, 3))
    _measure(set(longer.values()) - _known.keys())
    _known.update({sample: _known[instead] for sample, instead in longer.items()})
