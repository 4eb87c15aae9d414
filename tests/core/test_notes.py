"""The notes stage on made-up curves whose answer can be worked out by hand: pitch, ends, octaves, ticks, statuses."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from types import MappingProxyType
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray

from attentive_owl.core.exercises import Direction, Recipe, Score, build
from attentive_owl.core.listening.alignment import readings
from attentive_owl.core.listening.alignment.evidence import Evidence
from attentive_owl.core.listening.alignment.observations import Emission
from attentive_owl.core.listening.alignment.path import Move, Path, Segment
from attentive_owl.core.listening.alignment.readings import idle_moves, line_for, pace_of
from attentive_owl.core.listening.alignment.viterbi import Line
from attentive_owl.core.listening.features.frames import HOP_S
from attentive_owl.core.listening.features.levels import FINE_HOP_S
from attentive_owl.core.listening.features.novelty import Boundaries
from attentive_owl.core.listening.features.pitch_candidates import Candidates
from attentive_owl.core.listening.features.recording_quality import Gate
from attentive_owl.core.listening.notes.absorbing import absorb_held, absorb_octaves, settle_octaves
from attentive_owl.core.listening.notes.intruders import free_intruders
from attentive_owl.core.listening.notes.pitch import Refined, bowed_until, refine
from attentive_owl.core.listening.notes.statuses import Around, passes_of
from attentive_owl.core.listening.notes.strays import strays_of

SCORE = build(Recipe("D", tempo_bpm=60), "violin")
"""A second a note: 62 64 66 67 69 71 73 74 74 73 ..."""


def candidates(midi: NDArray[np.float64]) -> Candidates:
    """One sure candidate a frame."""
    count = len(midi)
    return Candidates(np.arange(count), midi, np.full(count, 0.9), np.full(count, 0.02), count, 0.01)


def level(seconds: float, db: float = -20.0) -> NDArray[np.float64]:
    return np.full(int(seconds / FINE_HOP_S), db)


def pitched(midi: NDArray[np.float64]) -> Refined:
    """A note that fills a whole second on 69."""
    segment = Segment("note", 4, 0, 1, 69, 5.0)
    return refine([segment], [1.0], [0.0], candidates(midi), level(1.0), 0.0)[0]


def test_pitch_is_that_of_the_middle_three_fifths() -> None:
    frames = np.arange(200)
    # The first and the last fifth bend away; between them the pitch rises from 10 cents under to 10 over.
    bent = np.where((frames < 40) | (frames >= 160), 68.5, 69.0 + np.interp(frames, [40, 160], [-0.1, 0.1]))
    assert pitched(bent).midi == pytest.approx(69.0, abs=0.005)


@pytest.mark.parametrize("begins", [0.0, 0.5])
def test_vibrato_is_measured_over_whole_swings(begins: float) -> None:
    time = np.arange(200) * HOP_S
    # Of 4.2 swings a second two and a half lie in the middle: half a swing would pull the median to its side.
    swinging = 69.0 + 0.3 * np.sin(2 * np.pi * (4.2 * (time - 0.2) + begins))
    assert abs(np.median(swinging[40:160]) - 69.0) > 0.05
    assert pitched(swinging).midi == pytest.approx(69.0, abs=0.03)


def test_a_string_rings_on_after_the_bow() -> None:
    falling = np.concatenate([level(0.5), np.linspace(-20, -38, int(0.4 / FINE_HOP_S))])
    # 8 of 18 dB down, of 0.4 s.
    assert bowed_until(0.0, 0.9, falling) == pytest.approx(0.5 + 0.4 * 8 / 18, abs=0.02)
    assert bowed_until(0.0, 0.9, level(0.9)) == pytest.approx(0.9, abs=0.002)
    # A swell that comes back is still the bow's.
    swelling = level(0.9)
    swelling[400:500] -= 12.0
    assert bowed_until(0.0, 0.9, swelling) == pytest.approx(0.9, abs=0.002)


def boundaries(*seconds: float) -> Boundaries:
    count = len(seconds)
    frame = np.round(np.array(seconds) / HOP_S).astype(np.int64)
    return Boundaries(frame, np.full(count, 0.9), np.full(count, 6.0))


def test_a_string_that_speaks_an_octave_away_is_the_note_it_becomes() -> None:
    at = boundaries(0.0, 0.08, 1.0, 1.06)
    speaking, own, dying = (
        Segment("stray", 0, 0, 1, 74, 3.0),
        Segment("note", 0, 1, 2, 62, 6.0),
        Segment("stray", 1, 2, 3, 50, 3.0),
    )
    whole = absorb_octaves(Path((speaking, own, dying), 0.0), at)
    assert whole.events == (replace(own, start=0, stop=3),)
    fifth = replace(speaking, midi=69)
    assert absorb_octaves(Path((fifth, own), 0.0), at).events == (fifth, own)
    # As long as a note, it is one.
    late = boundaries(0.0, 0.5, 1.4)
    assert absorb_octaves(Path((speaking, own), 0.0), late).events == (speaking, own)


def test_a_wrong_note_an_octave_over_its_like_neighbour_is_on_the_same_pitch() -> None:
    """The first of two strokes on a low string, whose fundamental is slow to speak; D is written twice."""
    low = Segment("wrong", 8, 1, 2, 63, 6.0)
    high = Segment("wrong", 7, 0, 1, 75, 3.0)
    assert settle_octaves(Path((high, low), 0.0), SCORE).events == (replace(high, midi=63), low)
    second = replace(low, index=7, start=0, stop=1), replace(high, index=8, start=1, stop=2)
    assert settle_octaves(Path(second, 0.0), SCORE).events == (second[0], replace(second[1], midi=63))
    for other in (
        (replace(high, midi=70), low),
        (replace(high, kind="note", midi=75), low),
        (high, replace(low, kind="note")),
        # C sharp and D are two notes.
        (replace(high, index=6), replace(low, index=7)),
        (high, Move(1, 8, 8), low),
        # D at both ends of the line.
        (replace(high, index=15), replace(low, index=0)),
    ):
        assert settle_octaves(Path(other, 0.0), SCORE).events == other


@pytest.mark.parametrize("first", ["stray", "note"])
def test_a_note_that_is_held_through_a_stop_is_one(first: str) -> None:
    """As long as three, it costs the decoder less as a stray and a note; no stroke stands between the two."""
    kinds = (first, "note" if first == "stray" else "stray")
    path = Path(tuple(Segment(kind, 1, at, at + 1, 67, 9.0) for at, kind in enumerate(kinds)), 0.0)
    struck = boundaries(1.4, 2.9, 3.8)
    assert absorb_held(path, struck).events == path.events
    held = replace(struck, attack=np.array([0.9, 0.1, 0.9]))
    assert absorb_held(path, held).events == (Segment("note", 1, 0, 2, 67, 9.0),)
    # Neither is a note that goes over into another, nor two written ones.
    higher = replace(path, events=(path.events[0], replace(path.events[1], midi=69)))
    both = replace(path, events=tuple(replace(event, kind="note") for event in path.events))
    assert (absorb_held(higher, held), absorb_held(both, held)) == (higher, both)


LIKE = build(Recipe("D", "eighths", tempo_bpm=60), "violin")
"""Half a second a note: 62 62 64 64 66 66 67 67 ..."""


def with_an_intruder(starts: list[float], odd: int, attack: float = 0.55) -> tuple[Path, Boundaries]:
    """The first notes of LIKE as they were aligned, `odd` of them on another pitch; each of `starts` is a boundary. The last but one before its end
    is a stroke inside the last note that was aligned."""
    at = replace(boundaries(*starts), attack=np.array([0.9] * (len(starts) - 2) + [attack, 0.9]))
    count = len(starts) - 2
    events = [
        Segment(
            "wrong" if n == odd else "note", n, n, n + 1 + (n == count - 1), LIKE.notes[n].midi + 3 * (n == odd), 5.0
        )
        for n in range(count)
    ]
    return Path(tuple(events), 0.0), at


@pytest.mark.parametrize("attack", [0.55, 0.9])
def test_what_came_between_like_notes_is_none_of_them(attack: float) -> None:
    """D D E E, and something of 0.4 s before the E: aligned it is the first E, and the two of them, a second together, the other."""
    path, at = with_an_intruder([0.0, 0.5, 1.0, 1.4, 1.9, 2.4], odd=2, attack=attack)
    freed = free_intruders(path, at, LIKE, beat_s=1.0)
    assert [(event.kind, event.index, event.start, event.stop) for event in freed.events if isinstance(event, Segment)] == [
        ("note", 0, 0, 1), ("note", 1, 1, 2), ("stray", 2, 2, 3), ("note", 2, 3, 4), ("note", 3, 4, 5)
    ]  # fmt: skip
    assert [event.midi for event in freed.events if isinstance(event, Segment)] == [62, 62, 67, 64, 64]


@pytest.mark.parametrize(
    ("starts", "odd", "attack"),
    [
        # In time as it is: the bow bounced in the last note.
        ([0.0, 0.5, 1.0, 1.5, 1.7, 2.0], 2, 0.9),
        # No sure stroke: on slow samples there may be one anywhere.
        ([0.0, 0.5, 1.0, 1.4, 1.9, 2.4], 2, 0.45),
        # In the run with the other pitch no note is long.
        ([0.0, 0.5, 1.0, 1.5, 2.0, 2.5, 3.0, 3.5], 2, 0.9),
        # Of the run nothing else was heard.
        ([0.0, 0.5, 1.0, 1.4, 1.9], 2, 0.9),
    ],
)
def test_a_note_on_another_pitch_among_like_ones_is_one(starts: list[float], odd: int, attack: float) -> None:
    path, at = with_an_intruder(starts, odd, attack)
    assert free_intruders(path, at, LIKE, beat_s=1.0) == path


@pytest.mark.parametrize(("next_s", "came_between"), [(2.4, True), (2.15, False)])
def test_the_note_after_the_run_has_a_say(next_s: float, came_between: bool) -> None:
    """Where it comes too soon for two notes, the bow bounced."""
    path, at = with_an_intruder([0.0, 0.5, 1.0, 1.4, 1.9, next_s, 3.0], odd=2)
    first, second, odd, long = (event for event in path.events[:4] if isinstance(event, Segment))
    after = Segment("note", 4, 5, 6, LIKE.notes[4].midi, 5.0)
    path = replace(path, events=(first, second, odd, replace(long, stop=5), after))
    assert (free_intruders(path, at, LIKE, beat_s=1.0) != path) == came_between


@pytest.mark.parametrize(("next_s", "idle"), [(4.0, [2]), (4.9, [2]), (5.1, []), (6.0, [])])
def test_who_goes_back_within_one_pitch_takes_longer(next_s: float, idle: list[int]) -> None:
    """D D E E in halves at 120, and F: the path has E E, back, and E E again. The two of them last two seconds, and as many more where it was so."""
    line = replace(line_for(LIKE, 0), restarts=np.array([0, 2]), step_s=np.full(len(LIKE.notes), 1.0))
    at = boundaries(0.0, 1.0, 2.0, 2.5, 3.0, 3.5, next_s, next_s + 1)
    indices = (0, 1, 2, 3, 2, 3, 4)
    events: list[Segment | Move] = [
        Segment("note", index, n, n + 1, LIKE.notes[index].midi, 5.0) for n, index in enumerate(indices)
    ]
    events.insert(4, Move(4, 4, 2))
    assert idle_moves(Path(tuple(events), 0.0), at, line) == idle
    # With another pitch in between it is going back, however long it takes.
    two = replace(line, midi=np.where(np.arange(len(line.midi)) == 3, 65, line.midi))
    assert idle_moves(Path(tuple(events), 0.0), at, two) == []


@pytest.mark.parametrize(("next_s", "idle"), [(5.5, [2]), (6.5, [])])
def test_the_next_pitch_tells_how_long_a_run_took(next_s: float, idle: list[int]) -> None:
    """D D E E E in seconds, and F: of the E after the return a second trace was taken, which is late."""
    line = replace(line_for(LIKE, 0), restarts=np.array([0, 2]), step_s=np.full(len(LIKE.notes), 1.0))
    line.midi[:6] = [62, 62, 64, 64, 64, 66]
    at = boundaries(0.0, 1.0, 2.0, 2.5, 3.0, 3.5, 5.1, next_s, next_s + 1)
    events: list[Segment | Move] = [
        Segment("note", index, n, n + 1, int(line.midi[index]), 5.0) for n, index in enumerate((0, 1, 2, 3, 2, 3, 4, 5))
    ]
    events.insert(4, Move(4, 4, 2))
    assert idle_moves(Path(tuple(events), 0.0), at, line) == idle
    # A note too many after the last one is none of the line.
    events[-1] = Segment("stray", len(line.midi), 7, 8, 66, 5.0)
    assert idle_moves(Path(tuple(events), 0.0), at, line) == []


def path_of_silence() -> Path:
    """What the reading of nothing takes of what the decoder gives it."""
    at = boundaries(*(0.1 * n for n in range(12)))
    frames = int(at.frame[-1])
    silent = Emission(50, np.zeros((frames, 40)), np.ones(frames), np.zeros((frames, 40)), np.zeros(frames))
    return readings.read(silent, at, SCORE, [0]).path


@pytest.mark.parametrize(("origin", "again", "taken"), [(7, 0, False), (7, 1, True), (10, 0, True)])
def test_a_line_that_is_begun_again_instead_was_not_played_through(
    origin: int, again: int, taken: bool, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The reading with a return begins the line again so many times; the one without begins it again once, from the note at `origin`."""

    def segments(count: int) -> list[Segment]:
        return [Segment("note", n, n, n + 1, 62, 5.0) for n in range(count)]

    back = Path((*segments(6), Move(6, 6, 3), *segments(3), *[Move(9, 9, 0)] * again), 0.0, 10)
    through = Path((*segments(5), Move(5, origin, 0), *segments(5)), 0.0, 10)

    def decoded(evidence: Evidence, line: Line, spread: float) -> Path:
        return back if len(line.restarts) else through

    monkeypatch.setattr(readings, "decode", decoded)
    assert (path_of_silence() == through) == taken


