"""What microphones and phones do to a recording costs no child a note."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.signal import butter, freqz, sosfilt

from attentive_owl.core.exercises import Recipe, Score, build
from attentive_owl.core.listening import Performance, listen
from attentive_owl.core.listening.features.dropouts import bridged
from attentive_owl.core.listening.features.frames import RATE_HZ, without_rumble
from attentive_owl.core.listening.features.recording_quality import gate_recording
from attentive_owl.core.playing import Habits
from tests.conftest import RATE, played

INSTRUMENTS = ("violin", "viola", "cello", "bass")


def all_right(sound: np.ndarray, score: Score) -> Performance:
    heard = listen(sound.astype(np.float32), RATE, score)
    assert isinstance(heard, Performance)
    assert not [note for note in heard.chosen.notes if note.status in ("wrong_pitch", "missed")]
    return heard


def with_gaps(sound: np.ndarray, a_second: int, seed: int) -> np.ndarray:
    """20 ms of nothing now and then, as where a phone could not keep up."""
    sound = sound.copy()
    for at in np.random.default_rng(seed).uniform(0.5, len(sound) / RATE - 0.5, int(a_second * len(sound) / RATE)):
        sound[int(at * RATE) : int(at * RATE) + RATE // 50] = 0.0
    return sound


@pytest.mark.parametrize("key", INSTRUMENTS)
def test_dropouts_cost_no_note(key: str) -> None:
    score = build(Recipe("D", "eighths", 84), key)
    whole = played(score, Habits(scatter_cents=5, timing_ms=10))
    for seed in range(3):
        all_right(with_gaps(whole, 2, seed), score)


@pytest.mark.parametrize(("pattern", "tempo"), [("halves", 60), ("dotted", 100)])
def test_dropouts_are_no_strokes(pattern: str, tempo: int) -> None:
    """So many that one falls into every note."""
    score = build(Recipe("D", pattern, tempo), "violin")
    whole = played(score, Habits(scatter_cents=5, timing_ms=10))
    for seed in range(2):
        all_right(with_gaps(whole, 4, seed), score)


def tone(hz: float) -> np.ndarray:
    moments = np.arange(RATE) / RATE
    return (0.3 * np.sin(2 * np.pi * hz * moments) + 0.1 * np.sin(4 * np.pi * hz * moments)).astype(np.float32)


@pytest.mark.parametrize("hz", [41.2, 220.0, 987.8])
def test_a_gap_in_a_tone_is_filled_with_the_tone(hz: float) -> None:
    whole = tone(hz)
    broken = whole.copy()
    broken[20000:20900] = 0.0
    mended = bridged(broken, RATE)
    assert np.abs(mended - whole).max() < 0.03
    assert np.array_equal(
        np.flatnonzero(mended != whole).clip(20000, 20900 + RATE // 200), np.flatnonzero(mended != whole)
    )


def test_nothing_is_filled_where_nothing_was_lost() -> None:
    whole = tone(220.0)
    assert bridged(whole, RATE) is whole

    def unchanged(gain: np.ndarray) -> bool:
        sound = (whole * gain).astype(np.float32)
        return np.array_equal(bridged(sound, RATE), sound)

    rest, blip, begin = np.ones(RATE), np.ones(RATE), np.ones(RATE)
    rest[20000:23000] = 0.0
    blip[20000:20100] = 0.0
    begin[1000:1800] = 0.0
    assert unchanged(rest)
    assert unchanged(blip)
    assert unchanged(begin)
    # A bow stops, or begins: both take ten milliseconds.
    for slow, way in ((slice(19560, 20000), (1.0, 0.0)), (slice(20900, 21340), (0.0, 1.0))):
        bow = np.ones(RATE)
        bow[20000:20900] = 0.0
        bow[slow] = np.linspace(*way, 440)
        assert unchanged(bow)
    # In what is hardly there.
    faint = np.full(RATE, 0.005)
    faint[20000:20900] = 0.0
    faint[:2000] = 1.0
    assert unchanged(faint)


@pytest.mark.parametrize("key", INSTRUMENTS)
def test_a_microphone_that_does_not_rest_at_zero_changes_little(key: str) -> None:
    score = build(Recipe("D", tempo_bpm=80), key)
    sound = played(score, Habits(scatter_cents=5, timing_ms=10))
    plain, moved = all_right(sound, score), all_right(sound + 0.1, score)
    for one, two in zip(plain.chosen.notes, moved.chosen.notes, strict=True):
        assert one.onset_s == pytest.approx(two.onset_s, abs=0.004)
        assert one.heard_midi == pytest.approx(two.heard_midi, abs=0.01)


@pytest.mark.parametrize("key", ["violin", "viola"])
def test_a_fan_is_under_the_notes(key: str) -> None:
    """Noise of a fan lies under 200 Hz; 14 dB under the playing it hides no note of a violin."""
    score = build(Recipe("D", tempo_bpm=76), key)
    sound = played(score, Habits(scatter_cents=5, timing_ms=10, short=0.4))
    noise = sosfilt(butter(1, 200, fs=RATE, output="sos"), np.random.default_rng(4).normal(0, 1, len(sound)))
    loud = np.sqrt(np.mean(sound**2))
    all_right(sound + noise / np.std(noise) * loud * 10 ** (-14 / 20), score)


def turned_up(sound: np.ndarray) -> np.ndarray:
    """As a phone does that keeps its level by itself: down at once where it is loud, up again within half a second."""
    hop = RATE // 200
    level, loud = 1e-6, []
    for block in sound[: len(sound) // hop * hop].reshape(-1, hop):
        own = float(np.sqrt(np.mean(block**2)))
        level += (0.5 if own > level else 0.012) * (own - level)
        loud.append(max(level, 0.1 / 30.0))
    gain = np.interp(np.arange(len(sound)), np.arange(len(loud)) * hop, 0.1 / np.array(loud))
    return np.clip(sound * gain, -1.0, 1.0)


@pytest.mark.parametrize(("key", "pattern"), [("cello", "eighths-rest"), ("violin", "quarter-eighths")])
def test_a_phone_that_keeps_its_level_by_itself_changes_little(key: str, pattern: str) -> None:
    score = build(Recipe("D", pattern, 80), key)
    sound = played(score, Habits(scatter_cents=5, timing_ms=10))
    plain, even = all_right(sound, score), all_right(turned_up(sound), score)
    for one, two in zip(plain.chosen.notes, even.chosen.notes, strict=True):
        assert one.onset_s == pytest.approx(two.onset_s, abs=0.03)


def test_a_microphone_far_away_hears_as_well() -> None:
    score = build(Recipe("D", tempo_bpm=80), "violin")
    sound = played(score, Habits(scatter_cents=5, timing_ms=10))
    assert "quiet" in all_right(sound * 0.0015, score).problems


def test_silence_is_what_stands_over_nothing() -> None:
    rng = np.random.default_rng(2)
    room = rng.normal(0, 2e-5, 6 * RATE_HZ).astype(np.float32)
    assert "silent" in gate_recording(room, room).problems
    faint = room.copy()
    faint[RATE_HZ : 5 * RATE_HZ] += 1e-3 * np.sin(2 * np.pi * 440 / RATE_HZ * np.arange(4 * RATE_HZ)).astype(np.float32)
    assert "silent" not in gate_recording(faint, faint).problems


def test_rumble_falls_twelve_decibels_an_octave_and_notes_stay() -> None:
    """Against the textbook response of a second-order Butterworth filter: 1 / sqrt(1 + (cut / f)^4)."""
    impulse = np.zeros(RATE_HZ, np.float32)
    impulse[0] = 1.0
    hz, response = freqz(without_rumble(impulse, 196.0), worN=4096, fs=RATE_HZ)
    cut = 0.6 * 196.0
    for asked in (30.0, 60.0, 118.0, 196.0, 440.0):
        at = int(np.argmin(np.abs(hz - asked)))
        assert abs(response[at]) == pytest.approx(1 / np.sqrt(1 + (cut / hz[at]) ** 4), rel=0.03)
