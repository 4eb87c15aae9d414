"""Onsets of low strings whose upper partials speak long after the note, on sounds whose onsets are put in."""

from __future__ import annotations

import numpy as np
import pytest

from attentive_owl.core.exercises import Recipe, build
from attentive_owl.core.listening import Performance, listen
from attentive_owl.core.listening.features.frames import RATE_HZ
from attentive_owl.core.listening.features.levels import fine_level_db
from attentive_owl.core.listening.features.pitch_candidates import period_candidates
from attentive_owl.core.listening.notes.onsets import Span, find_onsets
from attentive_owl.core.playing import Habits, Room, perform_score, place_in_room, render
from attentive_owl.core.theory import frequency_hz
from bench.families import make_take
from tests.conftest import RATE

FIRST_S, STEP_S, RINGS_S, SPEAKS_S = 0.5, 0.8, 0.06, 0.05
NOTES = (43, 45) * 4
"""G2 and A2 on a double bass."""


def string(midi: int, upper_late_s: float) -> np.ndarray:
    """A note that speaks within 50 ms and rings on for 60, its partials from the third on later than the others."""
    time = np.arange(int((STEP_S + RINGS_S) * RATE_HZ)) / RATE_HZ
    sound = np.zeros(len(time))
    for number in range(1, 11):
        late_s = upper_late_s if number > 2 else 0.0
        sound += (
            number**-0.7
            * np.sin(2 * np.pi * number * frequency_hz(midi) * time + number)
            * np.clip((time - late_s) / SPEAKS_S, 0.0, 1.0)
        )
    return sound * np.clip((STEP_S + RINGS_S - time) / RINGS_S, 0.0, 1.0) ** 2


def onset_errors_ms(slow: int, upper_late_s: float, notch_s: float | None = None) -> np.ndarray:
    """`notch_s`: so long after each onset the level falls by 12 dB, for a millisecond."""
    sound = np.random.default_rng(1).normal(0, 0.005, int((FIRST_S + STEP_S * (len(NOTES) + 1)) * RATE_HZ))
    begins = FIRST_S + STEP_S * np.arange(len(NOTES))
    for number, (midi, begin_s) in enumerate(zip(NOTES, begins, strict=True)):
        note = string(midi, upper_late_s if number == slow else 0.0)
        at = int(begin_s * RATE_HZ)
        sound[at : at + len(note)] += note
    samples = (0.1 * sound).astype(np.float32)
    spans = [
        Span(begin_s + 0.06, begin_s + 0.06 + STEP_S, midi, False) for midi, begin_s in zip(NOTES, begins, strict=True)
    ]
    fine = fine_level_db(samples, 0.02)
    if notch_s is not None:
        fine[[int(1000 * (begin_s + notch_s)) for begin_s in begins]] -= 12.0
    onsets = find_onsets(spans, samples, fine, period_candidates(samples, 38.0, 500.0))
    return 1000.0 * (np.array(onsets) - begins)


@pytest.mark.parametrize("slow", [4, 5])
@pytest.mark.parametrize("upper_late_s", [0.0, 0.08, 0.1, 0.12, 0.15])
def test_late_upper_partials_do_not_make_a_low_note_late(slow: int, upper_late_s: float) -> None:
    """The partials that a low note has to itself are upper ones. By the time the level is lowest the note sounds."""
    errors = np.abs(onset_errors_ms(slow, upper_late_s))
    assert errors[slow] <= 20
    assert np.delete(errors, slow).max() <= 10


@pytest.mark.parametrize(("key", "tonic"), [("bass", "G"), ("bass", "F"), ("cello", "A")])
def test_the_bow_that_stops_is_not_the_stroke(key: str, tonic: str) -> None:
    """With 40 ms of air between the bows the sound breaks twice: when the old stroke ends, and when the new one begins."""
    score = build(Recipe(tonic, "eighths", 72), key)
    performed = perform_score(score, Habits(air_ms=40.0, scatter_cents=4, timing_ms=6), 3)
    dry, truths = render(performed, key, RATE, 3)
    performance = listen(place_in_room(dry, RATE, Room(42.0, 0.15), 3), RATE, score)
    assert isinstance(performance, Performance)
    onsets = {note.index: note.onset_s for note in performance.chosen.notes}
    early = np.array([1000.0 * (truth.onset_s - (onsets[truth.note.index] or 0.0)) for truth in truths])
    assert np.max(np.abs(early)) <= 45
    assert np.median(early) <= 25


@pytest.mark.parametrize("notch_s", [0.11, 0.13])
def test_a_notch_of_a_few_milliseconds_is_no_dip(notch_s: float) -> None:
    """Sounds that beat against one another make deep ones long after the onset; what comes after it is no attack."""
    assert np.abs(onset_errors_ms(0, 0.0, notch_s))[1:].max() <= 15


