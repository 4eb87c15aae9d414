"""Where a pupil stands, what several get wrong and what mends it, and what might come next."""

from __future__ import annotations

from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from attentive_owl.core.exercises import FAMILIES, PATHS, Recipe, RecipeError, Score, build, look_at, title
from attentive_owl.core.instruments import INSTRUMENTS, UnplayableError
from attentive_owl.core.judging import FINDINGS
from attentive_owl.core.planning import (
    GoMade,
    HeardTrouble,
    OnStep,
    PassedBefore,
    PupilSoFar,
    State,
    StepAhead,
    SuggestionKind,
    Trouble,
    shared,
    standpoint,
    suggest,
    warm_up_for,
)

TODAY = date(2026, 3, 20)
D, A, G = Recipe("D", tempo_bpm=60), Recipe("A", tempo_bpm=60), Recipe("G", tempo_bpm=60)


def day(ago: int) -> date:
    return TODAY - timedelta(days=ago)


def goes(*made: tuple[int, bool, float], bpm: float = 60) -> tuple[GoMade, ...]:
    return tuple(GoMade(day(ago), good, share, bpm) for ago, good, share in made)


FLAT = goes((10, False, 0.6), (9, False, 0.62), (6, False, 0.6), (4, False, 0.61), (2, False, 0.6))


@pytest.mark.parametrize(
    ("step", "state", "since"),
    [
        (OnStep(), State.NOT_SET, None),
        (OnStep(day(1), 60), State.SET, None),
        (OnStep(day(3), 60), State.NOT_PRACTISED, day(3)),
        (OnStep(day(9), 60, goes((2, False, 0.5))), State.ON_THE_WAY, None),
        (OnStep(day(9), 60, goes((2, True, 0.95), bpm=54)), State.ON_THE_WAY, None),
        (OnStep(day(9), 60, goes((2, True, 0.95))), State.READY, None),
        (OnStep(day(9), 60, goes((2, False, 0.7)), accepted=True), State.READY, None),
        (OnStep(day(9), 60, FLAT), State.STUCK, day(10)),
        (OnStep(day(9), 60, FLAT[:4]), State.ON_THE_WAY, None),
        (OnStep(day(9), 60, (*FLAT, *goes((1, True, 0.9), bpm=50))), State.ON_THE_WAY, None),
        (OnStep(day(9), 60, FLAT, passed_on=day(1)), State.PASSED, day(1)),
    ],
)
def test_where_a_pupil_stands(step: OnStep, state: State, since: date | None) -> None:
    found = standpoint(step, TODAY)
    assert (found.state, found.since) == (state, since)


def test_who_gets_better_or_has_had_two_days_is_not_stuck() -> None:
    rising = goes((10, False, 0.5), (9, False, 0.55), (6, False, 0.6), (4, False, 0.66), (2, False, 0.7))
    assert standpoint(OnStep(day(11), 60, rising), TODAY).state is State.ON_THE_WAY
    two_days = goes((9, False, 0.6), (9, False, 0.6), (9, False, 0.6), (2, False, 0.6), (2, False, 0.6))
    assert standpoint(OnStep(day(11), 60, two_days), TODAY).state is State.ON_THE_WAY
    few_days = goes((4, False, 0.6), (3, False, 0.6), (2, False, 0.6), (1, False, 0.6), (0, False, 0.6))
    assert standpoint(OnStep(day(11), 60, few_days), TODAY).state is State.ON_THE_WAY


def test_the_best_tempo_is_that_of_a_good_go() -> None:
    made = (*goes((3, True, 0.9), bpm=52), *goes((2, False, 0.9), bpm=80))
    assert standpoint(OnStep(day(5), 90, made), TODAY).best_bpm == 52


