"""From deviations to causes and words; tempo against numpy's own fit; millimetres against the handbook formula."""

from __future__ import annotations

import re
from itertools import islice
from typing import Any

import numpy as np
import pytest

from attentive_owl.core.checking import check
from attentive_owl.core.exercises import Bowing, Direction, Recipe, build
from attentive_owl.core.instruments import Mark
from attentive_owl.core.judging import LEVELS, Expectations, judge
from attentive_owl.core.judging.cause import millimetres
from attentive_owl.core.listening import HeardNote, Performance
from attentive_owl.core.listening.performance import HeardPass
from attentive_owl.core.playing import Habits
from attentive_owl.core.theory import Temperament
from bench.judging import HABITS, LIVES, PAIRS, case, heard_and_named, named, performance
from tests.conftest import RATE, played


def report(
    habits: Habits,
    key: str = "violin",
    pattern: str = "quarters",
    tonic: str = "D",
    octaves: int = 1,
    bowing: Bowing = Bowing.DETACHED,
    **expected: Any,
) -> dict[str, Any]:
    score = build(Recipe(tonic, pattern, 88, octaves=octaves, bowing=bowing), key)
    return check(played(score, habits), RATE, score, Expectations(88, **expected)).to_document()


def kinds(document: dict[str, Any]) -> list[tuple[Any, ...]]:
    return [(c["kind"], c["finger"], c["string"]) for c in document["causes"]]


def test_a_good_take_has_no_cause_and_a_true_praise() -> None:
    document = report(Habits(scatter_cents=4, timing_ms=8))
    assert document["accepted"]
    assert document["causes"] == []
    assert [a["kind"] for a in document["advice"]] == ["praise", "next"]
    assert {d["word"] for d in document["judgement"].values()} == {"home"}
    assert document["tempo"]["played_bpm"] == pytest.approx(88, rel=0.005)


@pytest.mark.parametrize(("reason", "word"), [("joined", "fast notes apart"), ("noise", "microphone")])
def test_what_the_ear_could_not_tell_is_said_and_left_to_the_teacher(reason: str, word: str) -> None:
    score = build(Recipe("D", tempo_bpm=88), "violin")
    notes = tuple(
        HeardNote(note.index, "unclear", None, None, None, 0.5, reason)
        if note.index % 2
        else HeardNote(note.index, "played", float(note.midi), note.index * 0.68, note.index * 0.68 + 0.6, 0.99)
        for note in score.notes
    )
    document = judge(
        Performance((HeardPass(notes, 0.0, 11.0, True),), (), 0.0, 0), score, Expectations(88)
    ).to_document()
    praise, then = document["advice"]
    assert "every note" not in praise["text"].lower()
    assert word in then["text"]
    assert "teacher will listen" in then["text"]


@pytest.mark.parametrize(
    ("habits", "cause"),
    [
        (Habits(finger_cents={2: -32}, scatter_cents=4), ("finger", 2, None)),
        (Habits(hand_cents=-34, scatter_cents=4), ("hand", None, None)),
        (Habits(string_cents={"A": 34}, scatter_cents=4), ("string", None, "A")),
        (Habits(tuning_cents=-30, scatter_cents=4), ("instrument", None, None)),
        (Habits(forgets_key=True), ("key_signature", None, None)),
        (Habits(shift_semitones=-7), ("wrong_string", None, None)),
        (Habits(stops={4: 1.1}), ("stop", None, None)),
        (Habits(drift=0.3), ("drift", None, None)),
    ],
)
def test_one_habit_gives_that_cause_alone(habits: Habits, cause: tuple[Any, ...]) -> None:
    assert kinds(report(habits)) == [cause]


def test_dragging_eighths_are_named_by_their_value() -> None:
    document = report(Habits(dragging={"eighth": 0.2}), pattern="sixteenths-eighths")
    named = [c["detail"] for c in document["causes"] if c["kind"] == "note_value" and c["detail"]["percent"] > 0]
    assert [d["value"] for d in named] == ["eighth"]


def test_a_finger_is_told_in_millimetres_of_the_own_instrument() -> None:
    document = report(Habits(finger_cents={2: -32}), string_length_mm=265.0)
    cause = document["causes"][0]
    assert cause["towards"] == "bridge"
    assert cause["mm"] == pytest.approx(265 * 2 ** (-4 / 12) * (1 - 2 ** (cause["cents"] / 1200)), abs=0.15)


