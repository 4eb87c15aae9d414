"""The ear against takes whose truth is known: the simulated pupil, and sampled strings measured by Praat."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from attentive_owl.core.exercises import FAMILIES, Bowing, Recipe, Score, build, lay_out
from attentive_owl.core.listening import Performance, Refusal, listen
from attentive_owl.core.listening.alignment import viterbi
from attentive_owl.core.playing import Habits, Room, perform_score, place_in_room, render
from attentive_owl.core.playing.synthesis import Truth
from attentive_owl.core.theory import KeySignature, Meter, Pitch, frequency_hz
from bench.families import make_take
from bench.sampled import render_sampled
from tests.conftest import RATE, played


def heard(sound: np.ndarray, score: Score) -> Performance:
    performance = listen(sound, RATE, score)
    assert isinstance(performance, Performance), performance
    return performance


def take(
    score: Score, habits: Habits, source: str = "simulated", room: Room | None = None, seed: int = 5
) -> tuple[np.ndarray, tuple[Truth, ...]]:
    performed = perform_score(score, habits, seed)
    if source == "sampled":
        sound, truths = render_sampled(performed, score.instrument_key)
    else:
        sound, truths = render(performed, score.instrument_key, RATE, seed)
    return place_in_room(sound, RATE, room or Room(45), seed), truths


def errors(performance: Performance, truths: tuple[Truth, ...]) -> tuple[np.ndarray, np.ndarray]:
    """Cents and milliseconds by which the played notes of the chosen go are off the truth."""
    last = max(t.note.go for t in truths)
    known = {t.note.index: t for t in truths if t.note.go == last}
    pairs = [
        (n, known[n.index])
        for n in performance.chosen.notes
        if n.heard_midi is not None and n.onset_s is not None and n.index in known
    ]
    cents = np.array([100 * (n.heard_midi - t.note.midi) for n, t in pairs if n.heard_midi is not None])
    ms = np.array([1000 * (n.onset_s - t.onset_s) for n, t in pairs if n.onset_s is not None])
    return cents, ms


@pytest.mark.parametrize("source", ["simulated", "sampled"])
@pytest.mark.parametrize("key", ["violin", "viola", "cello", "bass"])
def test_right_notes_are_heard_where_they_are(key: str, source: str) -> None:
    score = build(Recipe("D", tempo_bpm=72), key)
    sound, truths = take(score, Habits(scatter_cents=8, timing_ms=15), source)
    performance = heard(sound, score)
    assert [n.status for n in performance.chosen.notes] == ["played"] * 16
    cents, ms = errors(performance, truths)
    assert np.median(np.abs(cents)) < (1.5 if source == "simulated" else 3.0)
    assert np.percentile(np.abs(cents), 95) < 6
    assert np.median(np.abs(ms)) < (8 if source == "simulated" else 22)


@pytest.mark.parametrize("source", ["simulated", "sampled"])
@pytest.mark.parametrize("key", ["violin", "cello"])
def test_a_skipped_note_and_a_note_a_half_step_off_are_found(key: str, source: str) -> None:
    score = build(Recipe("G", tempo_bpm=80), key)
    sound, _ = take(score, Habits(missed=(5,), wrong={11: -1}), source)
    statuses = {n.index: n.status for n in heard(sound, score).chosen.notes if n.status != "played"}
    assert statuses == {5: "missed", 11: "wrong_pitch"}


@pytest.mark.parametrize("source", ["simulated", "sampled"])
@pytest.mark.parametrize("key", ["violin", "cello"])
def test_repeated_notes_are_told_apart(key: str, source: str) -> None:
    score = build(Recipe("D", "sixteenths-eighths", 80), key)
    sound, truths = take(score, Habits(timing_ms=6), source)
    performance = heard(sound, score)
    assert sum(n.status == "played" for n in performance.chosen.notes) >= 0.97 * len(score.notes)
    _, ms = errors(performance, truths)
    assert np.median(np.abs(ms)) < 25


def test_the_missing_one_of_like_notes_is_found_by_the_pulse() -> None:
    score = build(Recipe("D", "eighths", 72), "violin")
    sound, _ = take(score, Habits(missed=(5,)))
    assert [n.index for n in heard(sound, score).chosen.notes if n.status == "missed"] == [5]


def test_a_stray_note_a_stop_and_a_restart() -> None:
    score = build(Recipe("D", tempo_bpm=80), "viola")
    sound, _ = take(score, Habits(stray={6: 4}, stops={9: 1.2}))
    performance = heard(sound, score)
    assert [s.before for s in performance.strays] == [6]
    assert all(n.status == "played" for n in performance.chosen.notes)
    sound, _ = take(score, Habits(restarts={6: 4}))
    performance = heard(sound, score)
    assert performance.chosen.complete
    assert performance.chosen.restarts
    sound, _ = take(score, Habits(restarts={5: 0}))
    assert [one.complete for one in heard(sound, score).passes] == [False, True]


@pytest.mark.parametrize(("midi", "told"), [(50.2, []), (57.0, [57])])
def test_what_sounds_under_the_lowest_string_was_not_played_on_it(midi: float, told: list[int]) -> None:
    """A violin waits between two notes, and something sounds there for 0.3 s."""
    score = build(Recipe("D", tempo_bpm=60), "violin")
    performed = perform_score(score, Habits(stops={5: 0.8}, scatter_cents=3), 3)
    sound, truths = render(performed, "violin", RATE, 3)
    time = np.arange(int(0.3 * RATE)) / RATE
    other = sum(np.sin(2 * np.pi * frequency_hz(midi) * k * time) / k for k in (1, 2, 3, 4)) * np.hanning(len(time))
    begin = int((truths[4].offset_s + 0.3) * RATE)
    sound[begin : begin + len(time)] += 0.2 * other
    heard = listen(sound, RATE, score)
    assert isinstance(heard, Performance)
    assert [round(stray.heard_midi) for stray in heard.strays] == told


def test_going_back_is_heard_in_short_strokes_too() -> None:
    """A staccato note sounds half its time; taken for a whole one that is too short, strays would cost less than the way back."""
    score = build(Recipe("F", "half-quarter", tempo_bpm=71, bowing=Bowing.STACCATO), "cello")
    back, reached = score.measure_starts()[2], score.measure_starts()[2] + 2
    sound, _ = take(score, Habits(restarts={reached: back}, scatter_cents=6, timing_ms=14))
    performance = heard(sound, score)
    assert performance.chosen.restarts == ((reached + 1, back),)
    assert not performance.strays


@pytest.mark.parametrize(("tempo_bpm", "timing_ms"), [(65.0, 18.0), (89.0, 10.0)])
def test_who_stops_within_a_run_and_goes_back_to_its_beginning_is_heard_to(tempo_bpm: float, timing_ms: float) -> None:
    """Two strokes on one pitch, a second of silence, and both again: long notes would explain nearly as much."""
    score = build(Recipe("D", "sixteenths-eighths", tempo_bpm=tempo_bpm), "violin")
    sound, _ = take(score, Habits(restarts={61: 60}, uneven=0.6, scatter_cents=7, timing_ms=timing_ms))
    performance = heard(sound, score)
    assert performance.chosen.restarts == ((62, 60),)
    assert performance.strays == ()


def test_several_goes_and_another_tempo() -> None:
    score = build(Recipe("D", tempo_bpm=110), "violin")
    sound, _ = take(score, Habits(passes=3, tempo=0.75))
    assert [one.complete for one in heard(sound, score).passes] == [True] * 3


def test_an_instrument_out_of_tune_is_no_wrong_note() -> None:
    score = build(Recipe("D", tempo_bpm=100), "cello")
    for cents in (-50, 45):
        sound, _ = take(score, Habits(tuning_cents=cents))
        performance = heard(sound, score)
        assert performance.tuning_cents == pytest.approx(cents, abs=3)
        assert all(n.status == "played" for n in performance.chosen.notes)


@pytest.mark.parametrize(("tonic", "hand_cents"), [("E", -33.0), ("Eb", 35.0)])
def test_naturals_of_a_hand_that_stands_off_are_naturals(tonic: str, hand_cents: float) -> None:
    """Read two thirds of a half step the other way, more notes of the line would be met, each by its neighbour's sound."""
    score = build(Recipe(tonic, tempo_bpm=80), "violin")
    performance = heard(played(score, Habits(forgets_key=True, hand_cents=hand_cents, scatter_cents=5)), score)
    wrong = [note.index for note in performance.chosen.notes if note.status == "wrong_pitch"]
    assert wrong == [note.index for note in score.notes if score.signs()[note.index]]
    assert performance.strays == ()


