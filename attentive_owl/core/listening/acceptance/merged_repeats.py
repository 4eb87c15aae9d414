"""Fast strokes that melt together.

On a string that speaks slowly, or in a room that rings, sixteenths on one pitch can become one sound in which hardly a stroke
is heard. An alignment that wants a stroke for each of them finds no try at all. So a take that is like nothing is
looked at once more with each fast run on one pitch as one note. What is then found is the exercise, and its notes in runs
can not be told apart: they are unclear, and none of them is missed. Held notes in their place show no strokes at all; those
are another rhythm.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from attentive_owl.core.exercises import Score, ScoreNote
from attentive_owl.core.listening.acceptance.rhythm_mismatch import as_if_held
from attentive_owl.core.listening.features.frames import HOP_S
from attentive_owl.core.listening.features.novelty import Boundaries
from attentive_owl.core.listening.notes.pace import OTHER_SEMITONES, pace_of_onsets
from attentive_owl.core.listening.notes.statuses import FAST_S
from attentive_owl.core.listening.performance import Doubt, HeardNote, HeardPass, NoteStatus, Performance, StrayNote

_LEAST_STROKE_LOG = -1.9
"""Mean log-probability of the strokes inside runs. Held notes have -2.0 to -4.4, save where a sample ticks; the
slowest speaking samples have -1.6."""
_LEAST_CLEAR_STROKE_LOG = -1.0
"""The same where the line goes by as if the runs were held at the beat that is set."""

_LEAST_FILLED = 0.4
"""Of the time of a pass, which notes that were played long sound for; up to half of it may be rests. By hand."""
_NEARLY_ALL, _MOST_PITCHES = 0.9, 0.6
"""Shares of the notes that have to be there, and of the written ones that are left when runs are joined. By hand."""


@dataclass(frozen=True)
class Joined:
    """A line whose runs on one pitch are one long note each."""

    score: Score
    """With every fast run on one pitch as one note."""
    runs: tuple[range, ...]
    """Written indices that each of its notes stands for."""

    def is_all_of(self, performance: Performance, written: Score) -> bool:
        """Whether nearly the whole line was played, on its pitches, and its runs are most of it: then it is no other line."""
        played = sum(note.status == NoteStatus.PLAYED for note in performance.chosen.notes)
        count = len(self.score.notes)
        return played >= _NEARLY_ALL * count and count <= _MOST_PITCHES * len(written.notes)

    def part(self, performance: Performance, written: Score, why: Doubt = Doubt.JOINED) -> Performance:
        """A performance of the joined score as one of the written score; `why` the notes of runs are unclear."""
        return replace(
            performance,
            passes=tuple(self._part_pass(heard_pass, written, why) for heard_pass in performance.passes),
            strays=tuple(
                replace(stray, before=self._first(stray.before, len(written.notes)))
                for stray in performance.strays
                if not self._is_of_a_run(stray, performance)
            ),
        )

    def _is_of_a_run(self, stray: StrayNote, performance: Performance) -> bool:
        """Whether a stray is on the pitch of a run beside it: how many strokes that has, nobody knows."""
        above = performance.tuning_cents / 100.0 + performance.shift_semitones
        return any(
            len(run) > 1 and abs(stray.heard_midi - above - note.midi) <= OTHER_SEMITONES
            for note, run in list(zip(self.score.notes, self.runs, strict=True))[
                max(stray.before - 1, 0) : stray.before + 1
            ]
        )

    def _first(self, index: int, after_all: int) -> int:
        return self.runs[index].start if index < len(self.runs) else after_all

    def _part_pass(self, heard_pass: HeardPass, written: Score, why: Doubt) -> HeardPass:
        notes: list[HeardNote] = []
        for note, run in zip(heard_pass.notes, self.runs, strict=True):
            notes += _parted(note, run, written, why)
        count = len(written.notes)
        restarts = tuple(
            (self._first(origin, count), self._first(target, count)) for origin, target in heard_pass.restarts
        )
        return replace(heard_pass, notes=tuple(notes), restarts=restarts)


def join_runs(score: Score, fast_s: float = FAST_S) -> Joined | None:
    """The score with its runs on one pitch joined wherever strokes in them are fast (also the slow ones: where a run melts,
    their beginnings can not be told either); None where there are none. A slurred note has no stroke and begins no run.
    `fast_s`: what is fast; infinite joins every run."""
    beat_s = 60.0 / score.tempo_bpm
    groups: list[list[ScoreNote]] = []
    for span in runs_of(score):
        run = list(score.notes[span.start : span.stop])
        fast = any(float(note.duration_beats) * beat_s <= fast_s for note in run[:-1])
        groups += [run] if fast else [[note] for note in run]
    if len(groups) == len(score.notes):
        return None
    notes = tuple(
        replace(group[0], index=at, duration_beats=group[-1].end_beats - group[0].start_beats)
        for at, group in enumerate(groups)
    )
    return Joined(replace(score, notes=notes), tuple(range(g[0].index, g[-1].index + 1) for g in groups))


def runs_of(score: Score) -> list[range]:
    """Written indices of the notes that follow one another on one pitch with new strokes, single ones too."""
    runs = [range(1)]
    for before, note in pairwise(score.notes):
        touches = note.midi == before.midi and note.start_beats == before.end_beats
        if touches and not note.legato_from(before):
            runs[-1] = range(runs[-1].start, note.index + 1)
        else:
            runs.append(range(note.index, note.index + 1))
    return runs


def filled(performance: Performance) -> bool:
    """Whether the notes of a pass fill enough of its time to have been played long: what is heard for a moment of each is no held note."""
    heard_pass = performance.chosen
    lasting_s = [n.offset_s - n.onset_s for n in heard_pass.notes if n.onset_s is not None and n.offset_s is not None]
    return sum(lasting_s) >= _LEAST_FILLED * (heard_pass.end_s - heard_pass.start_s)


def strokes_inside(performance: Performance, joined: Joined, boundaries: Boundaries, written: Score) -> bool:
    """Whether the runs of a performance have strokes inside, however faint: as many of the strongest peaks are looked at as
    strokes are written. Where the line goes by as if they were held, they have to be clearer."""
    time = boundaries.frame * HOP_S
    logs: list[float] = []
    for note, run in zip(performance.chosen.notes, joined.runs, strict=True):
        if note.onset_s is None or note.offset_s is None or len(run) == 1:
            continue
        reach = (note.offset_s - note.onset_s) / len(run) / 2
        inside = boundaries.attack[(time > note.onset_s + reach) & (time < note.offset_s - reach)]
        strongest = np.sort(inside)[::-1][: len(run) - 1]
        missing = len(run) - 1 - len(strongest)
        logs += [*np.log(strongest), *[np.log(boundaries.attack.min())] * missing]
    onsets = {note.index: note.onset_s for note in performance.chosen.notes if note.onset_s is not None}
    beat_s = pace_of_onsets(onsets, joined.score) or 60.0 / written.tempo_bpm
    least = _LEAST_CLEAR_STROKE_LOG if as_if_held(beat_s * written.tempo_bpm / 60.0, written) else _LEAST_STROKE_LOG
    return not logs or float(np.mean(logs)) >= least


def _parted(note: HeardNote, run: range, written: Score, why: Doubt) -> list[HeardNote]:
    if len(run) == 1:
        return [replace(note, index=run.start)]
    if note.onset_s is None or note.offset_s is None:
        return [replace(note, index=index) for index in run]
    # Where the run begins was heard; how far its first note goes is a guess by its written share.
    beats = [float(written.notes[index].duration_beats) for index in run]
    end_s = note.onset_s + (note.offset_s - note.onset_s) * beats[0] / sum(beats)
    unclear = HeardNote(run.start, NoteStatus.UNCLEAR, note.heard_midi, note.onset_s, round(end_s, 4), 0.5, why)
    return [unclear, *(HeardNote(index, NoteStatus.UNCLEAR, None, None, None, 0.5, why) for index in run[1:])]
