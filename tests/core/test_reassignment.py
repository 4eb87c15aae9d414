"""What alignment alone can not tell, on made-up hearings whose answer can be read off the pulse."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import pytest

from attentive_owl.core.exercises import Recipe, build
from attentive_owl.core.listening.alignment.path import Move, Path, Segment
from attentive_owl.core.listening.features.frames import HOP_S
from attentive_owl.core.listening.features.levels import FINE_HOP_S
from attentive_owl.core.listening.features.metronome import ClickPulse, quieten_clicks
from attentive_owl.core.listening.features.novelty import Boundaries
from attentive_owl.core.listening.features.stroke_signs import stroke_signs
from attentive_owl.core.listening.notes.absorbing import absorb_held, absorb_tails, absorb_unstruck
from attentive_owl.core.listening.notes.doubts import begun_before, held_over, stroke_near, taken_for_both
from attentive_owl.core.listening.notes.guessed import guessed_strokes
from attentive_owl.core.listening.notes.reassignment import last_heard, settle_missed, settle_shifted, told_by_neither

SCORE = build(Recipe("D", tempo_bpm=60), "violin")
"""A second a note: 62 64 66 67 69 71 73 74 74 73 ..."""


@dataclass(frozen=True)
class Heard:
    onset_s: float
    midi: float | None
    offset_s: float = 0.0


def heard(*, without: tuple[int, ...] = (), **changed: Heard) -> dict[int, Heard]:
    own = {
        note.index: Heard(float(note.index), float(note.midi), note.index + 0.9)
        for note in SCORE.notes
        if note.index not in without
    }
    return own | {int(name.removeprefix("n")): item for name, item in changed.items()}


def test_a_note_left_out_and_a_wrong_one_keep_the_pulse() -> None:
    # The fourth is left out, the fifth is played with the fourth's pitch, all on the beat; an alignment that knows no pulse
    # takes that for a late fourth, a late fifth and a missing sixth.
    late = heard(without=(5,), n3=Heard(4.0, 67.0, 4.9), n4=Heard(5.0, 71.0, 5.9))
    settled = settle_shifted(late, SCORE, 0.0)
    assert sorted(settled) == [index for index in range(16) if index != 3]
    assert (settled[4].midi, settled[5].midi) == (67.0, 71.0)


def test_right_notes_before_a_stop_are_not_made_wrong() -> None:
    # The eighth is left out, and three seconds of stop come after the tenth. Between the notes around them the ninth and
    # tenth would lie where the eighth and ninth belong, and the ninth has the eighth's pitch.
    stopped = heard(without=(7,), n8=Heard(8.0, 74.0, 8.9), n9=Heard(9.2, 73.0, 10.0))
    stopped |= {i: Heard(i + 3.0, float(SCORE.notes[i].midi), i + 3.9) for i in range(10, 16)}
    assert settle_shifted(stopped, SCORE, 0.0) == stopped


def test_a_stray_as_long_as_a_note_leaves_right_notes_right() -> None:
    # A short stop before the tenth, the eleventh passed over, and after two more notes a stray, all on the beat: so would be
    # the tenth in its place and the next three wrong, but not the tenth for the eleventh.
    late = {index: Heard(index - 0.4, float(SCORE.notes[index].midi), index + 0.5) for index in (12, 13)}
    late |= {index: Heard(index + 0.6, float(SCORE.notes[index].midi), index + 1.5) for index in (10, 14, 15)}
    passed_over = heard(without=(11,)) | late
    assert 11 in settle_shifted(passed_over, SCORE, 0.0)
    assert settle_shifted(passed_over, SCORE, 0.0, [Heard(13.6, 80.0, 14.5)]) == passed_over
    touched_in_passing = [Heard(14.4, 80.0, 14.5)]
    assert 11 in settle_shifted(passed_over, SCORE, 0.0, touched_in_passing)


def test_a_try_that_breaks_off_keeps_the_pulse_too() -> None:
    # The ninth is left out, and after two more the pupil stops: not the ninth late, on the pitch of the tenth.
    rest = tuple(range(8, 16))
    broken_off = heard(without=rest) | {7: Heard(7.0, 74.0, 7.9), 8: Heard(9.0, 73.0, 9.9), 9: Heard(10.0, 71.0, 10.9)}
    settled = settle_shifted(broken_off, SCORE, 0.0)
    assert sorted(settled) == [*range(8), 9, 10]
    on_time = heard(without=rest[2:])
    assert settle_shifted(on_time, SCORE, 0.0) == on_time


def test_a_note_that_sounds_on_may_hide_the_next() -> None:
    # The eighth and the ninth are one pitch.
    on = heard(without=(8,), n7=Heard(7.0, 74.0, 8.9))
    assert held_over(8, on, SCORE, 0.0)
    assert not held_over(8, heard(without=(8,)), SCORE, 0.0)
    # Both on another pitch, as where the key is forgotten: no less one long note.
    assert held_over(8, heard(without=(8,), n7=Heard(7.0, 73.0, 8.9)), SCORE, 0.0)
    # The tenth is another pitch: the note before it can hide it only by sounding on that.
    assert not held_over(9, heard(without=(9,), n8=Heard(8.0, 74.0, 9.9)), SCORE, 0.0)
    assert held_over(9, heard(without=(9,), n8=Heard(8.0, SCORE.notes[9].midi, 9.9)), SCORE, 0.0)


def test_where_all_notes_are_cut_short_less_of_it_hides_the_next() -> None:
    cut = {index: Heard(item.onset_s, item.midi, item.onset_s + 0.5) for index, item in heard(without=(8,)).items()}
    assert not held_over(8, cut, SCORE, 0.0)
    for_both = cut | {7: Heard(7.0, 74.0, 8.3)}
    assert held_over(8, for_both, SCORE, 0.0)
    # What rings on for longer than its time hides the next no less.
    ringing = {index: Heard(item.onset_s, item.midi, item.onset_s + 1.3) for index, item in heard(without=(8,)).items()}
    assert held_over(8, ringing | {7: Heard(7.0, 74.0, 8.55)}, SCORE, 0.0)
    # Where the others sound for all of their time it was one note, somewhat long.
    assert not held_over(8, heard(without=(8,), n7=Heard(7.0, 74.0, 8.3)), SCORE, 0.0)


def test_a_note_that_sounds_for_two_may_be_both() -> None:
    # Of the eighth and the ninth, one pitch, one long note was heard.
    both = Heard(7.42, 74.0, 8.95)
    assert taken_for_both(7, heard(without=(7,), n8=both), SCORE)
    # No longer than a note of its own.
    assert not taken_for_both(7, heard(without=(7,), n8=Heard(7.42, 74.0, 8.8)), SCORE)
    # Left out, and what follows played at once, however long: there was no time for it.
    soon = {f"n{index}": Heard(index - 1.0, float(SCORE.notes[index].midi), index - 0.1) for index in range(9, 16)}
    assert not taken_for_both(7, heard(without=(7,), n8=Heard(7.0, 74.0, 8.9), **soon), SCORE)
    # The note after the seventh is another pitch.
    assert not taken_for_both(6, heard(without=(6,), n7=Heard(6.4, 74.0, 8.0)), SCORE)


@pytest.mark.parametrize(
    ("begin", "end", "unsure"),
    [
        # Half a second of something runs up to the tenth: it may be its beginning.
        (8.5, 9.0, {9}),
        # Shorter, or over before the note: a knock, a word.
        (8.85, 9.0, set()),
        (8.3, 8.8, set()),
        # Where its pitch began, somewhat before its onset, the sound is explained.
        (8.43, 8.93, {9}),
        (8.41, 8.91, set()),
        # Up to the eighth, which stands with the ninth on one pitch.
        (6.5, 7.0, {7, 8}),
    ],
)
def test_what_runs_up_to_a_note_may_be_its_beginning(begin: float, end: float, unsure: set[int]) -> None:
    sounding = np.arange(round(begin / HOP_S), round(end / HOP_S)) * HOP_S
    assert begun_before(heard(), SCORE, sounding) == unsure
    assert begun_before(heard(), SCORE, np.array([])) == set()


def test_what_broke_off_before_a_note_is_not_its_beginning() -> None:
    two = (np.arange(begin, end) * HOP_S for begin, end in ((1700, 1750), (1764, 1800)))
    assert begun_before(heard(), SCORE, np.concatenate(list(two))) == set()


def test_runs_of_like_notes_side_by_side_lean_on_one_another() -> None:
    score = build(Recipe("D", "eighths", tempo_bpm=60), "violin")
    own = {note.index: Heard(note.index / 2, float(note.midi), note.index / 2 + 0.4) for note in score.notes}
    # The second of two and the first of the next two are left out, and all stand under the wrong one of two numbers.
    given = {index: item for index, item in own.items() if index not in (4, 5, 6, 7)}
    given |= {5: own[4], 6: own[7]}
    wanted = {index: item for index, item in own.items() if index not in (5, 6)}
    assert settle_missed(dict(sorted(given.items())), score) == wanted


@pytest.mark.parametrize("without", [14, 15, 16, 17])
def test_the_missing_one_of_like_notes_is_told_by_the_pace(without: int) -> None:
    score = build(Recipe("D", "eighths", tempo_bpm=60), "violin")
    # The first of two and one of four notes of one pitch are left out, and the others stand under other numbers.
    # Far from both there is a stop of four seconds.
    begins = {note.index: note.index / 2 + (4.0 if note.index >= 24 else 0.0) for note in score.notes}
    own = {note.index: Heard(begins[note.index], float(note.midi), begins[note.index] + 0.4) for note in score.notes}
    four = [own[index] for index in range(14, 18) if index != without]
    given = {index: item for index, item in own.items() if index not in (6, 7, 14, 15, 16, 17)}
    given |= {6: own[7], 14: four[0], 15: four[1], 16: four[2]}
    wanted = {index: item for index, item in own.items() if index not in (6, without)}
    assert settle_missed(dict(sorted(given.items())), score) == wanted
    # Whatever the order in which they come.
    assert settle_missed(dict(sorted(given.items(), key=lambda entry: -entry[0])), score) == wanted


@pytest.mark.parametrize("stop_s", [0.0, 0.4, 3.0])
def test_a_stop_before_like_notes_does_not_move_them(stop_s: float) -> None:
    score = build(Recipe("D", "eighths", tempo_bpm=60), "violin")
    late = {
        note.index: Heard(note.index / 2 + (stop_s if note.index > 6 else 0.0), float(note.midi), 0.0)
        for note in score.notes
        if note.index != 6
    }
    assert settle_missed(late, score) == late


def test_going_back_takes_the_place_of_what_was_heard_before() -> None:
    def played(*indices: int) -> list[Segment | Move]:
        return [Segment("note", index, 0, 1, 62, 1.0) for index in indices]

    events = [*played(0, 1, 2, 3, 4, 5, 6), Move(7, 7, 2), *played(2, 3, 5), Segment("stray", 6, 0, 1, 80, 1.0)]
    heard_at = {place: Heard(float(place), 62.0) for place in range(len(events))}
    last = last_heard(list(enumerate(events)), heard_at)
    # The fifth was left out the second time; the seventh was not come to again.
    assert {index: item.onset_s for index, item in sorted(last.items())} == {0: 0, 1: 1, 2: 8, 3: 9, 5: 10, 6: 6}


@pytest.mark.parametrize("late_s", [0.0, 0.3, 0.5])
def test_late_notes_are_not_moved_to_other_places(late_s: float) -> None:
    late = heard(without=(5,), n3=Heard(3.0 + late_s, 67.0, 3.9), n4=Heard(4.0 + late_s, 69.0, 4.9))
    assert settle_shifted(late, SCORE, 0.0) == late


def test_notes_that_would_all_be_wrong_stay_where_they_are() -> None:
    # Two notes a beat late, with their own pitches, and one left out: a stop, whatever the beat says.
    late = heard(without=(5,), n3=Heard(4.0, 67.0, 4.9), n4=Heard(5.0, 69.0, 5.9))
    assert settle_shifted(late, SCORE, 0.0) == late


def test_an_instrument_out_of_tune_is_no_other_pitch() -> None:
    late = heard(without=(5,), n3=Heard(4.0, 67.45, 4.9), n4=Heard(5.0, 71.45, 5.9))
    assert 3 not in settle_shifted(late, SCORE, 0.45)


def test_a_stroke_counts_in_the_time_of_the_missing_note_and_its_like() -> None:
    missing = heard(without=(5,))
    assert stroke_near(5, missing, SCORE, np.array([5.1]))
    assert not stroke_near(5, missing, SCORE, np.array([3.1, 5.97, 6.5]))
    # The eighth and ninth are one pitch: which of them is missing is a guess, so the time of both counts.
    assert stroke_near(8, heard(without=(8,), n7=Heard(7.0, 74.0, 7.4)), SCORE, np.array([7.6]))
    # But what is struck just before the one that was heard is its own.
    assert not stroke_near(7, heard(without=(7,)), SCORE, np.array([7.95, 8.3]))


def test_a_tick_without_a_dip_tells_of_no_stroke() -> None:
    frames = np.array([0, 100, 150, 200, 300])
    marks = Boundaries(frames, np.array([0.02, 0.9, 0.9, 0.9, 0.02]), np.array([0.0, 0.5, 0.5, 8.0, 0.0]))
    quiet = quieten_clicks(marks, ClickPulse(bpm=120.0, first_s=0.0, clicks=8))
    # A tick at 0.5 s takes the stroke away; at 0.75 s there is none; at 1.0 s the level fell.
    assert quiet.attack.tolist() == [0.02, 0.1, 0.9, 0.9, 0.02]


@pytest.mark.parametrize(
    ("together_s", "attack", "parts"),
    [(1.1, 0.3, 1), (2.0, 0.3, 2), (1.1, 0.8, 2)],
    ids=["one note's time", "two notes' time", "a sure stroke"],
)
def test_half_of_a_note_is_no_wrong_second_one(together_s: float, attack: float, parts: int) -> None:
    """The fourth note falls in two where the bow trembled, and the fifth, of another pitch, was left out."""
    frames = np.array([0, round(0.5 * together_s / HOP_S), round(together_s / HOP_S)])
    path = Path((Segment("note", 3, 0, 1, 67, 5.0), Segment("wrong", 4, 1, 2, 67, 5.0)), 0.0)
    boundaries = Boundaries(frames, np.array([0.9, attack, 0.1]), np.zeros(3))
    level = np.full(int(together_s / FINE_HOP_S) + 1, -20.0)
    events = absorb_tails(path, boundaries, level, np.ones(16)).events
    assert len(events) == parts
    last = events[-1]
    assert isinstance(last, Segment)
    assert last.stop == 2


@pytest.mark.parametrize(
    ("stray_midi", "attack", "parts"),
    [(67.6, 0.3, 2), (67.9, 0.3, 3), (67.6, 0.8, 3)],
    ids=["one pitch", "another pitch", "a sure stroke"],
)
def test_a_note_half_way_between_two_of_the_grid_holds_no_note_too_many(
    stray_midi: float, attack: float, parts: int
) -> None:
    """The fourth note, half a semitone high, is read now as its own key and now as the next."""
    path = Path(
        (Segment("note", 3, 0, 1, 67, 5.0), Segment("stray", 4, 1, 2, 68, 5.0), Segment("note", 4, 2, 3, 69, 5.0)), 0.0
    )
    boundaries = Boundaries(np.array([0, 100, 130, 200]), np.array([0.9, attack, 0.9, 0.1]), np.zeros(4))
    assert absorb_held(path, boundaries) == path
    events = absorb_held(path, boundaries, {0: 67.45, 1: stray_midi, 2: 69.0}).events
    assert len(events) == parts
    first = events[0]
    assert isinstance(first, Segment)
    assert first.stop == (2 if parts == 2 else 1)


@pytest.mark.parametrize(
    ("falls_db", "attack", "parts"),
    [(20.0, 0.3, 1), (5.0, 0.3, 2), (20.0, 0.8, 2)],
    ids=["rings out", "is bowed", "a sure stroke"],
)
def test_what_rings_out_into_a_rest_is_no_wrong_note(falls_db: float, attack: float, parts: int) -> None:
    """After the fourth note the string rings for as long as a note; what follows is heard as the fifth, on the fourth one's pitch."""
    frames = np.round(np.array([0.0, 1.0, 2.0]) / HOP_S).astype(int)
    path = Path((Segment("note", 3, 0, 1, 67, 5.0), Segment("wrong", 4, 1, 2, 67, 5.0)), 0.0)
    boundaries = Boundaries(frames, np.array([0.9, attack, 0.1]), np.zeros(3))
    half = int(1.0 / FINE_HOP_S)
    # At the level of the bow at first, so that the middle of it is not yet soft.
    falling = -20.0 - falls_db * np.clip((np.arange(half + 1) / half - 0.4) / 0.4, 0.0, 1.0)
    level = np.concatenate([np.full(half, -20.0), falling])
    assert len(absorb_tails(path, boundaries, level, np.ones(16)).events) == parts


