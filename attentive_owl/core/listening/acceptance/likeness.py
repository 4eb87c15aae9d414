"""Is this a try at the exercise at all? A poor but true try is never refused; something else is never scored."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import groupby
from math import log

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.exercises import Line, Score, line_of, lines_in, turns_of
from attentive_owl.core.listening.acceptance.melody_distance import NEAR_SEMITONES, SLIP_COSTS, distances
from attentive_owl.core.listening.alignment.passes import frames_of, fullest, in_one_breath, usual_frames
from attentive_owl.core.listening.alignment.path import Path, Segment
from attentive_owl.core.listening.features.frames import Array
from attentive_owl.core.listening.features.novelty import Boundaries
from attentive_owl.core.listening.features.pitch_candidates import CLEAR_DIP, Candidates
from attentive_owl.core.listening.logistic import logistic
from attentive_owl.core.listening.notes.pitch import LEAST_SUPPORT, Refined
from attentive_owl.core.listening.weights import LIKENESS_WEIGHTS

_LEAST_PITCHED_SHARE = 0.12
"""Of the sounding frames, those with a clear pitch: fewer are no playing. By hand."""

LEAST_LIKENESS = 0.4
"""As a probability: in doubt a take is heard."""
NEAR_ITS_LINE = 0.1
"""Mistakes a note: so near its own line a melody is looked for in no other."""
_NEAR_COUNTS = 1.0 - SLIP_COSTS
"""What a note beside the right one counts for."""
_LEFT_OUT = 1
"""Where few notes were played, one that was left out says little."""
_HELD_OVER = 0.3
"""Under this probability of an attack a pitch that goes on is one note, not two."""


def has_pitch(candidates: Candidates, sounding: NDArray[np.bool_]) -> bool:
    """Whether enough of the sounding frames, shape (frames,), have a clear pitch."""
    if not sounding.any():
        return False
    clear = np.bincount(candidates.frame[candidates.dip < CLEAR_DIP], minlength=candidates.frames) > 0
    return bool(clear[sounding].mean() >= _LEAST_PITCHED_SHARE and (clear & sounding).sum() > 40)


@dataclass(frozen=True)
class Likeness:
    """How much of an exercise a take has, measured on the grid that was decoded: a scale on the wrong string is right here.
    A pitch up to two semitones off is what fingers do when a try goes badly, and counts half; so does a note heard in an
    octave where the string speaks plainly elsewhere."""

    coverage: float
    """Of the written notes, the share that was played in the fullest pass."""
    explained: float
    """Of the sounding time of the whole recording, the share that written notes fill."""
    strange: float
    """Of the notes that were played in that pass, put between or passed over, the share that no slip of a finger makes: on a
    pitch far away, put between, or passed over but for one; also those between which the whole pass stands, with no pause on
    either side."""
    nearer: float
    """How many times nearer (as a logarithm) another line of the same key is to that pass and to what leads into it and away from
    it with no pause; 0 where none is."""
    sounds_like: str | None = None
    """The name of that line, where it is near enough to be named."""

    @property
    def measures(self) -> tuple[float, float, float, float]:
        return self.coverage, self.explained, self.strange, self.nearer

    @property
    def probability(self) -> float:
        """That it is a try at this exercise, however poor."""
        constant, *weights = LIKENESS_WEIGHTS
        return float(logistic(constant + sum(w * v for w, v in zip(weights, self.measures, strict=True))))


def likeness(
    path: Path, refined: dict[int, Refined], quiet: Array, boundaries: Boundaries, score: Score, shift: int
) -> Likeness:
    """Measure a path. `refined` by place among its events; `quiet`: probability of silence, shape (frames,); `shift` in
    semitones from the written notes to the grid on which the path was decoded."""
    sounding = 1.0 - quiet
    plain = {event.midi for event in path.events if isinstance(event, Segment) and not event.at_partial}
    worth, filled = dict[int, float](), 0.0
    for place, event in enumerate(path.events):
        if isinstance(event, Segment) and event.kind != "stray":
            if event.at_partial and event.midi in plain:
                worth[place] = _NEAR_COUNTS
            else:
                worth[place] = _worth(path, place, event, boundaries, score.notes[event.index].midi + shift)
            sound = sounding[boundaries.frame[event.start] : boundaries.frame[event.stop]]
            filled += worth[place] * float(sound.sum())
    full, usual = fullest(path), usual_frames(path, boundaries)
    covered: dict[int, float] = {}
    for place, segment in full.written:
        if segment.kind == "wrong" or refined[place].support >= LEAST_SUPPORT:
            covered[segment.index] = max(covered.get(segment.index, 0.0), worth[place])
    # A string touched in passing is short.
    between = sum(frames_of(stray, boundaries) > 0.5 * usual for stray in full.between)
    before, own, after = in_one_breath(path, boundaries, full, usual)
    # What is played first, or afterwards, is no reason to refuse; a pass out of the middle of something else is.
    between += 2 * min(sum(segment.kind == "stray" for segment in part) for part in (before, after))
    far = sum(abs(segment.midi - score.notes[segment.index].midi - shift) > NEAR_SEMITONES for _, segment in full.wrong)
    melody = np.array([midi for midi, _ in groupby(segment.midi for segment in [*before, *own, *after])])
    return Likeness(
        sum(covered.values()) / len(score.notes),
        filled / max(float(sounding.sum()), 1.0),
        (far + between + max(full.skipped - _LEFT_OUT, 0)) / max(len(full.written) + between + full.skipped, 1),
        *_nearer_line(melody, score, shift),
    )


def _nearer_line(melody: NDArray[np.int64], score: Score, shift: int) -> tuple[float, str | None]:
    """How many times fewer mistakes (and one) a melody has in another line of the key than in the written one, as a logarithm,
    and the name of that line where it is near. A ratio and no difference: all lines are far from a poor try, and another
    exercise lies on its own."""
    count = len(melody)
    if not count:
        return 0.0, None
    # Turned round before the top, a line is still this one.
    own = float(distances(melody - shift, [line_of(score), *_turned_early(score)]).min())
    if own <= NEAR_ITS_LINE:
        return 0.0, None
    others = {**lines_in(score.key.tonic, score.key.mode, score.instrument_key), **_from_the_top(score)}
    away = np.min([distances(melody - by, list(others)) for by in {0, shift}], axis=0)
    nearest = int(np.argmin(away))
    if away[nearest] >= own:
        return 0.0, None
    name = list(others.values())[nearest] if away[nearest] <= NEAR_ITS_LINE else None
    return log((own * count + 1.0) / (float(away[nearest]) * count + 1.0)), name


def _turned_early(score: Score) -> list[Line]:
    """What is left of a line that goes up and comes down, by where it is turned round."""
    line = line_of(score)
    top = len(line) // 2
    return [line[: at + 1] + line[len(line) - 1 - at + 1 :] for at in range(2, top)] if turns_of(score) else []


def _from_the_top(score: Score) -> dict[Line, str]:
    """A line that goes up and comes down, played down and up again: the same notes, and another exercise."""
    line = line_of(score)
    if not turns_of(score):
        return {}
    top = len(line) // 2
    return {line[top:] + line[1 : top + 1]: f"{score.title}, from the top"}


def _worth(path: Path, place: int, segment: Segment, boundaries: Boundaries, written_midi: int) -> float:
    if segment.kind == "note":
        return 1.0
    for neighbour, joint in ((place - 1, segment.start), (place + 1, segment.stop)):
        other = path.events[neighbour] if 0 <= neighbour < len(path.events) else None
        if (
            isinstance(other, Segment)
            and other.midi == segment.midi
            and joint in (other.start, other.stop)
            and boundaries.attack[joint] < _HELD_OVER
        ):
            return 0.0
    return _NEAR_COUNTS if abs(segment.midi - written_midi) <= NEAR_SEMITONES else 0.0
