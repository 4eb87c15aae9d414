"""The pupil's own pulse on made-up onsets, and which cause is spoken of first."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import pytest

from attentive_owl.core.exercises import Recipe, Score, build
from attentive_owl.core.judging.cause import Cause
from attentive_owl.core.judging.findings import ranked
from attentive_owl.core.judging.pulse import Pulse, find_pulse
from attentive_owl.core.listening.performance import Go, HeardNote

QUARTERS = build(Recipe("D", tempo_bpm=60), "violin")
EIGHTHS = build(Recipe("D", "eighths", 60), "violin")


def pulse_of(score: Score, beat_s: float = 1.0, late: Mapping[int, float] | None = None) -> Pulse:
    """Of a player who keeps the beat, but for single notes that come late by so much."""
    late = late or {}
    notes = []
    for note in score.notes:
        onset = 0.5 + float(note.start_beats) * beat_s + late.get(note.index, 0.0)
        length = 0.9 * float(note.duration_beats) * beat_s
        notes.append(HeardNote(note.index, "played", float(note.midi), onset, onset + length, 0.98))
    found = find_pulse(score, Go(tuple(notes), 0.5, 40.0, True, rests_quiet=()))
    assert found is not None
    return found


@pytest.mark.parametrize("beat_s", [0.5, 0.9, 1.3])
def test_an_even_beat_is_its_tempo(beat_s: float) -> None:
    pulse = pulse_of(QUARTERS, beat_s)
    assert pulse.played_bpm == pytest.approx(60 / beat_s, rel=1e-4)
    assert abs(pulse.drift_percent) < 0.1
    assert not pulse.stops


def test_one_late_note_leaves_the_pulse_where_it_is() -> None:
    """A plain least-squares line would lean towards it: by 0.2 / 32 s everywhere, and by more near the end."""
    pulse = pulse_of(EIGHTHS, late={29: 0.2})
    for note in EIGHTHS.notes[:25]:
        assert pulse.expected_s[note.index] == pytest.approx(0.5 + float(note.start_beats), abs=0.004)
    assert pulse.played_bpm == pytest.approx(60, rel=0.002)


@pytest.mark.parametrize(("wait_s", "stops"), [(0.2, 0), (0.8, 1)])
def test_a_stop_is_a_wait_that_everybody_hears(wait_s: float, stops: int) -> None:
    pulse = pulse_of(QUARTERS, late=dict.fromkeys(range(9, 16), wait_s))
    assert len(pulse.stops) == stops
    if stops:
        assert pulse.stops[0].index == 9
        assert pulse.stops[0].seconds == pytest.approx(wait_s, abs=0.03)
    assert pulse.played_bpm == pytest.approx(60, rel=0.02)


def test_faster_and_slower_have_their_sign() -> None:
    beats = np.array([float(n.start_beats) for n in QUARTERS.notes])
    hurried = {n.index: float(-0.006 * b**2) for n, b in zip(QUARTERS.notes, beats, strict=True)}
    assert pulse_of(QUARTERS, late=hurried).drift_percent > 10
    slowed = {index: -seconds for index, seconds in hurried.items()}
    assert pulse_of(QUARTERS, late=slowed).drift_percent < -10


def test_what_makes_most_of_the_rest_is_spoken_of_first() -> None:
    """The strings, since all else hangs on them; then what was played at all, the hand, and time. Of one kind all stand together."""
    causes = tuple(Cause(kind, (0,), 0.9) for kind in ("drift", "finger", "stop", "string", "key_signature", "finger"))
    order = [causes[places[0]].kind for places in ranked(causes)]
    assert order == ["string", "key_signature", "finger", "stop", "drift"]
    assert [places for places in ranked(causes) if causes[places[0]].kind == "finger"] == [[1, 5]]
