"""What the judge says of a scale on the violin, played with some habits."""

from __future__ import annotations

from typing import Any

from attentive_owl.core.exercises import Recipe, Score, build
from attentive_owl.core.judging import Expectations, Report, judge
from attentive_owl.core.playing import Habits
from bench.judging import performance


def scale(tonic: str = "D", pattern: str = "quarters", octaves: int = 1) -> Score:
    return build(Recipe(tonic, pattern, 72, octaves=octaves), "violin")


def heard(score: Score, seed: int = 3, **habits: Any) -> Report:
    return judge(performance(score, Habits(timing_ms=8, **habits), seed), score, Expectations(72))


def kinds(report: Report) -> list[tuple[str, int | None]]:
    return [(cause.kind, cause.finger) for cause in report.causes]
