"""Bowed and plucked string sound by adding harmonics, shaped by the instrument's body.

Not a beautiful instrument, but one that breaks the listener in the ways a real one does: attacks that scratch and
bend, bow noise, level that wobbles, slurs that glide, weak fundamentals low down (body resonances: Fletcher and
Rossing, "The Physics of Musical Instruments", chapters on bowed strings; the figures here are rounded, from memory).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.instruments import instrument
from attentive_owl.core.playing.performing import Performed, PerformedNote
from attentive_owl.core.theory import frequency_hz

Samples = NDArray[np.float32]

_MAX_HARMONICS = 24
_TOP_HZ = 9000.0
_SLUR_GLIDE_S = 0.008
_VIBRATO_HZ = 5.3


@dataclass(frozen=True)
class Truth:
    """Where a rendered note really is: onset by the note's own level (20 dB under its sustained level), end, pitch."""

    note: PerformedNote
    onset_s: float
    offset_s: float


def render(
    performed: Performed, instrument_key: str, sample_rate: int = 44100, seed: int = 0
) -> tuple[Samples, tuple[Truth, ...]]:
    """Sound (shape (n,), peak about 0.5) and the truth of each note, in the order played."""
    rng = np.random.default_rng([seed, 77])
    out = np.zeros(int(performed.duration_s * sample_rate) + sample_rate, np.float32)
    truths: list[Truth] = []
    for stroke in _strokes(performed.notes):
        start = max(round(stroke[0].start_s * sample_rate), 0)
        sound, own = (
            _pluck(stroke[0], instrument_key, sample_rate, rng)
            if stroke[0].pizzicato
            else _bow(stroke, instrument_key, sample_rate, rng)
        )
        end = min(start + len(sound), len(out))
        out[start:end] += sound[: end - start]
        truths += [Truth(t.note, start / sample_rate + t.onset_s, start / sample_rate + t.offset_s) for t in own]
    out = out[: int(performed.duration_s * sample_rate)]
    peak = float(np.max(np.abs(out), initial=0.0))
    return (out * (0.5 / peak) if peak > 0 else out).astype(np.float32), tuple(truths)


def _strokes(notes: tuple[PerformedNote, ...]) -> list[list[PerformedNote]]:
    strokes: list[list[PerformedNote]] = []
    for note in notes:
        if note.slurred and strokes and not note.pizzicato:
            strokes[-1].append(note)
        else:
            strokes.append([note])
    return strokes


def _body_gain(instrument_key: str, hz: NDArray[np.float64]) -> NDArray[np.float64]:
    gain = np.full_like(hz, 0.35)
    body = instrument(instrument_key).body
    for centre, width, height in body.resonances:
        gain += height * np.exp(-0.5 * (np.log2(hz / centre) / width) ** 2)
    low = body.lowest_hz
    return gain / np.sqrt(1.0 + (low / hz) ** 4)


def _smooth_noise(rng: np.random.Generator, count: int, per_second: float, sample_rate: int) -> NDArray[np.float64]:
    """Slow random movement with unit deviation, `per_second` independent values a second."""
    knots = max(int(count / sample_rate * per_second) + 3, 4)
    return np.interp(np.linspace(0, knots - 1, count), np.arange(knots), rng.normal(0.0, 1.0, knots))


def _partials(phase: NDArray[np.float64], start: float) -> Iterator[NDArray[np.float64]]:
    """sin(n phase + start) for n = 1, 2, ..., each from the two before it: sin(a + b) = 2 cos(b) sin(a) - sin(a - b)."""
    twice = 2.0 * np.cos(phase)
    before, now = np.full_like(phase, np.sin(start)), np.sin(phase + start)
    while True:
        yield now
        after = twice * now
        after -= before
        before, now = now, after