@pytest.mark.parametrize(
    ("without", "midi", "unsure"),
    [
        ((0, 1, 2), {3: 62.0, 4: 64.0}, {0, 1, 2, 3, 4}),
        ((5, 6, 7), {3: 74.0, 4: 71.0}, set()),
        ((5, 6, 7), {3: 71.0, 4: 74.0}, {3, 4, 5, 6, 7}),
        ((0, 1, 2), {3: 62.0, 5: 64.0}, set()),
        ((0, 1, 2), {3: 64.0, 4: 62.0}, set()),
        ((0, 1, 2), {3: 62.0, 4: 65.2}, set()),
    ],
)
def test_what_has_the_pitches_of_unheard_notes_in_their_order_may_be_those(
    without: tuple[int, ...], midi: dict[int, float], unsure: set[int]
) -> None:
    """Before them or after; not in another order, not one by one, not on pitches of their own."""
    changed = {f"n{index}": Heard(float(index), own, index + 0.9) for index, own in midi.items()}
    assert told_by_neither(heard(without=without, **changed), SCORE, 0.0) == unsure
    flat = {
        index: Heard(own.onset_s, own.midi - 0.4, own.offset_s)
        for index, own in heard(without=without, **changed).items()
        if own.midi
    }
    assert told_by_neither(flat, SCORE, -0.4) == unsure


