"""Whose the strokes of a run on one pitch are, on made-up hearings whose answer can be read off the pulse."""

from __future__ import annotations

from dataclasses import dataclass, replace

import pytest

from attentive_owl.core.exercises import LineNote, Recipe, build
from attentive_owl.core.listening.notes.reassignment import settle_missed
from attentive_owl.core.listening.notes.whose import deal_by_plain_strokes

SCORE = build(Recipe("D", "sixteenths-eighths", 60), "cello")
"""Six strokes on each degree, two seconds: at 0, 1/4, 1/2, 3/4, 1 and 3/2."""
WRITTEN = [float(note.start_beats) for note in SCORE.notes]


@dataclass(frozen=True)
class Heard:
    onset_s: float
    midi: float
    offset_s: float = 0.0


def heard(*indices: int, **moved_s: float) -> dict[int, Heard]:
    """Those notes where they are written, but for `n7=0.2` of a second later."""
    own = {index: Heard(WRITTEN[index], float(SCORE.notes[index].midi)) for index in indices}
    for name, later_s in moved_s.items():
        index = int(name.removeprefix("n"))
        own[index] = replace(own[index], onset_s=own[index].onset_s + later_s)
    return own


def test_what_is_heard_in_its_place_stays_and_is_sure() -> None:
    own = heard(*range(24))
    dealt = deal_by_plain_strokes(own, (), {8}, SCORE, 0.0)
    assert dealt.heard == own
    assert (dealt.unsure, dealt.moved, dealt.lost) == (frozenset(), frozenset(), frozenset())


def test_a_plain_stroke_goes_to_the_note_in_whose_time_it_is() -> None:
    """The alignment gave the note after the second degree's first a stroke that was none, and all after it those of their neighbours."""
    late = heard(*range(24), n7=-0.05, n8=0.25, n9=0.25, n10=0.5)
    del late[11]
    dealt = deal_by_plain_strokes(late, (), {7}, SCORE, 0.0)
    in_place = {index for index, item in dealt.heard.items() if item.onset_s == pytest.approx(WRITTEN[index])}
    assert in_place == set(range(24)) - {7, 8}
    assert dealt.moved == {9, 10, 11}
    # The guess lies where its note should, and stays; of the next nothing is left.
    assert 7 in dealt.heard
    assert dealt.lost == {8}
    assert dealt.unsure == frozenset()


def test_where_the_others_are_guesses_nothing_is_moved_and_nothing_said() -> None:
    """A stroke was played for each of them all the same; in whose time the plain ones stand is not theirs."""
    late = heard(*range(24), n7=-0.05, n8=0.25, n9=0.25, n10=0.5)
    del late[11]
    dealt = deal_by_plain_strokes(late, {7}, (), SCORE, 0.0)
    assert (dealt.heard, dealt.unsure) == (late, {8, 9, 10})


def test_a_guess_that_comes_out_of_order_is_lost() -> None:
    """Before the note that stands before it, or after one that a plain stroke went to."""
    for guess_s in (-0.5, 0.65):
        late = heard(*range(24), n7=guess_s, n8=0.25, n9=0.25, n10=0.5)
        del late[11]
        dealt = deal_by_plain_strokes(late, (), {7}, SCORE, 0.0)
        assert (dealt.moved, dealt.lost) == ({9, 10, 11}, {7, 8})


def test_a_plain_stroke_on_a_new_pitch_is_that_of_its_first_note() -> None:
    """Even where it comes late."""
    own = heard(*range(24), n6=0.25)
    assert deal_by_plain_strokes(own, (), {7}, SCORE, 0.0).heard == own


def test_strokes_in_no_order_are_left_where_they_are() -> None:
    """One was kept from before the pupil went back."""
    own = heard(*range(24), n9=-0.4)
    dealt = deal_by_plain_strokes(own, (), {7}, SCORE, 0.0)
    assert (dealt.heard, dealt.unsure) == (own, frozenset())


