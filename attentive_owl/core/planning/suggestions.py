"""What might come next for one pupil, and why, in one line: the teacher takes it, changes it or passes over it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from enum import StrEnum

from attentive_owl.core.exercises import (
    Recipe,
    Score,
    look_at,
    same_fingers,
    same_step,
    strings_over,
    what_is_new,
)
from attentive_owl.core.planning.progress import State
from attentive_owl.core.planning.repair import Trouble, trouble_key, warm_up_for

_OFTEN = 2
_LONG_AGO = timedelta(days=28)
_MOST = 3
_LET_REST = timedelta(days=21)


class SuggestionKind(StrEnum):
    """Why something might come next."""

    REPAIR = "repair"
    NEXT = "next"
    SURPRISE = "surprise"
    """Two octaves, each of which is known: to be played without having been practised."""
    AGAIN = "again"


@dataclass(frozen=True)
class StepAhead:
    """One step of a learning path. `key` is that of the same step elsewhere."""

    key: str
    title: str
    recipe: Recipe


@dataclass(frozen=True)
class PassedBefore:
    """A step that was passed, and when it was last played."""

    step: StepAhead
    on: date
    last_played: date


@dataclass(frozen=True)
class Suggestion:
    """What might come next, and why."""

    kind: SuggestionKind
    title: str
    """Of the step; empty: named after its recipe."""
    recipe: Recipe
    reason: str


@dataclass(frozen=True)
class PupilSoFar:
    """What is known of one pupil."""

    path: Sequence[StepAhead] = ()
    behind: int = 0
    """Steps of the path that lie behind."""
    passed: Sequence[PassedBefore] = ()
    now: Mapping[str, State] = field(default_factory=dict)
    """Step that is set -> where the pupil stands with it."""
    troubles: Sequence[tuple[Trouble, Recipe]] = ()
    """Of the takes of the last two weeks, the newest first."""
    known: Collection[str] = ()
    """Hand frames that were brought along."""
    declined: Collection[Recipe] = ()
    """To which the teacher said "not now" of late."""

    def is_declined(self, recipe: Recipe) -> bool:
        return any(same_step(recipe, own) for own in self.declined)


ScoreOf = Callable[[Recipe], Score | None]
"""A recipe on the pupil's instrument; None where it can not be played on it."""


def suggest(pupil: PupilSoFar, score_of: ScoreOf, today: date) -> list[Suggestion]:
    """At most three: what mends what keeps going wrong, the next step of the path, old material that was long away."""
    found = [*_repairs(pupil, score_of), *_next(pupil, score_of), *_again(pupil, today)]
    return found[:_MOST]


def still_declined(on: date, today: date) -> bool:
    """ "Not now" holds for three weeks."""
    return today - on < _LET_REST


def _repairs(pupil: PupilSoFar, score_of: ScoreOf) -> Iterator[Suggestion]:
    """The one thing that is heard most often, if it is heard more than once."""
    counts = Counter(trouble_key(trouble) for trouble, _ in pupil.troubles)
    for key, count in counts.most_common():
        if count < _OFTEN:
            return
        trouble, recipe = next(own for own in pupil.troubles if trouble_key(own[0]) == key)
        mended = warm_up_for(trouble, recipe)
        if mended is not None and score_of(mended) is not None and not pupil.is_declined(mended):
            times = "twice" if count == _OFTEN else f"{count} times"
            yield Suggestion(SuggestionKind.REPAIR, "", mended, f"{trouble.title}: {times} in the last two weeks")
            return


def _next(pupil: PupilSoFar, score_of: ScoreOf) -> Iterator[Suggestion]:
    """The first step ahead that is neither passed nor set; none while something that is set does not move, or where the teacher lets
    that step rest: those behind it build on it."""
    if State.STUCK in pupil.now.values() or State.NOT_PRACTISED in pupil.now.values():
        return
    passed = {own.step.key for own in pupil.passed}
    for step in pupil.path[pupil.behind :]:
        if step.key in passed or step.key in pupil.now:
            continue
        score = score_of(step.recipe)
        if score is None:
            continue
        if pupil.is_declined(step.recipe):
            return
        known = [own.step.recipe for own in pupil.passed] + [own.recipe for own in pupil.path[: pupil.behind]]
        if step.recipe.octaves > 1:
            yield Suggestion(
                SuggestionKind.SURPRISE,
                step.title,
                step.recipe,
                "both octaves are known: let them play it without having practised it",
            )
            return
        yield Suggestion(SuggestionKind.NEXT, step.title, step.recipe, _why(step, score, known, score_of, pupil.known))
        return


def _why(
    step: StepAhead, score: Score, known: Sequence[Recipe], score_of: ScoreOf, frames: Collection[str]
) -> str:  # fmt: skip
    others = [other for recipe in reversed(known) if (other := score_of(recipe)) is not None]
    for other in others:
        where = strings_over(same_fingers(score, other))
        if where:
            return f"the next step: the same fingers, {where}"
    new = what_is_new(look_at(score).features, (look_at(other).features for other in others), frames)
    if not others:
        return "the first step of the path"
    return f"the next step; new in it: {', '.join(new)}" if new else "the next step: nothing in it is new"


def _again(pupil: PupilSoFar, today: date) -> Iterator[Suggestion]:
    """Old material keeps coming back: what has been away for longest."""
    away = [
        own
        for own in pupil.passed
        if today - own.last_played >= _LONG_AGO
        and own.step.key not in pupil.now
        and not pupil.is_declined(own.step.recipe)
    ]
    if away:
        oldest = min(away, key=lambda own: own.last_played)
        weeks = (today - oldest.last_played).days // 7
        yield Suggestion(
            SuggestionKind.AGAIN,
            oldest.step.title,
            oldest.step.recipe,
            f"passed, and not played for {weeks} weeks",
        )
