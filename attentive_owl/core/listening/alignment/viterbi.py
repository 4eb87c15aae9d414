"""Alignment: a hidden semi-Markov model over the score, decoded over all boundaries at once.

The state at a boundary is how many written notes are behind. A step explains the sound between two boundaries as the
next note (right or on another pitch), as a stray note or as a gap; at a boundary notes may be skipped, or the pupil may
go back to the start of a measure, or begin again. All are states with a cost, none is an accident of thresholds.
(Semi-Markov alignment of audio to score: Raphael, "Automatic segmentation of acoustic musical signals using hidden
Markov models", IEEE PAMI 21, 1999; Cont, "A coupled duration-focused architecture for real-time music-to-score
alignment", IEEE PAMI 32, 2010. Segments between proposed landmarks: Glass, "A probabilistic framework for
segment-based speech recognition", Computer Speech and Language 17, 2003.)
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.listening.alignment.evidence import FAR, Evidence
from attentive_owl.core.listening.alignment.path import Move, Path, Segment
from attentive_owl.core.listening.features.frames import HOP_S, Array

_PAUSE_S = 0.5
"""So long is no gap between strokes (by hand)."""
_AT_ONCE = 128
"""So many boundaries are worked out at a time."""


@dataclass(frozen=True)
class Line:
    """What the decoder needs to know of the score, one entry a written note."""

    midi: NDArray[np.int64]
    sounding_s: Array
    """Expected duration at the guessed tempo."""
    step_s: Array
    """Expected time to the next note: the duration and the rests after it."""
    bowed_s: Array
    """Expected time until the bow stops: of a staccato note the half."""
    slurred: NDArray[np.bool_]
    restarts: NDArray[np.int64]
    """Indices to which a pupil may go back."""
    turns: NDArray[np.int64]
    """Rows of (how many notes are behind, index of the note with which it comes down), shape (turns, 2)."""


def _duration_log(seconds: Array, expected: Array, spread: float) -> Array:
    """Log-normal with straight tails: shape (segments, notes)."""
    distance = np.abs(np.log(np.maximum(seconds, 1e-3)[:, None] / expected[None, :])) / spread
    return np.where(distance < 2.5, -0.5 * distance**2, -2.5 * distance + 3.125)


@dataclass(frozen=True)
class _Step:
    """What it would add to step to a boundary from each of those within reach, before anything is known of what came before them."""

    to: int
    first: int
    """The earliest boundary within reach."""
    note: Array
    """Log-probability of a written note, shape (to - first, kinds of note)."""
    stray: Array
    """Log-probability of a stray note, shape (to - first,)."""


class _Steps:
    """The steps to all boundaries in order. Many are worked out at once, for speed; not all, or memory would grow with the length of the
    take. Written notes of one pitch, length and beginning are of one kind."""

    def __init__(self, evidence: Evidence, line: Line, spread: float) -> None:
        self._evidence, self._spread = evidence, spread
        costs, attack = evidence.costs, evidence.boundaries.attack
        self._time = evidence.boundaries.frame * HOP_S
        self._reach_s = 2.2 * float(line.step_s.max()) + 0.6
        self._inside = np.concatenate([[0.0], np.cumsum(costs.interior * np.log1p(-attack))])
        repeated = np.concatenate([[False], line.midi[1:] == line.midi[:-1]])
        floor = np.where(repeated, costs.same_pitch_attack, costs.legato_attack)
        floor = np.where(line.slurred, 0.5, floor)
        kinds: dict[tuple[float, ...], int] = {}
        named = zip(evidence.own.tolist(), floor.tolist(), line.sounding_s, line.step_s, line.bowed_s, strict=True)
        self.kind_of = np.array([kinds.setdefault(kind, len(kinds)) for kind in named])
        """Of each written note."""
        self._pitch, floors, *self._lengths_s = (np.array(part) for part in zip(*kinds, strict=True))
        self._start_log = np.log(np.maximum(attack[:, None], floors[None, :]))
        self._stray_log = costs.stray + np.log(np.maximum(attack, costs.legato_attack))

    def __iter__(self) -> Iterator[_Step]:
        count, low = len(self._time), 0
        for begin in range(1, count, _AT_ONCE):
            first = []
            for at in range(begin, min(begin + _AT_ONCE, count)):
                while self._time[at] - self._time[low] > self._reach_s and low < at - 1:
                    low += 1
                first.append(low)
            yield from self._block(begin, np.array(first))

    def _block(self, begin: int, first: NDArray[np.int64]) -> Iterator[_Step]:
        at = np.arange(begin, begin + len(first))
        row = np.concatenate([[0], np.cumsum(at - first)])
        to = np.repeat(at, at - first)
        start = np.arange(row[-1]) - (row[:-1] - first)[to - begin]
        within = [self._evidence.up_to(int(one), int(low)) for one, low in zip(at, first, strict=True)]
        heard, likeliest = (np.concatenate(part) for part in zip(*within, strict=True))
        through = self._inside[to] - self._inside[start + 1]
        lasting_s = self._time[to] - self._time[start]
        fits = [_duration_log(lasting_s, length_s, self._spread) for length_s in self._lengths_s]
        note = heard[:, self._pitch] + np.maximum.reduce(fits) + self._start_log[start] + through[:, None]
        stray = likeliest + self._stray_log[start] + through
        for place in range(len(at)):
            rows = slice(row[place], row[place + 1])
            yield _Step(int(at[place]), int(first[place]), note[rows], stray[rows])


def decode(evidence: Evidence, line: Line, spread: float) -> Path:
    """The likeliest path. `spread`: deviation of log-duration, about 0.4 before the tempo is known, then 0.2."""
    costs, boundaries = evidence.costs, evidence.boundaries
    count, notes = len(boundaries.frame), len(line.midi)
    steps = _Steps(evidence, line, spread)
    silent, time = np.diff(evidence.gaps), boundaries.frame * HOP_S

    state = np.full((count, notes + 1), FAR)
    gap_state = np.full((count, notes + 1), FAR)
    layer = np.zeros((count, notes + 1), np.int8)
    origin = np.zeros((count, notes + 1), np.int32)
    gap_goes_on = np.zeros((count, notes + 1), bool)
    silent_since = np.zeros(notes + 1, np.int64)
    skip_from = np.zeros((count, notes + 1), np.int32)
    jump_from = np.full((count, notes + 1), -1, np.int32)
    order = np.arange(notes + 1)
    ramp = -costs.missed * order
    back = line.restarts[line.restarts > 0]
    # No note twice in one row, so that all of it can be written at once.
    rows_of_turns = [(rows[:, 0], rows[:, 1]) for rows in (line.turns[::2], line.turns[1::2]) if len(rows)]

    def close(at: int, own_state: Array) -> None:
        """Jumps back, then skips, at one boundary."""
        jumped = own_state.copy()
        if back.size:
            paused = time[at] - time[silent_since] >= _PAUSE_S
            left = own_state + np.where(layer[at] == 2, np.where(paused, costs.after_pause, costs.after_silence), 0.0)
            best_later = np.maximum.accumulate(left[::-1])[::-1]
            value = best_later[back + 1] + costs.jump
            better = np.flatnonzero(value > jumped[back])
            if better.size:
                best_at = notes - np.maximum.accumulate(np.where(left[::-1] >= best_later[::-1], order, 0))[::-1]
                jumped[back[better]] = value[better]
                jump_from[at, back[better]] = best_at[back[better] + 1]
        for behind, onward in rows_of_turns:
            value = own_state[behind] + costs.turn
            turned = value > jumped[onward]
            jumped[onward[turned]] = value[turned]
            jump_from[at, onward[turned]] = behind[turned]
        again = own_state[1:] + costs.jump
        again[-1] += costs.again - costs.jump
        pick = int(again.argmax())
        if again[pick] > jumped[0]:
            jumped[0] = again[pick]
            jump_from[at, 0] = pick + 1
        lifted = jumped + ramp
        running = np.maximum.accumulate(lifted)
        skip_from[at] = np.maximum.accumulate(np.where(lifted >= running, order, 0))
        state[at] = running - ramp

    begin = np.full(notes + 1, FAR)
    begin[line.restarts] = costs.joined
    begin[0] = 0.0
    close(0, begin)
    # Of a note, a stray and a gap; no note ends before the first.
    options = np.full((3, notes + 1), FAR)
    starts = np.zeros((2, notes + 1), np.int64)
    for step in steps:
        at, before = step.to, state[step.first : step.to]
        played = step.note.take(steps.kind_of, axis=1)
        played += before[:, :-1]
        best = played.argmax(axis=0)
        options[0, 1:] = played[best, order[:-1]]
        stray = before + step.stray[:, None]
        best_stray = stray.argmax(axis=0)
        options[1] = stray[best_stray, order]
        fresh_gap, longer_gap = state[at - 1] + costs.gap, gap_state[at - 1]
        gap_goes_on[at] = longer_gap >= fresh_gap
        silent_since = np.where(gap_goes_on[at], silent_since, at - 1)
        options[2] = gap_state[at] = np.maximum(fresh_gap, longer_gap) + silent[at - 1]

        starts[0, 1:], starts[1] = best, best_stray
        layer[at] = options.argmax(axis=0)
        origin[at] = step.first + starts[np.minimum(layer[at], 1), order]
        close(at, options.max(axis=0))

    missing = np.maximum(costs.missed * (notes - order), costs.unfinished)
    missing[0] = 0.0
    last = int(np.argmax(state[-1] + missing))
    total = float(state[-1, last] + missing[last])
    events = _trace(evidence, count - 1, last, layer, origin, gap_goes_on, skip_from, jump_from)
    return Path(events, total, notes)


def _trace(
    evidence: Evidence,
    at: int,
    behind: int,
    layer: NDArray[np.int8],
    origin: NDArray[np.int32],
    gap_goes_on: NDArray[np.bool_],
    skip_from: NDArray[np.int32],
    jump_from: NDArray[np.int32],
) -> tuple[Segment | Move, ...]:
    events: list[Segment | Move] = []
    while at > 0:
        behind = int(skip_from[at, behind])
        if jump_from[at, behind] >= 0:
            events.append(Move(at, int(jump_from[at, behind]), behind))
            behind = int(jump_from[at, behind])
        kind = int(layer[at, behind])
        if kind == 2:
            while gap_goes_on[at, behind] and at > 1:
                at -= 1
            at -= 1
            continue
        start = int(origin[at, behind])
        if kind == 0:
            behind -= 1
            events.append(evidence.note(behind, start, at))
        else:
            events.append(evidence.stray(behind, start, at))
        at = start
    if jump_from[0, behind] >= 0:
        behind = int(jump_from[0, behind])
    return tuple(reversed(events))
