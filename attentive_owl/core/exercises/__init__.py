"""Exercises: one Score type, and the recipes that make one for each instrument."""

from attentive_owl.core.exercises.building import build, possible_starts, title
from attentive_owl.core.exercises.families import FAMILIES, Family, family
from attentive_owl.core.exercises.insight import (
    FRAMES,
    Insight,
    frames_for,
    look_at,
    neighbours,
    same_fingers,
    strings_over,
    telling,
    what_is_new,
)
from attentive_owl.core.exercises.lines import Line, line_of, lines_in
from attentive_owl.core.exercises.moves import moves
from attentive_owl.core.exercises.paths import PATHS, LearningPath
from attentive_owl.core.exercises.patterns import METERS, PATTERNS, RecipeError, RhythmPattern, pattern
from attentive_owl.core.exercises.recipe import (
    HIGHEST_TEMPO_BPM,
    LOWEST_TEMPO_BPM,
    STRING_NAMES,
    USUAL_SIGNS,
    Bowing,
    BowPart,
    Direction,
    Dynamic,
    Ease,
    Fingers,
    LineNote,
    Pin,
    Recipe,
    Register,
    Sign,
    Way,
)
from attentive_owl.core.exercises.score import Score, ScoreNote, ScoreRest, lay_out
from attentive_owl.core.exercises.turning import turns_of

__all__ = [
    "FAMILIES",
    "FRAMES",
    "HIGHEST_TEMPO_BPM",
    "LOWEST_TEMPO_BPM",
    "METERS",
    "PATHS",
    "PATTERNS",
    "STRING_NAMES",
    "USUAL_SIGNS",
    "BowPart",
    "Bowing",
    "Direction",
    "Dynamic",
    "Ease",
    "Family",
    "Fingers",
    "Insight",
    "LearningPath",
    "Line",
    "LineNote",
    "Pin",
    "Recipe",
    "RecipeError",
    "Register",
    "RhythmPattern",
    "Score",
    "ScoreNote",
    "ScoreRest",
    "Sign",
    "Way",
    "build",
    "family",
    "frames_for",
    "lay_out",
    "line_of",
    "lines_in",
    "look_at",
    "moves",
    "neighbours",
    "pattern",
    "possible_starts",
    "same_fingers",
    "strings_over",
    "telling",
    "title",
    "turns_of",
    "what_is_new",
]
