"""The pupil's own pulse on made-up onsets, and which cause is spoken of first."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
import pytest

from attentive_owl.core.exercises import LineNote, Recipe, Score, build
from attentive_owl.core.judging import Expectations, judge
from attentive_owl.core.judging.cause import Cause
from attentive_owl.core.judging.findings import ranked
from attentive_owl.core.judging.pulse import Pulse, find_pulse, tempo_curve
from attentive_owl.core.judging.steps import Step, beat_of_values, heard_in_time, pairs_of, rushed_measures
from attentive_owl.core.listening.performance import Doubt, HeardNote, HeardPass, NoteStatus, Performance, StrayNote

QUARTERS = build(Recipe("D", tempo_bpm=60), "violin")
EIGHTHS = build(Recipe("D", "eighths", 60), "violin")
RESTS = build(Recipe("D", "eighths-rest", 60), "violin")


def pass_of(score: Score, beat_s: float = 1.0, late: Mapping[int, float] | None = None) -> HeardPass:
    """A player who keeps the beat, but for single notes that come late by so much."""
    late = late or {}
    notes = []
    for note in score.notes:
        onset = 0.5 + float(note.start_beats) * beat_s + late.get(note.index, 0.0)
        length = 0.9 * float(note.duration_beats) * beat_s
        notes.append(HeardNote(note.index, "played", float(note.midi), onset, onset + length, 0.98))
    return HeardPass(tuple(notes), 0.5, 40.0, True, rests_quiet=())


def pulse_of(score: Score, beat_s: float = 1.0, late: Mapping[int, float] | None = None) -> Pulse:
    found = find_pulse(score, pass_of(score, beat_s, late))
    assert found is not None
    return found


@pytest.mark.parametrize(
    ("scatter_s", "several", "known"),
    [
        # The last of the line has no known note after it.
        (0.02, 16, set(range(1, 30, 2))),
        (0.2, 16, set()),
        # Too few to say that they agree.
        (0.02, 5, set()),
        (0.02, 6, {1, 3, 5, 7, 9, 11}),
    ],
)
def test_guesses_that_agree_with_one_another_are_none(scatter_s: float, several: int, known: set[int]) -> None:
    """The second of each two eighths, a third late: its stroke is hardly heard."""
    off = np.random.default_rng(5).normal(0.15, scatter_s, 32)
    own = pass_of(EIGHTHS, late={n: float(off[n]) for n in range(1, 32, 2)})
    unsure = range(1, 2 * several, 2)
    notes = tuple(replace(note, moment_sure=note.index not in unsure) for note in own.notes)
    heard = {note.index for note in heard_in_time(EIGHTHS, replace(own, notes=notes))}
    assert heard & set(unsure) == known
    assert heard - set(unsure) == set(range(32)) - set(unsure)


def test_a_guess_far_from_the_others_stays_one() -> None:
    late = dict.fromkeys(range(1, 32, 2), 0.15) | {9: 0.22, 11: 0.04}
    notes = tuple(replace(note, moment_sure=note.index % 2 == 0) for note in pass_of(EIGHTHS, late=late).notes)
    heard = {note.index for note in heard_in_time(EIGHTHS, replace(pass_of(EIGHTHS), notes=notes))}
    assert heard == set(range(32)) - {9, 11, 31}


def test_guesses_where_the_notes_are_written_may_be_the_ears_own() -> None:
    for late_s, known in ((0.02, set()), (0.04, set(range(1, 30, 2))), (-0.04, set(range(1, 30, 2)))):
        own = pass_of(EIGHTHS, late=dict.fromkeys(range(1, 32, 2), late_s))
        notes = tuple(replace(note, moment_sure=note.index % 2 == 0) for note in own.notes)
        assert {n.index for n in heard_in_time(EIGHTHS, replace(own, notes=notes)) if n.index % 2} == known


@pytest.mark.parametrize("beat_s", [0.5, 0.9, 1.3])
def test_an_even_beat_is_its_tempo(beat_s: float) -> None:
    pulse = pulse_of(QUARTERS, beat_s)
    assert pulse.played_bpm == pytest.approx(60 / beat_s, rel=1e-4)
    assert abs(pulse.drift_percent) < 0.1
    assert not pulse.stops


@pytest.mark.parametrize(
    ("value", "wait_s", "stops"),
    [
        ("halves", 0.85, 0),
        ("halves", 0.95, 1),
        ("quarters", 0.4, 0),
        ("quarters", 0.5, 1),
        ("eighths", 0.28, 0),
        ("eighths", 0.32, 1),
    ],
)
def test_a_wait_is_a_stop_by_what_was_due(value: str, wait_s: float, stops: int) -> None:
    """45 % of the note before it, and 0.3 s at least, at a second a beat."""
    score = build(Recipe("D", value, 60), "violin")
    waited = pulse_of(score, late={note.index: wait_s for note in score.notes if note.index >= 6})
    assert len(waited.stops) == stops


@pytest.mark.parametrize(("unclear", "late_s", "found"), [(9, 0.0, True), (8, 0.5, True), (9, 0.5, False)])
def test_where_most_is_unclear_and_keeps_no_pace_there_is_no_pulse(unclear: int, late_s: float, found: bool) -> None:
    own = pass_of(QUARTERS, late={n.index: late_s * (0, 1, -1, 0.5)[n.index % 4] for n in QUARTERS.notes})
    doubted = (replace(n, status=NoteStatus.UNCLEAR, reason=Doubt.NOISE) if n.index < unclear else n for n in own.notes)
    assert (find_pulse(QUARTERS, replace(own, notes=tuple(doubted))) is not None) is found


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


@pytest.mark.parametrize(("stray_s", "stops"), [(0.6, []), (0.2, [9])])
def test_the_time_that_a_stray_note_takes_is_no_stop(stray_s: float, stops: list[int]) -> None:
    heard_pass = pass_of(QUARTERS, late=dict.fromkeys(range(9, 16), 0.75))
    begin = (heard_pass.notes[9].onset_s or 0.0) - stray_s
    pulse = find_pulse(QUARTERS, heard_pass, [StrayNote(begin, begin + stray_s, 61.0, 9)])
    assert pulse is not None
    assert [stop.index for stop in pulse.stops] == stops
    for stop in pulse.stops:
        assert stop.seconds == pytest.approx(0.75 - stray_s, abs=0.03)


def test_a_faint_sound_is_nobodys_beginning() -> None:
    """Something else in the room may have made it: no stop is counted from there."""
    own = pass_of(QUARTERS)
    first = replace(own.notes[0], onset_s=-1.5)
    assert [stop.index for stop in _found(own, first).stops] == [1]
    assert not _found(own, replace(first, status=NoteStatus.UNCLEAR, reason=Doubt.FAINT)).stops


def _found(heard_pass: HeardPass, first: HeardNote) -> Pulse:
    pulse = find_pulse(QUARTERS, replace(heard_pass, notes=(first, *heard_pass.notes[1:])))
    assert pulse is not None
    return pulse


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


def walk(seconds: list[float], value: float = 0.5, per_measure: int = 8) -> list[Step]:
    """Equal notes, one after another, each to the next in so many seconds."""
    return [Step(n, n + 1, value, value, s, None, n // per_measure + 1, True) for n, s in enumerate(seconds)]


STARTS = {n: n / 2 for n in range(64)}


def test_pairs_are_two_equal_notes_of_one_beat() -> None:
    pairs = pairs_of(walk([0.6, 0.4] * 4), STARTS)
    assert [index for index, _ in pairs] == [0, 2, 4, 6]
    assert [share for _, share in pairs] == pytest.approx([0.6] * 4)
    # Off the beat by an eighth, the second of one and the first of the next are no pair.
    assert [index for index, _ in pairs_of(walk([0.6, 0.4] * 4)[1:], STARTS)] == [2, 4, 6]
    assert pairs_of(walk([1.0] * 4, value=1.0), {n: float(n) for n in range(8)}) == []
    broken = [replace(step, unbroken=step.index != 3) for step in walk([0.5] * 8)]
    assert [index for index, _ in pairs_of(broken, STARTS)] == [0, 4, 6]


@pytest.mark.parametrize(
    ("paces", "rushed"),
    [
        ((1.0, 1.0, 0.8, 1.0), (3,)),
        ((1.0, 1.0, 0.9, 1.0), ()),
        # Where several others waver too it is no one measure.
        ((1.0, 1.1, 0.8, 0.92), ()),
        # Half of them are no exception.
        ((0.8, 1.0, 0.8, 1.0), ()),
        ((0.8, 1.0), ()),
    ],
)
def test_a_measure_is_rushed_where_the_others_keep_their_pace(
    paces: tuple[float, ...], rushed: tuple[int, ...]
) -> None:
    steps = walk([0.5 * pace for pace in paces for _ in range(8)])
    assert rushed_measures(steps, {0.5: 1.0}, 1.0) == rushed


def test_one_short_note_makes_no_rushed_measure() -> None:
    seconds = [0.5] * 32
    seconds[17] = 0.05
    assert rushed_measures(walk(seconds), {0.5: 1.0}, 1.0) == ()
    # Nor with others that are a little short as well: half of what they are short of lies in it.
    seconds[16:24] = [0.47, 0.05, *[0.47] * 6]
    assert rushed_measures(walk(seconds), {0.5: 1.0}, 1.0) == ()


def test_the_short_notes_of_uneven_pairs_alone_make_no_rushed_measure() -> None:
    """Of a measure in which the others could not be timed."""
    steps = walk([0.6, 0.4] * 16)

    def known(indices: set[int]) -> list[Step]:
        return [replace(step, unbroken=step.measure != 3 or step.index in indices) for step in steps]

    assert rushed_measures(known({17, 19, 21}), {0.5: 1.0}, 1.0) == ()
    # Where half of it is known, and that is short, it is told.
    assert rushed_measures(known({17, 19, 21, 23}), {0.5: 1.0}, 1.0) == (3,)


@pytest.mark.parametrize(
    ("paces", "rushed"),
    [
        ((0.75,) * 8, (3,)),
        # Where one note takes next to no time another one is missing; where every fourth takes its time it is not all of it.
        ((0.75, 0.3, *(0.75,) * 6), ()),
        ((*(0.7,) * 3, 1.0, *(0.7,) * 3, 1.0), ()),
    ],
)
def test_a_measure_is_rushed_all_along_or_not_at_all(paces: tuple[float, ...], rushed: tuple[int, ...]) -> None:
    steps = walk([0.5 * pace for pace in (*(1.0,) * 16, *paces, *(1.0,) * 8)])
    assert rushed_measures(steps, {0.5: 1.0}, 1.0) == rushed


HELD: Mapping[str, object] = {"status": NoteStatus.UNCLEAR, "reason": Doubt.HELD}
HARDLY: Mapping[str, object] = {"moment_sure": False}
LEFT_OUT: Mapping[str, object] = {"status": NoteStatus.MISSED, "onset_s": None, "offset_s": None, "heard_midi": None}


def unheard(score: Score, how: Mapping[str, object], every: int = 2) -> HeardPass:
    """A player who keeps the beat; of every second note no stroke was heard, and its onset is a guess, now and now otherwise wrong."""
    off_s = (-0.2, 0.15, -0.1, 0.2)
    wrong = {note.index: off_s[note.index // every % 4] for note in score.notes if note.index % every == 1}
    clean = pass_of(score, late=wrong)
    notes = (replace(note, **how) if note.index % every == 1 else note for note in clean.notes)  # type: ignore[arg-type]
    return replace(clean, notes=tuple(notes))


@pytest.mark.parametrize("how", [HELD, HARDLY], ids=["held over", "hardly heard"])
def test_an_onset_that_was_guessed_says_nothing_of_time(how: Mapping[str, object]) -> None:
    pulse = find_pulse(EIGHTHS, unheard(EIGHTHS, how))
    assert pulse is not None
    assert pulse.played_bpm == pytest.approx(60, rel=1e-4)
    assert all(index % 2 == 0 for index in pulse.expected_s)
    # Only one note between each rest and the next: had the rests been cut short, it would be a faster tempo as well.
    assert find_pulse(RESTS, unheard(RESTS, how)) is None


@pytest.mark.parametrize(("every", "mode", "told"), [(2, "steady", True), (4, "steady", False), (2, "pauses", False)])
def test_where_a_third_was_hardly_heard_the_rhythm_is_left_to_the_teacher(every: int, mode: str, told: bool) -> None:
    take = Performance((unheard(EIGHTHS, HARDLY, every),), (), 0.0, 0)
    report = judge(take, EIGHTHS, Expectations(60, mode=mode))  # type: ignore[arg-type]
    assert not report.causes
    assert {note.status for note in report.notes} == {NoteStatus.PLAYED}
    assert sum(note.moment_guessed for note in report.notes) == len(EIGHTHS.notes) // every
    assert any("could not hear a new bow" in own.text for own in report.advice) is told
    assert any("pulse was steady" in own.text for own in report.advice) is False
    assert report.good_go is not None
    assert report.good_go.reasons == (["16 notes could not be timed."] if told else [])


def test_a_return_whose_first_note_could_not_be_timed_is_no_stop() -> None:
    """Three seconds between the ninth and the eleventh; the tenth was gone back to, and is a guess."""
    own = pass_of(QUARTERS, late={n.index: 3.0 for n in QUARTERS.notes if n.index >= 9})
    notes = tuple(replace(note, moment_sure=note.index != 9) for note in own.notes)
    kinds = [
        {cause.kind for cause in judge(Performance((replace(own, notes=notes, restarts=back),), (), 0.0, 0), QUARTERS, Expectations(60)).causes}
        for back in ((), ((11, 9),), ((11, 8),))
    ]  # fmt: skip
    assert kinds == [{"stop"}, {"restart"}, {"restart", "stop"}]


def test_rests_after_which_the_beat_is_kept_were_not_cut_short() -> None:
    """Of two eighths the second comes 0.12 s late, and the next two in time: so it is heard where a string speaks slowly. The same take at
    the pace of the eighths, where that one is set, comes back too soon after each rest."""
    take = Performance((pass_of(RESTS, late={n.index: 0.12 for n in RESTS.notes if n.index % 2}),), (), 0.0, 0)
    assert [cause.kind for cause in judge(take, RESTS, Expectations(60)).causes] == []
    assert [cause.kind for cause in judge(take, RESTS, Expectations(60 / 1.24)).causes] == ["rest_short"]


@pytest.mark.parametrize(("the_other_way", "told"), [(0, ["uneven"]), (6, [])])
def test_pairs_are_uneven_where_most_are_so_the_same_way(the_other_way: int, told: list[str]) -> None:
    """Sixteen pairs of eighths, the second of each 80 ms late, or in so many of them too soon."""
    late = {note.index: -0.08 if note.index < 2 * the_other_way else 0.08 for note in EIGHTHS.notes if note.index % 2}
    take = Performance((pass_of(EIGHTHS, late=late),), (), 0.0, 0)
    assert [cause.kind for cause in judge(take, EIGHTHS, Expectations(60)).causes] == told


@pytest.mark.parametrize(("late_s", "told"), [(0.019, []), (0.023, ["uneven"])])
def test_what_nobody_hears_in_fast_notes_is_not_uneven(late_s: float, told: list[str]) -> None:
    """Sixteenths at 100: the second of each two 19 ms late is 56 to 44, and no more than that."""
    line = tuple(LineNote(name, "1/4") for name in ("D4", "E4", "F#4", "G4") * 12)
    score = build(Recipe("D", tempo_bpm=100, family="own", line=line), "violin")
    late = {note.index: late_s for note in score.notes if note.index % 2}
    take = Performance((pass_of(score, 0.6, late),), (), 0.0, 0)
    assert [cause.kind for cause in judge(take, score, Expectations(100)).causes] == told


def test_a_measure_in_which_a_note_was_left_out_is_not_rushed() -> None:
    """One that could not be heard surely takes nothing away from the others."""
    hurried = {n.index: -0.12 * max(0, min(n.index, 24) - 16) for n in EIGHTHS.notes}

    def without(index: int, status: NoteStatus) -> Pulse | None:
        own = pass_of(EIGHTHS, late=hurried)
        gone = replace(own.notes[index], status=status, onset_s=None, offset_s=None, heard_midi=None)
        return find_pulse(EIGHTHS, replace(own, notes=(*own.notes[:index], gone, *own.notes[index + 1 :])))

    unclear, missed = without(19, NoteStatus.UNCLEAR), without(19, NoteStatus.MISSED)
    assert unclear is not None
    assert missed is not None
    assert (unclear.rushed, missed.rushed) == ((3,), ())
    # The first of a measure too.
    first = without(16, NoteStatus.MISSED)
    assert first is not None
    assert not first.rushed


def test_a_drift_is_sure_where_it_moves_the_notes_further_than_anything_else_does() -> None:
    """Where the ear lost its place for a while whole rows of notes stand early or late together: no drift is read off that."""
    beats = np.array([float(n.start_beats) for n in EIGHTHS.notes])
    hurried = dict(enumerate((-0.006 * beats**2).tolist()))
    assert pulse_of(EIGHTHS, late=hurried).drift_sure
    rows = {n: late + (0.18 if (n // 8) % 2 else -0.18) for n, late in hurried.items()}
    lost = pulse_of(EIGHTHS, late=rows)
    assert abs(lost.drift_percent) > 8
    assert not lost.drift_sure


@pytest.mark.parametrize(("between", "sure"), [(HARDLY, True), (LEFT_OUT, False)], ids=["hardly heard", "left out"])
def test_a_drift_is_told_across_notes_that_were_played_and_not_across_what_was_left_out(
    between: Mapping[str, object], sure: bool
) -> None:
    """Every fifth note was heard, in a line that slows from 60 to 46: the steps between them grow, and nobody stood still."""
    score = build(Recipe("D", "eighths", 60, octaves=2), "violin")
    beats = [float(note.start_beats) for note in score.notes]
    own = pass_of(score, late={index: 0.15 * beat**2 / beats[-1] for index, beat in enumerate(beats)})
    notes = (note if note.index % 5 == 0 else replace(note, **between) for note in own.notes)  # type: ignore[arg-type]
    pulse = find_pulse(score, replace(own, notes=tuple(notes)))
    assert pulse is not None
    assert pulse.drift_sure is sure


def test_the_beat_of_a_value_needs_three_notes_and_passes_over_a_stop() -> None:
    assert beat_of_values(walk([0.5] * 2)) == {}
    assert beat_of_values(walk([0.5] * 3)) == {0.5: pytest.approx(1.0)}
    assert beat_of_values(walk([0.5, 0.5, 2.5, 0.5, 0.5])) == {0.5: pytest.approx(1.0)}
    # Long and short are what they are together.
    assert beat_of_values(walk([0.6, 0.4] * 4)) == {0.5: pytest.approx(1.0)}
    # Half of them three times as long as the others: no median is like one of them, and the mean is of all.
    assert beat_of_values(walk([0.25, 0.75] * 4)) == {0.5: pytest.approx(1.0)}
    away = [replace(step, before="crossing") for step in walk([0.5] * 4)]
    assert beat_of_values(away) == {}


@pytest.mark.parametrize(
    ("beat_s", "wait_s", "stops"), [(1.2, 0.48, 0), (1.2, 0.62, 1), (0.5, 0.26, 0), (0.5, 0.36, 1)]
)
def test_a_stop_is_a_good_part_of_the_note_and_never_less_than_anybody_hears(
    beat_s: float, wait_s: float, stops: int
) -> None:
    """Quarters of 1.2 s: 45 per cent are 0.54 s. Of half a second: less than 0.3 s is no stop, whatever its share."""
    pulse = pulse_of(QUARTERS, beat_s, late=dict.fromkeys(range(9, 16), wait_s))
    assert len(pulse.stops) == stops


def test_of_a_few_notes_no_drift_is_told() -> None:
    few = build(
        Recipe("D", family="own", line=tuple(LineNote(name, "1") for name in ("D4", "E4", "F#4", "G4"))), "violin"
    )
    pulse = pulse_of(few, late={3: 0.1})
    assert (pulse.drift_percent, pulse.drift_sure) == (0.0, False)


def test_the_tempo_of_a_place_is_that_of_two_beats_around_it() -> None:
    """Eighths at 60, one of which is longer by 0.2 s: the window around a step holds it and two on either side, 2.5 beats in 2.7 s."""
    late = dict.fromkeys(range(9, len(EIGHTHS.notes)), 0.2)
    heard_pass = pass_of(EIGHTHS, late=late)
    curve = dict(tempo_curve(EIGHTHS, heard_pass, pulse_of(EIGHTHS, late=late)))
    slow = {index for index, bpm in curve.items() if bpm < 59}
    assert slow == {6, 7, 8, 9, 10}
    assert [curve[index] for index in (5, 6, 10, 11)] == pytest.approx([60, 60 * 2.5 / 2.7, 60 * 2.5 / 2.7, 60])


@pytest.mark.parametrize("short", ["1/2", "1/4"])
def test_lengths_that_come_alike_are_even_notes(short: str) -> None:
    names = ("D4", "E4", "F#4", "G4", "F#4", "E4")
    line = tuple(LineNote(name, "1" if at % 3 == 0 else short) for at, name in enumerate(names * 4))
    score = build(Recipe("D", tempo_bpm=60, family="own", line=line), "violin")
    notes = tuple(
        HeardNote(n.index, "played", float(n.midi), 0.5 + 0.6 * n.index, 1.05 + 0.6 * n.index, 0.98)
        for n in score.notes
    )
    heard = Performance((HeardPass(notes, 0.5, 40.0, True, rests_quiet=()),), (), 0.5, 0)
    own = judge(heard, score, Expectations(60))
    assert own.refusal is not None
    assert own.refusal.code == "another_rhythm"
    assert "even notes" in own.refusal.words


MIXED = build(Recipe("D", "quarter-eighths", 60), "violin")
CUT = {note.index: -0.5 * (note.index // 2) for note in RESTS.notes}
"""Half of each rest."""
LONG = {note.index: 0.1 * (2 * (note.index // 3) + max(note.index % 3 - 1, 0)) for note in MIXED.notes}
"""Eighths that take a fifth more than their time."""


@pytest.mark.parametrize(
    ("score", "late", "kind"),
    [
        (EIGHTHS, {note.index: 0.12 for note in EIGHTHS.notes if note.index % 2}, "uneven"),
        (RESTS, CUT, "rest_short"),
        (MIXED, LONG, "note_value"),
    ],
    ids=["uneven", "rest_short", "note_value"],
)
@pytest.mark.parametrize(("share", "told"), [(0.36, False), (0.5, True)])
def test_a_habit_is_told_where_enough_of_what_could_show_it_is_known(
    score: Score, late: Mapping[int, float], kind: str, share: float, told: bool
) -> None:
    """Only so many of the notes, from the first on, could be timed."""
    heard = pass_of(score, late=late)
    notes = (replace(n, moment_sure=n.index < share * len(score.notes)) for n in heard.notes)
    take = Performance((replace(heard, notes=tuple(notes)),), (), 0.0, 0)
    assert (kind in {cause.kind for cause in judge(take, score, Expectations(60)).causes}) is told


def test_a_note_that_comes_before_its_neighbour_hides_no_drift() -> None:
    """What was kept from before the pupil went back can do so: the lengths of the others tell."""
    score = build(Recipe("D", "quarters", 60, octaves=2), "violin")
    slower = {note.index: 0.004 * note.index**2 for note in score.notes}
    with np.errstate(invalid="raise", divide="raise"):
        pulse = pulse_of(score, late=slower | {12: slower[12] - 1.3})
    assert pulse.drift_sure
    assert pulse.drift_percent < 0
