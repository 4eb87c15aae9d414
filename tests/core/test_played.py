"""What was played of a line, and what counts as a good go, on performances made up note by note."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest

from attentive_owl.core.exercises import Bowing, Recipe, Score, build, lay_out, moves, turns_of
from attentive_owl.core.judging import Expectations, GoodGoRule, Overruling, Report, judge, overruled
from attentive_owl.core.listening.performance import HeardNote, HeardPass, NoteStatus, Performance, StrayNote

SCALE = build(Recipe("D", tempo_bpm=60), "violin")
"""D E F# G A B C# D D C# B A G F# E D, a note a second."""
TWO_OCTAVES = build(Recipe("D", "eighths", 60, octaves=2), "violin")


def heard(
    score: Score = SCALE,
    missing: tuple[int, ...] = (),
    wrong: tuple[int, ...] = (),
    late: dict[int, float] | None = None,
    lost_s: float = 0.0,
    **heard_pass: Any,
) -> Performance:
    """Clean but for what is named. `late`: index -> seconds from there on; `lost_s`: time that goes with each missing note."""
    notes, at = [], 0.0
    for note in score.notes:
        at += (late or {}).get(note.index, 0.0)
        if note.index in missing:
            at -= lost_s
            notes.append(HeardNote(note.index, "missed", None, None, None, 0.9))
            continue
        onset = float(note.start_beats) + at
        status = "wrong_pitch" if note.index in wrong else "played"
        midi = note.midi + (2 if note.index in wrong else 0)
        notes.append(HeardNote(note.index, status, float(midi), onset, onset + 0.9, 0.99))
    strays = heard_pass.pop("strays", ())
    return Performance((HeardPass(tuple(notes), 0.0, 17.0, True, **heard_pass),), strays, 0.0, 0)


def report(performance: Performance, score: Score = SCALE, **expected: Any) -> Report:
    return judge(performance, score, Expectations(60, **expected))


def kinds(own: Report) -> list[str]:
    return [cause.kind for cause in own.causes]


def test_a_clean_go_is_a_good_one() -> None:
    own = report(heard())
    assert kinds(own) == []
    assert own.good_go is not None
    assert (own.good_go.good, own.good_go.reasons, own.good_go.in_a_row) == (True, [], 1)


@pytest.mark.parametrize(
    ("missing", "kind", "said"),
    [
        (tuple(range(4, 16)), "ended_early", "You stopped after measure 1."),
        (tuple(range(8, 16)), "one_way", "The way down is missing"),
        (tuple(range(9, 16)), "one_way", "The way down is missing"),
        (tuple(range(5, 11)), "turned_early", "You turned round after A."),
        (tuple(range(8)), "joined_late", "You joined in at D in measure 3."),
        ((5,), "skipped", "B in measure 2 was left out."),
        ((15,), "skipped", "D in measure 4 was left out."),
    ],
)
def test_a_part_that_was_not_played_is_told_as_that(missing: tuple[int, ...], kind: str, said: str) -> None:
    own = report(heard(missing=missing))
    assert kinds(own) == [kind]
    assert own.advice[1].text.startswith(said) or said in own.advice[1].text
    assert own.good_go is not None
    assert not own.good_go.good
    assert own.judgement is not None
    whole = own.judgement.completeness
    assert whole.word == "on the way"
    outside = [note.index for note in own.notes if note.reason == "not_come_to"]
    assert outside == ([] if kind == "skipped" else list(missing))
    assert (whole.not_come_to, whole.missed) == (len(outside), len(missing) - len(outside))


def test_what_is_not_played_is_no_fault_of_what_is() -> None:
    own = report(heard(missing=tuple(range(8, 16))))
    assert own.judgement is not None
    assert own.judgement.pitch.word == own.judgement.rhythm.word == "home"
    assert "from start to end" not in own.advice[0].text


def test_a_line_that_turns_and_one_that_does_not() -> None:
    # One octave: at each of the six degrees between the first and the top, by repeating the note or by the one under it.
    assert turns_of(SCALE)[:2] == [(2, 14), (2, 15)]
    assert len(turns_of(SCALE)) == 2 * 6
    assert turns_of(build(Recipe("D", family="thirds", tempo_bpm=60), "violin")) == []


def test_a_skipped_note_is_a_step_in_the_pulse_and_no_dragging() -> None:
    own = report(heard(missing=(5,), lost_s=1.0))
    assert kinds(own) == ["skipped"]
    assert own.tempo.played_bpm == pytest.approx(60, abs=0.1)
    assert all(note.timing_ms == pytest.approx(0, abs=5) for note in own.notes if note.timing_ms is not None)


def test_a_restart_is_a_restart_and_no_stop() -> None:
    own = report(heard(late={4: 2.5}, restarts=((6, 4),)))
    assert kinds(own) == ["restart"]
    assert "went back" in own.advice[1].text


