"""The pace of what was heard of a line, and how far a reading of it is from that pace."""

from __future__ import annotations

from typing import Protocol, TypeVar

import numpy as np

from attentive_owl.core.exercises import Score
from attentive_owl.core.listening.features.frames import Array

_STOP = 0.8
"""Strain: log ratio of a time to what the pace gives it, summed over notes. A stop, however long, has no more than this."""
OTHER_SEMITONES = 0.7
"""A note further than this from its place is another one."""


class Timed(Protocol):
    """Something that was heard: from when to when (s), and its key number where it has a pitch."""

    @property
    def onset_s(self) -> float: ...
    @property
    def offset_s(self) -> float: ...
    @property
    def midi(self) -> float | None: ...


T = TypeVar("T", bound=Timed)


def pace_of(heard: dict[int, T], score: Score) -> float | None:
    """Seconds a beat: the median over notes that follow one another; None for fewer than two notes."""
    return pace_of_onsets({index: item.onset_s for index, item in heard.items()}, score)


def pace_of_onsets(onsets_s: dict[int, float], score: Score) -> float | None:
    """The same from the moments at which the notes were heard to begin, by their written index."""
    order = sorted(onsets_s)
    beats = np.diff(beats_of(score)[order])
    times = np.diff([onsets_s[index] for index in order])
    # A note that was kept from before a return comes earlier than its neighbour.
    onward = times > 0
    return float(np.median(times[onward] / beats[onward])) if onward.any() else None


def strain(beats: Array, onsets_s: Array, pace: float) -> Array:
    """How far readings of what was heard are from the pace. beats: where each of them has the notes begin, shape (readings, notes); onsets_s:
    shape (notes,); found: shape (readings,)."""
    times = np.maximum(np.diff(onsets_s), 1e-3)
    ratio = np.log(times / (pace * np.diff(beats, axis=1)))
    found: Array = np.where(ratio > 0, np.minimum(ratio, _STOP), -ratio).sum(axis=1)
    return found


def beats_of(score: Score) -> Array:
    """Where the written notes begin, shape (notes,)."""
    return np.array([float(note.start_beats) for note in score.notes])


def neighbours(settled: dict[int, T], first: int, last: int) -> tuple[list[int], list[int]]:
    """The nearest note that was heard before `first` and the nearest after `last`; empty where there is none."""
    before = max((index for index in settled if index < first), default=None)
    after = min((index for index in settled if index > last), default=None)
    return [] if before is None else [before], [] if after is None else [after]


def like_notes(index: int, score: Score) -> range:
    """Indices of the run of notes on one pitch in which a note stands."""
    first, last = index, index + 1
    while first and score.notes[first - 1].midi == score.notes[index].midi:
        first -= 1
    while last < len(score.notes) and score.notes[last].midi == score.notes[index].midi:
        last += 1
    return range(first, last)


def is_other(heard: Timed, midi: float) -> bool:
    """Whether what was heard is another note than that of a key number."""
    return heard.midi is None or abs(heard.midi - midi) > OTHER_SEMITONES
