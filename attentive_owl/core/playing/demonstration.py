"""The exercise as it should sound, with a counted bar before it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np

from attentive_owl.core.exercises import Score
from attentive_owl.core.playing.accompaniment import Company, backing, click, drone
from attentive_owl.core.playing.counting import count_in as counted_beats
from attentive_owl.core.playing.habits import Habits
from attentive_owl.core.playing.performing import Performed, perform_score
from attentive_owl.core.playing.room import Room, Samples, place_in_room
from attentive_owl.core.playing.synthesis import render

_FIRST_CLICK_S = 0.3
_LINE_PEAK = 0.45
_COMPANY_LEVEL = 1.4
_THIRD = 2
"""Steps of the staff."""


@dataclass(frozen=True)
class Demonstration:
    """The sound of an exercise as it is meant."""

    samples: Samples
    sample_rate: int


def _lead_s(score: Score, count_in: bool) -> float:
    """Seconds before the first event: a short silence, and the count."""
    counted = float(counted_beats(score)[1]) * 60.0 / score.tempo_bpm
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
    # Notes stand where they are written, also after a silent bar.
    performed = perform_score(score, Habits(lead_s=lead + _silence_s(score), tail_s=1.0))
    if with_line:
        sound = _sounding(performed, score, sample_rate)
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
    if company is Company.CALLS:
        calls = _calls(score)
        early = perform_score(calls, Habits(lead_s=lead + _silence_s(calls), tail_s=1.0))
        called = _sounding(early, score, sample_rate)[: len(sound)]
        sound[: len(called)] += called
    if company is Company.ROUND:
        sound = _as_round(sound, score, int(lead * sample_rate), sample_rate)
    if count_in:
        for number, word in enumerate(counted_beats(score)[0]):
            if word.beat:
                at = _FIRST_CLICK_S + float(word.at_beats) * 60.0 / score.tempo_bpm
                _add(sound, click(sample_rate, number == 0), at, sample_rate)
    if company is Company.CLICK:
        pulses = round(float(score.meter.measure_beats / score.meter.pulse_beats))
        number = -int(score.pickup_beats / score.meter.pulse_beats)
        first = lead + float(score.pickup_beats) * 60.0 / score.tempo_bpm
        while (at := first + number * pulse_s) < end - 1e-6:
            _add(sound, click(sample_rate, number % pulses == 0), at, sample_rate)
            number += 1
    peak = float(np.max(np.abs(sound), initial=1e-9))
    return Demonstration((sound * (0.6 / peak)).astype(np.float32), sample_rate)


def _silence_s(score: Score) -> float:
    """What is written before the first note."""
    return float(score.notes[0].start_beats - score.start_beats) * 60.0 / score.tempo_bpm if score.notes else 0.0


def round_entry_beats(score: Score) -> Fraction:
    """When the second group comes in: as the first reaches the third above its first note (so that a scale sounds in thirds), else
    after two measures."""
    first = score.notes[0]
    for note in score.notes:
        if note.pitch.diatonic - first.pitch.diatonic == _THIRD:
            return note.start_beats - first.start_beats
    return 2 * score.meter.measure_beats


def _as_round(sound: Samples, score: Score, start: int, sample_rate: int) -> Samples:
    """The same again, later, over itself."""
    late = int(float(round_entry_beats(score)) * 60.0 / score.tempo_bpm * sample_rate)
    both = np.concatenate([sound, np.zeros(late, np.float32)])
    both[start + late :] += sound[start:]
    return both


def _calls(score: Score) -> Score:
    """What is played to the pupil: every bar of notes one bar earlier, where the pupil's line is silent."""
    bar = score.meter.measure_beats
    return replace(
        score,
        notes=tuple(
            replace(note, start_beats=note.start_beats - bar, measure=note.measure - 1) for note in score.notes
        ),
    )


def _sounding(performed: Performed, score: Score, sample_rate: int) -> Samples:
    dry, _ = render(performed, score.instrument_key, sample_rate)
    sound: Samples = place_in_room(dry, sample_rate, Room(snr_db=80.0, reverb_s=0.9))
    return np.asarray(sound * (_LINE_PEAK / np.max(np.abs(sound), initial=1e-9)), np.float32)


def _add(sound: Samples, tick: Samples, at_s: float, sample_rate: int) -> None:
    start = int(at_s * sample_rate)
    sound[start : start + len(tick)] += tick[: max(len(sound) - start, 0)]
