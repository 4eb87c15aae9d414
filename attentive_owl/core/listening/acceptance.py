"""Is this a try at the exercise at all? A poor but true try is never refused; something else is never scored."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.special import expit

from attentive_owl.core.exercises import Score
from attentive_owl.core.listening.change import Boundaries
from attentive_owl.core.listening.decoding import Move, Path, Segment
from attentive_owl.core.listening.emission import Emission
from attentive_owl.core.listening.frames import Array
from attentive_owl.core.listening.gate import Gate
from attentive_owl.core.listening.periods import Candidates
from attentive_owl.core.listening.refining import LEAST_SUPPORT, Refined

_LEAST_PITCHED_SHARE = 0.12

LIKENESS_WEIGHTS = (-14.6, 6.9, 5.6, 8.9)
"""Constant, agreement, coverage, explained; fitted by `python -m bench.fit_acceptance` on true, poor and other takes."""
_LEAST_LIKENESS = 0.25
"""As a probability: in doubt a take is heard."""
_NEAR_SEMITONES = 2
_NEAR_COUNTS = 0.5
_HELD_OVER = 0.3
"""Under this probability of an attack a pitch that goes on is one note, not two."""

_LEAST_OTHERS = 4
_MOST_BETWEEN, _MOST_SKIPPED = 0.22, 0.34
_LEAST_ON_EACH_SIDE, _MOST_AROUND = 2, 0.75
_PAUSE = 0.5
"""As a share of a note of the go."""


def has_pitch(candidates: Candidates, sounding: NDArray[np.bool_]) -> bool:
    """Whether enough of the sounding frames have a clear pitch."""
    if not sounding.any():
        return False
    clear = np.bincount(candidates.frame[candidates.dip < 0.2], minlength=candidates.frames) > 0
    return bool(clear[sounding].mean() >= _LEAST_PITCHED_SHARE and (clear & sounding).sum() > 40)


@dataclass(frozen=True)
class Likeness:
    """How much of an exercise a take has, measured on the grid that was decoded: a scale on the wrong string is right here.
    A pitch up to two semitones off is what fingers do when a try goes badly, and counts half; so does a note heard in an
    octave where the string speaks plainly elsewhere."""

    agreement: float
    """Within the fullest go: of the notes that were played, put between or passed over, the share that is as written."""
    coverage: float
    """Of the written notes, the share that was played in that go."""
    explained: float
    """Of the sounding time of the whole recording, the share that written notes fill."""

    @property
    def probability(self) -> float:
        """That it is a try at this exercise, however poor."""
        constant, *weights = LIKENESS_WEIGHTS
        values = (self.agreement, self.coverage, self.explained)
        return float(expit(constant + sum(w * v for w, v in zip(weights, values, strict=True))))


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
    go = _fullest(path)
    covered: dict[int, float] = {}
    for place, segment in go.written:
        if segment.kind == "wrong" or refined[place].support >= LEAST_SUPPORT:
            covered[segment.index] = max(covered.get(segment.index, 0.0), worth[place])
    said = len(go.written) + len(go.between(boundaries)) + go.skipped
    return Likeness(
        sum(worth[place] for place, _ in go.written) / max(said, 1),
        sum(covered.values()) / len(score.notes),
        filled / max(float(sounding.sum()), 1.0),
    )


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
    return _NEAR_COUNTS if abs(segment.midi - written_midi) <= _NEAR_SEMITONES else 0.0


@dataclass(frozen=True)
class _Go:
    """Segments of one time through with their places, and how many written notes were passed over between them."""

    written: list[tuple[int, Segment]]
    strays: list[Segment]
    skipped: int

    @property
    def right(self) -> int:
        return sum(segment.kind == "note" for _, segment in self.written)

    def long_strays(self, boundaries: Boundaries) -> list[Segment]:
        """Strays as long as the written notes. (A string touched in passing is short.)"""
        return [stray for stray in self.strays if _frames(stray, boundaries) > 0.5 * self._length(boundaries)]

    def between(self, boundaries: Boundaries) -> list[Segment]:
        """Long strays between the written notes."""
        if not self.written:
            return []
        first, last = self.written[0][1], self.written[-1][1]
        return [stray for stray in self.long_strays(boundaries) if first.stop <= stray.start < last.start]

    def around(self, boundaries: Boundaries) -> tuple[int, int]:
        """How many long strays lead into the first written note, and away from the last, with no pause."""
        if not self.written:
            return 0, 0
        first, last = self.written[0][1], self.written[-1][1]
        strays, pause = self.long_strays(boundaries), _PAUSE * self._length(boundaries)
        counts, frame = [], boundaries.frame
        before = [(stray.stop, stray.start) for stray in reversed(strays) if stray.stop <= first.start]
        after = [(stray.start, stray.stop) for stray in strays if stray.start >= last.stop]
        for edge, chain in ((first.start, before), (last.stop, after)):
            count = 0
            for near, far in chain:
                if abs(int(frame[near] - frame[edge])) > pause:
                    break
                count, edge = count + 1, far
            counts.append(count)
        return counts[0], counts[1]

    def _length(self, boundaries: Boundaries) -> float:
        lengths = [_frames(segment, boundaries) for _, segment in self.written]
        return float(np.median(lengths)) if lengths else 0.0


def _fullest(path: Path) -> _Go:
    """The go with the most right notes."""
    return max((_counted(events) for events in path.goes()), key=lambda go: go.right)


def _counted(events: list[tuple[int, Segment | Move]]) -> _Go:
    written: list[tuple[int, Segment]] = []
    strays, skipped, expected = [], 0, 0
    for place, event in events:
        if isinstance(event, Move):
            expected = event.target
        elif event.kind == "stray":
            strays.append(event)
        else:
            # What comes before the first note of a go is not passed over: the recording may begin late.
            skipped += event.index - expected if written else 0
            written.append((place, event))
            expected = event.index + 1
    return _Go(written, strays, skipped)


def other_notes(path: Path, boundaries: Boundaries) -> bool:
    """Whether the exercise's notes were only picked out of another one: in the fullest go, notes as long as the exercise's
    own stand between them again and again, or they were skipped again and again (a try that breaks off skips nothing), or
    the go stands in the middle of as many other notes with no pause before or after it."""
    go = _fullest(path)
    heard, between = len(go.written), len(go.between(boundaries))
    before, after = go.around(boundaries)
    return (
        (between >= _LEAST_OTHERS and between > _MOST_BETWEEN * heard)
        or (go.skipped > _LEAST_OTHERS and go.skipped > _MOST_SKIPPED * (go.skipped + heard))
        or (min(before, after) >= _LEAST_ON_EACH_SIDE and before + after > _MOST_AROUND * heard)
    )


def _frames(event: Segment, boundaries: Boundaries) -> int:
    return int(boundaries.frame[event.stop] - boundaries.frame[event.start])


def refusal_code(
    path: Path,
    refined: dict[int, Refined],
    heard: Emission,
    boundaries: Boundaries,
    gate: Gate,
    score: Score,
    shift: int,
) -> str | None:
    """None where it is a try at this exercise, in whatever rhythm, else why not."""
    found = likeness(path, refined, heard.quiet, boundaries, score, shift)
    if found.probability >= _LEAST_LIKENESS and not other_notes(path, boundaries):
        return None
    return "too_noisy" if "noisy" in gate.problems and found.coverage < 0.1 else "not_this_exercise"
