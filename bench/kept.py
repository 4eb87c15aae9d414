"""What is built of many recipes, and what is judged of many performances, each as a short hash: `python -m bench.kept --write`.

Exercises are kept as recipes, and built again whenever somebody opens them: a rule that moves changes what was set weeks ago.
A test compares each hash with what is made now, so that this happens on purpose; `python -m bench.kept scale:3` or
`python -m bench.kept finger` prints what one of them stands for, before and after a change.
"""

from __future__ import annotations

import argparse
import hashlib
import json
import random
from collections.abc import Callable, Iterator
from dataclasses import fields, is_dataclass, replace
from enum import Enum
from itertools import cycle, islice
from pathlib import Path
from typing import Any

from attentive_owl.core.bowing import plan_bow
from attentive_owl.core.exercises import (
    FAMILIES,
    METERS,
    PATHS,
    PATTERNS,
    STRING_NAMES,
    Bowing,
    BowPart,
    Direction,
    Dynamic,
    Fingers,
    Pin,
    Recipe,
    RecipeError,
    Register,
    Score,
    Way,
    build,
    line_of,
    look_at,
    moves,
    neighbours,
    telling,
    turns_of,
)  # fmt: skip
from attentive_owl.core.exercises.signs import extension_sign, fingers_that_stay, half_steps, low_or_high, note_name
from attentive_owl.core.instruments import (
    INSTRUMENTS,
    FourthFinger,
    Mark,
    UnplayableError,
    checklist,
    place_marks,
    possible_places,
    tuning_care,
)  # fmt: skip
from attentive_owl.core.judging import LEVELS, Expectations, Overruling, Report, judge, overruled, spots, trouble_by_bar
from attentive_owl.core.judging.expectations import GoodGoRule
from attentive_owl.core.judging.findings import FINDINGS
from attentive_owl.core.judging.first_note import walk_to_first_note
from attentive_owl.core.theory import NoteNames, NoteValues, Pitch, ScaleForm, Temperament
from bench.judging import HABITS, PAIRS, case, performance

FILE = Path(__file__).resolve().parent / "kept.json"
_RECIPES = 6
_TONICS = ("C", "G", "D", "A", "E", "F", "Bb", "Eb", "Ab", "B")
_PINS = ((), (Pin("violin", 2, "G", 3), Pin("cello", 1, "C", 2)))
_REGISTERS = ((), (Register("bass", drop_after="never"), Register("violin", start="D5")))
_TAPES = (Mark("first", "amber", 2), Mark("high second", "plum", 4), Mark("third", "own", 5, "#aa3355"))
_STRING_MM = 300.0
_ASKED: tuple[dict[str, Any], ...] = (
    {},
    {"level": LEVELS["secure"], "temperament": Temperament.RINGING, "tapes": _TAPES, "string_length_mm": _STRING_MM},
    {"level": LEVELS["first-steps"], "mode": "pauses", "names": NoteNames.MOVABLE, "focus": "tune"},
    {"mode": "repeats", "a4_hz": None, "values": NoteValues.CROTCHET, "open_strings": {"D": -22.0}, "focus": "time"},
)
"""What four teachers ask, one for each performance of a habit in turn."""
_PERFORMANCES = 8


def plain(value: Any) -> Any:
    """As JSON has it: data classes as their fields, sets in order."""
    if isinstance(value, Enum):
        return value.value
    if is_dataclass(value) and not isinstance(value, type):
        return {own.name: plain(getattr(value, own.name)) for own in fields(value)}
    if isinstance(value, dict):
        return {str(key): plain(own) for key, own in value.items()}
    if isinstance(value, (set, frozenset)):
        return sorted(map(str, value))
    if isinstance(value, (list, tuple)):
        return [plain(own) for own in value]
    if isinstance(value, float):
        # What another processor adds up otherwise, or this one elsewhere in its memory, is the same.
        return round(value, 4)
    return value if value is None or isinstance(value, (str, int, bool)) else str(value)


def recipes(family: str) -> Iterator[Recipe]:
    """Of one family, drawn over all that a recipe can ask; each draw leaves most things as they are."""
    for number in range(_RECIPES):
        drawn = random.Random(f"{family} {number}")
        asked: dict[str, tuple[Any, ...]] = {
            "pattern": tuple(PATTERNS), "meter": METERS, "octaves": (1, 2), "direction": tuple(Direction),
            "bowing": tuple(Bowing), "string": STRING_NAMES, "finger": (1, 2, 3, 4), "rung": (1, 2, 3, 4, 5),
            "rungs": ((), (1, 3, 5)), "times": (1, 2), "wait": (False, True), "pickup": (False, True),
            "top_again": (True, False), "form": tuple(ScaleForm), "fourth_finger": tuple(FourthFinger), "seed": tuple(range(9)),
            "bow_part": tuple(BowPart), "dynamic": tuple(Dynamic), "fingers": tuple(Fingers), "slows": (False, True),
            "ways": ((), tuple(Way)), "bars": (None, (1, 2), (2, 3)), "pins": _PINS, "registers": _REGISTERS,
        }  # fmt: skip
        chosen = {name: drawn.choice(values) for name, values in asked.items() if drawn.random() < 0.35}
        tonic, tempo = drawn.choice(_TONICS), float(drawn.randrange(40, 133))
        try:
            yield Recipe(tonic, family=family, tempo_bpm=tempo, **chosen)
        except RecipeError:
            yield Recipe(tonic, family=family, tempo_bpm=tempo)


