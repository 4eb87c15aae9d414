"""People, exercises and habits of the demo. Everybody and everything here is made up."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

from attentive_owl.core.exercises import Recipe
from attentive_owl.core.playing import Habits, Room

STUDIO = "Ferry Hall Strings"
FIRST, SECOND = ("Saturday, first boat", "FERRY7"), ("Tuesday, second boat", "FERRY9")
"""Classes: name and code."""
CLASS_CODE = FIRST[1]
TEACHER_NAME = "Marit Oakhaven"
TEACHER_EMAIL = "marit@ferryhall.example"
TEACHER_PASSWORD = "harbour lantern"
ASSISTANT_NAME = "Joost Aalder"
ASSISTANT_EMAIL = "joost@ferryhall.example"
ASSISTANT_PASSWORD = "gangway bucket"
CONSENT_BY = "a parent (demo)"


@dataclass(frozen=True)
class DemoPupil:
    name: str
    instrument: str
    size: str
    passphrase: str
    habits: Habits
    """In the first week; they shrink week by week."""
    room: Room = field(default_factory=lambda: Room(38, 0.25))
    group: tuple[str, str] = FIRST
    also_in: tuple[str, str] | None = None
    quiet_since: int | None = None
    """From this many days from today on nothing is recorded."""
    gets_better: bool = True
    passed: int = 5
    """Of the first steps of the path."""


PUPILS = (
    DemoPupil(
        "Tilde Aske",
        "violin",
        "3/4",
        "otter lantern plum",
        Habits(finger_cents={2: -46}, scatter_cents=6, timing_ms=18),
    ),
    DemoPupil(
        "Oren Vale",
        "violin",
        "1/2",
        "puffin ladder mint",
        Habits(dragging={"eighth": 0.05}, tempo=0.84, scatter_cents=9, timing_ms=25),
    ),
    DemoPupil(
        "Pim Castor",
        "violin",
        "4/4",
        "wren harbour quill",
        Habits(scatter_cents=5, timing_ms=10, vibrato_cents=8),
        passed=7,
    ),
    DemoPupil(
        "Juno Harrow",
        "viola",
        "14 in",
        "maple kettle fox",
        Habits(string_cents={"A": 34}, scatter_cents=8, timing_ms=18),
        also_in=SECOND,
    ),
    DemoPupil(
        "Bas Wetherly",
        "viola",
        "13 in",
        "comet button reed",
        Habits(stops={4: 0.9, 12: 0.7}, scatter_cents=9, timing_ms=22),
        Room(30, 0.45),
    ),
    DemoPupil(
        "Ines Callow",
        "cello",
        "3/4",
        "sail acorn thunder",
        Habits(forgets_key=True, scatter_cents=7, timing_ms=15),
        passed=4,
    ),
    DemoPupil(
        "Rafi Thorne",
        "cello",
        "1/2",
        "biscuit raven pond",
        Habits(scatter_cents=30, missed=(6,), timing_ms=30),
        Room(26, 0.3, 90),
        passed=4,
    ),
    DemoPupil(
        "Magnus Eide",
        "bass",
        "3/4",
        "walnut jetty hood",
        Habits(hand_cents=-34, tempo=0.92, scatter_cents=7, timing_ms=20),
        passed=3,
    ),
    DemoPupil(
        "Wanda Brook",
        "violin",
        "3/4",
        "pebble organ wind",
        Habits(finger_cents={2: -38}, scatter_cents=8, timing_ms=20),
        group=SECOND,
        quiet_since=-30,
        passed=4,
    ),
    DemoPupil(
        "Leo Sandling",
        "cello",
        "3/4",
        "acorn ferry snow",
        Habits(scatter_cents=52, timing_ms=60),
        group=SECOND,
        gets_better=False,
        passed=4,
    ),
    DemoPupil(
        "Nell Quay",
        "violin",
        "1/2",
        "button heron oar",
        Habits(scatter_cents=5, timing_ms=12),
        group=SECOND,
        passed=7,
    ),
    DemoPupil(
        "Otto Reef",
        "bass",
        "3/4",
        "candle moss tide",
        Habits(hand_cents=-20, scatter_cents=8, timing_ms=20),
        group=SECOND,
        passed=4,
    ),
)


@dataclass(frozen=True)
class DemoAssignment:
    recipe: Recipe
    set_in_days: int
    due_in_days: int
    target_bpm: float
    good_repeats: int
    note: str
    pupils: tuple[str, ...] | None = None
    """By instrument; None for everybody."""
    take_days: tuple[int, ...] = ()
    """Days from today on which takes were made."""
    take_bpms: tuple[float, ...] = ()
    """At which rung each of them; the target where none are given."""
    ladder_from_bpm: float | None = None
    week: int = 0
    """How far the habits have shrunk by then."""
    groups: tuple[tuple[str, str], ...] = (FIRST,)


_BOTH = (FIRST, SECOND)
ASSIGNMENTS = (
    DemoAssignment(
        Recipe("D", family="open-string", string="D", tempo_bpm=60), -86, -77, 60, 5, "", None, (-81,), groups=_BOTH
    ),
    DemoAssignment(
        Recipe("D", "quarter-eighths", family="open-string", string="D", tempo_bpm=60),
        -76,
        -66,
        60,
        5,
        "Say the words first.",
        None,
        (-70,),
        groups=_BOTH,
    ),
    DemoAssignment(
        Recipe("D", family="lower-half", tempo_bpm=60),
        -64,
        -52,
        60,
        5,
        "Only as far as the hand goes.",
        None,
        (-58, -54),
        groups=_BOTH,
    ),
    DemoAssignment(Recipe("D", tempo_bpm=60), -50, -38, 60, 5, "", None, (-45, -41), groups=(SECOND,)),
    DemoAssignment(
        Recipe("A", family="lower-half", tempo_bpm=60),
        -36,
        -24,
        60,
        5,
        "One string over.",
        None,
        (-31, -27),
        groups=_BOTH,
    ),
    DemoAssignment(Recipe("D", tempo_bpm=66), -21, -12, 66, 5, "Slow and ringing.", None, (-18, -14)),
    DemoAssignment(
        Recipe("G", tempo_bpm=72), -15, -5, 72, 5, "Sing the half steps before you play them.", None, (-10, -6), week=1
    ),
    DemoAssignment(
        Recipe("G", tempo_bpm=60),
        -15,
        4,
        60,
        5,
        "Slow is right.",
        None,
        (-13, -11, -9, -6, -4, -1),
        week=1,
        groups=(SECOND,),
    ),
    DemoAssignment(
        Recipe("D", "eighths", 72),
        -9,
        3,
        72,
        6,
        "Say the words before you play them.",
        None,
        (-2, -1, -1),
        (54, 60, 60),
        54,
        week=2,
    ),
    DemoAssignment(
        Recipe("A", tempo_bpm=76), -3, 6, 76, 5, "Listen for the open A.", ("violin", "viola"), (-1,), (58,), 58, week=2
    ),
)
HELP = {"Bas Wetherly": "I always stop at the new string."}
"""Pupil -> what help is asked for, with the last go of the week's first exercise."""
FELT = ("right", None, "easy", "right", "too_hard", None)
"""What is said of recent goes, in turn."""

