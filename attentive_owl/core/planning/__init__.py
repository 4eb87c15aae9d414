"""What to practise when and how: the days of a week, the rungs of a tempo ladder, the pieces of a line, and which go to hand in."""

from attentive_owl.core.planning.best import Played, best_of
from attentive_owl.core.planning.calendar import LessonDays, Off, days_off, next_lesson
from attentive_owl.core.planning.chunks import Bars, bars_of, from_the_end, hardest_first
from attentive_owl.core.planning.ladder import FIRST_RUNG_SHARE, Go, Ladder, Standing, first_rung
from attentive_owl.core.planning.minutes import practice_minutes
from attentive_owl.core.planning.over_months import (
    FoundIn,
    HabitOverMonths,
    TakeHeard,
    habits_over_months,
    keys_and_patterns,
)
from attentive_owl.core.planning.progress import GoMade, OnStep, Standpoint, State, is_now, standpoint
from attentive_owl.core.planning.repair import HeardTrouble, SharedTrouble, Trouble, shared, warm_up_for
from attentive_owl.core.planning.suggestions import (
    PassedBefore,
    PupilSoFar,
    StepAhead,
    Suggestion,
    SuggestionKind,
    still_declined,
    suggest,
)
from attentive_owl.core.planning.week import Day, Share, Task, plan

__all__ = [
    "FIRST_RUNG_SHARE",
    "Bars",
    "Day",
    "FoundIn",
    "Go",
    "GoMade",
    "HabitOverMonths",
    "HeardTrouble",
    "Ladder",
    "LessonDays",
    "Off",
    "OnStep",
    "PassedBefore",
    "Played",
    "PupilSoFar",
    "Share",
    "SharedTrouble",
    "Standing",
    "Standpoint",
    "State",
    "StepAhead",
    "Suggestion",
    "SuggestionKind",
    "TakeHeard",
    "Task",
    "Trouble",
    "bars_of",
    "best_of",
    "days_off",
    "first_rung",
    "from_the_end",
    "habits_over_months",
    "hardest_first",
    "is_now",
    "keys_and_patterns",
    "next_lesson",
    "plan",
    "practice_minutes",
    "shared",
    "standpoint",
    "still_declined",
    "suggest",
    "warm_up_for",
]