@pytest.mark.parametrize(("beat_s", "unsure"), [(1.0, set()), (0.25, {4, 5, 6, 7})])
def test_of_fast_notes_one_on_the_pitch_of_an_unheard_one_is_enough(beat_s: float, unsure: set[int]) -> None:
    """A B in the place of A, and none of the three after it."""
    own = heard(without=(5, 6, 7), n4=Heard(4.0, 71.0, 4.9))
    fast = {n: Heard(beat_s * item.onset_s, item.midi, beat_s * item.offset_s) for n, item in own.items()}
    assert told_by_neither(fast, SCORE, 0.0) == unsure


@pytest.mark.parametrize(("late_s", "unsure"), [(0.5, {4, 5}), (0.0, set())])
def test_a_stroke_between_two_notes_with_the_pitch_of_the_second_may_be_that(late_s: float, unsure: set[int]) -> None:
    """A B half way between A and B, and no other: a wrong note and one left out, or one left out and a right one too soon."""
    own = heard(without=(5,), n4=Heard(4.0 + late_s, 71.0, 5.5))
    assert told_by_neither(own, SCORE, 0.0) == unsure


@pytest.mark.parametrize(("pause_s", "unsure"), [(1.0, {13, 15}), (0.0, set())])
def test_where_two_readings_are_as_good_nothing_is_said(pause_s: float, unsure: set[int]) -> None:
    """A flat, F sharp and D in the places of G, F sharp and E and nothing after them; or, a beat later as they are, in those of
    F sharp, E and D, with the G left out: two wrong notes either way."""
    own = heard(without=(15,))
    for index, midi in ((12, 68.0), (13, 66.0), (14, 62.0)):
        own[index] = Heard(index + pause_s, midi, index + pause_s + 0.9)
    assert told_by_neither(own, SCORE, 0.0) == unsure
    assert told_by_neither(heard(without=(15,)), SCORE, 0.0) == set()