def test_of_a_long_line_on_one_pitch_nothing_is_dealt() -> None:
    """Half of forty strokes could stand in more places than anybody can ask for."""
    line = tuple(LineNote("D3", "1") for _ in range(40))
    score = build(Recipe("D", tempo_bpm=60, family="own", line=line), "cello")
    own = {n.index: Heard(float(n.start_beats) + 0.5 * (n.index % 4 == 2), float(n.midi)) for n in score.notes}
    dealt = deal_by_plain_strokes(own, (), set(range(1, 40, 2)), score, 0.0)
    assert (dealt.heard, dealt.unsure) == (own, frozenset())
    missing = {index: item for index, item in own.items() if index % 2 == 0}
    assert settle_missed(missing, score) == missing


def test_a_plain_stroke_half_way_between_two_notes_is_of_neither() -> None:
    dealt = deal_by_plain_strokes(heard(*range(24), n7=0.125), (), {8}, SCORE, 0.0)
    assert dealt.unsure == {7}
    # Nearer to the one before, but not clearly.
    quarters = build(Recipe("D", tempo_bpm=60), "violin")
    own = {n.index: Heard(float(n.index), float(n.midi)) for n in quarters.notes} | {8: Heard(7.45, 74.0)}
    dealt = deal_by_plain_strokes(own, (), {7}, quarters, 0.0)
    assert (dealt.heard, dealt.unsure) == (own, {8})
    # Where all others of the run are plain it can be no other.
    assert deal_by_plain_strokes(heard(*range(24), n7=0.125), (), set(), SCORE, 0.0).unsure == frozenset()


def test_where_a_stroke_too_many_stands_for_one_that_was_not_heard_all_of_the_run_is_unsure() -> None:
    """The second is not heard, and something between the fourth and the fifth is taken for one: all between stand under the next number."""
    own = heard(*range(24), n7=0.25, n8=0.25, n9=0.25, n10=0.1)
    dealt = deal_by_plain_strokes(own, (), {11}, SCORE, 0.0)
    assert dealt.unsure == {7, 8, 9, 10}
    assert dealt.heard == own
    # One that comes late is no stroke too many.
    assert deal_by_plain_strokes(heard(*range(24), n10=0.1), (), {11}, SCORE, 0.0).unsure == frozenset()


def test_wrong_notes_in_a_run_are_left_where_they_are() -> None:
    own = heard(*range(24), n7=0.25)
    own[9] = replace(own[9], midi=own[9].midi + 2)
    assert deal_by_plain_strokes(own, (), {8}, SCORE, 0.0).heard == own
    # All of the take a little higher is no wrong note.
    tuned = {index: replace(item, midi=item.midi + 0.9) for index, item in heard(*range(24), n7=0.25).items()}
    assert deal_by_plain_strokes(tuned, (), {8}, SCORE, 0.9).moved == {8}


def test_a_tail_in_a_rest_is_no_stroke() -> None:
    """Of four strokes on the top note, parted by a rest, the third is what rang on after the second, and the fourth stands in its place."""
    score = build(Recipe("D", "eighths-rest", 60), "violin")
    own = {n.index: Heard(float(n.start_beats), float(n.midi)) for n in score.notes}
    own[16], own[17] = replace(own[16], onset_s=own[15].onset_s + 0.5), replace(own[17], onset_s=own[16].onset_s)
    dealt = deal_by_plain_strokes(own, (), {16}, score, 0.0)
    assert dealt.heard[16].onset_s == float(score.notes[16].start_beats)
    assert (dealt.moved, dealt.lost) == ({16}, {17})
    # Though it was the note before the run that rang on, on a pitch of its own.
    other = own | {16: replace(own[16], midi=own[16].midi + 2)}
    assert deal_by_plain_strokes(other, (), {16}, score, 0.0).moved == {16}
