"""The exercise as it should sound, with a counted bar before it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from attentive_owl.core.exercises import Score
from attentive_owl.core.playing.habits import Habits
from attentive_owl.core.playing.performing import perform_score
from attentive_owl.core.playing.room import Room, Samples, place_in_room
from attentive_owl.core.playing.synthesis import render

_FIRST_CLICK_S = 0.3


@dataclass(frozen=True)
class Demonstration:
    samples: Samples
    sample_rate: int


def click(sample_rate: int, strong: bool) -> Samples:
    """One tick of wood: 40 ms, well above the pitch of every string."""
    time = np.arange(int(0.04 * sample_rate)) / sample_rate
    hz = 2600.0 if strong else 2100.0
    return (0.3 * np.sin(2 * np.pi * hz * time) * np.exp(-time / 0.008)).astype(np.float32)


def _lead_s(score: Score, count_in: bool) -> float:
    """Seconds before the first note: a short silence, and one counted measure (less a pickup)."""
    counted = float(score.meter.measure_beats - score.pickup_beats) * 60.0 / score.tempo_bpm
    return _FIRST_CLICK_S + (counted if count_in else 0.0)


def demonstration_onsets(score: Score, count_in: bool = True) -> tuple[float, ...]:
    """Where each written note starts in the demonstration, in seconds, for a cursor."""
    beat_s, lead = 60.0 / score.tempo_bpm, _lead_s(score, count_in)
    return tuple(round(lead + float(note.start_beats - score.start_beats) * beat_s, 4) for note in score.notes)


def demonstrate(score: Score, sample_rate: int = 32000, count_in: bool = True) -> Demonstration:
    """Render the score as written at its tempo, after one counted measure."""
    pulse_s = float(score.meter.pulse_beats) * 60.0 / score.tempo_bpm
    lead = _lead_s(score, count_in)
    performed = perform_score(score, Habits(lead_s=lead, tail_s=1.0))
    dry, _ = render(performed, score.instrument_key, sample_rate)
    sound = place_in_room(dry, sample_rate, Room(snr_db=80.0, reverb_s=0.9))
    if count_in:
        at = _FIRST_CLICK_S
        strong = True
        while at < lead - 1e-6:
            tick = click(sample_rate, strong)
            start = int(at * sample_rate)
            sound[start : start + len(tick)] += tick
            at += pulse_s
            strong = False
    peak = float(np.max(np.abs(sound), initial=1e-9))
    return Demonstration((sound * (0.6 / peak)).astype(np.float32), sample_rate)
