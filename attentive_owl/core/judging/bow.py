"""What the bow does between and within the notes: rests that sound, staccato that is held."""

from __future__ import annotations

import numpy as np

from attentive_owl.core.exercises import Score
from attentive_owl.core.judging.cause import LEAST_AGREE, Cause
from attentive_owl.core.judging.deviations import Deviation
from attentive_owl.core.listening.performance import Go

_LEAST_RESTS = 2
_LEAST_STACCATO = 4
_HELD = 0.78
"""Share of its time from which a staccato note is not short any more; half is what is played (common practice)."""


def bow_causes(go: Go, score: Score, found: tuple[Deviation, ...]) -> list[Cause]:
    return [*_rests(go, score), *_staccato(found)]


def _rests(go: Go, score: Score) -> list[Cause]:
    """Rests in which the bow went on; the notes are those that stand before them."""
    sounding = [rest for rest, quiet in zip(score.rests, go.rests_quiet, strict=False) if not quiet]
    if len(sounding) < _LEAST_RESTS or len(sounding) < 0.5 * len(score.rests):
        return []
    before = [max((n.index for n in score.notes if n.end_beats <= rest.start_beats), default=0) for rest in sounding]
    detail: dict[str, float | str] = {"rests": len(sounding), "of": len(score.rests)}
    return [Cause("rest", tuple(before), 0.75, detail=detail)]


def _staccato(found: tuple[Deviation, ...]) -> list[Cause]:
    short = [d for d in found if d.note.staccato and d.duration_ratio is not None]
    if len(short) < _LEAST_STACCATO:
        return []
    held = [d for d in short if (d.duration_ratio or 0.0) > _HELD]
    if len(held) < LEAST_AGREE * len(short):
        return []
    share = float(np.median([d.duration_ratio or 0.0 for d in held]))
    return [Cause("staccato", tuple(d.note.index for d in held), 0.8, detail={"percent": round(100 * share, 1)})]