def test_the_wrong_string_is_heard_as_such() -> None:
    score = build(Recipe("D", tempo_bpm=100), "violin")
    sound, _ = take(score, Habits(shift_semitones=-7))
    performance = heard(sound, score)
    assert performance.shift_semitones == -7
    assert all(n.status == "wrong_pitch" for n in performance.chosen.notes)


@pytest.mark.parametrize("key", ["violin", "bass"])
def test_what_is_not_the_exercise_is_refused(key: str) -> None:
    score = build(Recipe("D", tempo_bpm=80), key)
    rng = np.random.default_rng(2)
    octave = {"violin": 0, "bass": -2}[key]
    names = ["A4", "F4", "C5", "B4", "G4", "E4", "G4", "C5", "F4", "D4", "A4", "F4", "E4", "C4", "F4", "A4"]
    lengths = [
        Fraction(v)
        for v in (1, Fraction(1, 2), Fraction(1, 2), 1, 2, 1, 1, 1, Fraction(1, 2), 1, Fraction(1, 2), 2, 1, 1, 1, 2)
    ]
    tune = lay_out(
        [(Pitch.parse(n).octaves_up(octave), v, None) for n, v in zip(names, lengths, strict=True)],
        title="another", instrument_key=key, key=KeySignature(0), meter=Meter(), tempo_bpm=80,
    )  # fmt: skip
    sounds = {
        "silence": np.zeros(5 * RATE, np.float32),
        "faint": rng.normal(0, 1e-4, 5 * RATE).astype(np.float32),
        "noise": rng.normal(0, 0.1, 8 * RATE).astype(np.float32),
        "tune": played(tune),
    }
    codes = {name: listen(sound, RATE, score) for name, sound in sounds.items()}
    assert {n: r.code if isinstance(r, Refusal) else "accepted" for n, r in codes.items()} == {
        "silence": "silence", "faint": "silence", "noise": "too_noisy", "tune": "not_this_exercise",
    }  # fmt: skip