@pytest.mark.parametrize(
    ("cut", "attack", "others", "notes"),
    [(1.3, 0.07, 0.9, 15), (2.0, 0.07, 0.9, 16), (1.3, 0.8, 0.9, 16), (1.3, 0.07, 0.1, 16)],
    ids=["no stroke and no time", "time for both", "a stroke", "no stroke is clear"],
)
def test_a_held_note_is_no_two(cut: float, attack: float, others: float, notes: int) -> None:
    """Halves and quarters on each pitch, a second a beat; the fifth half is cut in two, and all after it comes a beat sooner (or, where there
    is time for both, on its beat)."""
    score = build(Recipe("D", "half-quarter", 60), "violin")
    held = score.notes[8]
    missing_s = 1.0 if cut < 2.0 else 0.0
    begin = [float(note.start_beats) - (missing_s if note.index > 9 else 0.0) for note in score.notes[:17]]
    begin[9] = begin[8] + cut
    frames = np.round(np.array(begin) / HOP_S).astype(np.int64)
    attacks = np.where([note.index % 2 for note in score.notes[:17]], others, 0.9)
    attacks[9] = attack
    signs = stroke_signs(Boundaries(frames, attacks, np.zeros(17)), np.zeros(frames[-1]))
    events = tuple(Segment("note", n.index, n.index, n.index + 1, n.midi, 5.0) for n in score.notes[:16])
    left = absorb_unstruck(Path(events, 0.0), signs, score).events
    assert len(left) == notes
    assert [event.stop for event in left if isinstance(event, Segment) and event.index == held.index] == [
        held.index + (2 if notes == 15 else 1)
    ]


