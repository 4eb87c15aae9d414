"""From what goes wrong to what mends it: for each kind of trouble the warm-up that works on just that (common practice)."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Any

from attentive_owl.core.exercises.patterns import PATTERNS
from attentive_owl.core.exercises.recipe import LineNote, Recipe
from attentive_owl.core.theory import STEPS, KeySignature, Pitch

_BY_DRILL = {
    "finger": "one-finger",
    "one_place": "one-finger",
    "scatter": "landing",
    "sinking": "landing",
    "hand": "walk-up",
    "settling_in": "walk-up",
    "wrong_string": "crossings",
    "crossing": "crossings",
    "crossing_late": "crossings",
    "half_step": "half-steps",
    "octave": "matches",
    "octave_off": "matches",
    "staccato": "long-tones",
    "cut_short": "long-tones",
}
_IN_THE_PATTERN = frozenset({"note_value", "uneven", "rushed", "drift", "bow_late"})
_IN_THE_RESTS = frozenset({"rest", "rest_short", "rest_long"})
_IN_HALF_THE_LINE = frozenset(
    {
        "stop",
        "restart",
        "shift_late",
        "skipped",
        "stray",
        "turned_early",
        "ended_early",
        "joined_late",
        "one_way",
        "direction",
    }
)
_OF_A_NOTE = frozenset({"place", "key_signature", "note"})
_SLOWER = 0.8
_LEAST_TEMPO = 44.0


@dataclass(frozen=True)
class Trouble:
    """What one take shows: a kind of cause (or "note" for a wrong note without one)."""

    kind: str
    title: str
    finger: int | None = None
    string: str | None = None
    note: str | None = None
    """The note that was wrong, with its octave: "F#4"."""


@dataclass(frozen=True)
class HeardTrouble:
    """What one pupil gets wrong, and in which exercise that was heard."""

    pupil: str
    trouble: Trouble
    recipe: Recipe
    """In which it was heard."""


@dataclass(frozen=True)
class SharedTrouble:
    """What several pupils get wrong."""

    title: str
    pupils: tuple[str, ...]
    recipe: Recipe
    """The exercise in which most of them do."""
    warm_up: Recipe | None
    """What mends it; None where it is no matter of practice (a string out of tune)."""


def warm_up_for(trouble: Trouble, recipe: Recipe) -> Recipe | None:
    """A warm-up that works on one trouble in the key of the exercise in which it was heard, a rung slower. None where practice does
    not mend it: an instrument out of tune."""
    tempo_bpm = max(_LEAST_TEMPO, float(round(_SLOWER * recipe.tempo_bpm)))
    slower = replace(recipe, tempo_bpm=tempo_bpm, bars=None, pins=(), line=(), octaves=1, times=1)
    quarters = replace(slower, pattern="quarters", meter="4/4", pickup=False)
    if trouble.kind in _OF_A_NOTE and trouble.note is not None:
        return replace(quarters, family="own", line=_around(Pitch.parse(trouble.note), recipe))
    if trouble.kind in _OF_A_NOTE:
        return replace(quarters, family="lower-half")
    if trouble.kind in _BY_DRILL:
        drill = replace(quarters, family=_BY_DRILL[trouble.kind])
        return replace(drill, finger=trouble.finger or drill.finger, string=trouble.string or drill.string)
    if trouble.kind in _IN_THE_PATTERN:
        return replace(slower, family="open-string", **_fitting(slower.pattern, slower))
    if trouble.kind in _IN_THE_RESTS:
        own = recipe.pattern if "rest" in recipe.pattern else "quarter-rest"
        return replace(slower, family="open-string", **_fitting(own, slower))
    if trouble.kind in _IN_HALF_THE_LINE:
        return replace(slower, family="lower-half", **_fitting(slower.pattern, slower))
    return None


def _fitting(pattern: str, recipe: Recipe) -> dict[str, Any]:
    """A pattern in a meter that it has: an own line may stand in another."""
    meters = PATTERNS[pattern].meters
    return {"pattern": pattern, "meter": recipe.meter if recipe.meter in meters else meters[0], "pickup": False}


def shared(heard: Iterable[HeardTrouble], least: int = 2) -> list[SharedTrouble]:
    """What at least so many pupils get wrong, what most of them do first. A pupil counts once, however often it was heard. Notes are
    counted by name, over all instruments; other troubles by kind and finger."""
    groups: dict[tuple[str, ...], list[HeardTrouble]] = {}
    for own in heard:
        groups.setdefault(trouble_key(own.trouble), []).append(own)
    found = []
    for group in groups.values():
        pupils = tuple(sorted({one.pupil for one in group}))
        if len(pupils) >= least:
            recipe = Counter(one.recipe for one in group).most_common(1)[0][0]
            trouble = next(one.trouble for one in group if one.recipe == recipe)
            if len({one.trouble.string for one in group}) > 1:
                # A string of one of them is not everybody's.
                trouble = replace(trouble, string=None)
            found.append(SharedTrouble(trouble.title, pupils, recipe, warm_up_for(trouble, recipe)))
    return sorted(found, key=lambda own: (-len(own.pupils), own.title))


def trouble_key(trouble: Trouble) -> tuple[str, ...]:
    """By what the same trouble is known again."""
    if trouble.note is not None:
        return "note", trouble.note.rstrip("0123456789")
    return trouble.kind, str(trouble.finger or trouble.string or "")


def _around(note: Pitch, recipe: Recipe) -> tuple[LineNote, ...]:
    """A note between its neighbours in the key: from below, from above, and held."""
    below, above = (_neighbour(note, step, recipe.key) for step in (-1, 1))
    turn = ((below, "2"), (note, "2"), (above, "2"), (note, "2"))
    quick = ((note, "1"), (below, "1"), (note, "1"), (above, "1"), (note, "4"))
    return tuple(LineNote(pitch.name, beats) for pitch, beats in (*turn, *quick))


def _neighbour(note: Pitch, step: int, key: KeySignature) -> Pitch:
    octave, place = divmod(note.diatonic + step, len(STEPS))
    return Pitch(STEPS[place], key.alter(STEPS[place]), octave)