REMARKS = {
    "accepted": (
        "That is a line to be pleased with.",
        "Lovely. Your open strings and your third finger agree now.",
        "Yes. On to the next one.",
    ),
    "once_more": (
        "Nearly there: look at the one place that the page shows you, then send it again.",
        "Once more, a little slower, and listen before each new string.",
    ),
    "come_and_see_me": ("Let us look at this together on Saturday.",),
}


def habits_in_week(pupil: DemoPupil, week: int, recipe: Recipe) -> Habits:
    """The same pupil later on: habits shrink by a fifth a week; what is all or nothing goes after the first. In a line of few notes
    nothing is left out and nowhere is stopped."""
    share = 0.8**week if pupil.gets_better else 1.0
    own = pupil.habits
    whole = recipe.family == "scale"
    per_degree = {"quarters": 1, "eighths": 2}.get(recipe.pattern, 1)
    return replace(
        own,
        finger_cents={finger: cents * share for finger, cents in own.finger_cents.items()},
        hand_cents=own.hand_cents * share,
        scatter_cents=max(own.scatter_cents * share, 4.0),
        timing_ms=max(own.timing_ms * share, 8.0),
        tempo=1.0 - (1.0 - own.tempo) * share,
        forgets_key=own.forgets_key and week == 0 and whole,
        missed=own.missed if week < 2 and whole else (),
        stops={index * per_degree: seconds for index, seconds in own.stops.items()} if week < 3 and whole else {},
    )


LESSONS = (
    (FIRST, 5, (10, 0), 50, "The ferry hall, upper deck"),
    (SECOND, 1, (16, 30), 40, "The ferry hall, engine room"),
)
"""Class, weekday (Monday is 0), begin, minutes, place: every week."""
BREAK = ("Ice days", 26, 33)
"""Name, first and last day from today on."""
PATH = "Middle strings first"
GOALS = {"Tilde Aske": "Play in the harbour concert", "Nell Quay": "Both octaves of G"}
DRAFT = ("Next week", (Recipe("A", tempo_bpm=66), Recipe("G", "quarter-eighths", tempo_bpm=60)))
TEMPLATE = (
    "First weeks",
    (Recipe("D", family="open-string", string="D", tempo_bpm=60), Recipe("D", family="lower-half", tempo_bpm=60)),
)