def test_where_a_pupil_went_back_from_and_to_is_told() -> None:
    twice = report(heard(late={4: 2.5, 9: 2.0}, restarts=((6, 4), (12, 9))))
    assert [cause.evidence for cause in twice.causes] == [
        "Went back after B in measure 2 and played again from A in measure 2.",
        "Went back after A in measure 3 and played again from C sharp in measure 3.",
    ]
    from_the_end = report(heard(late={9: 2.0}, restarts=((17, 9),)))
    assert from_the_end.causes[0].evidence.startswith("Went back after D in measure 4 ")


@pytest.mark.parametrize(("wait_s", "told"), [(0.25, ["bow_late"]), (0.12, [])])
def test_a_wait_before_each_new_bow_is_a_habit_of_the_bow(wait_s: float, told: list[str]) -> None:
    """Quarters of a second, four in a bow, over two octaves."""
    slurred = build(Recipe("D", tempo_bpm=60, octaves=2, bowing=Bowing.SLUR_4), "violin")
    new_bows = [index for index, place in moves(slurred).items() if place == "bow"]
    own = report(heard(slurred, late=dict.fromkeys(new_bows, wait_s)), slurred)
    assert kinds(own) == told
    assert [cause.detail for cause in own.causes] == [{"percent": 25.0}] * len(told)


def test_who_stops_in_the_upbeat_stopped_after_no_measure() -> None:
    upbeat = build(Recipe("D", "quarters", 60, meter="3/4", pickup=True), "violin")
    assert [note.measure for note in upbeat.notes[:2]] == [0, 1]
    ended = report(heard(upbeat, missing=tuple(range(1, len(upbeat.notes)))), upbeat)
    assert ended.advice[1].text.startswith("You stopped after D in the upbeat.")


def test_no_short_stop_is_told() -> None:
    assert kinds(report(heard(late={4: 0.25}))) == []
    own = report(heard(late={4: 0.6}))
    assert kinds(own) == ["stop"]
    assert own.tempo.stops[0].seconds == pytest.approx(0.6, abs=0.05)
    assert all(stop.seconds >= 0.3 for stop in own.tempo.stops)


def test_one_slip_is_one_note_and_several_are_counted() -> None:
    assert report(heard(wrong=(3,))).advice[1].text == "One note slipped: G in measure 1. Hear it once, then play on."
    several = report(heard(wrong=(3, 9)))
    assert several.advice[1].text.startswith("2 notes slipped: G in measure 1 and C sharp in measure 3.")


@pytest.mark.parametrize(
    "spoilt",
    [
        heard(wrong=(3,)),
        heard(missing=(5,)),
        heard(strays=(StrayNote(4.5, 4.75, 80.0, 5),)),
        heard(late={4: 0.6}),
        heard(late={4: 2.5}, restarts=((6, 4),)),
    ],
)
def test_what_spoils_a_go_is_never_good(spoilt: Performance) -> None:
    own = report(spoilt)
    assert own.good_go is not None
    assert not own.good_go.good
    assert len(own.good_go.reasons) >= 1
    assert own.passes[0].good is False


def test_a_forgotten_key_signature_is_never_nearly_home() -> None:
    altered = tuple(note.index for note in SCALE.notes if note.pitch.alter)
    notes = [
        replace(own, status="wrong_pitch", heard_midi=(own.heard_midi or 0) - 1) if own.index in altered else own
        for own in heard().chosen.notes
    ]
    own = report(Performance((HeardPass(tuple(notes), 0.0, 17.0, True),), (), 0.0, 0))
    assert kinds(own) == ["key_signature"]
    assert own.judgement is not None
    assert own.judgement.pitch.home == 12
    assert own.judgement.pitch.word == "on the way"


@pytest.mark.parametrize(("low_by", "natural"), [(0.56, True), (0.545, False)])
def test_half_way_to_the_natural_is_no_natural(low_by: float, natural: bool) -> None:
    """Within 45 cents of it, it is."""
    notes = [
        replace(own, status="wrong_pitch", heard_midi=note.midi - low_by) if note.pitch.alter else own
        for note, own in zip(SCALE.notes, heard().chosen.notes, strict=True)
    ]
    own = report(Performance((HeardPass(tuple(notes), 0.0, 17.0, True),), (), 0.0, 0))
    assert ("key_signature" in kinds(own)) == natural


def _without_signs(
    score: Score,
    hand_cents: float = 0.0,
    but: dict[int, float] | None = None,
    sign_cents: float = 100.0,
    played: float = 0.0,
) -> Report:
    """Causes where every sharp is played as a natural by a hand that stands off; but: index -> cents from where it is written; played: the
    share of the sharps that the ear takes for the written note, very low."""
    notes = []
    for note, own in zip(score.notes, heard(score).chosen.notes, strict=True):
        cents = hand_cents - sign_cents * note.pitch.alter if note.placement and note.placement.finger else 0.0
        cents = (but or {}).get(note.index, cents)
        taken = note.index < played * len(score.notes)
        status = NoteStatus.WRONG_PITCH if abs(cents) > 40.0 and note.pitch.alter and not taken else NoteStatus.PLAYED
        notes.append(replace(own, status=status, heard_midi=note.midi + cents / 100.0))
    return report(Performance((HeardPass(tuple(notes), 0.0, 60.0, True),), (), 0.0, 0), score)


