"""Which take wants an ear, and which of its spots are worth hearing."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from attentive_owl.core.judging import NeedKind, WaitingTake, need_of, spots, usual
from attentive_owl.core.judging.report import ReportExtra, ReportStop
from tests.web.desk import cause, note, report

GOOD = WaitingTake("checked", good=True, home_share=0.95, notes=16)
USUAL = usual([0.9, 0.92, 0.95, 0.93])


@pytest.mark.parametrize(
    ("changes", "kind", "why"),
    [
        ({}, NeedKind.PLAIN, ""),
        ({"asks_for_help": True, "too_hard": True}, NeedKind.HELP, "asks for help; too hard, they say"),
        ({"state": "stuck"}, NeedKind.UNCLEAR, "the check did not come through"),
        ({"state": "refused", "refusal": "voices"}, NeedKind.REFUSED, "not judged: voices"),
        ({"unclear": 6}, NeedKind.UNCLEAR, "6 of 16 notes not sure"),
        ({"unclear": 5}, NeedKind.PLAIN, ""),
        ({"untimed": 6, "good": False}, NeedKind.UNCLEAR, "6 notes could not be timed"),
        ({"untimed": 3, "unclear": 3, "good": False}, NeedKind.UNCLEAR, "3 notes could not be timed, 3 not sure"),
        ({"untimed": 5, "good": False}, NeedKind.LOOK, "not a good go yet"),
        ({"untimed": 6, "wrong": 1}, NeedKind.WRONG_NOTES, "1 note on another pitch"),
        ({"wrong": 1}, NeedKind.WRONG_NOTES, "1 note on another pitch"),
        ({"wrong": 4, "causes": [("drift", "It slows"), ("place", "Second finger")]}, NeedKind.WRONG_NOTES, "Second finger"),
        ({"good": False, "causes": [("drift", "It slows")]}, NeedKind.LOOK, "It slows"),
        ({"good": False}, NeedKind.LOOK, "not a good go yet"),
        ({"usual": USUAL, "home_share": 0.72}, NeedKind.UNUSUAL, "far below the usual: 72 % of the notes at home, 92 % as a rule"),
        ({"usual": USUAL, "home_share": 0.74}, NeedKind.PLAIN, ""),
        ({"state": "checking", "asks_for_help": True}, NeedKind.CHECKING, "being checked"),
    ],
)  # fmt: skip
def test_the_weightiest_reason_is_the_need(changes: dict[str, object], kind: NeedKind, why: str) -> None:
    need = need_of(replace(GOOD, **changes))  # type: ignore[arg-type]
    assert (need.kind, need.why) == (kind, why)


def test_better_than_usual_is_unusual_too_and_a_wide_habit_widens_it() -> None:
    low = usual([0.5, 0.52, 0.51, 0.5])
    assert need_of(replace(GOOD, usual=low)).why.startswith("far above the usual")
    wide = usual([0.4, 0.6, 0.7, 0.9])
    assert need_of(replace(GOOD, usual=wide)).kind is NeedKind.PLAIN
    assert usual([0.5, 0.5, 0.5]) is None


def test_the_order_is_help_first_and_plain_last() -> None:
    ranks = [own.rank for own in (NeedKind.HELP, NeedKind.UNCLEAR, NeedKind.REFUSED, NeedKind.WRONG_NOTES)]
    assert ranks == sorted(ranks)
    assert NeedKind.WRONG_NOTES.rank < NeedKind.UNUSUAL.rank < NeedKind.LOOK.rank < NeedKind.PLAIN.rank


def test_spots_are_the_places_of_the_causes_and_no_more() -> None:
    assert spots(report()) == []
    assert spots(report(refusal="silence", causes=[cause("drift")])) == []
    found = spots(report(good=False, causes=[cause("finger", (2, 7, 13), title="Second finger low")]))
    # Note 2 sounds from 1.0 to 1.45 s, note 7 from 3.5 to 3.95.
    assert [(own.start_s, own.end_s, own.words) for own in found] == [
        (0.5, 1.8, "Second finger low"), (3.0, 4.3, "Second finger low"),
    ]  # fmt: skip


def test_runs_of_wrong_notes_stops_and_strays_are_heard_once() -> None:
    made = report(good=False, wrong=["F4", "F4"])
    made = replace(
        made,
        extras=[ReportExtra(7.0, 7.3, 60.0, 14)],
        tempo=replace(made.tempo, stops=[ReportStop(9, 3, 1.0, 1.2, False)]),
    )
    assert [own.words for own in spots(made)] == ["another note", "a stop", "a note too many"]
    first = spots(made)[0]
    assert (first.start_s, first.end_s) == (0.0, 1.3)


@given(st.lists(st.tuples(st.integers(0, 15), st.integers(0, 15)), max_size=6))
def test_spots_never_overlap_and_are_short(pairs: list[tuple[int, int]]) -> None:
    found = spots(report(good=False, causes=[cause("stop", sorted(pair)) for pair in pairs]))
    assert len(found) <= 4
    for one, two in pairwise(found):
        assert one.end_s <= two.start_s
    assert all(0 < own.end_s - own.start_s <= 5.0 for own in found)


def test_a_note_that_was_not_heard_has_no_spot() -> None:
    made = report(good=False, causes=[cause("skipped", (4,))])
    silent = replace(note(4, "missed"), onset_s=None, offset_s=None)
    assert spots(replace(made, notes=[*made.notes[:4], silent, *made.notes[5:]])) == []


def test_a_short_note_is_heard_with_the_air_around_it_and_no_longer() -> None:
    made = replace(report(good=False), extras=[ReportExtra(3.0, 3.1, 60.0, 6)])
    assert [(own.start_s, own.end_s) for own in spots(made)] == [(2.5, 3.45)]