def test_each_kind_of_cause_has_its_warm_up_on_every_instrument_or_says_that_practice_mends_nothing() -> None:
    untold = {"string", "instrument"}
    for kind in (own.kind for own in FINDINGS.values()):
        trouble = Trouble(kind, kind, finger=2, string="D")
        made = warm_up_for(trouble, D)
        assert (made is None) == (kind in untold), kind
        if made is not None:
            assert made.tempo_bpm < D.tempo_bpm
            played = [score for key in INSTRUMENTS if (score := on(key, made))]
            assert len(played) == len(INSTRUMENTS), (kind, made.family)


def on(instrument_key: str, recipe: Recipe) -> Score | None:
    try:
        return build(recipe, instrument_key)
    except UnplayableError:
        return None


@given(
    st.sampled_from(sorted(FAMILIES)),
    st.sampled_from([own.kind for own in FINDINGS.values()]),
    st.sampled_from(["6/8", "3/4", "4/4"]),
)
def test_whatever_was_played_what_mends_it_can_be_built(family: str, kind: str, meter: str) -> None:
    made = warm_up_for(Trouble(kind, kind, 1, "D", None), Recipe("G", family=family, meter=meter, tempo_bpm=66))
    if made is not None:
        try:
            assert build(made, "violin").notes
        except UnplayableError:
            assert made.family in ("landing", "crossings", "one-finger")


def test_a_wrong_note_is_practised_between_its_neighbours() -> None:
    made = warm_up_for(Trouble("note", "F sharp", note="F#4"), D)
    assert made is not None
    assert [own.name for own in made.line] == ["E4", "F#4", "G4", "F#4", "F#4", "E4", "F#4", "G4", "F#4"]
    assert float(build(made, "cello").end_beats) == 16
    # In C the note above B is C: the octave turns there.
    turned = warm_up_for(Trouble("note", "B", note="B3"), Recipe("C"))
    assert turned is not None
    assert {own.name for own in turned.line} == {"A3", "B3", "C4"}


def test_what_several_get_wrong_counts_each_pupil_once_and_the_commonest_comes_first() -> None:
    low = Trouble("finger", "Second finger low", finger=2)
    sharp = [Trouble("note", "F sharp on another pitch", note=name) for name in ("F#4", "F#5")]
    heard = [
        HeardTrouble("Ada", low, D), HeardTrouble("Ada", low, D), HeardTrouble("Bo", low, G),
        HeardTrouble("Ada", sharp[0], D), HeardTrouble("Bo", sharp[1], D), HeardTrouble("Cy", sharp[0], D),
        HeardTrouble("Cy", Trouble("finger", "Third finger high", finger=3), D),
    ]  # fmt: skip
    found = shared(heard)
    assert [(own.title, own.pupils) for own in found] == [
        ("F sharp on another pitch", ("Ada", "Bo", "Cy")), ("Second finger low", ("Ada", "Bo")),
    ]  # fmt: skip
    assert found[1].recipe == D
    assert found[1].warm_up is not None
    assert (found[1].warm_up.family, found[1].warm_up.finger, found[1].warm_up.tonic) == ("one-finger", 2, "D")
    assert len(shared(heard, least=1)) == 3


def test_a_string_of_one_of_them_is_not_everybodys() -> None:
    own = [Trouble("scatter", "No fixed place", finger=1, string=string) for string in ("E", "C")]
    heard = [HeardTrouble(pupil, trouble, D) for pupil, trouble in zip(("Ada", "Bo"), own, strict=True)]
    made = shared(heard)[0].warm_up if shared(heard) else None
    # Counted by the finger, whatever the string: all four instruments can play what comes of it.
    assert made is not None
    assert made.string == Recipe("D").string
    assert all(on(key, made) for key in INSTRUMENTS)
    one_string = [HeardTrouble(pupil, own[0], D) for pupil in ("Ada", "Bo")]
    assert shared(one_string)[0].warm_up.string == "E"  # type: ignore[union-attr]


def step(recipe: Recipe) -> StepAhead:
    return StepAhead(title(recipe), title(recipe), recipe)


def violin(recipe: Recipe) -> Score | None:
    return on("violin", recipe)


def passed(recipe: Recipe, ago: int = 5) -> PassedBefore:
    return PassedBefore(step(recipe), day(ago), day(ago))