def test_millimetres_by_the_handbook() -> None:
    # 10 cents at the first finger (a whole step up): 1.7 mm on a full-size violin, 3.6 mm on a cello (common practice).
    assert millimetres(10, 2, 328) == pytest.approx(1.7, abs=0.05)
    assert millimetres(10, 2, 690) == pytest.approx(3.6, abs=0.1)


def test_with_the_own_strings_as_reference_only_the_instrument_is_blamed() -> None:
    document = report(Habits(tuning_cents=-35, scatter_cents=3), a4_hz=None)
    assert document["judgement"]["pitch"]["home"] == 16
    assert kinds(document) == [("instrument", None, None)]
    assert document["tuning"]["a4_hz"] == pytest.approx(440 * 2 ** (-35 / 1200), abs=1)
    assert any("fine tuners" in a["text"] for a in document["advice"])


def test_temperament_moves_the_target() -> None:
    equal = report(Habits(), tonic="G")
    pythagorean = report(Habits(), tonic="G", temperament=Temperament.PYTHAGOREAN)
    # B is two fifths over A: 3.9 cents higher than equal, so an equal-tempered B is that much low.
    assert pythagorean["notes"][2]["cents"] - equal["notes"][2]["cents"] == pytest.approx(-3.91, abs=0.15)


def test_pauses_are_not_judged_where_they_are_allowed() -> None:
    document = report(Habits(stops={4: 1.2, 9: 0.8}), mode="pauses")
    assert document["judgement"]["rhythm"]["word"] == "not judged"
    assert not [c for c in document["causes"] if c["kind"] == "stop"]
    assert len(document["tempo"]["stops"]) == 2
    assert document["tempo"]["played_bpm"] == pytest.approx(88, rel=0.01)


def test_tolerances_widen_with_the_level_and_for_short_notes_and_tighten_where_it_rings() -> None:
    score = build(Recipe("D", "sixteenths-eighths", 88), "violin")
    expected = {key: Expectations(88, LEVELS[key]) for key in LEVELS}
    f_sharp = [n for n in score.notes if n.pitch.name == "F#4"]
    widths = [expected[key].pitch_tolerance_cents(f_sharp[4], score) for key in LEVELS]
    assert widths == sorted(widths, reverse=True)
    own = expected["settling"]
    assert own.pitch_tolerance_cents(f_sharp[0], score) > own.pitch_tolerance_cents(f_sharp[4], score)
    ringing = next(n for n in score.notes if n.pitch.name == "D5" and n.duration_beats == f_sharp[4].duration_beats)
    assert own.pitch_tolerance_cents(ringing, score) < own.pitch_tolerance_cents(f_sharp[4], score)


def test_the_same_figures_give_the_same_words_and_never_a_hard_one() -> None:
    documents = [
        report(h)
        for h in (
            Habits(finger_cents={2: -32}),
            Habits(missed=(3,)),
            Habits(forgets_key=True),
            Habits(scatter_cents=30),
        )
    ]
    again = report(Habits(finger_cents={2: -32}))
    assert documents[0]["advice"] == again["advice"]
    said = " ".join(a["text"] for d in documents for a in d["advice"]).lower()
    assert not any(word in said for word in ("error", "fail", "wrong!", "bad"))


def test_a_refused_take_is_not_judged() -> None:
    score = build(Recipe("D", tempo_bpm=88), "violin")
    document = check(0 * played(score), RATE, score, Expectations(88)).to_document()
    assert not document["accepted"]
    assert document["refusal"]["code"] == "silence"
    assert document["notes"] == []
    assert document["judgement"] is None


def test_another_exercise_is_refused_by_its_name() -> None:
    score, other = (build(Recipe("D", "eighths", 88, family=family), "cello") for family in ("scale", "thirds"))
    refusal = check(played(other), RATE, score, Expectations(88)).to_document()["refusal"]
    assert refusal["code"] == "another_exercise"
    assert "Broken thirds, D major" in refusal["words"]


@pytest.mark.parametrize(
    ("unclear", "off", "praise"),
    [
        ((), (5, 6, 7), "All your notes on the D string were in tune."),
        ((2,), (5,), "6 of 8 notes were in tune."),
        ((2,), (5, 6, 7), "4 of 8 notes were in tune."),
        ((), (1, 5), "6 of 8 notes were in tune."),
        ((2,), (1, 5, 6, 7), "You played it and sent it: that is how it gets better."),
        ((), (1, 2, 3, 5, 6), "You played the whole line, every note of it."),
    ],
)
def test_what_is_praised_was_there(unclear: tuple[int, ...], off: tuple[int, ...], praise: str) -> None:
    """D major upwards on a violin: four notes on the D string, four on the A string. Nothing is said of a string of which only three notes
    were heard."""
    score = build(Recipe("D", tempo_bpm=88, direction=Direction.UP), "violin")
    notes = tuple(
        HeardNote(note.index, "unclear", None, None, None, 0.5, "noise")
        if note.index in unclear
        # By turns high and low: nothing that one cause would explain.
        else HeardNote(
            note.index,
            "played",
            note.midi + (0.35 if note.index % 2 else -0.35) * (note.index in off),
            note.index * 0.68,
            note.index * 0.68 + 0.6,
            0.99,
        )
        for note in score.notes
    )
    taken = Performance((HeardPass(notes, 0.0, 6.0, True),), (), 0.0, 0, duration_s=6.0)
    told = judge(taken, score, Expectations(88, mode="pauses")).advice[0]
    assert (told.kind, told.text) == ("praise", praise)