def _bow(
    stroke: list[PerformedNote], instrument_key: str, sample_rate: int, rng: np.random.Generator
) -> tuple[Samples, list[Truth]]:
    first_s = stroke[0].start_s
    length_s = stroke[-1].end_s - first_s
    attack_s = min(rng.uniform(0.022, 0.05), 0.3 * length_s)
    release_s = min(rng.uniform(0.03, 0.06), 0.3 * length_s)
    count = int((length_s + 0.6 * release_s) * sample_rate)
    time = np.arange(count) / sample_rate

    bounds = np.array([note.start_s - first_s for note in stroke[1:]])
    pitches = np.array([note.midi for note in stroke])
    midi = np.full(count, pitches[0])
    for bound, step in zip(bounds, np.diff(pitches), strict=True):
        midi += step / (1.0 + np.exp(-np.clip((time - bound) / (_SLUR_GLIDE_S / 4.0), -60, 60)))
    place = np.searchsorted(bounds, time, side="right")
    width = np.array([note.vibrato_cents for note in stroke])[place]
    phase_0 = rng.uniform(0, 2 * np.pi)
    cents = np.zeros(count)
    if width.any():
        cents += width * np.sin(2 * np.pi * _VIBRATO_HZ * time + phase_0) * np.clip((time - 0.12) / 0.15, 0.0, 1.0)
    cents += 1.6 * _smooth_noise(rng, count, 6.0, sample_rate) - 14.0 * np.exp(-time / 0.012)
    for note in stroke:
        if note.slide_s:
            since = time - (note.start_s - first_s)
            cents += np.where(since >= 0.0, note.slide_cents * np.clip(1.0 - since / note.slide_s, 0.0, 1.0), 0.0)
    hz = frequency_hz(0.0) * 2.0 ** ((midi + cents / 100.0) / 12.0)

    # Sines are dear: only where the level moves.
    rising, falling = time < attack_s, time > length_s - 0.4 * release_s
    rise, fall = np.ones(count), np.ones(count)
    rise[rising] = np.sin(0.5 * np.pi * time[rising] / attack_s) ** 2
    fallen = (time[falling] - (length_s - 0.4 * release_s)) / release_s
    fall[falling] = np.cos(0.5 * np.pi * np.minimum(fallen, 1.0)) ** 2
    envelope = rise * fall * (1.0 + 0.10 * _smooth_noise(rng, count, 8.0, sample_rate))

    sound = np.zeros(count)
    partials = _partials(2 * np.pi * np.cumsum(hz) / sample_rate, rng.uniform(0, 2 * np.pi))
    note_hz = np.array([frequency_hz(float(p)) for p in pitches])
    numbers = np.arange(1, int(min(_MAX_HARMONICS, _TOP_HZ / note_hz.min())) + 1)
    partials_hz = np.outer(numbers, note_hz)
    gains = np.where(partials_hz > 0.45 * sample_rate, 0.0, _body_gain(instrument_key, partials_hz) / numbers[:, None])
    attack = rise[rising]
    for number, gain, turning in zip(numbers, gains, partials, strict=False):
        partial = turning * (gain[0] if len(stroke) == 1 else gain[place])
        # Upper harmonics speak a little later than the first.
        partial[: len(attack)] *= attack ** (0.15 * min(int(number) - 1, 8))
        sound += partial
    sound *= envelope
    loud = float(np.sqrt(np.mean(sound**2))) + 1e-9
    scratch = 0.02 + 0.22 * np.exp(-time / 0.018)
    noise = np.diff(rng.normal(0.0, 1.0, count + 1)) * 0.7
    sound += loud * scratch * noise * np.sqrt(np.clip(rise * fall, 0.0, 1.0)) * 0.6

    onset = float(time[np.argmax(rise >= 0.1)])
    end = float(min(length_s, count / sample_rate))
    starts = [onset, *bounds.tolist()]
    ends = [*bounds.tolist(), end]
    truths = [Truth(note, a, b) for note, a, b in zip(stroke, starts, ends, strict=True)]
    return (sound / 4.0).astype(np.float32), truths


def _pluck(
    note: PerformedNote, instrument_key: str, sample_rate: int, rng: np.random.Generator
) -> tuple[Samples, list[Truth]]:
    hz = frequency_hz(note.midi)
    ring_s = min(note.end_s - note.start_s, 1.6) + 0.03
    count = int(ring_s * sample_rate)
    time = np.arange(count) / sample_rate
    decay_s = instrument(instrument_key).body.pluck_decay_s
    if note.open_string:
        decay_s *= 1.8
    sound = np.zeros(count)
    partials = _partials(2 * np.pi * hz * time, rng.uniform(0, 2 * np.pi))
    numbers = np.arange(1, int(min(_MAX_HARMONICS, _TOP_HZ / hz)) + 1)
    gains = _body_gain(instrument_key, np.float64(hz) * numbers) / numbers**1.4
    for number, gain, turning in zip(numbers, gains, partials, strict=False):
        sound += gain * turning * np.exp(-time * number**0.8 / decay_s)
    sound *= np.clip(time / 0.004, 0.0, 1.0) * np.clip((ring_s - time) / 0.03, 0.0, 1.0)
    thump = rng.normal(0.0, 0.4, count) * np.exp(-time / 0.004)
    return ((sound + thump) / 4.0).astype(np.float32), [Truth(note, 0.001, ring_s - 0.03)]