@pytest.mark.parametrize(
    ("own", "around", "away_s", "guessed"),
    [
        (0.3, 0.2, 0.2, True),
        (0.3, 0.01, 0.2, False),
        (0.2, 0.01, 0.2, True),
        (0.7, 0.4, 0.2, False),
        (0.9, 0.8, 0.2, True),
        (0.3, 0.7, 0.03, False),
    ],
    ids=["as weak as what is around it", "stands out", "no sign", "plain", "another is as plain", "the same stroke"],
)
def test_when_a_weak_stroke_came_is_a_guess(own: float, around: float, away_s: float, guessed: bool) -> None:
    """Two notes on each pitch, a second each. Each note has one more boundary, so long after its beginning; only repeated notes ask for a
    stroke."""
    assert _guessed(own, around, away_s, 2) == ({2, 6, 10, 14} if guessed else set())


@pytest.mark.parametrize(("own", "gap_s", "guessed"), [(0.2, 0.1, True), (0.7, 0.1, False), (0.2, 0.3, False)])
def test_after_a_silence_a_beginning_is_plain_and_after_a_gap_it_is_not(
    own: float, gap_s: float, guessed: bool
) -> None:
    """As above, and each note ends at its own boundary, so long before the next begins."""
    assert _guessed(own, 0.01, 1.0 - gap_s, 1) == ({2, 6, 10, 14} if guessed else set())


def _guessed(own: float, around: float, away_s: float, boundaries: int) -> frozenset[int]:
    score = build(Recipe("D", "eighths", 60), "violin")
    times = sorted([float(n) for n in range(9)] + [n + away_s for n in range(8)])
    attacks = np.array([own if time == int(time) else around for time in times])
    signs = stroke_signs(
        Boundaries(np.round(np.array(times) / HOP_S).astype(np.int64), attacks, np.zeros(17)), np.zeros(2000)
    )
    events = tuple(
        Segment("note", n.index, 2 * n.index, 2 * n.index + boundaries, n.midi, 5.0) for n in score.notes[:8]
    )
    return guessed_strokes(Path(events, 0.0), signs, score)