@pytest.mark.parametrize("rings_db", [13.0, 16.0, 19.0])
def test_a_bow_that_stops_long_before_the_next_stroke_is_not_the_stroke(rings_db: float) -> None:
    """One pitch again and again; 0.1 s before each stroke the bow stops at once, and the string rings on so far under it."""
    begins = FIRST_S + STEP_S * np.arange(6)
    time = np.arange(int(STEP_S * RATE_HZ)) / RATE_HZ
    rings = time > STEP_S - 0.1
    note = string(50, 0.0)[: len(time)] * np.where(rings, 10 ** (-rings_db / 20), 1.0)
    # A bow that leaves the string scratches.
    note += 0.3 * np.random.default_rng(2).normal(size=len(note)) * (np.abs(time - STEP_S + 0.1) < 0.004)
    sound = np.random.default_rng(1).normal(0, 0.002, int((begins[-1] + 2 * STEP_S) * RATE_HZ))
    for begin_s in begins:
        at = int(begin_s * RATE_HZ)
        sound[at : at + len(note)] += note
    samples = (0.1 * sound).astype(np.float32)
    spans = [Span(begin_s + 0.02, begin_s + 0.02 + STEP_S, 50, False) for begin_s in begins]
    onsets = find_onsets(spans, samples, fine_level_db(samples, 0.02), period_candidates(samples, 38.0, 500.0))
    assert np.abs(1000.0 * (np.array(onsets) - begins)).max() <= 30


@pytest.mark.parametrize("seed", [470, 473])
def test_what_a_television_sounds_on_the_partials_of_a_note_is_not_its_beginning(seed: int) -> None:
    """Strings that speak at once, with voices 6 to 14 dB under them all along."""
    take = make_take("television", seed)
    performance = listen(take.sound, RATE, take.score)
    assert isinstance(performance, Performance)
    onsets = {note.index: note.onset_s for note in performance.chosen.notes if note.moment_sure}
    known = {truth.note.index: truth.onset_s for truth in take.truths if onsets.get(truth.note.index) is not None}
    early = [1000.0 * abs(begins_s - (onsets[index] or 0.0)) for index, begins_s in known.items()]
    assert len(early) >= 0.9 * len(take.truths)
    assert np.median(early) <= 25
    assert max(early) <= 60


WHISTLES_S = (0.0, 0.2, 0.04, 0.22, 0.0, 0.18, 0.05, 0.2)
"""How long a slow string whistles before a note of it speaks."""


def test_a_low_note_that_whistles_first_begins_at_its_stroke() -> None:
    """All but its fifth partial come up to a fifth of a second after the stroke. By the time the level is lowest the note sounds, whenever its
    pitch comes."""
    begins = FIRST_S + STEP_S * np.arange(len(NOTES))
    sound = np.random.default_rng(4).normal(0, 1e-4, int((begins[-1] + STEP_S + 1.0) * RATE_HZ))
    for midi, begin_s, whistles_s in zip(NOTES, begins, WHISTLES_S, strict=True):
        note = string(midi, 0.0)
        time = np.arange(len(note)) / RATE_HZ
        whistle = 0.8 * np.sin(2 * np.pi * 5 * frequency_hz(midi) * time) * (np.clip(time / 0.02, 0.0, 0.3) + time)
        speaks = np.clip((time - whistles_s) / 0.03, 0.0, 1.0)
        at = int(begin_s * RATE_HZ)
        sound[at : at + len(note)] += note * speaks + whistle * (time < whistles_s + 0.02)
    samples = (0.1 * sound).astype(np.float32)
    spans = [
        Span(begin_s + whistles_s + 0.04, begin_s + STEP_S + 0.03, midi, False)
        for midi, begin_s, whistles_s in zip(NOTES, begins, WHISTLES_S, strict=True)
    ]
    onsets = find_onsets(spans, samples, fine_level_db(samples, 0.02), period_candidates(samples, 38.0, 500.0))
    assert np.abs(1000.0 * (np.array(onsets) - begins)).max() <= 60


@pytest.mark.parametrize(("flickers_s", "late_ms"), [(0.01, 0.0), (0.04, 140.0)])
def test_a_bow_that_flickers_as_it_scratches_has_begun(flickers_s: float, late_ms: float) -> None:
    """After a silence. A gap that lasts is one: what was before it is another sound."""
    samples = (0.05 * string(50, 0.0)).astype(np.float32)
    begin_s = 0.5
    samples = np.concatenate([np.zeros(int(begin_s * RATE_HZ), np.float32), samples])
    fine = fine_level_db(samples, 0.02)
    sustained = float(np.median(fine[700:1100]))
    fine[500:640] = sustained - 14.0
    fine[640 - int(1000 * flickers_s) : 640] = sustained - 40.0
    (onset,) = find_onsets(
        [Span(begin_s, begin_s + STEP_S, 50, False)], samples, fine, period_candidates(samples, 38.0, 500.0)
    )
    assert 1000.0 * (onset - begin_s) == pytest.approx(late_ms, abs=3)