@pytest.mark.parametrize(
    "habits",
    [
        Habits(forgets_key=True, missed=(4, 5), wrong={8: 2}),
        Habits(missed=(2, 6, 7, 11), stray={4: 2}, stops={8: 2.0}),
        Habits(scatter_cents=28, timing_ms=60),
    ],
)
def test_a_poor_but_true_try_is_never_refused(habits: Habits) -> None:
    score = build(Recipe("D", tempo_bpm=90), "violin")
    sound, _ = take(score, habits, room=Room(20, 0.4))
    heard(sound, score)


@pytest.mark.parametrize("name", ["longer notes", "shorter notes"])
def test_the_same_scale_in_another_rhythm_is_refused_for_its_rhythm(name: str) -> None:
    """Not every such take is told (docs/benchmark.md has the share), but these two kinds are, and by their name."""
    takes = (make_take(name, seed) for seed in range(300, 306))
    codes = [own.code for t in takes if isinstance(own := listen(t.sound, RATE, t.score), Refusal)]
    assert len(codes) >= 3
    assert set(codes) == {"another_rhythm"}


@pytest.mark.parametrize(
    ("asked", "given"),
    [("scale", "thirds"), ("lower-half", "scale"), ("ringing", "scale"), ("scale", "arpeggio"), ("arpeggio", "scale"),
     ("thirds", "arpeggio"), ("thirds", "scale"), ("long-tones", "ringing"), ("scale", "chromatic"),
     ("chromatic", "scale"), ("chromatic", "thirds"), ("thirds", "chromatic"), ("scale", "second-finger"),
     ("upper-half", "scale")],
)  # fmt: skip
def test_another_exercise_of_the_same_key_is_refused(asked: str, given: str) -> None:
    """Also where all notes of the one occur in the other, in order; and it is named."""
    wanted, other = (build(Recipe("D", tempo_bpm=80, family=family), "violin") for family in (asked, given))
    sound, _ = take(other, Habits(scatter_cents=8, timing_ms=12))
    result = listen(sound, RATE, wanted)
    assert isinstance(result, Refusal)
    assert result.code == "another_exercise"
    assert result.sounds_like == f"{FAMILIES[given].name}, D major"


