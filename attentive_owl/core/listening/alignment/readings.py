"""How a take is read against a line: where it is written or somewhere else, turned round early, or without its signs."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.exercises import Score, turns_of
from attentive_owl.core.listening.alignment.evidence import Evidence
from attentive_owl.core.listening.alignment.observations import Emission
from attentive_owl.core.listening.alignment.passes import Fit, fit_of
from attentive_owl.core.listening.alignment.path import Move, Path, Segment
from attentive_owl.core.listening.alignment.viterbi import Line, decode
from attentive_owl.core.listening.features.frames import HOP_S
from attentive_owl.core.listening.features.novelty import Boundaries

_WIDE, _MIDDLE, _TIGHT = 0.42, 0.3, 0.2
"""Deviations of the log of a duration: before the pace is known, and after it, the narrowest first (by hand)."""
_KEPT_SHARE = 0.8
"""Of the right notes of the widest reading: where a narrower one keeps fewer, lengths say nothing here."""
_IDLE_SHARE = 0.5
"""Of the time that is written for what would have been played twice: with less over, it was played once. By hand."""


@dataclass(frozen=True)
class Reading:
    """A take as a line that stands so many semitones away from where it is written."""

    shift: int
    line: Line
    path: Path
    boundaries: Boundaries
    rival: Reading | None = None
    """Of a line where it is written, another place at which far more of its notes are right, from the first one on: where the strokes tell another rhythm,
    as they did not fit the written one there, it was played in that place."""

    @cached_property
    def fit(self) -> Fit:
        return fit_of(self.path, self.boundaries)


def read(heard: Emission, boundaries: Boundaries, score: Score, shifts: Iterable[int]) -> Reading:
    """The likeliest reading. `shifts`: places worth trying, in semitones, the written one (0) first."""

    def aligned(shift: int, line: Line) -> Reading:
        return Reading(shift, line, _aligned(heard, boundaries, line), boundaries)

    readings = [aligned(shift, line_for(score, shift)) for shift in shifts]
    reading = _most_likely(readings)
    if not reading.shift and (rival := _rival(readings)):
        reading = rival if rival.path.score >= reading.path.score else replace(reading, rival=rival)
    if reading.fit.faults < _MOST_FAULTS:
        return reading
    turns = np.array(turns_of(score), dtype=np.int64).reshape(-1, 2)
    if len(turns):
        reading = _turned_round(reading, aligned(reading.shift, replace(reading.line, turns=turns)))
    signs = np.array(score.signs())
    if signs.any() and not reading.shift and reading.fit.faults >= _MOST_FAULTS:
        natural = aligned(0, replace(reading.line, midi=reading.line.midi - signs))
        reading = _without_signs(reading, natural, signs)
    return reading


_STACCATO_SHARE = 0.5
"""Of its written time, for which a staccato note sounds (common practice)."""


def line_for(score: Score, shift: int) -> Line:
    """What is written, `shift` semitones away, as the decoder takes it: key numbers and seconds at the written tempo, arrays of shape (notes,)."""
    beat_s = 60.0 / score.tempo_bpm
    notes = score.notes
    starts = [float(note.start_beats) for note in notes] + [float(score.end_beats)]
    previous = [None, *notes[:-1]]
    sounding_s = np.array([float(note.duration_beats) * beat_s for note in notes])
    return Line(
        midi=np.array([note.midi + shift for note in notes]),
        sounding_s=sounding_s,
        step_s=np.diff(starts) * beat_s,
        bowed_s=np.where([note.staccato for note in notes], _STACCATO_SHARE, 1.0) * sounding_s,
        slurred=np.array([note.legato_from(before) for note, before in zip(notes, previous, strict=True)]),
        restarts=np.array(score.measure_starts()),
        turns=np.zeros((0, 2), np.int64),
    )


def _faster(line: Line, factor: float) -> Line:
    return replace(
        line, sounding_s=line.sounding_s * factor, step_s=line.step_s * factor, bowed_s=line.bowed_s * factor
    )


_SHIFT_COSTS = 6.0
"""Log-likelihood by which another place has to explain the take better than the written one."""
_LEAST_CLEARER, _MOST_FAULTS, _MOST_TURNED_FAULTS = 0.2, 0.2, 0.1
"""Shares of the notes that are faults: by how much fewer another reading needs, how many it may have, and one that turns round early. By hand."""

_FAR_MORE_RIGHT = 1.25
"""As many times the right notes. By hand: 1.35 to 1.8 of lines a whole step away in another rhythm."""


def _most_likely(readings: list[Reading]) -> Reading:
    """The line where it is written, unless another place explains the take much better: nearly without a fault, from its first
    note on, where as it is written many notes would be wrong. A forgotten key signature is no other key."""
    here, *others = readings
    own, best = here.fit, here
    for other in others:
        fit = other.fit
        # Read in its place, a line that was played an octave away is heard at the partials of its notes.
        strange = max(own.faults, own.at_partial - fit.at_partial if other.shift % 12 == 0 else 0.0)
        clearer = fit.faults <= _MOST_FAULTS and strange >= fit.faults + _LEAST_CLEARER
        if (
            clearer
            and fit.from_the_start
            and other.path.score - _SHIFT_COSTS > here.path.score
            and (best is here or fit.faults < best.fit.faults)
        ):
            best = other
    return best


def _rival(readings: list[Reading]) -> Reading | None:
    here, *others = readings
    far_more = [
        other
        for other in others
        if other.fit.from_the_start
        and other.fit.faults <= _MOST_FAULTS
        and other.fit.right >= _FAR_MORE_RIGHT * max(here.fit.right, 1)
    ]
    return max(far_more, key=lambda other: other.fit.right, default=None)


def _turned_round(plain: Reading, turned: Reading) -> Reading:
    """The take as a line that was turned round before its top, where that explains all of it and many notes would be passed over
    otherwise."""
    fit = turned.fit
    clear = fit.faults <= _MOST_TURNED_FAULTS and fit.right >= plain.fit.right and fit.from_the_start
    return turned if clear else plain


def _without_signs(plain: Reading, natural: Reading, signs: NDArray[np.int64]) -> Reading:
    """The take as a line whose key signature was forgotten, where that explains it: many wrong notes, and all of them as the
    naturals that they are. They stay wrong ones; only what they are is not left to chance, note by note. `signs`: semitones by
    which the signature alters each note."""
    fit, own = natural.fit, plain.fit
    if fit.faults > _MOST_FAULTS or own.faults < fit.faults + _LEAST_CLEARER or fit.right <= own.right:
        return plain
    events = tuple(
        replace(event, kind="wrong")
        if isinstance(event, Segment) and event.kind == "note" and signs[event.index]
        else event
        for event in natural.path.events
    )
    return replace(plain, path=replace(natural.path, events=events))


def _aligned(heard: Emission, boundaries: Boundaries, line: Line) -> Path:
    """Decoded first at any pace, then at the pace that was found. Where strokes melt together their lengths say little,
    and a tight rhythm would turn true notes into strays: there the looser reading stays. Nobody went back where the line played through
    holds as many right notes, and is not begun again instead."""
    evidence = Evidence(heard, boundaries, line.midi)
    path = _paced(evidence, line)
    if goes_back(path):
        onward = _paced(evidence, replace(line, restarts=line.restarts[:0]))
        if _right_notes(onward) >= _right_notes(path) and _begun_again(onward) <= _begun_again(path):
            return onward
    return path


def _paced(evidence: Evidence, line: Line) -> Path:
    loose = decode(evidence, line, _WIDE)
    paced = _faster(line, pace_of(loose, evidence.boundaries, line))
    for spread in (_TIGHT, _MIDDLE):
        path = decode(evidence, paced, spread)
        if _right_notes(path) >= _KEPT_SHARE * _right_notes(loose):
            idle = idle_moves(path, evidence.boundaries, paced)
            if not idle:
                return path
            return decode(evidence, replace(paced, restarts=np.setdiff1d(paced.restarts, idle)), spread)
    return loose


def goes_back(path: Path) -> bool:
    """Whether the line was left for an earlier place of it that is not its beginning, before it had come to its end."""
    return any(isinstance(event, Move) and 0 < event.target < event.origin != path.length for event in path.events)


def _begun_again(path: Path) -> int:
    return sum(isinstance(event, Move) and event.target == 0 and event.origin != path.length for event in path.events)


def idle_moves(path: Path, boundaries: Boundaries, line: Line) -> list[int]:
    """Indices to which the path goes back though nobody did: from within a run of notes on one pitch to its own beginning, while
    the run takes the time that is written for it once. Strokes that left two traces make such runs longer."""
    time = boundaries.frame * HOP_S
    found = []
    for place, move in enumerate(path.events):
        if not (isinstance(move, Move) and 0 < move.target < move.origin):
            continue
        run = range(move.target, move.origin)
        if len({int(midi) for midi in line.midi[run]}) > 1:
            continue
        before = [e for e in path.events[:place] if isinstance(e, Segment) and e.index == move.target]
        after = [e for e in path.events[place + 1 :] if isinstance(e, Segment) and e.index >= move.origin]
        if not before or not after:
            continue
        # Where the pitch changes it is surest when a note began.
        pitch = line.midi[move.target]
        after = [e for e in after if e.kind != "stray" and line.midi[e.index] != pitch] or after
        twice = float(line.step_s[run].sum())
        once = float(line.step_s[move.target : after[0].index].sum())
        if time[after[0].start] - time[before[-1].start] < once + _IDLE_SHARE * twice:
            found.append(move.target)
    return found


def _right_notes(path: Path) -> int:
    return sum(isinstance(event, Segment) and event.kind == "note" for event in path.events)


def pace_of(path: Path, boundaries: Boundaries, line: Line) -> float:
    """How much slower (above 1) than expected the notes follow one another: a median over neighbouring notes."""
    time = boundaries.frame * HOP_S
    ratios = []
    events = path.events
    for one, two in pairwise(events):
        if (
            isinstance(one, Segment)
            and isinstance(two, Segment)
            and "stray" not in (one.kind, two.kind)
            and two.index == one.index + 1
        ):
            ratios.append((time[two.start] - time[one.start]) / line.step_s[one.index])
    return float(np.clip(np.exp(np.median(np.log(ratios))), 0.3, 3.0)) if len(ratios) >= 3 else 1.0
