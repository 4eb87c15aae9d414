"""With company: a click, a drone on the tonic, a loop on I, IV and V."""

from __future__ import annotations

from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.exercises import Score
from attentive_owl.core.theory import Mode, frequency_hz

Samples = NDArray[np.float32]

_TWELVE_BARS = (1, 1, 1, 1, 4, 4, 1, 1, 5, 4, 1, 1)
_ROOTS = {1: 0, 4: 5, 5: 7}
_BASS_KEY = 36


class Company(StrEnum):
    """What plays along."""

    ALONE = "alone"
    CLICK = "click"
    DRONE = "drone"
    BACKING = "backing"
    CALLS = "calls"
    """Each bar a bar earlier, for a line that answers."""
    ROUND = "round"
    """A second group with the same line, later."""


def click(sample_rate: int, strong: bool) -> Samples:
    """One tick of wood, shape (n,): 40 ms, well above the pitch of every string."""
    time = np.arange(int(0.04 * sample_rate)) / sample_rate
    hz = 2600.0 if strong else 2100.0
    return (0.3 * np.sin(2 * np.pi * hz * time) * np.exp(-time / 0.008)).astype(np.float32)


def drone(score: Score, seconds: float, sample_rate: int) -> Samples:
    """The tonic with its fifth and octave, shape (n,), swelling in and out softly; pure fifths, so that it does not beat."""
    root = score.tonic.midi % 12 + 48
    time = np.arange(int(seconds * sample_rate)) / sample_rate
    sound = np.zeros(len(time))
    for ratio, level in ((1.0, 1.0), (1.5, 0.5), (2.0, 0.6)):
        hz = frequency_hz(root) * ratio
        for partial in range(1, 7):
            sound += level / partial**1.6 * np.sin(2 * np.pi * hz * partial * time + partial)
    edge = min(int(0.4 * sample_rate), len(time) // 2)
    sound[:edge] *= np.linspace(0, 1, edge)
    sound[len(sound) - edge :] *= np.linspace(1, 0, edge)
    found: NDArray[np.float32] = (0.12 * sound / np.max(np.abs(sound), initial=1e-9)).astype(np.float32)
    return found


def _plucked(midi: float, seconds: float, sample_rate: int) -> NDArray[np.float64]:
    """A soft plucked tone: partials that die away the faster the higher they are."""
    time = np.arange(int(seconds * sample_rate)) / sample_rate
    hz = frequency_hz(midi)
    sound = np.zeros(len(time))
    for partial in range(1, 9):
        if hz * partial < sample_rate / 2.2:
            sound += np.sin(2 * np.pi * hz * partial * time) / partial**1.3 * np.exp(-time * (1.6 + 1.1 * partial))
    return sound * np.minimum(time / 0.004, 1.0)


def backing(score: Score, seconds: float, sample_rate: int) -> Samples:
    """Twelve bars of I, IV and V in the exercise's key and meter, over and over, shape (n,): a bass note on one, chords after it."""
    pulse_s = float(score.meter.pulse_beats) * 60.0 / score.tempo_bpm
    pulses = round(float(score.meter.measure_beats / score.meter.pulse_beats))
    third = 3 if score.key.mode is Mode.MINOR else 4
    tonic = score.tonic.midi % 12
    out = np.zeros(int((seconds + 3.0) * sample_rate))
    bar = 0
    while bar * pulses * pulse_s < seconds:
        degree = _TWELVE_BARS[bar % len(_TWELVE_BARS)]
        root = tonic + _ROOTS[degree]
        # The chord on the fifth degree is major in minor keys too: its third is the leading note.
        own_third = 4 if degree == 5 else third
        for pulse in range(pulses):
            chord = (
                (_BASS_KEY + root % 12,)
                if pulse == 0
                else tuple(48 + (root + above) % 12 for above in (0, own_third, 7))
            )
            start = int((bar * pulses + pulse) * pulse_s * sample_rate)
            for midi in chord:
                tone = _plucked(midi, min(1.5 * pulse_s, 2.0), sample_rate)[: len(out) - start]
                out[start : start + len(tone)] += tone * (1.0 if pulse == 0 else 0.4)
        bar += 1
    out = out[: int(seconds * sample_rate)]
    found: NDArray[np.float32] = (0.16 * out / np.max(np.abs(out), initial=1e-9)).astype(np.float32)
    return found