def test_strings_touched_in_passing_are_no_other_exercise() -> None:
    score = build(Recipe("D", tempo_bpm=72), "violin")
    sound, _ = take(score, Habits(scatter_cents=8, timing_ms=12, stray={2: 5, 4: -5, 6: 5, 9: -3, 11: 5, 13: -5}))
    assert len(heard(sound, score).chosen.played) >= 14


@pytest.mark.parametrize("seed", range(4))
def test_beeps_twice_a_beat_are_no_strokes_of_the_bow(seed: int) -> None:
    """A beeping metronome that beats eighths strikes in the middle of every quarter, always at the same place."""
    rng = np.random.default_rng(seed)
    score = build(Recipe("D", tempo_bpm=72), ["violin", "viola", "cello", "bass"][seed])
    sound, truths = take(score, Habits(scatter_cents=6, timing_ms=12), "sampled" if seed % 2 else "simulated")
    sound = sound.copy()
    t = np.arange(int(rng.choice([0.03, 0.1]) * RATE)) / RATE
    beep = 0.4 * np.abs(sound).max() * np.sin(2 * np.pi * rng.choice([700, 1000, 1500]) * t) * np.exp(-t / 0.03)
    for start in np.arange(truths[0].onset_s, len(sound) / RATE - 0.2, 30 / 72):
        at = int(start * RATE)
        sound[at : at + len(beep)] += beep.astype(np.float32)
    assert sum(n.status == "played" for n in heard(sound, score).chosen.notes) >= 15


def test_samples_that_tick_inside_high_notes_are_no_other_rhythm() -> None:
    """A sampled violin up to B5, eight notes: each ticks where its loop begins again, which is the same place in most."""
    true = make_take("E1 and B5", 511)
    heard(true.sound, true.score)


def test_a_trembling_bow_is_no_other_rhythm() -> None:
    score = build(Recipe("D", "halves", 66), "violin")
    sound, _ = take(score, Habits(scatter_cents=6, timing_ms=12))
    t = np.arange(len(sound)) / RATE
    tenths = np.arange(0.0, t[-1] + 0.1, 0.1)
    wander = np.interp(t, tenths, np.random.default_rng(3).normal(0, 1, len(tenths)).cumsum())
    heard(sound * 10 ** (-0.2 * (1 + np.sin(2 * np.pi * 5 * t + wander))), score)


@pytest.mark.parametrize("cut", [0.3, 0.6])
def test_rests_cut_short_are_still_this_exercise(cut: float) -> None:
    score = build(Recipe("D", "eighths-rest", 88), "violin")
    heard(played(score, Habits(rests_cut=cut)), score)


def test_what_noise_may_have_hidden_is_unclear_and_not_missed() -> None:
    """White noise 2.5 dB under the playing: some notes can not be heard, and no child is told that they were left out."""
    statuses: list[str] = []
    for seed in range(3):
        score = build(Recipe("D", tempo_bpm=72), ["violin", "viola", "cello"][seed])
        sound, _ = take(score, Habits(scatter_cents=6, timing_ms=12), seed=seed)
        level = float(np.sqrt(np.mean(sound**2))) * 10 ** (-2.5 / 20)
        noisy = sound + np.random.default_rng(seed).normal(0, level, len(sound)).astype(np.float32)
        result = listen(noisy, RATE, score)
        if isinstance(result, Refusal):
            assert result.code == "too_noisy"
        else:
            statuses += [n.status for n in result.chosen.notes]
    assert "unclear" in statuses
    assert "played" in statuses
    assert "missed" not in statuses


def test_in_a_quiet_room_a_note_left_out_is_missed() -> None:
    score = build(Recipe("D", tempo_bpm=72), "violin")
    sound, _ = take(score, Habits(scatter_cents=6, timing_ms=12, missed=(5, 10)))
    assert [n.index for n in heard(sound, score).chosen.notes if n.status == "missed"] == [5, 10]


