"""What a pupil's goes come to on the ladder of an assignment."""

from __future__ import annotations

from collections.abc import Iterable

from attentive_owl.core.planning import Go, Ladder, Standing
from attentive_owl.store.models import Assignment
from attentive_owl.web.summaries import TakeSummary

LISTENED_TO = ("checked", "refused")


def ladder_of(assignment: Assignment) -> Ladder | None:
    if assignment.ladder_from_bpm is None:
        return None
    return Ladder(
        assignment.ladder_from_bpm, assignment.target_bpm, assignment.ladder_step_bpm, assignment.ladder_clean
    )


def standing_on_ladder(rows: Iterable[TakeSummary], assignment: Assignment) -> Standing | None:
    """After all goes at it, the oldest first. Pieces and what was thrown away are no step on it; what is still being listened to says
    nothing yet; with pauses allowed a tempo is neither reached nor missed."""
    ladder = ladder_of(assignment)
    if ladder is None:
        return None
    return ladder.standing(
        Go(row.take.asked_bpm, row.good, max(row.in_a_row, 1))
        for row in rows
        if row.take.bars is None
        and row.take.thrown_away_at is None
        and row.take.state in LISTENED_TO
        and (row.take.mode or assignment.mode) != "pauses"
    )