@pytest.mark.parametrize(
    ("pace", "stop_s", "off_cents", "praise"),
    [
        (1.3, 0.0, 0.0, "Slow and clean, every note in tune: that is just right."),
        (1.3, 2.0, 0.0, "Every note was in tune."),
        (1.0, 0.0, 0.0, "Every note was in tune."),
        # One of sixteen is no fault of a good go; two stops are.
        (1.3, 0.0, 35.0, "Slow and clean: that is just right."),
        (1.3, 2.0, 35.0, "All your notes on the D string were in tune."),
    ],
)
def test_slow_and_clean_is_praised_where_it_was_a_good_go(
    pace: float, stop_s: float, off_cents: float, praise: str
) -> None:
    score = build(Recipe("D", tempo_bpm=88), "violin")
    onsets = [n.index * pace * 60 / 88 + stop_s * (n.index > 4) + stop_s * (n.index > 9) for n in score.notes]
    notes = tuple(
        HeardNote(n.index, "played", n.midi + off_cents / 100 * (n.index == 5), at, at + 0.55 * pace, 0.99)
        for n, at in zip(score.notes, onsets, strict=True)
    )
    taken = Performance((HeardPass(notes, 0.0, 19.0, True),), (), 0.0, 0, duration_s=19.0)
    told = judge(taken, score, Expectations(88)).advice[0]
    assert (told.kind, told.text) == ("praise", praise)


@pytest.mark.parametrize(("pace", "kept"), [(1.0, True), (0.75, False), (1.35, False)])
def test_the_tempo_is_praised_where_it_was_kept(pace: float, kept: bool) -> None:
    """Single notes early or late and out of tune, so that neither the pulse nor the pitch can be praised before it."""
    score = build(Recipe("D", tempo_bpm=88, direction=Direction.UP), "violin")
    early = {2: -0.13, 4: 0.12, 6: -0.12}
    onsets = {n.index: (n.index * 60 / 88 + early.get(n.index, 0.0)) * pace for n in score.notes}
    notes = tuple(
        HeardNote(n.index, "played", n.midi + {1: 0.35, 5: -0.35}.get(n.index, 0.0), onsets[n.index], onsets[n.index] + 0.4, 0.99)
        for n in score.notes
    )  # fmt: skip
    taken = Performance((HeardPass(notes, 0.0, 7.0, True),), (), 0.0, 0, duration_s=7.0)
    told = judge(taken, score, Expectations(88)).advice[0]
    assert (told.text == "You kept to the tempo that was set.") == kept, told.text


@pytest.mark.parametrize(
    ("began", "told"),
    [
        # By the median, to a tenth of a cent; of those that began on the other side nothing is said.
        ({1: -30.0, 2: -41.26, 3: -36.52, 5: -34.0, 6: 24.0}, ((1, 2, 3, 5), -34.0)),
        ({1: -30.0, 2: -41.26, 3: -36.52, 5: -34.04}, ((1, 2, 3, 5), -35.3)),
        ({1: 22.0, 2: 22.0, 3: 22.0}, ((1, 2, 3), 22.0)),
        # A stroke is no slide, two notes are no habit, half up and half down is none; an open string can not slide.
        ({1: -21.9, 2: -21.9, 3: -21.9, 5: -21.9}, None),
        ({1: -30.0, 2: -30.0}, None),
        ({1: -30.0, 2: 30.0, 3: -30.0, 5: 30.0, 6: -30.0}, None),
        ({0: -30.0, 1: -30.0, 4: -30.0}, None),
    ],
)
def test_notes_that_begin_away_from_where_they_settle(
    began: dict[int, float], told: tuple[tuple[int, ...], float] | None
) -> None:
    """D major upwards on a violin: six stopped notes, of which half have to slide. Of short notes it is not asked."""
    assert _slid(began, 0.6) == ([told] if told else [])
    assert _slid(began, 0.2) == []