def test_what_was_struck_but_not_understood_is_unclear_and_not_missed() -> None:
    score = build(Recipe("D", tempo_bpm=72), "violin")
    sound, truths = take(score, Habits(scatter_cents=6, timing_ms=12, missed=(5,)))
    at = int((truths[4].offset_s + 0.15) * RATE)
    time = np.arange(int(0.45 * RATE)) / RATE
    knock = np.random.default_rng(2).normal(0, 0.12, len(time)) * np.exp(-time / 0.15)
    struck = sound.copy()
    struck[at : at + len(knock)] += knock.astype(np.float32)
    statuses = [heard(s, score).chosen.notes[5].status for s in (sound, struck)]
    assert statuses == ["missed", "unclear"]


def test_a_note_that_dies_away_is_not_the_next_one_on_a_wrong_pitch() -> None:
    # The seventh pitch is asked for twice and its first stroke is left out: the sixth rings into its time.
    case = make_take("wrong and missed", 40)
    statuses = [note.status for note in heard(case.sound, case.score).chosen.notes]
    assert statuses == [case.notes[index] for index in range(len(statuses))]


@pytest.mark.parametrize("seed", range(3))
def test_fast_strokes_that_melt_together_are_still_this_exercise(seed: int) -> None:
    score = build(Recipe("G", pattern="sixteenths-eighths", tempo_bpm=105), "cello")
    sound, _ = take(score, Habits(scatter_cents=6, timing_ms=6), "sampled", Room(42, 0.15), seed)
    notes = heard(sound, score).chosen.notes
    assert not [note for note in notes if note.status in ("missed", "wrong_pitch")]
    assert np.mean([note.status == "played" for note in notes]) > 0.85


_SCORE = build(Recipe("D", tempo_bpm=132), "violin")
_SOUND = played(_SCORE, Habits(scatter_cents=10, timing_ms=10, finger_cents={2: -25}))
_SLOW = settings(max_examples=8, deadline=None, suppress_health_check=[HealthCheck.too_slow])


@_SLOW
@given(st.floats(0.05, 1.8))
def test_louder_or_softer_changes_nothing(gain: float) -> None:
    before, after = heard(_SOUND, _SCORE), heard(_SOUND * np.float32(gain), _SCORE)
    assert [n.status for n in after.chosen.notes] == [n.status for n in before.chosen.notes]
    for one, two in zip(before.chosen.notes, after.chosen.notes, strict=True):
        assert two.heard_midi == pytest.approx(one.heard_midi, abs=0.003)
        assert two.onset_s == pytest.approx(one.onset_s, abs=0.004)


@_SLOW
@given(st.integers(0, 3 * RATE))
def test_delay_moves_every_onset_by_as_much(samples: int) -> None:
    # Silence as quiet as the room's own, or the recording's floor would change with it.
    room = np.random.default_rng(7).normal(0, 1e-4, samples).astype(np.float32)
    before, after = heard(_SOUND, _SCORE), heard(np.concatenate([room, _SOUND]), _SCORE)
    moved = [n.onset_s - samples / RATE for n in after.chosen.notes if n.onset_s is not None]
    assert moved == pytest.approx([n.onset_s for n in before.chosen.notes if n.onset_s is not None], abs=0.012)


@_SLOW
@given(st.floats(-45, 45))
def test_a_shift_in_cents_shifts_every_pitch_by_as_much(cents: float) -> None:
    # The same take on a record that turns faster: time and pitch move together.
    ratio = 2 ** (cents / 1200)
    places = np.arange(int(len(_SOUND) / ratio)) * ratio
    faster = np.interp(places, np.arange(len(_SOUND)), _SOUND).astype(np.float32)
    before, after = heard(_SOUND, _SCORE), heard(faster, _SCORE)
    moves = [
        100 * (b.heard_midi - a.heard_midi)
        for a, b in zip(before.chosen.notes, after.chosen.notes, strict=True)
        if a.heard_midi and b.heard_midi
    ]
    assert len(moves) == 16
    assert moves == pytest.approx([cents] * 16, abs=2.5)


def test_silence_after_it_changes_nothing_and_the_ear_is_deterministic() -> None:
    longer = np.concatenate([_SOUND, np.zeros(3 * RATE, np.float32)])
    statuses = [[n.status for n in heard(s, _SCORE).chosen.notes] for s in (_SOUND, longer)]
    assert statuses[0] == statuses[1]
    assert heard(_SOUND, _SCORE) == heard(_SOUND, _SCORE)