def kinds(pupil: PupilSoFar) -> list[tuple[SuggestionKind, str]]:
    return [(own.kind, own.reason) for own in suggest(pupil, violin, TODAY)]


PATH = [step(D), step(A), step(G)]


def test_the_next_step_says_why_it_is_next() -> None:
    assert kinds(PupilSoFar(PATH)) == [(SuggestionKind.NEXT, "the first step of the path")]
    assert kinds(PupilSoFar(PATH, passed=[passed(D)])) == [
        (SuggestionKind.NEXT, "the next step: the same fingers, one string over")
    ]
    eighths, half = step(Recipe("D", "eighths", tempo_bpm=60)), step(Recipe("D", family="lower-half", tempo_bpm=60))
    assert kinds(PupilSoFar([step(D), eighths], behind=1)) == [
        (SuggestionKind.NEXT, "the next step; new in it: eighths")
    ]
    assert kinds(PupilSoFar([step(D), half], behind=1)) == [
        (SuggestionKind.NEXT, "the next step: nothing in it is new")
    ]
    flat = suggest(PupilSoFar([step(D), step(Recipe("F"))], behind=1), violin, TODAY)[0]
    # Common practice: F major wants the first finger close to the nut, which D does not.
    new = look_at(build(Recipe("F"), "violin")).features - look_at(build(D, "violin")).features
    assert flat.reason == f"the next step; new in it: {', '.join(sorted(new))}"


def test_nothing_new_while_something_does_not_move() -> None:
    for state in (State.STUCK, State.NOT_PRACTISED):
        assert kinds(PupilSoFar(PATH, now={title(D): state})) == []
    assert kinds(PupilSoFar(PATH, now={title(D): State.READY})) == [(SuggestionKind.NEXT, "the first step of the path")]


def test_what_keeps_going_wrong_comes_first() -> None:
    low, high = Trouble("finger", "Second finger low", finger=2), Trouble("drift", "It slows")
    own = PupilSoFar(PATH, troubles=[(high, D), (low, D), (low, D)], passed=[passed(D)])
    assert kinds(own)[0] == (SuggestionKind.REPAIR, "Second finger low: twice in the last two weeks")
    assert kinds(PupilSoFar(PATH, troubles=[(high, D), (low, D)]))[0][0] is SuggestionKind.NEXT
    # A string out of tune is nobody's warm-up.
    string = (Trouble("string", "A is low", string="A"), D)
    assert kinds(PupilSoFar(PATH, troubles=[string, string]))[0][0] is SuggestionKind.NEXT


def test_two_octaves_are_a_surprise_and_old_friends_come_back() -> None:
    two = step(Recipe("G", octaves=2, tempo_bpm=66))
    found = kinds(PupilSoFar([step(G), two], behind=1, passed=[passed(D, 40), passed(A, 30), passed(G, 3)]))
    assert [own for own, _ in found] == [SuggestionKind.SURPRISE, SuggestionKind.AGAIN]
    assert found[1][1] == "passed, and not played for 5 weeks"
    assert suggest(PupilSoFar(passed=[passed(D, 40), passed(A, 30)]), violin, TODAY)[0].recipe == D


def test_every_path_that_ships_can_be_walked_on_every_instrument() -> None:
    for path in PATHS:
        for key in INSTRUMENTS:
            ahead = [step(recipe) for recipe in path.steps]
            behind: list[StepAhead] = []
            while found := suggest(
                PupilSoFar(ahead, 0, [PassedBefore(s, TODAY, TODAY) for s in behind]), lambda r, k=key: on(k, r), TODAY
            ):
                assert found[0].reason
                behind.append(step(found[0].recipe))
            # What an instrument can not play is passed over; all the rest came, each once.
            playable = {own.key for own in ahead if on(key, own.recipe)}
            assert {own.key for own in behind} == playable
            assert len(behind) == len(playable)


def test_no_recipe_error_is_hidden() -> None:
    with pytest.raises(RecipeError):
        build(Recipe("D", family="nothing"), "violin")