def built(family: str) -> Iterator[dict[str, Any]]:
    """What each recipe of a family is on each instrument, with all that is said of it."""
    for recipe in recipes(family):
        yield {key: _line(recipe, key) for key in INSTRUMENTS}


def _line(recipe: Recipe, key: str) -> Any:
    try:
        score = build(recipe, key)
    except (RecipeError, UnplayableError) as error:
        return str(error)
    found, bow = look_at(score), plan_bow(score)
    return plain(
        {
            "score": {own.name: getattr(score, own.name) for own in fields(score)},
            "line": line_of(score), "moves": moves(score), "turns": turns_of(score), "bow": bow, "insight": found,
            "told": telling(score, found, "as it is"), "half steps": half_steps(score), "stay": fingers_that_stay(score),
            "signs": [(low_or_high(score, n), extension_sign(score, n), note_name(score, n)) for n in score.notes],
            "beside": [neighbours(score, n.index, NoteNames.FIXED) for n in score.notes[:3]],
            "walk": walk_to_first_note(score), "part": _part(score),
        }
    )  # fmt: skip


def _part(score: Score) -> Any:
    try:
        return score.only_measures(2, 2).notes
    except ValueError as error:
        return str(error)


def _path(key: str) -> Iterator[dict[str, Any]]:
    yield {"path": plain(next(path for path in PATHS if path.name == key))}


def on_the_string(key: str) -> Iterator[dict[str, Any]]:
    """What is known of an instrument's places, tapes and care."""
    own = INSTRUMENTS[key]
    natural = (f"{step}{octave}" for octave in range(1, 8) for step in "CDEFGAB")
    yield {name: plain(possible_places(own, Pitch.parse(name))) for name in natural}
    yield {
        "itself": plain(own),
        "marks": plain(place_marks(own, _STRING_MM, _TAPES)),
        "check": plain(checklist(own)),
        "care": plain(tuning_care(own)),
    }


def judged(habit: str) -> Iterator[dict[str, Any]]:
    """What is said of a few performances with one habit (the ear's own errors on top), and what the teacher's word makes of it."""
    shown = ((number, made) for number in range(500, 900) if (made := case(habit, number)) is not None)
    for asked, (number, (score, habits)) in islice(zip(cycle(_ASKED), shown, strict=False), _PERFORMANCES):
        report = judge(performance(score, habits, number), score, replace(Expectations(score.tempo_bpm), **asked))
        yield {"report": _said(report), "trouble": trouble_by_bar(report), "spots": plain(spots(report)),
               "overruled": _said(overruled(report, _words(report)))}  # fmt: skip


def _said(report: Report) -> Any:
    """Without the versions: what stays the same is the same in the next one."""
    document = plain(report.to_document())
    return {name: own for name, own in document.items() if name not in ("engine", "ear", "judge")}


def _words(report: Report) -> Iterator[Overruling]:
    for number, says in enumerate(("home", "away", "missed")):
        yield Overruling(says, note_index=number)  # type: ignore[arg-type]
    if report.causes:
        yield Overruling("not_so", cause=report.causes[0].key)


def _rules(_: str) -> Iterator[dict[str, Any]]:
    """By what everything is judged, and in which order it is said."""
    yield {"levels": plain(LEVELS), "good go": plain(GoodGoRule())}
    yield {kind: [own.layer.name, own.rank] for kind, own in FINDINGS.items()}


MAKERS: dict[str, tuple[Callable[[str], Iterator[dict[str, Any]]], str]] = (
    {family: (built, family) for family in FAMILIES}
    | {path.name: (_path, path.name) for path in PATHS}
    | {f"on the {key}": (on_the_string, key) for key in INSTRUMENTS}
    | {"the rules": (_rules, "the rules")}
    | {habit: (judged, habit) for habit in (*HABITS, *PAIRS)}
)


def hashes(name: str) -> list[str]:
    maker, own = MAKERS[name]
    return [hashlib.sha256(json.dumps(made, sort_keys=True).encode()).hexdigest()[:10] for made in maker(own)]


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    options.add_argument("shown", nargs="*", metavar="NAME[:NUMBER]")
    options.add_argument("--write", action="store_true")
    chosen = options.parse_args()
    if chosen.write:
        FILE.write_text(json.dumps({name: hashes(name) for name in MAKERS}, indent=1) + "\n", encoding="utf-8")
    for told in chosen.shown:
        name, _, number = told.partition(":")
        maker, own = MAKERS[name]
        for at, made in enumerate(maker(own)):
            if number in ("", str(at)):
                print(json.dumps(made, indent=1, ensure_ascii=False, sort_keys=True))


if __name__ == "__main__":
    main()
