"""People, exercises and habits of the demo. Everybody and everything here is made up."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

from attentive_owl.core.exercises import Recipe
from attentive_owl.core.playing import Habits, Room

STUDIO = "Ferry Hall Strings"
CLASS_NAME = "Saturday, first boat"
CLASS_CODE = "FERRY7"
TEACHER_NAME = "Marit Oakhaven"
TEACHER_EMAIL = "marit@ferryhall.example"
TEACHER_PASSWORD = "harbour lantern"
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
        "Pim Castor", "violin", "4/4", "wren harbour quill", Habits(scatter_cents=5, timing_ms=10, vibrato_cents=8)
    ),
    DemoPupil(
        "Juno Harrow",
        "viola",
        "14 in",
        "maple kettle fox",
        Habits(string_cents={"A": 34}, scatter_cents=8, timing_ms=18),
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
        "Ines Callow", "cello", "3/4", "sail acorn thunder", Habits(forgets_key=True, scatter_cents=7, timing_ms=15)
    ),
    DemoPupil(
        "Rafi Thorne",
        "cello",
        "1/2",
        "biscuit raven pond",
        Habits(scatter_cents=30, missed=(6,), timing_ms=30),
        Room(26, 0.3, 90),
    ),
    DemoPupil(
        "Magnus Eide",
        "bass",
        "3/4",
        "walnut jetty hood",
        Habits(hand_cents=-34, tempo=0.92, scatter_cents=7, timing_ms=20),
    ),
)


@dataclass(frozen=True)
class DemoAssignment:
    recipe: Recipe
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


ASSIGNMENTS = (
    DemoAssignment(Recipe("D", tempo_bpm=66), -12, 66, 5, "Slow and ringing.", None, (-18, -14)),
    DemoAssignment(Recipe("G", tempo_bpm=72), -5, 72, 5, "Sing the half steps before you play them.", None, (-10, -6)),
    DemoAssignment(
        Recipe("D", "eighths", 72),
        3,
        72,
        6,
        "Say the words before you play them.",
        None,
        (-2, -1, -1),
        (54, 60, 60),
        54,
    ),
    DemoAssignment(
        Recipe("A", tempo_bpm=76), 6, 76, 5, "Listen for the open A.", ("violin", "viola"), (-1,), (58,), 58
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


def habits_in_week(pupil: DemoPupil, week: int, scale: Recipe) -> Habits:
    """The same pupil later on: habits shrink by a fifth a week; what is all or nothing goes after the first."""
    share = 0.8**week
    own = pupil.habits
    per_degree = {"quarters": 1, "eighths": 2}[scale.pattern]
    return replace(
        own,
        finger_cents={finger: cents * share for finger, cents in own.finger_cents.items()},
        hand_cents=own.hand_cents * share,
        scatter_cents=max(own.scatter_cents * share, 4.0),
        timing_ms=max(own.timing_ms * share, 8.0),
        tempo=1.0 - (1.0 - own.tempo) * share,
        forgets_key=own.forgets_key and week == 0,
        missed=own.missed if week < 2 else (),
        stops={index * per_degree: seconds for index, seconds in own.stops.items()} if week < 3 else {},
    )
