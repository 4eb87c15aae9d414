"""What is played after the line has come to its end, or before it begins, is no fault of the line: practice goes on while the recording runs."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from attentive_owl.core.checking import check
from attentive_owl.core.exercises import LineNote, Recipe, Score, build
from attentive_owl.core.judging import Expectations
from attentive_owl.core.listening import Performance, listen
from attentive_owl.core.listening.alignment.path import Move, Path, Segment
from attentive_owl.core.playing import Habits
from tests.conftest import RATE, played

LINE = build(Recipe("D", tempo_bpm=84), "violin")
OWN = Habits(scatter_cents=6, timing_ms=12)


def of(names: str) -> Score:
    line = tuple(LineNote(name, "1") for name in names.split())
    return build(Recipe("D", tempo_bpm=84, family="own", line=line), "violin")


AFTER = {
    "the second measure": of("A4 B4 C#5 D5"),
    "the third and the fourth": of("D5 C#5 B4 A4 G4 F#4 E4 D4"),
    "the same a fifth lower": build(Recipe("G", tempo_bpm=84), "violin"),
    "the same a whole step lower": build(Recipe("C", tempo_bpm=84), "violin"),
    "its arpeggio": build(Recipe("D", tempo_bpm=84, family="arpeggio"), "violin"),
    "its thirds": build(Recipe("D", tempo_bpm=84, family="thirds"), "violin"),
}


def together(*scores: Score) -> np.ndarray:
    return np.concatenate([played(score, OWN, seed=at) for at, score in enumerate(scores, start=1)])


@pytest.mark.parametrize("after", AFTER)
@pytest.mark.parametrize("first", [True, False], ids=["after it", "before it"])
def test_something_else_beside_a_clean_line_is_no_fault_of_it(after: str, first: bool) -> None:
    scores = (LINE, AFTER[after]) if first else (AFTER[after], LINE)
    own = check(together(*scores), RATE, LINE, Expectations(LINE.tempo_bpm))
    assert own.accepted, own.refusal
    assert own.causes == []
    assert own.good_go is not None
    assert own.good_go.reasons == []


SLIP, SLIPS = {14: 2}, {3: 1, 5: 2, 7: 1, 9: -1, 11: 2}


@pytest.mark.parametrize(
    ("first", "second", "judged"),
    [(SLIP, {3: 1, 9: -1}, 1), (SLIP, SLIPS, 0), ({3: 1, 9: -1}, SLIPS, 1), (SLIPS, SLIPS, 1)],
    ids=["slips", "too many", "after some", "as many"],
)
def test_who_plays_it_twice_is_judged_by_the_second_time(
    first: dict[int, int], second: dict[int, int], judged: int
) -> None:
    """Slips and all, unless it is full of faults, and the first all but clean."""
    takes = [played(LINE, replace(OWN, wrong=wrong), seed=at) for at, wrong in enumerate((first, second), start=1)]
    heard = listen(np.concatenate(takes), RATE, LINE)
    assert isinstance(heard, Performance)
    assert len(heard.passes) == 2
    assert heard.chosen is heard.passes[judged]


def test_a_pass_ends_where_the_line_ends_and_not_before() -> None:
    def parted(origin: int, target: int) -> list[int]:
        path = Path(
            (Segment("note", 0, 0, 1, 62, 5.0), Move(1, origin, target), Segment("note", target, 1, 2, 62, 5.0)),
            0.0,
            16,
        )
        return [len(own) for own in path.passes()]

    assert parted(16, 0) == [1, 1]
    assert parted(8, 0) == [1, 1]
    assert parted(8, 4) == [3]
    # The move stays: it tells where the pass begins.
    assert parted(16, 4) == [1, 2]