@pytest.mark.parametrize("at_once", [1, 7, 100_000])
def test_how_many_boundaries_are_worked_out_at_a_time_changes_nothing(
    at_once: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    before = heard(_SOUND, _SCORE)
    monkeypatch.setattr(viterbi, "_AT_ONCE", at_once)
    assert heard(_SOUND, _SCORE) == before


def test_wrong_shapes_and_empty_scores_are_refused_by_name() -> None:
    with pytest.raises(ValueError, match="one channel"):
        listen(np.zeros((2, 44100), np.float32), RATE, _SCORE)
    empty = lay_out([], title="", instrument_key="violin", key=KeySignature(0), meter=Meter(), tempo_bpm=60)
    with pytest.raises(ValueError, match="no notes"):
        listen(np.zeros(44100, np.float32), RATE, empty)


def whistled(score: Score, index: int, times: int) -> np.ndarray:
    """A take in which one note sounds `times` its pitch, as under a light bow."""
    performed = perform_score(score, Habits(scatter_cents=5), 3)
    high = tuple(
        replace(note, midi=note.midi + 12 * float(np.log2(times))) if note.index == index else note
        for note in performed.notes
    )
    sound, _ = render(replace(performed, notes=high), score.instrument_key, RATE, 3)
    return place_in_room(sound, RATE, Room(45), 3)


@pytest.mark.parametrize("times", [2, 3])
@pytest.mark.parametrize(("key", "index"), [("viola", 4), ("cello", 3), ("bass", 7)])
def test_a_note_that_whistles_is_not_called_wrong(key: str, index: int, times: int) -> None:
    """Long notes too: what a string does under a light bow is not for the left hand to mend."""
    score = build(Recipe("D", "halves", 66), key)
    assert {n.status for n in heard(whistled(score, index, times), score).chosen.notes} <= {"played", "unclear"}


def beside(sound: np.ndarray, midi: int, note: Truth, share: float) -> np.ndarray:
    """The sound with an open string bowed along with one note, `share` as loud as the playing."""
    time = np.arange(len(sound)) / RATE
    turned = 2 * np.pi * frequency_hz(midi) * time
    string = np.sum([np.sin(number * turned) / number for number in range(1, 9)], axis=0)
    along = (time > note.onset_s) & (time < note.offset_s)
    return (sound + share * sound.std() * string / string.std() * along).astype(np.float32)


@pytest.mark.parametrize("share", [0.3, 0.5])
@pytest.mark.parametrize(
    ("key", "tonic", "index", "string"),
    [("violin", "A", 4, 69), ("viola", "D", 4, 62), ("cello", "D", 4, 50), ("cello", "D", 9, 57), ("bass", "D", 9, 43)],
)
def test_a_string_bowed_along_makes_no_right_note_wrong(
    key: str, tonic: str, index: int, string: int, share: float
) -> None:
    """Two strings a fifth apart sound as their common period, which is no finger's fault; others have none."""
    score = build(Recipe(tonic, tempo_bpm=72), key)
    sound, truths = take(score, Habits(scatter_cents=8, timing_ms=12), seed=4)
    heard_pass = heard(beside(sound, string, truths[index], share), score).chosen
    assert heard_pass.notes[index].status in ("played", "unclear")
    assert {note.status for note in heard_pass.notes if note.index != index} == {"played"}


@pytest.mark.parametrize("source", ["simulated", "sampled"])
@pytest.mark.parametrize("sounding", [False, True])
def test_whether_each_rest_was_silent_is_heard(source: str, sounding: bool) -> None:
    """A bow that goes on through the rests; after the last of them nothing follows, and nothing is said of it."""
    score = build(Recipe("D", "eighths-rest", 66), "viola")
    sound, _ = take(score, Habits(rests_sound=sounding, timing_ms=8), source)
    quiet = heard(sound, score).chosen.rests_quiet
    assert len(quiet) == len(score.rests)
    assert np.mean(quiet[:-1]) == (0.0 if sounding else 1.0)
    assert quiet[-1]