@pytest.mark.parametrize(("onward", "went_back"), [(8, True), (9, False), (10, False)])
def test_nobody_went_back_where_the_line_played_through_holds_as_many_right_notes(
    onward: int, went_back: bool, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A path of nine right notes with a return in it, and one without."""

    def segments(count: int) -> list[Segment]:
        return [Segment("note", n, n, n + 1, 62, 5.0) for n in range(count)]

    back = Path((*segments(6), Move(6, 6, 3), *segments(3)), 0.0)

    def decoded(evidence: Evidence, line: Line, spread: float) -> Path:
        return back if len(line.restarts) else Path(tuple(segments(onward)), 0.0)

    monkeypatch.setattr(readings, "decode", decoded)
    assert readings.goes_back(path_of_silence()) is went_back


@pytest.mark.parametrize(("origin", "target", "back"), [(6, 3, True), (6, 0, False), (3, 6, False)])
def test_beginning_again_and_turning_early_are_no_going_back(origin: int, target: int, back: bool) -> None:
    assert readings.goes_back(Path((Move(2, origin, target),), 0.0)) is back


def test_where_one_of_like_notes_was_not_heard_nothing_is_said_of_what_came_between() -> None:
    """D six times, of which the fifth is missing: which of them the strokes are is then not known."""
    score = build(Recipe("D", "sixteenths-eighths", tempo_bpm=60), "violin")
    at = boundaries(0.0, 0.25, 0.4, 0.65, 0.9, 1.4, 2.0)
    events = [Segment("note", index, n, n + 1, 62, 5.0) for n, index in enumerate((0, 1, 2, 3, 5))]
    events[1] = replace(events[1], kind="wrong", midi=65)
    events[-1] = replace(events[-1], stop=6)
    path = Path(tuple(events), 0.0)
    assert free_intruders(path, at, score, beat_s=1.0) == path


def test_of_two_strokes_inside_that_is_the_next_note_which_keeps_the_pace() -> None:
    """Another at a quarter of the note; and the time that the intruder took is taken out of the pace."""
    path, at = with_an_intruder([0.0, 0.5, 1.0, 1.9, 2.2, 2.4, 2.9], odd=2)
    first, second, odd, last = (event for event in path.events[:4] if isinstance(event, Segment))
    path = replace(path, events=(first, second, odd, replace(last, stop=6)))
    freed = [event for event in free_intruders(path, at, LIKE, beat_s=1.0).events if isinstance(event, Segment)]
    assert [(event.kind, event.start) for event in freed] == [
        ("note", 0),
        ("note", 1),
        ("stray", 2),
        ("note", 3),
        ("note", 5),
    ]


def test_the_pace_is_found_from_the_notes() -> None:
    at = boundaries(*(1.3 * n for n in range(9)))
    path = Path(tuple(Segment("note", n, n, n + 1, SCORE.notes[n].midi, 5.0) for n in range(8)), 0.0)
    assert pace_of(path, at, line_for(SCORE, 0)) == pytest.approx(1.3, abs=0.01)


def heard_by(
    snr_db: float = 40.0,
    support: float = 1.0,
    margin: float = 5.0,
    without: tuple[int, ...] = (),
    quieter: float = 0.0,
    score: Score = SCORE,
    sooner: tuple[int, float] = (0, 0.0),
    not_struck: frozenset[int] = frozenset(),
    soft: tuple[float, ...] = (5,),
    soft_s: float = 1.0,
    wrong: Mapping[int, int] = MappingProxyType({}),
    guessed: frozenset[int] = frozenset(),
    returns_to: int | None = None,
    at: Mapping[int, tuple[float, float]] = MappingProxyType({}),
) -> dict[int, tuple[str, str | None, float, bool]]:
    """Status, reason, confidence and whether its moment is sure of each note of a line on the beat, or `sooner` by so many seconds from one of them on."""
    beat_s, first, by = 60.0 / score.tempo_bpm, *sooner
    begin = {n.index: float(n.start_beats) * beat_s - (by if n.index >= first else 0.0) for n in score.notes}
    long = {n.index: 0.9 * float(n.duration_beats) * beat_s for n in score.notes}
    begin |= {index: begin_s for index, (begin_s, _) in at.items()}
    long |= {index: long_s for index, (_, long_s) in at.items()}
    indices = [n.index for n in score.notes if n.index not in without]
    path = Path(tuple(Segment("note", n, n, n + 1, wrong.get(n, score.notes[n].midi), margin) for n in indices), 0.0)
    if returns_to is not None:
        onward = path.events[returns_to:]
        path = replace(path, events=(*path.events[:returns_to], Move(returns_to, returns_to + 1, returns_to), *onward))
    refined = {
        place: Refined(segment, at := begin[segment.index], at + long[segment.index], float(segment.midi), 2.0, support)
        for place, segment in enumerate(path.events)
        if isinstance(segment, Segment)
    }
    seconds = float(score.end_beats) * beat_s + 1.0
    fine = level(seconds)
    for second in soft:
        fine[int(second / FINE_HOP_S) : int((second + soft_s) / FINE_HOP_S)] -= quieter
    frames = int(seconds / HOP_S)
    silent = Emission(50, np.zeros((frames, 40)), np.ones(frames), np.zeros((frames, 40)), np.zeros(frames))
    gate = Gate(-80.0, -20.0, snr_db, 0.0, ())
    around = Around(0.0, silent, gate, np.array([]), np.array([]), fine, not_struck, guessed)
    (only,) = passes_of(path, refined, score, around)
    return {note.index: (note.status, note.reason, note.confidence, note.moment_sure) for note in only.notes}


def test_what_is_plain_is_surer_than_what_is_not() -> None:
    plain, faint, close = heard_by()[4][2], heard_by(support=0.5)[4][2], heard_by(margin=1.2)[4][2]
    assert plain > 0.9
    assert faint < plain
    assert close < plain
    assert {heard_by(support=0.2)[4][:2], heard_by(margin=0.5)[4][:2]} == {("unclear", "noise"), ("unclear", "pitch")}


@pytest.mark.parametrize(
    ("midi", "guessed", "status"),
    [
        (71, True, ("unclear", "which")),
        (67, True, ("unclear", "which")),
        (71, False, ("wrong_pitch", None)),
        (68, True, ("wrong_pitch", None)),
        (72, True, ("wrong_pitch", None)),
    ],
)
def test_a_guessed_stroke_on_the_pitch_of_a_note_beside_it_is_no_wrong_note(
    midi: int, guessed: bool, status: tuple[str, str | None]
) -> None:
    assert heard_by(wrong={4: midi}, guessed=frozenset({4} if guessed else ()))[4][:2] == status


@pytest.mark.parametrize(("returns_to", "known"), [(None, False), (8, True), (5, False)])
def test_where_the_pupil_went_back_the_pace_tells_nothing(returns_to: int | None, known: bool) -> None:
    """The eighth and the ninth are one pitch, and of the eighth's stroke next to nothing was heard. The tenth comes a second late: so the plain
    one before it is the ninth's, or the eighth's."""
    heard = heard_by(guessed=frozenset({7}), sooner=(9, -1.0), returns_to=returns_to)
    assert heard[8][3] is known


@pytest.mark.parametrize(
    ("how", "eighth", "ninth"),
    [
        ({"soft": (6.55,), "soft_s": 0.4, "quieter": 13.0}, ("played", None, True), ("unclear", "held")),
        ({"not_struck": frozenset({7})}, ("unclear", "held", True), ("unclear", "held")),
        # Its stroke was hardly heard, but there was one for each.
        ({"guessed": frozenset({7})}, ("played", None, False), ("played", None)),
    ],
    ids=["faint", "struck nowhere", "hardly heard"],
)
def test_what_rings_on_is_no_stroke_and_the_next_is_not_called_early(
    how: Mapping[str, Any], eighth: tuple[str, str | None, bool], ninth: tuple[str, str | None]
) -> None:
    """The eighth and the ninth are one pitch. Something rings on after the seventh, and one stroke follows in the eighth's time: it is that, and of
    the ninth nothing is known."""
    heard = heard_by(at={7: (6.6, 0.35), 8: (7.0, 0.9)}, **how)
    assert (*heard[7][:2], heard[7][3]) == eighth
    assert heard[8][:2] == ninth
    assert heard[8][3] is (ninth[0] == "unclear")


@pytest.mark.parametrize(("without", "last"), [((11,), ("missed", None)), ((8, 9, 11), ("unclear", "joined"))])
def test_where_a_short_one_of_a_run_was_lost_which_one_was_is_a_guess(
    without: tuple[int, ...], last: tuple[str, str | None]
) -> None:
    """Four sixteenths and two eighths on each note: sixteenths melt together at this pace, eighths do not."""
    fast = build(Recipe("D", "sixteenths-eighths", tempo_bpm=91), "violin")
    assert heard_by(score=fast, without=without)[11][:2] == last


@pytest.mark.parametrize(
    ("under", "start", "told"),
    [(53.4, 3, [(1.0, 62.0)]), (53.4, 4, [(1.2, 62.0)]), (53.6, 3, [(1.0, 53.6), (1.2, 62.0)])],
    ids=["goes on", "apart", "on the string"],
)
def test_what_seems_to_lie_under_the_lowest_string_begins_a_stray_or_is_none(
    under: float, start: int, told: list[tuple[float, float]]
) -> None:
    low = Refined(Segment("stray", 4, 2, 3, round(under), 5.0), 1.0, 1.2, under, 2.0, 0.9)
    other = Refined(Segment("stray", 4, start, 5, 62, 5.0), 1.2, 1.4, 62.0, 2.0, 0.9)
    assert [(own.onset_s, own.heard_midi) for own in strays_of([low, other], 55.0, None)] == told


def test_of_two_places_for_a_plain_stroke_neither_is_told() -> None:
    heard = heard_by(guessed=frozenset({7}), at={7: (6.8, 0.5), 8: (7.5, 0.5)})
    assert heard[8] == ("played", None, heard[8][2], False)


def test_noise_may_have_hidden_what_a_quiet_room_has_not() -> None:
    assert heard_by(snr_db=40.0, without=(5,))[5][:2] == ("missed", None)
    assert heard_by(snr_db=12.0, without=(5,))[5][:2] == ("unclear", "noise")


@pytest.mark.parametrize(
    ("quieter", "soft", "status"),
    [
        (7.5, (5,), "played"),
        (8.5, (5,), "unclear"),
        # B speaks softly on this string, up and down.
        (11.5, (5, 10), "played"),
        (12.5, (5, 10), "unclear"),
        # All that is around it is as soft.
        (12.5, tuple(range(10)), "played"),
    ],
)
def test_a_note_far_softer_than_its_neighbours_may_be_another_s(
    quieter: float, soft: tuple[int, ...], status: str
) -> None:
    """And so may one that is a little less so, but softer than the same note elsewhere, too."""
    assert heard_by(quieter=quieter, soft=soft)[5][0] == status


def test_short_notes_are_soft_beside_their_neighbours_alone() -> None:
    """Of a quarter nine tenths sound: 0.23 s at 240, 0.32 s at 170."""
    for score, status in ((replace(SCORE, tempo_bpm=240.0), "played"), (replace(SCORE, tempo_bpm=170.0), "unclear")):
        begin = 5 * 60.0 / score.tempo_bpm
        assert heard_by(quieter=9.0, score=score, soft=(begin,), soft_s=60.0 / score.tempo_bpm)[5][0] == status


def test_a_note_that_comes_once_is_soft_beside_its_neighbours_alone() -> None:
    upwards = build(Recipe("D", tempo_bpm=60, direction=Direction.UP), "violin")
    assert [heard_by(quieter=by, score=upwards)[5][0] for by in (11.5, 12.5)] == ["played", "unclear"]


@pytest.mark.parametrize(
    ("tempo_bpm", "quieter", "status"), [(60.0, 8.5, "unclear"), (60.0, 7.5, "played"), (240.0, 8.5, "played")]
)
def test_beside_a_faint_note_on_its_pitch_a_softer_one_may_be_of_the_same_sound(
    tempo_bpm: float, quieter: float, status: str
) -> None:
    """Of the two upper tonics the second is twice as far under the others."""
    beat_s = 60.0 / tempo_bpm
    heard = heard_by(
        quieter=quieter,
        score=replace(SCORE, tempo_bpm=tempo_bpm),
        soft=(7 * beat_s, 8 * beat_s, 8 * beat_s),
        soft_s=beat_s,
    )
    assert (heard[7][0], heard[8][0], heard[6][0]) == (status, "unclear", "played")


def test_where_no_stroke_on_one_pitch_is_heard_none_is_missed() -> None:
    """The upper tonic comes twice."""
    assert heard_by(without=(8,), sooner=(9, 1.0))[8][:2] == ("missed", None)
    assert heard_by(without=(8,), sooner=(9, 1.0), not_struck=frozenset({3}))[8][:2] == ("unclear", "held")
    assert heard_by(without=(5,), not_struck=frozenset({3}))[5][:2] == ("missed", None)


@pytest.mark.parametrize(("tempo_bpm", "status"), [(76.0, "missed"), (160.0, "unclear")])
def test_notes_are_fast_as_they_are_written_and_not_for_the_one_that_is_missing(tempo_bpm: float, status: str) -> None:
    """A quarter and two eighths on one pitch: without the second, and the rest that much sooner, the third follows the first at once."""
    score = replace(build(Recipe("D", "quarter-eighths"), "violin"), tempo_bpm=tempo_bpm)
    assert heard_by(without=(4,), sooner=(5, 60.0 / tempo_bpm), score=score)[4][0] == status
