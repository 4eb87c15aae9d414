"""Scales on every instrument: right notes (music21), and what a fingering keeps to; tables are in test_fingerings."""

from __future__ import annotations

from fractions import Fraction
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st
from music21 import scale as m21_scale

from attentive_owl.core.exercises import PATTERNS, Recipe, build, pattern
from attentive_owl.core.instruments import (
    INSTRUMENTS,
    FourthFinger,
    UnplayableError,
    Wanted,
    find_fingering,
    instrument,
)
from attentive_owl.core.theory import Pitch

TONICS = ("D", "G", "A", "C", "F", "Bb", "Eb")


@pytest.mark.parametrize("key", INSTRUMENTS)
@pytest.mark.parametrize("tonic", TONICS)
def test_every_common_key_on_every_instrument_has_the_right_notes(key: str, tonic: str) -> None:
    score = build(Recipe(tonic), key)
    theirs = m21_scale.MajorScale(tonic.replace("b", "-")).getPitches(
        score.notes[0].pitch.name.replace("b", "-"), score.notes[7].pitch.name.replace("b", "-")
    )
    names = [p.nameWithOctave.replace("-", "b") for p in theirs]
    if len(names) < 8:
        # A line that drops an octave ends where it began: the same names, whatever their octave.
        names = [
            p.nameWithOctave.replace("-", "b")
            for p in m21_scale.MajorScale(tonic.replace("b", "-")).getPitches("E-2", "E-3")
        ]
        assert [n.pitch.name[:-1] for n in score.notes] == [name[:-1] for name in (*names, *names[::-1])]
    else:
        assert [n.pitch.name for n in score.notes] == names + names[::-1]
    for note in score.notes:
        assert note.placement is not None
        assert score.instrument.string(note.placement.string).pitch.midi + note.placement.semitones == note.midi
        assert note.placement.finger > 0 or score.key.contains(note.midi)


def test_mixed_class_gets_its_own_octaves() -> None:
    assert [build(Recipe("D"), key).notes[0].pitch.name for key in INSTRUMENTS] == ["D4", "D4", "D3", "D2"]


def test_fourth_finger_policies() -> None:
    fingers = {
        policy: [n.placement.finger for n in build(Recipe("D", fourth_finger=policy), "violin").notes if n.placement]
        for policy in FourthFinger
    }
    up, down = slice(0, 8), slice(8, 16)
    assert 4 not in fingers[FourthFinger.OPEN]
    assert 4 not in fingers[FourthFinger.DESCENDING][up]
    assert fingers[FourthFinger.DESCENDING][down].count(4) == 1
    assert fingers[FourthFinger.BOTH_WAYS][up].count(4) == 1


def test_a_pin_is_kept_and_the_rest_found_again() -> None:
    line = [Pitch.parse(n) for n in ("D4", "E4", "A4", "B4")]
    free, _ = find_fingering(instrument("violin"), line)
    pinned, _ = find_fingering(instrument("violin"), line, pins={2: Wanted("D", 4)})
    assert (free[2].string, free[2].finger) == ("A", 0)
    assert (pinned[2].string, pinned[2].finger) == ("D", 4)
    with pytest.raises(UnplayableError, match="note 3"):
        find_fingering(instrument("violin"), line, pins={2: Wanted("E", 1)})


def test_one_note_on_the_next_string_and_straight_back_takes_the_fourth_finger() -> None:
    """Common practice, whatever the policy."""
    line = [Pitch.parse(n) for n in ("F#4", "A4", "G4")]
    found, _ = find_fingering(instrument("violin"), line)
    assert (found[1].string, found[1].finger) == ("D", 4)


def test_what_is_out_of_reach_is_named() -> None:
    with pytest.raises(UnplayableError, match=r"note 2 \(C\)"):
        find_fingering(instrument("violin"), [Pitch.parse("D4"), Pitch.parse("C2")])


@given(st.sampled_from(sorted(PATTERNS)), st.sampled_from(TONICS), st.sampled_from(sorted(INSTRUMENTS)))
def test_patterns_fill_whole_measures_and_bows_alternate(key: str, tonic: str, player: str) -> None:
    own = pattern(key)
    score = build(Recipe(tonic, key, meter=own.meters[0]), player)
    assert score.end_beats % score.meter.measure_beats == 0
    assert len(score.notes) == 16 * own.notes
    assert [n.bow for n in score.notes[:4]] == ["down", "up", "down", "up"]
    events = sorted(score.events, key=lambda event: event.start_beats)
    assert all(b.start_beats == a.start_beats + a.duration_beats for a, b in pairwise(events))
    assert score.notes[-1].beat == score.notes[-1].start_beats % score.meter.measure_beats + 1


def test_the_staple_pattern() -> None:
    assert pattern("sixteenths-eighths").values == (Fraction(1, 4),) * 4 + (Fraction(1, 2),) * 2


@pytest.mark.parametrize("tempo", [39, 133])
def test_tempo_has_its_limits(tempo: float) -> None:
    with pytest.raises(ValueError, match="40 to 132"):
        Recipe("D", tempo_bpm=tempo)
