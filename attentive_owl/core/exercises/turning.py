"""Lines that go up and come down the same way: where a pupil may turn round too early."""

from __future__ import annotations

from itertools import groupby, pairwise

from attentive_owl.core.exercises.score import Score


def turns_of(score: Score) -> list[tuple[int, int]]:
    """Pairs of (how many notes are behind, index of the note with which it comes down again), for every degree below the top of a
    line that comes down as it went up: the degree once more, then the one under it. Empty for any other line."""
    runs = [[note.index for note in group] for _, group in groupby(score.notes, key=lambda note: note.midi)]
    pitches = [score.notes[run[0]].midi for run in runs]
    top = len(runs) // 2
    rises = all(low < high for low, high in pairwise(pitches[: top + 1]))
    if len(runs) < 5 or len(runs) % 2 == 0 or not rises or pitches != pitches[::-1]:
        return []
    turns = []
    for up in range(1, top):
        down = len(runs) - 1 - up
        turns += [(runs[up][-1] + 1, runs[down][0]), (runs[up][-1] + 1, runs[down + 1][0])]
    return turns
