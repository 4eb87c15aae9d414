"""Exercises: one Score type, and the recipes that make one for each instrument."""

from attentive_owl.core.exercises.patterns import PATTERNS, RhythmPattern, pattern
from attentive_owl.core.exercises.scales import ScaleRecipe, build_scale
from attentive_owl.core.exercises.score import Score, ScoreNote, ScoreRest, lay_out

__all__ = [
    "PATTERNS",
    "RhythmPattern",
    "ScaleRecipe",
    "Score",
    "ScoreNote",
    "ScoreRest",
    "build_scale",
    "lay_out",
    "pattern",
]
