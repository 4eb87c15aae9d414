"""The exercise as it should sound, with a counted bar before it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from attentive_owl.core.exercises import Score
from attentive_owl.core.playing.accompaniment import Company, backing, click, drone
from attentive_owl.core.playing.habits import Habits
from attentive_owl.core.playing.performing import perform_score
from attentive_owl.core.playing.room import Room, Samples, place_in_room
from attentive_owl.core.playing.synthesis import render

_FIRST_CLICK_S = 0.3
_LINE_PEAK = 0.45
_COMPANY_LEVEL = 1.4


@dataclass(frozen=True)
class Demonstration:
    samples: Samples
    sample_rate: int


def _lead_s(score: Score, count_in: bool) -> float:
    """Seconds before the first note: a short silence, and one counted measure (less a pickup)."""
    counted = float(score.meter.measure_beats - score.pickup_beats) * 60.0 / score.tempo_bpm
    return _FIRST_CLICK_S + (counted if count_in else 0.0)


def demonstration_onsets(score: Score, count_in: bool = True) -> tuple[float, ...]:
    """Where each written note starts in the demonstration, in seconds, for a cursor."""
    beat_s, lead = 60.0 / score.tempo_bpm, _lead_s(score, count_in)
    return tuple(round(lead + float(note.start_beats - score.start_beats) * beat_s, 4) for note in score.notes)


def demonstrate(
    score: Score,
    sample_rate: int = 32000,
    count_in: bool = True,
    company: Company = Company.ALONE,
    with_line: bool = True,
) -> Demonstration:
    """Render the score as written at its tempo, after one counted measure, with company if it is wanted; without the
    line, the company alone is left to play along with."""
    pulse_s = float(score.meter.pulse_beats) * 60.0 / score.tempo_bpm
    lead = _lead_s(score, count_in)
    performed = perform_score(score, Habits(lead_s=lead, tail_s=1.0))
    if with_line:
        dry, _ = render(performed, score.instrument_key, sample_rate)
        sound = place_in_room(dry, sample_rate, Room(snr_db=80.0, reverb_s=0.9))
        sound = (sound * (_LINE_PEAK / np.max(np.abs(sound), initial=1e-9))).astype(np.float32)
    else:
        sound = np.zeros(int(performed.duration_s * sample_rate), np.float32)
    end = lead + float(score.end_beats - score.start_beats) * 60.0 / score.tempo_bpm
    if company in (Company.DRONE, Company.BACKING):
        # The loop's first bar is the first whole measure; a pickup comes before it.
        first = lead + (float(score.pickup_beats) * 60.0 / score.tempo_bpm if company is Company.BACKING else 0.0)
        make = backing if company is Company.BACKING else drone
        start = int(first * sample_rate)
        under = make(score, end - first, sample_rate)[: len(sound) - start]
        sound[start : start + len(under)] += under * _COMPANY_LEVEL
    if count_in or company is Company.CLICK:
        pulses = round(float(score.meter.measure_beats / score.meter.pulse_beats))
        number, last = 0, end if company is Company.CLICK else lead
        while (at := _FIRST_CLICK_S + number * pulse_s) < last - 1e-6:
            tick = click(sample_rate, number % pulses == 0)
            start = int(at * sample_rate)
            sound[start : start + len(tick)] += tick[: len(sound) - start]
            number += 1
    peak = float(np.max(np.abs(sound), initial=1e-9))
    return Demonstration((sound * (0.6 / peak)).astype(np.float32), sample_rate)