def _slid(began: dict[int, float], lasts_s: float) -> list[tuple[tuple[int, ...], float | None]]:
    score = build(Recipe("D", tempo_bpm=88, direction=Direction.UP), "violin")
    notes = tuple(
        HeardNote(
            note.index, "played", note.midi, note.index * 0.68, note.index * 0.68 + lasts_s, 0.99,
            approach_cents=began.get(note.index),
        )
        for note in score.notes
    )  # fmt: skip
    taken = Performance((HeardPass(notes, 0.0, 6.0, True),), (), 0.0, 0, duration_s=6.0)
    causes = judge(taken, score, Expectations(88)).causes
    return [(tuple(c.notes), c.cents) for c in causes if c.kind == "settling_in"]


def test_of_several_goes_each_is_judged_and_the_best_is_shown() -> None:
    """The second go of three has a low finger; the last is clean and as good as the first: the later one counts."""
    score = build(Recipe("D", tempo_bpm=100), "violin")
    parts = [
        played(score, habits)
        for habits in (
            Habits(scatter_cents=3, timing_ms=6),
            Habits(finger_cents={2: -45}, scatter_cents=3, timing_ms=6),
            Habits(missed=(7, 9), timing_ms=6),
        )
    ]
    sound = np.concatenate(parts)
    steady = check(sound, RATE, score, Expectations(100)).to_document()
    repeats = check(sound, RATE, score, Expectations(100, mode="repeats")).to_document()
    assert [p["good"] for p in repeats["passes"]] == [True, False, False]
    assert repeats["good_go"]["in_a_row"] == 1
    assert [p["chosen"] for p in repeats["passes"]] == [True, False, False]
    assert [p["chosen"] for p in steady["passes"]] == [False, False, True]
    assert all(n["status"] == "played" for n in repeats["notes"])
    assert repeats["passes"][1]["pitch_home"] < 16


@pytest.mark.parametrize("name", [*HABITS, *PAIRS])
def test_known_habits_get_just_their_cause(name: str) -> None:
    """The judge alone, on what the ear would hear; `python -m bench.judging` goes from the sound to the words."""
    shown = (kinds_ for seed in range(1000, 1400) if (kinds_ := named(name, seed)) is not None)
    # Of waits at every fourth note some lines show more than others: a share of a dozen says little.
    takes = 24 if name == "bow_late" else 12
    found = list(islice(shown, takes))
    wanted = set(name.split(" + ")) - {"none"}
    assert len(found) >= 2 * takes / 3
    assert np.mean([wanted <= own for own in found]) >= 0.9
    # A wait at every fourth note bends the fitted pulse too: in some lines it is read as drift beside it.
    if name not in ("scatter", "bow_late"):
        assert np.mean([bool(own - wanted) for own in found]) <= 0.05


@pytest.mark.parametrize(("cents", "told"), [(11.0, set()), (20.0, {"finger"})])
def test_a_finger_that_is_nearly_home_has_no_habit(cents: float, told: set[str]) -> None:
    """The tolerance is 18 cents; what is shared by many notes is told from 70 % of it on."""
    score = build(Recipe("D", "eighths", 66, octaves=2), "violin")
    for seed in (1, 2, 3):
        take = performance(score, Habits(finger_cents={2: cents}, scatter_cents=2.0), seed)
        assert {cause.kind for cause in judge(take, score, Expectations(66, LEVELS["settling"])).causes} == told


@pytest.mark.parametrize(("name", "seed"), [("rest", 7101), ("rest", 7104), ("rest_short", 7135), ("note_value", 7111)])
def test_slow_samples_that_swell_into_one_another_are_no_other_rhythm(name: str, seed: int) -> None:
    outcome = heard_and_named(name, seed, "sampled", LIVES[0])
    assert outcome is not None
    assert outcome[0] == "accepted"


@pytest.mark.parametrize(
    ("name", "seed"), [("restart", 7101), ("restart", 7114), ("stray", 7303), ("stray", 7307), ("stray", 7102)]
)
def test_what_happens_among_strokes_on_one_pitch_is_told_as_what_it_was(name: str, seed: int) -> None:
    """Gone back where the line repeats a note: no stop with a note too many. And a note too many is none of the repeats on another pitch."""
    assert heard_and_named(name, seed, "simulated", LIVES[1]) == ("accepted", {name})


def test_twelve_strokes_on_one_pitch_are_no_going_back() -> None:
    """Some of them leave two traces: there was a going back within the run, and a rushed measure, beside the stop."""
    assert heard_and_named("stop", 7705, "simulated", LIVES[0]) == ("accepted", {"stop"})


