"""A bow plan by arithmetic: bow is spent in proportion to duration (an eighth gets half of a quarter's bow, a sixteenth a
quarter of it: common practice), and must be back where the next pattern begins."""

from __future__ import annotations

from dataclasses import dataclass

from attentive_owl.core.exercises import Score

_BOW_A_BEAT = 0.34
"""Share of the bow's length that a quarter takes in the middle of it (common practice); a whole bow from about three beats."""
_MIDDLE = 0.5
_ROOM = 1e-6


@dataclass(frozen=True)
class BowStroke:
    """One bow: the notes in it, its direction, where on the bow (0 frog, 1 tip) it starts and ends."""

    notes: tuple[int, ...]
    direction: str
    start: float
    end: float


@dataclass(frozen=True)
class BowPlan:
    """Where in the bow a line is played, stroke by stroke."""

    strokes: tuple[BowStroke, ...]
    part: str
    """The part of the bow that serves: whole bow, upper half, middle ..."""
    runs_out_at: int | None
    """Index of the note at which the bow has run out, None where it lasts."""
    drift: float
    """By how much of the bow each measure ends nearer to the tip (below zero: to the frog)."""

    @property
    def words(self) -> str:
        """The plan and, where it needs one, its warning, as a teacher says it."""
        if not self.strokes:
            return "Plucked: no bow."
        text = f"Use the {self.part}."
        if self.runs_out_at is not None:
            way = "tip" if self.drift > 0 else "frog"
            text += f" The bow creeps to the {way} and runs out at note {self.runs_out_at + 1}: take back some bow on the short notes, or retake."
        return text


def plan_bow(score: Score) -> BowPlan:
    """The plan of a score. Where the strokes do not add up, the start that lasts longest is taken."""
    groups: list[list[int]] = []
    for note in score.notes:
        if note.pizzicato:
            continue
        if groups and note.slurred_from(score.notes[note.index - 1]):
            groups[-1].append(note.index)
        else:
            groups.append([note.index])
    if not groups:
        return BowPlan((), "", None, 0.0)
    moves = []
    for group in groups:
        beats = sum(float(score.notes[index].duration_beats) for index in group)
        sign = 1.0 if score.notes[group[0]].bow == "down" else -1.0
        moves.append(sign * min(_BOW_A_BEAT * beats, 1.0))
    start = _start(moves)
    strokes: list[BowStroke] = []
    at, runs_out = start, None
    for group, move in zip(groups, moves, strict=True):
        end = at + move
        if runs_out is None and not -_ROOM <= end <= 1.0 + _ROOM:
            runs_out = group[0]
        direction = "down" if move > 0 else "up"
        strokes.append(BowStroke(tuple(group), direction, round(at, 4), round(end, 4)))
        at = end
    measures = max(float((score.end_beats - score.start_beats) / score.meter.measure_beats), 1.0)
    usual = strokes if runs_out is None else [s for s in strokes if s.notes[0] < runs_out]
    return BowPlan(tuple(strokes), _part(usual or strokes), runs_out, round((at - start) / measures, 4))


def _start(moves: list[float]) -> float:
    """Where to begin so that what the strokes reach lies in the middle of the bow, for as many strokes as fit on it."""
    low = high = at = 0.0
    fitting = (0.0, 0.0)
    for move in moves:
        at += move
        low, high = min(low, at), max(high, at)
        if high - low > 1.0 + _ROOM:
            break
        fitting = (low, high)
    low, high = fitting
    return min(max(_MIDDLE - (low + high) / 2, -low), 1.0 - high)


def _part(strokes: list[BowStroke]) -> str:
    low = min(min(stroke.start, stroke.end) for stroke in strokes)
    high = max(max(stroke.start, stroke.end) for stroke in strokes)
    if high - low > 0.8:
        return "whole bow"
    if high - low > 0.45:
        return "middle two thirds of the bow"
    return "middle of the bow"
