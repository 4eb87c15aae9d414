"""Whether a take is a try at the exercise, on made-up paths whose shares can be counted by hand."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from attentive_owl.core.exercises import Recipe, Score, build
from attentive_owl.core.listening import Performance, listen
from attentive_owl.core.listening.acceptance.likeness import LEAST_LIKENESS, Likeness, likeness
from attentive_owl.core.listening.acceptance.rhythm_mismatch import (
    SPLIT_LIMIT,
    as_if_held,
    is_split,
    not_struck,
    other_rhythm,
    places_of,
    split_score,
    struck_log_odds,
)
from attentive_owl.core.listening.alignment.path import Move, Path, Segment
from attentive_owl.core.listening.features.levels import level_steps_db
from attentive_owl.core.listening.features.novelty import Boundaries
from attentive_owl.core.listening.features.stroke_signs import StrokeSigns, stroke_signs
from attentive_owl.core.listening.notes.pitch import Refined
from bench.families import RATE, make_take

SCORE = build(Recipe("D", tempo_bpm=60), "violin")
"""62 64 66 67 69 71 73 74 74 73 71 69 67 66 64 62."""
_LONG, _SHORT = 200, 40
"""Frames a note."""


def path_of(*heard: tuple[str, int, int] | Move, frames: int = _LONG) -> tuple[Path, Boundaries]:
    """Notes that follow one another without a gap: kind, written index and pitch of each; every one is struck."""
    events: list[Segment | Move] = []
    at = 0
    for item in heard:
        if isinstance(item, Move):
            events.append(Move(at, item.origin, item.target))
            continue
        kind, index, midi = item
        events.append(Segment(kind, index, at, at + 1, midi, 5.0))
        at += 1
    count = at + 1
    return Path(tuple(events), 0.0), Boundaries(np.arange(count) * frames, np.full(count, 0.9), np.full(count, 8.0))


def right(*indices: int) -> list[tuple[str, int, int]]:
    return [("note", index, SCORE.notes[index].midi) for index in indices]


def measured(path: Path, boundaries: Boundaries, score: Score = SCORE, shift: int = 0) -> Likeness:
    refined = {
        place: Refined(event, 0.0, 1.0, float(event.midi), 1.0, 0.9)
        for place, event in enumerate(path.events)
        if isinstance(event, Segment)
    }
    return likeness(path, refined, np.zeros(int(boundaries.frame[-1])), boundaries, score, shift)


def test_all_that_is_written_is_all_alike() -> None:
    found = measured(*path_of(*right(*range(16))))
    assert (found.coverage, found.explained, found.strange) == (1.0, 1.0, 0.0)
    assert found.probability > 0.99


def test_a_neighbouring_pitch_counts_half_and_a_far_one_nothing() -> None:
    near, far = ("wrong", 1, 65), ("wrong", 1, 70)
    one, two = (measured(*path_of(*right(0), other, *right(*range(2, 16)))) for other in (near, far))
    assert one.coverage == pytest.approx(15.5 / 16)
    assert two.coverage == pytest.approx(15 / 16)
    assert two.explained == pytest.approx(15 / 16)


def test_on_another_string_right_is_what_lies_as_far_away() -> None:
    line = [(kind, index, midi + 7) for kind, index, midi in right(*range(16))]
    line[3] = ("wrong", 3, line[3][2] + 1)
    assert measured(*path_of(*line), shift=7).coverage == pytest.approx(15.5 / 16)


def test_a_note_that_is_held_on_is_no_wrong_second_one() -> None:
    path, boundaries = path_of(*right(0), ("wrong", 1, 62), *right(*range(2, 16)))
    struck = measured(path, boundaries)
    attack = boundaries.attack.copy()
    attack[1] = 0.05
    held = measured(path, Boundaries(boundaries.frame, attack, boundaries.dip))
    assert struck.coverage == pytest.approx(15.5 / 16)
    assert held.coverage == pytest.approx(15 / 16)


def test_the_fullest_go_is_the_one_that_counts() -> None:
    found = measured(*path_of(*right(0, 1, 2), Move(0, 3, 0), *right(*range(16))))
    assert (found.coverage, found.explained, found.strange) == (1.0, 1.0, 0.0)


def test_going_back_to_a_bar_takes_nothing_away_and_leaving_out_does() -> None:
    back = measured(*path_of(*right(*range(8)), Move(0, 8, 4), *right(*range(4, 16))))
    without = measured(*path_of(*right(0, 1, 2, 3, 8, 9, 10, 11, 12, 13, 14, 15)))
    assert back.coverage == 1.0
    assert without.coverage == pytest.approx(12 / 16)
    assert (back.strange, without.strange) == (0.0, pytest.approx(3 / 16))
    assert measured(*path_of(*right(*range(4), *range(5, 16)))).strange == 0.0


def test_what_breaks_off_is_a_try_and_what_is_picked_out_of_something_else_is_not() -> None:
    broken_off = measured(*path_of(*right(*range(6))))
    strays = [("stray", 0, 80)] * 5
    picked = measured(*path_of(*strays, *right(*range(6)), *strays))
    assert broken_off.probability > LEAST_LIKENESS
    assert picked.probability < LEAST_LIKENESS


def test_strange_is_what_no_slip_of_a_finger_makes() -> None:
    """Half a step too high is a slip; a fourth is none, nor is a long note put in; one touched in passing is nothing."""
    slip, leap = (measured(*path_of(*right(0), ("wrong", 1, midi), *right(*range(2, 16)))) for midi in (65, 69))
    put_in = measured(*path_of(*right(0), ("stray", 1, 75), *right(*range(1, 16))))
    before = measured(*path_of(("stray", 0, 75), *right(*range(16))))
    assert (slip.strange, leap.strange) == (0.0, pytest.approx(1 / 16))
    assert (put_in.strange, before.strange) == (pytest.approx(1 / 17), 0.0)


def test_a_piece_out_of_the_middle_of_something_is_strange_and_after_a_pause_it_is_a_try() -> None:
    strays = [("stray", 0, 80)] * 4
    path, boundaries = path_of(*strays, *right(*range(8)), *[("stray", 8, 80)] * 4)
    assert measured(path, boundaries).strange == pytest.approx(8 / 16)
    assert measured(*path_of(*strays, *right(*range(8)))).strange == 0.0
    # From the fifth place on everything is 300 frames later, and the fourth stray still ends where it did.
    later = boundaries.frame + np.where(np.arange(len(boundaries.frame)) >= 4, 300, 0)
    frame = np.insert(later, 4, boundaries.frame[4])
    events = tuple(
        replace(event, start=event.start + (event.start >= 4), stop=event.stop + (event.stop > 4))
        for event in path.events
        if isinstance(event, Segment)
    )
    paused = Boundaries(frame, np.full(len(frame), 0.9), np.full(len(frame), 8.0))
    assert measured(Path(events, 0.0), paused).strange == 0.0


def in_place_of(family: str, shift: int = 0) -> Likeness:
    """What is measured where another exercise is laid on the scale note by note."""
    other = build(Recipe("D", family=family), "violin")
    notes = [note.midi + shift for note in other.notes[: len(SCORE.notes)]]
    line = [("note" if midi == SCORE.notes[at].midi + shift else "wrong", at, midi) for at, midi in enumerate(notes)]
    return measured(*path_of(*line), shift=shift)


def test_a_line_of_the_same_key_that_is_nearer_is_seen() -> None:
    for shift in (0, 7):
        assert in_place_of("arpeggio", shift).nearer > 0.7
        assert in_place_of("thirds", shift).nearer > 0.7
    assert in_place_of("scale").nearer == 0.0


def test_a_poor_try_is_nearest_to_its_own_line() -> None:
    line = right(*range(16))
    for at, by in ((2, -1), (3, -2), (6, 1), (9, 2), (12, -1), (13, 1)):
        line[at] = ("wrong", at, line[at][2] + by)
    found = measured(*path_of(*line))
    assert found.nearer < 0.3
    assert found.strange == 0.0
    assert found.probability > 0.9


def test_what_is_played_first_or_afterwards_is_no_reason_to_refuse() -> None:
    for before, after in ((0, 6), (6, 0)):
        line = [*[("stray", 0, 80)] * before, *right(*range(16)), *[("stray", 16, 80)] * after]
        assert measured(*path_of(*line)).probability > 0.5


def struck(
    score: Score, attack: float, dip_db: float, *, only: int | None = None, step_db: float = 0.0, late: float = 0.0
) -> tuple[Path, StrokeSigns, Score]:
    """Every note from its boundary to the next, with a mark in the middle of each; at repeats (or at every `only`th note alone)
    a stroke is so likely, the level falls so far, and goes on so much higher or lower than before, in turn. late: repeats come so much of a note
    later than written."""
    line = [("note", note.index, note.midi) for note in score.notes]
    path, whole = path_of(*line, frames=_SHORT)
    events = tuple(
        replace(event, start=2 * event.start, stop=2 * event.stop)
        for event in path.events
        if isinstance(event, Segment)
    )
    frame = np.arange(2 * len(whole.frame) - 1) * _SHORT // 2
    attacks, dips = np.full(len(frame), 0.05), np.full(len(frame), 0.5)
    for note in score.notes:
        at = 2 * note.index
        repeats = note.index > 0 and score.notes[note.index - 1].midi == note.midi
        here = (attack, dip_db) if repeats and (only is None or note.index % only) else (0.9, 8.0)
        attacks[at], dips[at] = here
        frame[at] += int(late * _SHORT) if repeats else 0
    level = np.repeat(step_db * (np.arange(len(score.notes)) % 2), _SHORT)
    return Path(events, 0.0), stroke_signs(Boundaries(frame, attacks, dips), level), score


def rhythm_of(path: Path, signs: StrokeSigns, score: Score, pace: float = 1.0) -> str | None:
    return other_rhythm(path, signs, places_of(path, signs, score), score, pace)


def test_repeated_notes_without_strokes_are_long_notes() -> None:
    score = build(Recipe("D", "eighths", 66), "violin")
    assert rhythm_of(*struck(score, 0.02, 0.5)) == "long"
    assert rhythm_of(*struck(score, 0.7, 4.0)) is None
    # Where nothing marks a stroke but a clear fall of the level at every repeat, it was struck.
    assert rhythm_of(*struck(score, 0.1, 6.0)) is None
    # Or a level of its own for every stroke.
    assert rhythm_of(*struck(score, 0.02, 0.5, step_db=6.0)) is None


@pytest.mark.parametrize(
    ("pattern", "pace", "so"),
    [
        # A beat for the two beats of each degree: one quarter for a quarter and two eighths.
        ("quarter-eighths", 0.5, True),
        ("quarter-eighths", 0.62, True),
        ("quarter-eighths", 0.64, False),
        ("quarter-eighths", 0.4, True),
        # Less than a quarter for each of them is no long note.
        ("quarter-eighths", 0.38, False),
        ("half-quarter", 1 / 3, False),
        ("half-quarter", 0.55, True),
        ("sixteenths-eighths", 0.5, True),
        ("eighths", 1.0, False),
        # Nothing is repeated but the top.
        ("quarters", 0.5, True),
    ],
)
def test_a_line_goes_by_as_if_each_run_were_one_long_note(pattern: str, pace: float, so: bool) -> None:
    assert as_if_held(pace, build(Recipe("D", pattern), "violin")) is so


def test_where_it_goes_by_so_faint_strokes_are_none() -> None:
    """In time, or too fast for that, they are left to the teacher."""
    score = build(Recipe("D", "quarter-eighths"), "violin")
    path, signs, _ = struck(score, 0.1, 3.0)
    odds = struck_log_odds(places_of(path, signs, score), score)
    assert odds is not None
    assert -5.0 < odds < -2.0
    assert [rhythm_of(path, signs, score, pace) for pace in (1.0, 0.5, 0.3)] == [None, "long", None]


def test_where_every_second_stroke_is_left_out_long_notes_were_played_too() -> None:
    score = build(Recipe("D", "sixteenths", 66), "violin")
    halved = struck(score, 0.02, 0.5, only=2)
    assert rhythm_of(*halved) == "long"
    # The upper tonic comes twice in a row: its run is another one, and comes too seldom to be told.
    tonic = max(note.midi for note in score.notes)
    assert not_struck(places_of(*halved)) == {
        note.index for note in score.notes if note.index % 2 and note.midi < tonic
    }
    assert not_struck(places_of(*struck(score, 0.9, 8.0))) == frozenset()


@pytest.mark.parametrize(("late", "unheard"), [(0.0, False), (0.25, False), (0.35, True)])
def test_a_stroke_is_looked_for_where_the_pattern_is_played_too(late: float, unheard: bool) -> None:
    """Eighths 62 to 38 are struck as surely as even ones; further off, two cuts may share one stroke."""
    path, signs, score = struck(build(Recipe("D", "eighths", 66), "violin"), 0.15, 2.0, late=late)
    assert bool(not_struck(places_of(path, signs, score))) is unheard


def split(
    at: float, probability: float, notes: int, dip_db: float = 8.0, length: int = 150, step_db: float = 0.0
) -> bool:
    """One stroke inside each of so many notes, at one share of it, or at a new place in each where `at` is below zero; from there on the note
    is louder by so much."""
    frames, attack, dips, level = [0], [0.9], [8.0], np.zeros(notes * length)
    events = []
    for index in range(notes):
        share = at if at >= 0 else 0.16 + 0.7 * ((index * 0.382) % 1.0)
        frames += [index * length + int(share * length), (index + 1) * length]
        attack += [probability, 0.9]
        dips += [dip_db, 8.0]
        level[frames[-2] : frames[-1]] = step_db
        events.append(Segment("note", index, 2 * index, 2 * index + 2, 62, 5.0))
    boundaries = Boundaries(np.array(frames), np.array(attack), np.array(dips))
    return is_split(Path(tuple(events), 0.0), stroke_signs(boundaries, level))


def test_strokes_inside_the_notes_are_another_rhythm_where_they_keep_their_place() -> None:
    assert split(0.5, 0.95, 16)
    assert not split(-1, 0.95, 16)


def test_a_click_in_every_note_lets_no_level_fall() -> None:
    assert not split(0.5, 0.95, 16, dip_db=0.5)


def test_a_step_of_the_level_is_sudden() -> None:
    """By hand: half a second at one level, then half a second 6 dB lower; and a swell of 6 dB over a second."""
    at = np.full(100, -20.0)
    steps = level_steps_db(np.concatenate([at, at - 6.0]))
    assert steps[100] == pytest.approx(6.0)
    assert steps[50] == steps[150] == 0.0
    assert level_steps_db(at[:10]).tolist() == [0.0] * 10
    assert level_steps_db(np.linspace(-26.0, -20.0, 200)).max() < 0.5


def test_a_stroke_is_known_by_its_own_level_and_a_swell_is_no_stroke() -> None:
    assert split(0.5, 0.6, 16, dip_db=0.5, step_db=3.0)
    assert not split(0.5, 0.01, 16, dip_db=0.5, step_db=3.0)
    assert not split(-1, 0.6, 16, dip_db=0.5, step_db=3.0)


def test_slow_notes_that_swell_twice_are_not_split() -> None:
    """As measured on sampled violin notes of a second: in each a surer place, a fall of 2 dB and hardly a step half way."""
    assert split_score(np.array([[1.5, 1.9, 0.4]])) < SPLIT_LIMIT
    assert split_score(np.array([[1.5, 1.9, 1.4]])) > SPLIT_LIMIT


def test_a_bow_that_stops_inside_every_note_is_no_stroke() -> None:
    assert not split(0.66, 0.9, 16, dip_db=0.5, step_db=-40.0)


def test_what_is_marked_near_the_end_of_a_note_is_the_next_bow() -> None:
    """With air between the bows the old one stops some 90 ms before the note that follows was found to begin."""
    assert not split(0.76, 0.95, 16, length=75)
    assert split(0.75, 0.95, 16, length=150)


def test_one_stroke_more_in_a_slow_note_is_a_bow_that_ran_out() -> None:
    assert not split(0.5, 0.95, 16, length=400)
    assert not split(0.5, 0.95, 5)


def test_an_octave_counts_less_where_the_string_speaks_plainly_elsewhere() -> None:
    """A string that whistles is no other exercise; one that plays an octave where it could speak may well be."""
    path, boundaries = path_of(*right(*range(9)))

    def in_octaves(*places: int) -> Likeness:
        segments = [event for event in path.events if isinstance(event, Segment)]
        events = tuple(replace(segment, at_partial=place in places) for place, segment in enumerate(segments))
        return measured(Path(events, 0.0), boundaries)

    assert in_octaves(*range(9)).coverage == pytest.approx(9 / 16)
    # The eighth and the ninth note are both the upper tonic.
    assert in_octaves(8).coverage == pytest.approx(8.5 / 16)


@pytest.mark.parametrize("seed", range(900, 908))
def test_poor_tries_are_heard(seed: int) -> None:
    """Two to four notes in ten wrong, others left out or put in, with stops: still a try at the exercise."""
    take = make_take("poor but true", seed)
    assert isinstance(listen(take.sound, RATE, take.score), Performance)
