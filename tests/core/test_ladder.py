"""The tempo ladder, pieces of a line and the best go: by their properties (hypothesis), and by hand."""

from __future__ import annotations

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from attentive_owl.core.planning import Go, Ladder, Played, bars_of, best_of, from_the_end, hardest_first

WHOLE = st.integers(30, 200)


@st.composite
def ladders(draw: st.DrawFn, most_steps: int = 170) -> Ladder:
    first, target = sorted((draw(WHOLE), draw(WHOLE)))
    return Ladder(first, target, draw(st.integers(max(1, (target - first) // most_steps), 30)), draw(st.integers(1, 5)))


GOES = st.lists(st.builds(Go, WHOLE.map(float), st.booleans(), st.integers(1, 4)), max_size=30)


@given(ladders())
def test_rungs_go_up_in_steps_and_end_on_the_target(ladder: Ladder) -> None:
    rungs = ladder.rungs
    assert (rungs[0], rungs[-1]) == (ladder.first_bpm, ladder.target_bpm)
    steps = [after - before for before, after in pairwise(rungs)]
    assert all(0 < step <= ladder.step_bpm + 0.5 for step in steps)


@given(ladders(), GOES)
def test_the_next_rung_is_offered_when_it_is_earned_and_never_over_the_target(ladder: Ladder, goes: list[Go]) -> None:
    own = ladder.standing(goes)
    assert own == ladder.standing(list(goes))
    assert own.bpm in ladder.rungs
    if own.offered_bpm is not None:
        assert own.bpm < own.offered_bpm <= ladder.target_bpm
        assert sum(go.times for go in goes if go.clean) >= ladder.clean_in_a_row
    # A go that was not clean earns nothing, and takes nothing that was earned.
    after = ladder.standing([*goes, Go(own.bpm, False)])
    assert (after.offered_bpm, after.done, after.in_a_row) == (own.offered_bpm, own.done, 0)


@given(ladders(most_steps=12))
def test_whoever_plays_clean_comes_to_the_target_rung_by_rung(ladder: Ladder) -> None:
    goes: list[Go] = []
    climbed = [ladder.standing(goes).bpm]
    while not ladder.standing(goes).done:
        standing = ladder.standing(goes)
        bpm = standing.offered_bpm or standing.bpm
        goes.append(Go(bpm, True))
        if bpm != climbed[-1]:
            climbed.append(bpm)
    assert tuple(climbed) == ladder.rungs
    assert len(goes) == len(ladder.rungs) * ladder.clean_in_a_row


def test_a_ladder_by_hand() -> None:
    """From 60 to 80 by 8, two clean goes in a row: 60, 68, 76, 80."""
    ladder = Ladder(60, 80, 8, 2)
    assert ladder.rungs == (60, 68, 76, 80)
    assert ladder.standing([]).bpm == 60
    one = [Go(60, True)]
    assert (ladder.standing(one).in_a_row, ladder.standing(one).offered_bpm) == (1, None)
    assert ladder.standing([*one, Go(60, False), Go(60, True)]).offered_bpm is None
    two = [*one, Go(60, True)]
    assert (ladder.standing(two).offered_bpm, ladder.standing(two).reached_bpm) == (68, 60)
    # Offered and not taken: it stays on offer. Two in one recording count as two.
    assert ladder.standing([*two, Go(60, False)]).offered_bpm == 68
    assert ladder.standing([Go(60, True, times=2)]).offered_bpm == 68
    # Up without having earned it is the pupil's choice; down again is too.
    assert ladder.standing([Go(76, False)]).bpm == 76
    down = ladder.standing([*two, Go(68, True), Go(60, True)])
    assert (down.bpm, down.in_a_row, down.offered_bpm, down.reached_bpm) == (60, 1, 68, 68)
    top = ladder.standing([Go(80, True), Go(80, True)])
    assert (top.done, top.offered_bpm) == (True, None)
    # Slower than the first rung is no fault.
    assert ladder.standing([Go(44, True)]).bpm == 60


def test_what_is_no_ladder_is_refused() -> None:
    for first, target, step, clean in ((90, 80, 4, 2), (60, 80, 0, 2), (60, 80, 4, 0), (0, 80, 4, 2)):
        with pytest.raises(ValueError, match="ladder"):
            Ladder(first, target, step, clean)


BARS = st.integers(1, 16).map(lambda last: list(range(1, last + 1)))


@given(BARS, st.dictionaries(st.integers(1, 20), st.floats(0, 9)))
def test_pieces_begin_with_the_worst_bar_and_grow(bars: list[int], trouble: dict[int, float]) -> None:
    pieces = hardest_first(trouble, bars)
    inside = {bar: amount for bar, amount in trouble.items() if bar in bars and amount > 0}
    if not inside or len(bars) < 2:
        assert pieces == ()
        return
    (first, last), *_ = pieces
    assert first == last
    assert inside[first] == max(inside.values())
    assert all(bars[0] <= own[0] <= own[1] <= bars[-1] for own in pieces)
    for small, large in pairwise(pieces):
        assert large[0] <= small[0]
        assert large[1] >= small[1]
        assert large != small
    # The whole line is no piece of it.
    assert (bars[0], bars[-1]) not in pieces


def test_pieces_by_hand() -> None:
    assert hardest_first({1: 0.5, 3: 2.0}, [1, 2, 3, 4]) == ((3, 3), (2, 3), (2, 4))
    assert hardest_first({1: 2.0}, [1, 2, 3, 4]) == ((1, 1), (1, 2))
    assert hardest_first({2: 1.0}, [1, 2]) == ((2, 2),)
    assert from_the_end([1, 2, 3]) == ((3, 3), (2, 3))
    assert from_the_end([1]) == ()
    assert bars_of([0, 0, 1, 1, 2]) == [1, 2]


def go(key: str, good: bool = False, bpm: float = 60, share: float = 0.5, judged: bool = True) -> Played:
    return Played(key, judged, good, bpm, share)


def test_the_best_go_is_a_good_one_then_a_faster_then_a_cleaner_then_a_newer() -> None:
    assert best_of([]) is None
    assert best_of([go("refused", judged=False)]) is None
    assert best_of([go("a", share=0.9), go("good", good=True, share=0.8)]) == "good"
    assert best_of([go("fast", good=True, bpm=72), go("slow", good=True, bpm=60, share=1.0)]) == "fast"
    # Faster and not good is not better.
    assert best_of([go("fast", bpm=90, share=0.4), go("slow", share=0.6)]) == "slow"
    assert best_of([go("older"), go("newer")]) == "newer"
