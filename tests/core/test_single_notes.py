"""Takes put together from notes that sound singly: what is called their truth is what was put in."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile

from attentive_owl.core.exercises import Recipe, build
from attentive_owl.core.playing import Habits, PerformedNote, perform_score
from attentive_owl.core.theory import frequency_hz
from bench.measuring import MEASURED_RATE, onset_of, pitch_of
from bench.recorded import RecordedNotes
from bench.singly import put_together

PERFORMED = perform_score(build(Recipe("D", tempo_bpm=80), "violin"), Habits(scatter_cents=20), 1)


def tone(midi: float, seconds: float, late_s: float = 0.0) -> np.ndarray:
    time = np.arange(int(seconds * MEASURED_RATE)) / MEASURED_RATE
    turned = 2 * np.pi * frequency_hz(midi) * time
    return np.where(time < late_s, 0.0, sum(np.sin(number * turned) / number for number in range(1, 6)))


@pytest.mark.parametrize("late_s", [0.0, 0.04, 0.1])
def test_the_truth_of_a_take_is_that_of_its_notes(late_s: float) -> None:
    """A voice that stands eleven cents high and speaks late."""

    def voice(note: PerformedNote, seconds: float) -> np.ndarray:
        return tone(note.midi + 0.11, seconds, late_s)

    sound, truths = put_together(PERFORMED, voice)
    assert np.abs(sound).max() == pytest.approx(0.5)
    assert len(truths) == len(PERFORMED.notes)
    for truth, note in zip(truths, PERFORMED.notes, strict=True):
        assert truth.note.midi == pytest.approx(note.midi + 0.11, abs=0.02)
        assert truth.onset_s == pytest.approx(note.start_s + late_s, abs=0.006)


def test_silence_has_no_pitch_and_a_tone_its_own() -> None:
    assert pitch_of(np.zeros(MEASURED_RATE), 60.0, 0.0, 1.0) is None
    assert pitch_of(tone(60.3, 1.0), 60.0, 0.0, 1.0) == pytest.approx(60.3, abs=0.01)
    assert onset_of(tone(60.0, 1.0, 0.25), 60.0, 0.0, 1.0) == pytest.approx(0.25, abs=0.005)


def test_recorded_notes_are_moved_to_the_pitch_that_is_played(tmp_path: Path) -> None:
    """Two notes, both out of tune, one with half a second of silence before it; other files are left alone."""
    (tmp_path / "violin").mkdir()
    for name, midi, late_s in (("A4", 69.2, 0.0), ("Ds4", 62.9, 0.5)):
        soundfile.write(tmp_path / "violin" / f"{name}.wav", 0.3 * tone(midi, 2.0 + late_s, late_s), MEASURED_RATE)
    soundfile.write(tmp_path / "violin" / "room.wav", np.zeros(100), MEASURED_RATE)
    for key in ("violin", "viola"):
        _, truths = RecordedNotes(tmp_path).render(PERFORMED, key)
        off = [truth.note.midi - note.midi for truth, note in zip(truths, PERFORMED.notes, strict=True)]
        assert np.abs(off).max() < 0.03
        late = [truth.onset_s - note.start_s for truth, note in zip(truths, PERFORMED.notes, strict=True)]
        assert max(late) < 0.015


def test_a_folder_without_notes_is_named(tmp_path: Path) -> None:
    with pytest.raises(FileNotFoundError, match="cello"):
        RecordedNotes(tmp_path).render(PERFORMED, "cello")
