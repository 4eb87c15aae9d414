"""Another pattern than the one that is written, from what is seen at its places, and from the sound to the words."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pytest

from attentive_owl.core.checking import check
from attentive_owl.core.exercises import PATTERNS, Recipe, Score, build, patterns_at
from attentive_owl.core.judging import Expectations, Report
from attentive_owl.core.listening.acceptance.merged_repeats import runs_of
from attentive_owl.core.listening.acceptance.other_pattern import OtherPattern, another_pattern
from attentive_owl.core.listening.acceptance.rhythm_mismatch import places_of
from attentive_owl.core.listening.alignment.path import Path, Segment
from attentive_owl.core.listening.features.frames import HOP_S
from attentive_owl.core.listening.features.novelty import Boundaries
from attentive_owl.core.listening.features.stroke_signs import stroke_signs
from attentive_owl.core.playing import Habits
from tests.conftest import RATE, played


def scale(pattern: str, tempo: float = 60) -> Score:
    meter = {"half-quarter": "3/4"}.get(pattern, "4/4")
    return build(Recipe("D", pattern, tempo, meter=meter), "violin")


def told(
    score: Score,
    shares: Sequence[float],
    dealt: Sequence[int | None],
    *,
    pace: float = 1.0,
    every: int = 1,
    degrees: int | None = None,
    between: bool = False,
    faint: dict[int, float] | None = None,
    sounds: float = 1.0,
    dip_db: float = 8.0,
) -> OtherPattern | None:
    """Strokes at these shares of each degree's time and at its beginning, each dealt to one of the degree's written notes, by its place; None goes
    to the note before, -1 is a stray, -2 is taken for the last note of the degree before, and wrong. every: on so many degrees one has
    them, the others are one long first note. degrees: so many are played. between: after each a stray on another pitch. faint: strokes of a degree that are only so likely, and let no level fall. sounds: the share
    of its time after which the bow stops. dip_db: how far the level falls at each stroke."""
    moments, attack, dips, events = [0], [0.95], [8.0], list[Segment]()

    def step(at: float, likely: float = 0.95) -> int:
        moments.append(round(at / HOP_S))
        attack.append(likely)
        dips.append(dip_db if likely > 0.9 else 0.3)
        return len(moments) - 1

    begin_s = 0.0
    for place, run in enumerate(runs_of(score)[:degrees]):
        notes = [score.notes[index] for index in run]
        following = score.notes[run.stop].start_beats if run.stop < len(score.notes) else score.end_beats
        lasts_s = float(following - notes[0].start_beats) * 60.0 / score.tempo_bpm * pace
        strokes = [0.0, *shares] if place % every == 0 else [0.0]
        start = len(moments) - 1
        for nth, (at, after, to) in enumerate(zip(strokes, [*strokes[1:], 1.0], dealt, strict=False), start=1):
            end = min(after, sounds)
            step(begin_s + lasts_s * (at + end) / 2, 0.02)
            stop = step(begin_s + lasts_s * end, (faint or {}).get(nth, 0.95))
            if to is None:
                events[-1] = Segment(events[-1].kind, events[-1].index, events[-1].start, stop, notes[0].midi, 5.0)
            else:
                kind, index = {-1: ("stray", run.start), -2: ("wrong", run.start - 1)}.get(to, ("note", run.start + to))
                events.append(Segment(kind, index, start, stop, notes[0].midi, 5.0))
            start = stop
        begin_s += lasts_s
        if sounds < 1.0:
            step(begin_s)
        if between:
            start = len(moments) - 1
            step(begin_s + lasts_s / 2, 0.02)
            events.append(Segment("stray", run.stop, start, step(begin_s + lasts_s), 50, 5.0))
            begin_s += lasts_s
    boundaries = Boundaries(np.array(moments), np.array(attack), np.array(dips))
    signs, path = stroke_signs(boundaries, np.full(moments[-1] + 40, -20.0)), Path(tuple(events), 0.0)
    return another_pattern(path, signs, places_of(path, signs, score), score, runs_of(score))


@pytest.mark.parametrize(
    ("pattern", "shares"),
    [
        ("quarters", ()),
        ("eighths", (0.5,)),
        # 62 to 38, two to one, and 35 to 65: uneven, and told as that.
        ("eighths", (0.62,)),
        ("eighths", (2 / 3,)),
        ("eighths", (0.35,)),
        ("quarter-eighths", (0.5, 0.75)),
        # The eighths a third too long.
        ("quarter-eighths", (0.43, 0.715)),
        ("dotted", (0.75,)),
        ("dotted", (0.67,)),
        ("eighth-quarter-eighth", (0.25, 0.75)),
        ("sixteenths-eighths", (0.125, 0.25, 0.375, 0.5, 0.75)),
        ("half-quarter", (2 / 3,)),
    ],
)
def test_what_is_written_is_no_other_pattern_however_uneven(pattern: str, shares: tuple[float, ...]) -> None:
    assert told(scale(pattern), shares, range(9)) is None


@pytest.mark.parametrize(
    ("written", "shares", "dealt", "rhythm", "heard"),
    [
        ("quarter-eighths", (0.25, 0.5), (0, 1, 2), "other", "Two eighths, quarter"),
        ("quarter-eighths", (0.25, 0.75), (0, 1, 2), "other", "Eighth, quarter, eighth"),
        ("eighth-quarter-eighth", (0.5,), (0, 2), "other", "Eighths"),
        ("quarter-eighths", (0.25, 0.5, 0.75), (0, None, 1, 2), "short", "Sixteenths"),
        ("quarter-eighths", (0.125, 0.25, 0.375, 0.5, 0.75), (0, None, -1, -1, 1, 2), "short", "Four sixteenths, two eighths"),
        ("dotted", (0.25, 0.75), (0, None, 1), "short", "Eighth, quarter, eighth"),
        # As many as are written, and one a quarter of the time from its place.
        ("dotted", (0.5,), (0, 1), "other", "Eighths"),
        ("quarters", (0.5,), (-1, 0), "short", "Eighths"),
        ("quarters", (0.75,), (-1, 0), "short", "Dotted eighth, sixteenth"),
    ],
)  # fmt: skip
def test_a_stroke_in_the_middle_of_a_written_note_is_of_another_pattern(
    written: str, shares: tuple[float, ...], dealt: tuple[int | None, ...], rhythm: str, heard: str
) -> None:
    found = told(scale(written), shares, dealt)
    assert found == OtherPattern(rhythm, heard, PATTERNS[written].name, True)


def test_even_notes_for_dotted_ones_are_told_only_where_they_are_plain() -> None:
    assert told(scale("dotted"), (0.5,), (0, 1), dip_db=1.5) is None


def test_another_pattern_of_as_many_strokes_is_told_where_the_tempo_is_far_off_without_it() -> None:
    """Two to one for even notes is uneven, unless it took three times as long: nobody plays so slowly. By hand."""
    half_quarter = OtherPattern("other", "Half note, quarter", "Eighths", True)
    assert told(scale("eighths", 100), (2 / 3,), (0, 1), pace=3.0) == half_quarter
    assert told(scale("eighths", 100), (2 / 3,), (0, 1), pace=2.7) == half_quarter
    # Slow and uneven, or so long as no pattern is.
    for pace in (1.5, 2.0, 2.5, 3.6):
        assert told(scale("eighths", 100), (2 / 3,), (0, 1), pace=pace) is None
    # Half a pattern's time and its own strokes.
    assert told(scale("dotted", 72), (0.75,), (0, 1), pace=0.5) is None
    assert told(scale("half-quarter", 72), (0.75,), (0, 1), pace=2 / 3) is None
    quick = told(scale("half-quarter", 72), (0.75,), (0, 1), pace=1 / 3)
    assert quick == OtherPattern("other", "Dotted eighth, sixteenth", "Half note, quarter", True)


def test_strokes_on_the_next_pitch_are_of_its_degree_whatever_note_they_were_taken_for() -> None:
    """A stroke was lost, and from there on each first one of a degree is taken for the last of the one before, which it is not."""
    score = scale("eighth-quarter-eighth")
    found = told(score, (0.25, 0.5), (-2, 1, 2))
    assert found == OtherPattern("other", "Two eighths, quarter", "Eighth, quarter, eighth", True)


def test_it_is_told_only_where_nearly_all_degrees_have_it() -> None:
    score, shares, dealt = scale("quarter-eighths"), (0.25, 0.5), (0, 1, 2)
    assert told(score, shares, dealt, every=3) is None
    assert told(score, shares, dealt, degrees=5) is None
    short = told(score, shares, dealt, degrees=6)
    assert short is not None
    assert not short.is_whole


def test_a_bow_that_runs_out_in_long_notes_is_no_stroke_of_a_pattern() -> None:
    for pattern, shares, dealt in (("halves", (0.5,), (0, None)), ("half-quarter", (1 / 3, 2 / 3), (0, None, 1))):
        assert told(scale(pattern, 72), shares, dealt) is None
        quick = told(scale(pattern, 100), shares, dealt)
        assert quick is not None
        assert quick.rhythm == "short"
    # Three more are no bow that ran out.
    assert told(scale("halves", 72), (0.25, 0.5, 0.75), (0, None, None, None)) is not None


def test_a_bow_that_stops_early_is_no_stroke_of_a_pattern() -> None:
    """With so much air between the bows its end lies near three quarters of the time to the next."""
    assert told(scale("quarters", 80), (), (0,), sounds=0.78) is None


def test_what_sounds_between_the_degrees_on_another_pitch_is_no_stroke_of_theirs() -> None:
    """Thirds, where a scale is written."""
    assert told(scale("quarters", 100), (), (0,), between=True) is None


def test_strokes_are_missing_where_the_tempo_leaves_no_doubt() -> None:
    """By hand: of a half and a quarter one quarter was played, in a third of the time."""
    score = scale("half-quarter")
    few = told(score, (), (1,), pace=1 / 3)
    assert few == OtherPattern("fewer", None, None, True)
    assert told(score, (), (1,), pace=0.7) is None
    # A stroke that may have been one: in doubt nobody plays so fast.
    assert told(score, (2 / 3,), (0, 1), pace=1 / 3, faint={1: 0.2}) == few
    assert told(score, (2 / 3,), (0, 1), pace=0.45, faint={1: 0.2}) is None
    assert told(score, (2 / 3,), (0, 1), pace=1 / 3) is None
    held = told(scale("quarter-eighths"), (), (0,), pace=0.5)
    assert held is not None
    assert held.rhythm == "long"


def test_what_is_passed_over_was_not_left_out_where_it_stands_out_or_the_bow_stops_early() -> None:
    """Twice as fast is twice as fast."""
    score = scale("quarter-eighths")
    assert told(score, (0.5, 0.75), (0, 1, 2), pace=0.5) is None
    assert told(score, (0.5, 0.75), (0, None, 2), pace=0.5) is None
    assert told(score, (0.5,), (0, 1), pace=0.5) == OtherPattern("fewer", "Eighths", "Quarter, two eighths", True)
    assert told(scale("half-quarter"), (), (1,), pace=0.9, sounds=0.6) is None


def test_one_place_that_no_degree_has_was_not_played_where_the_others_are_plain() -> None:
    score, shares, dealt = scale("sixteenths"), (0.25, 0.5, 0.75), range(4)
    assert told(score, shares, dealt, faint={1: 0.01}) == OtherPattern(
        "fewer", "Eighth, two sixteenths", "Sixteenths", True
    )
    assert told(score, shares, dealt, faint={1: 0.3}) is None
    # A string that speaks slowly hides them all.
    assert told(score, shares, dealt, faint={1: 0.01, 2: 0.01, 3: 0.01}) is None
    assert told(score, shares, dealt, faint={1: 0.01, 2: 0.3, 3: 0.3}) is None
    assert told(score, shares, dealt, faint={1: 0.3, 2: 0.3, 3: 0.3}, pace=0.5) is None
    all_hidden = told(score, shares, dealt, faint={1: 0.01, 2: 0.01, 3: 0.01}, pace=0.5)
    assert all_hidden is not None


def test_a_pattern_is_named_where_none_that_is_like_it_may_have_been_played() -> None:
    """A stroke more that is hardly heard; one between two thirds and three quarters; and one that hardly stands out."""
    score = scale("quarter-eighths")
    assert told(score, (0.25, 0.5, 0.75), (0, 1, 2, None), faint={3: 0.3}) == OtherPattern("other", None, None, True)
    assert told(scale("quarters", 80), (0.71,), (0, None)) == OtherPattern("short", None, None, True)
    assert told(scale("quarters", 80), (0.75,), (0, None), dip_db=1.5) == OtherPattern("short", None, None, True)
    assert told(scale("quarters", 80), (0.75,), (0, None)) == OtherPattern(
        "short", "Dotted eighth, sixteenth", "Quarters", True
    )


def test_a_rest_that_is_left_out_is_no_other_pattern_and_a_stroke_in_it_is() -> None:
    score = scale("eighths-rest")
    assert told(score, (0.5,), (0, 1)) is None
    more = told(score, (0.25, 0.5, 0.75), (0, 1, -1, -1))
    assert more == OtherPattern("short", "Sixteenths", "Two eighths, rest", True)


def test_patterns_are_found_by_where_their_strokes_fall() -> None:
    quarter, eighth = 4, 8
    assert [own.key for own in patterns_at((0.75,), quarter)] == ["dotted", "dotted-eighths"]
    assert [own.key for own in patterns_at((2 / 3,), quarter)] == ["half-quarter"]
    assert [own.key for own in patterns_at((2 / 3,), eighth)] == ["quarter-eighth"]
    assert patterns_at((0.6,), quarter) == []
    # Strokes alone are no pattern with a rest.
    assert [own.key for own in patterns_at((), quarter)] == ["wholes", "halves", "dotted-halves", "quarters"]


def report(written: str, given: str, instrument: str = "viola", tempo: float = 72) -> Report:
    asked, own = (build(Recipe("D", pattern, tempo), instrument) for pattern in (written, given))
    return check(played(own, Habits(scatter_cents=5, timing_ms=12)), RATE, asked, Expectations(tempo))


@pytest.mark.parametrize(
    ("written", "given", "said"),
    [
        ("quarter-eighths", "eighths-quarter", "You played “Two eighths, quarter”, and “Quarter, two eighths” is on your page."),
        ("sixteenths", "quarter-eighths", "You played “Quarter, two eighths”, and “Sixteenths” is on your page."),
        ("eighths-quarter", "eighths", "You played “Eighths”, and “Two eighths, quarter” is on your page."),
        ("quarters", "dotted", "You played “Dotted quarter, eighth”, and “Quarters” is on your page."),
        ("half-quarter", "quarters", "You played fewer notes than are written: quarters and half notes are on your page."),
        ("quarters", "half-quarter", "You played “Half note, quarter”, and “Quarters” is on your page."),
    ],
)  # fmt: skip
def test_from_the_sound_to_the_words(written: str, given: str, said: str) -> None:
    own = report(written, given)
    assert own.refusal is not None, [cause.evidence for cause in own.causes]
    assert own.refusal.code == "another_rhythm"
    assert own.refusal.words.startswith(said)


def test_who_leaves_the_rests_out_is_told_of_the_rests() -> None:
    own = report("eighths-rest", "eighths", "cello")
    assert {cause.kind for cause in own.causes} <= {"rest", "rest_short"}
    assert own.causes