@pytest.mark.parametrize("hand_cents", [-38.0, 48.0])
def test_a_natural_of_a_hand_that_stands_off_is_a_natural(hand_cents: float) -> None:
    assert kinds(_without_signs(SCALE, hand_cents)) == ["key_signature", "hand"]


def test_open_strings_tell_nothing_of_where_the_hand_stands() -> None:
    """D A F# D A E D A F# D A G D A E: most of what has no sign is open."""
    picked = [SCALE.notes[index] for index in (0, 4, 2, 0, 4, 1, 0, 4, 2, 0, 4, 3, 0, 4, 1)]
    line = lay_out(
        [(note.pitch, note.duration_beats, None) for note in picked],
        title="", instrument_key="violin", key=SCALE.key, meter=SCALE.meter, tempo_bpm=60,
        placements=[note.placement for note in picked if note.placement],
    )  # fmt: skip
    assert "key_signature" in kinds(_without_signs(line, 48.0))


@pytest.mark.parametrize(("cents", "forgotten"), [(-30.0, True), (-20.0, False)])
def test_one_note_as_it_is_written_and_the_sign_was_not_forgotten(cents: float, forgotten: bool) -> None:
    one = next(note.index for note in TWO_OCTAVES.notes if note.pitch.alter)
    told = kinds(_without_signs(TWO_OCTAVES, but={one: cents}))
    assert ("place" not in told) == forgotten


@pytest.mark.parametrize(("played", "told"), [(0.4, True), (1.0, False)])
def test_a_sign_is_forgotten_where_most_are_other_notes_and_no_finger_is_blamed_for_it(
    played: float, told: bool
) -> None:
    own = kinds(_without_signs(TWO_OCTAVES, sign_cents=60.0, played=played))
    assert (own == ["key_signature"]) == told
    assert ("key_signature" in own) == told


def test_a_natural_is_heard_against_the_notes_around_it() -> None:
    """Where the hand goes up on the way down, so do the naturals."""
    higher = {
        note.index: 60.0 - 100.0 * note.pitch.alter
        for note in TWO_OCTAVES.notes[36:]
        if note.placement and note.placement.finger
    }
    forgotten = _without_signs(TWO_OCTAVES, but=higher).causes[0]
    assert forgotten.kind == "key_signature"
    assert list(forgotten.notes) == [note.index for note in TWO_OCTAVES.notes if note.pitch.alter]


def test_slow_and_clean_is_right_and_gets_the_next_rung() -> None:
    own = judge(heard(), SCALE, Expectations(84))
    assert own.advice[0].text == "Slow and clean, every note in tune: that is just right."
    assert own.advice[1].text == "The next rung is 64: a little faster, and as clean."
    assert own.judgement is not None
    assert own.judgement.tempo.word == "a rung below"
    fast = judge(heard(), SCALE, Expectations(50))
    assert fast.judgement is not None
    assert fast.judgement.tempo.word == "too fast"
    assert "50 is set" in fast.advice[1].text


def test_with_pauses_allowed_time_is_neither_praised_nor_blamed() -> None:
    own = judge(heard(late={4: 2.0, 9: 1.0}), SCALE, Expectations(84, mode="pauses"))
    said = " ".join(a.text for a in own.advice)
    assert not {"pulse", "tempo", "slow", "rung"} & set(said.lower().replace(".", "").split())
    assert kinds(own) == []
    assert own.good_go is not None
    assert own.good_go.good


def test_the_studio_says_what_a_good_go_is() -> None:
    stopped = heard(late={4: 0.8})
    assert not report(stopped).passes[0].good
    assert report(stopped, good_go=GoodGoRule(most_stops=1)).passes[0].good
    slow = judge(heard(), SCALE, Expectations(84, good_go=GoodGoRule(at_tempo=True)))
    assert slow.good_go is not None
    assert slow.good_go.reasons == ["Below the tempo that is set."]


def test_the_teachers_ear_goes_before_the_rule() -> None:
    own = report(heard(wrong=(3,)))
    home = overruled(own, [Overruling("home", 3)])
    assert home.good_go is not None
    assert home.good_go.good
    assert (home.notes[3].home, home.notes[3].overruled) == (True, "home")
    missed = overruled(report(heard()), [Overruling("missed", 3)])
    assert missed.good_go is not None
    assert missed.good_go.reasons == ["1 note left out."]
    stray = report(heard(strays=(StrayNote(4.5, 4.75, 80.0, 5),)))
    not_so = overruled(stray, [Overruling("not_so", cause="stray")])
    assert not_so.good_go is not None
    assert not_so.good_go.good
    assert all(advice.cause is None for advice in not_so.advice)
    # The report itself stays what the ear heard.
    assert own.notes[3].status == "wrong_pitch"
