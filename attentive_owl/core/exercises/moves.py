"""What has to be done between two notes: a rest to be counted, a shift, another string, a new bow."""

from __future__ import annotations

from itertools import pairwise

from attentive_owl.core.exercises.score import Score


def shifts(score: Score) -> tuple[int, ...]:
    """Index of each note before which the hand moves to another position."""
    found: list[int] = []
    position: str | None = None
    for note in score.notes:
        if note.placement and note.placement.finger:
            if position is not None and note.placement.position != position:
                found.append(note.index)
            position = note.placement.position
    return tuple(found)


def moves(score: Score) -> dict[int, str]:
    """Index of a note -> what comes before it: 'rest', else 'shift', else 'crossing', else 'bow' (a new bow where the
    line is slurred). Notes that simply follow are left out."""
    moving = set(shifts(score))
    slurred = any(note.slurred_from(before) for before, note in pairwise(score.notes))
    found = {}
    for before, note in pairwise(score.notes):
        if note.start_beats > before.end_beats:
            found[note.index] = "rest"
        elif note.index in moving:
            found[note.index] = "shift"
        elif note.crosses_from(before):
            found[note.index] = "crossing"
        elif slurred and not note.slurred_from(before):
            found[note.index] = "bow"
    return found