def test_no_drift_is_read_off_a_pulse_that_jumps_at_every_rest() -> None:
    """Rests cut to half, on samples on which 11 of 32 strokes are guesses: what is left of the pulse bends as it likes."""
    outcome = heard_and_named("rest_short", 7136, "sampled", LIVES[0])
    assert outcome is not None
    assert outcome[0] == "accepted"
    assert outcome[1] <= {"rest_short"}


def test_a_wait_before_new_strings_is_told_from_a_slow_value() -> None:
    document = report(Habits(late_before={"crossing": 0.3}), pattern="eighths", tonic="C")
    assert [c["kind"] for c in document["causes"]] == ["crossing_late"]
    assert document["causes"][0]["detail"]["percent"] == pytest.approx(30, abs=8)
    assert "new string" in next(a["text"] for a in document["advice"] if a["kind"] == "change")


def test_wide_half_steps_are_not_laid_to_a_finger() -> None:
    """G major on the violin from the G string: fingers 2-3 and 1-2 close, so two fingers stand above a half step."""
    document = report(Habits(half_step_cents=36, scatter_cents=4), tonic="G", octaves=2)
    (cause,) = document["causes"]
    assert cause["kind"] == "half_step"
    assert cause["cents"] == pytest.approx(36, abs=5)
    assert "touch" in next(a["text"] for a in document["advice"] if a["kind"] == "change")


def test_rests_that_sound_and_rests_cut_short_are_two_things() -> None:
    sounding = report(Habits(rests_sound=True), pattern="eighths-rest")
    assert [c["kind"] for c in sounding["causes"]] == ["rest"]
    # Nothing follows the last rest, so nothing can be said against it.
    assert [rest["quiet"] for rest in sounding["rests"]] == [False] * (len(sounding["rests"]) - 1) + [True]
    short = report(Habits(rests_cut=0.5), pattern="eighths-rest")
    assert [c["kind"] for c in short["causes"]] == ["rest_short"]
    assert all(rest["quiet"] for rest in short["rests"])
    assert short["causes"][0]["detail"]["percent"] == pytest.approx(-50, abs=12)


def test_held_staccato_is_named_and_true_staccato_is_not_early() -> None:
    assert report(Habits(timing_ms=8), bowing=Bowing.STACCATO)["causes"] == []
    held = report(Habits(timing_ms=8, staccato_held=True), bowing=Bowing.STACCATO)
    assert [c["kind"] for c in held["causes"]] == ["staccato"]


def test_every_cause_has_words_for_three_readers_in_the_same_sense() -> None:
    """Of each habit one report: what the child reads has no figure of cents or milliseconds; the adult's has none either."""
    for name in HABITS:
        made = next(m for seed in range(1000, 1400) if (m := case(name, seed)) is not None)
        score, habits = made
        document = judge(performance(score, habits, 1), score, Expectations(score.tempo_bpm)).to_document()
        for advice in document["advice"]:
            assert not re.search(r"\bcents?\b|\bms\b|%", advice["text"] + advice["parent"])
            assert len(advice["text"]) < 150
            assert {advice[reader][-1] for reader in ("text", "parent", "teacher")} == {"."}
        if document["causes"]:
            spoken = [a for a in document["advice"] if a["cause"] is not None]
            assert all(a["teacher"] != a["text"] for a in spoken)


def test_a_finger_is_sent_to_its_tape_where_all_its_notes_have_one() -> None:
    tapes = (Mark("first finger", "amber", 2), Mark("high second", "teal", 4))
    habits = Habits(finger_cents={2: -34}, scatter_cents=4)
    one, two = report(habits, tapes=tapes), report(habits, tonic="G", octaves=2, tapes=tapes)
    said = [next(a["text"] for a in own["advice"] if a["kind"] == "change") for own in (one, two)]
    # In one octave of D major the second finger is high on both strings; over two octaves of G it has both its places.
    assert "It belongs on the teal tape." in said[0]
    assert "second finger" in said[1]
    assert "tape" not in said[1]


def test_a_stop_is_told_with_what_stands_at_its_place() -> None:
    """In D major the fifth note is the first on the A string; at the third nothing has to be done but to play on."""
    for index, place in ((4, "crossing"), (2, None)):
        document = report(Habits(stops={index: 1.2}))
        (stop,) = document["causes"]
        assert stop["detail"].get("place") == place
        said = next(a["text"] for a in document["advice"] if a["kind"] == "change")
        assert ("new string" in said) == (place == "crossing")
