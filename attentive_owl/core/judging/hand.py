"""Causes in the hand: what one string, the whole hand, a finger, a direction or a kind of place does to the notes."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from attentive_owl.core.exercises import Score
from attentive_owl.core.judging.cause import INSTRUMENT_CENTS, LEAST_AGREE, LEAST_NOTES, Cause, millimetres
from attentive_owl.core.judging.deviations import Deviation
from attentive_owl.core.judging.expectations import Expectations, rings

_SHARE_OF_TOLERANCE = 0.7
_STRING_CENTS = 10.0
_MOST_HAND_CAUSES = 3
_SURE = 2.5
"""Standard errors by which a median has to stand out of the hand's scatter."""
_EAR_CENTS = 3.0
_OTHERS_SHARE = 0.4
_COST_OF_A_CAUSE = 1.0
"""In tolerances: what a cause has to explain beside itself."""
_LEAST_FOR_SCATTER = 8
_LEAST_SCATTER_CENTS = 14.0
_OF_SOME_NOTES = ("direction", "crossing", "half_step", "octave")
"""Causes that are named only where the notes outside them stand right."""


def hand_causes(
    found: tuple[Deviation, ...], expectations: Expectations, score: Score, instrument_cents: float
) -> list[Cause]:
    notes = [d for d in found if d.heard.status == "played" and d.cents is not None and d.note.placement]
    if not notes:
        return []
    left = {
        d.note.index: float(d.cents or 0.0) - (instrument_cents if abs(instrument_cents) >= INSTRUMENT_CENTS else 0.0)
        for d in notes
    }
    tolerance = float(np.median([d.pitch_tolerance_cents for d in notes]))
    causes = _string_layer(notes, left)
    stopped = [d for d in notes if d.finger]
    groups = _groups(stopped, score)
    for _ in range(_MOST_HAND_CAUSES):
        best = _strongest(groups, stopped, left, tolerance)
        if best is None:
            break
        kind, finger, own, cents = best
        causes.append(replace(_finger_cause(kind, own, cents, expectations, score), finger=finger))
        for d in own:
            left[d.note.index] -= cents
        groups = [group for group in groups if group[:2] != (kind, finger)]
    spread = _spread([left[d.note.index] for d in stopped])
    if len(stopped) >= _LEAST_FOR_SCATTER and spread > max(_SHARE_OF_TOLERANCE * tolerance, _LEAST_SCATTER_CENTS):
        loose = tuple(d.note.index for d in stopped if abs(left[d.note.index]) > 0.5 * spread)
        causes.append(Cause("scatter", loose, 0.75, cents=round(spread, 1)))
    return causes


def _string_layer(notes: list[Deviation], left: dict[int, float]) -> list[Cause]:
    """Strings whose open and stopped notes are off together; what they explain is taken off `left`."""
    causes = []
    for string in sorted({d.string for d in notes if d.string}):
        own = [d for d in notes if d.string == string]
        opens = [left[d.note.index] for d in own if d.finger == 0]
        stopped = [left[d.note.index] for d in own if d.finger]
        if not opens or not stopped:
            continue
        middles = float(np.median(opens)), float(np.median(stopped))
        if min(abs(middle) for middle in middles) > _STRING_CENTS and np.sign(middles[0]) == np.sign(middles[1]):
            cents = middles[0]
            causes.append(Cause("string", tuple(d.note.index for d in own), 0.8, string, cents=round(cents, 1)))
            for d in own:
                left[d.note.index] -= cents
    return causes


_Group = tuple[str, int | None, list[Deviation]]
"""Kind of cause, finger, the stopped notes that would carry it."""


def _groups(stopped: list[Deviation], score: Score) -> list[_Group]:
    before = {d.note.index: score.notes[d.note.index - 1] if d.note.index else None for d in stopped}
    groups: list[_Group] = [("hand", None, stopped)]
    groups += [
        ("finger", finger, [d for d in stopped if d.finger == finger])
        for finger in sorted({d.finger for d in stopped if d.finger})
    ]
    falling = [d for d in stopped if (b := before[d.note.index]) is not None and b.midi > d.note.midi]
    crossed = [d for d in stopped if d.note.crosses_from(before[d.note.index])]
    close = _above_half_steps(stopped, score)
    ringing = [d for d in stopped if rings(d.note, score)]
    groups += [("direction", None, falling), ("crossing", None, crossed)]
    # Where one finger does it all, that finger is the nearer word.
    groups += [
        (kind, None, own)
        for kind, own in (("half_step", close), ("octave", ringing))
        if len({d.finger for d in own}) > 1
    ]
    return groups


def _above_half_steps(stopped: list[Deviation], score: Score) -> list[Deviation]:
    """The upper of two fingers that should touch: stopped notes a half step over a stopped note of the same string that
    the line plays too."""
    reached = {
        (note.placement.string, note.placement.semitones)
        for note in score.notes
        if note.placement and note.placement.finger
    }
    return [
        d for d in stopped if d.note.placement and (d.note.placement.string, d.note.placement.semitones - 1) in reached
    ]


def _strongest(
    groups: list[_Group], stopped: list[Deviation], left: dict[int, float], tolerance: float
) -> tuple[str, int | None, list[Deviation], float] | None:
    """The group whose median, taken off, makes most of the deviations go away, if it is one that carries a cause: enough
    notes, far enough out, agreeing, sure against the scatter of the hand, and not shared by the notes outside it."""
    best = None
    most = 0.0
    fingers = {d.finger for d in stopped}
    middles = {f: float(np.median([left[d.note.index] for d in stopped if d.finger == f])) for f in fingers}
    loose = _spread([left[d.note.index] - middles[d.finger] for d in stopped])
    for kind, finger, own in groups:
        if len(own) < LEAST_NOTES or (kind == "hand" and len({d.finger for d in own}) < 2):
            continue
        values = np.array([left[d.note.index] for d in own])
        cents = float(np.median(values))
        # A few notes of one finger can stand together by chance where the whole hand lands loosely.
        spread = max(_spread(list(values - cents)), loose if kind == "finger" else 0.0, _EAR_CENTS)
        unsure = 1.25 * spread / len(values) ** 0.5
        if abs(cents) <= _SHARE_OF_TOLERANCE * tolerance or abs(cents) < _SURE * unsure or not _agree(own, left, cents):
            continue
        if kind == "hand" and not _every_finger(own, left, cents):
            continue
        if kind in _OF_SOME_NOTES:
            inside = {d.note.index for d in own}
            others = [left[d.note.index] for d in stopped if d.note.index not in inside]
            if len(others) < LEAST_NOTES or abs(float(np.median(others))) > _OTHERS_SHARE * abs(cents):
                continue
        gain = float(np.sum(np.abs(values) - np.abs(values - cents))) - _COST_OF_A_CAUSE * tolerance
        if gain > most:
            best, most = (kind, finger, own, cents), gain
    return best


def _every_finger(own: list[Deviation], left: dict[int, float], cents: float) -> bool:
    medians = [
        float(np.median([left[d.note.index] for d in own if d.finger == finger])) for finger in {d.finger for d in own}
    ]
    return all(median * np.sign(cents) > 0.4 * abs(cents) for median in medians)


def _spread(values: list[float]) -> float:
    """Robust standard deviation: 1.4826 times the median distance from the median."""
    if not values:
        return 0.0
    return 1.4826 * float(np.median(np.abs(np.array(values) - np.median(values))))


def _agree(notes: list[Deviation], left: dict[int, float], cents: float) -> bool:
    same = [left[d.note.index] * np.sign(cents) > 0.4 * abs(cents) for d in notes]
    return float(np.mean(same)) >= LEAST_AGREE


def _finger_cause(kind: str, notes: list[Deviation], cents: float, expectations: Expectations, score: Score) -> Cause:
    length = expectations.string_length_mm or list(score.instrument.sizes.values())[-1]
    semitones = int(np.median([d.note.placement.semitones for d in notes if d.note.placement]))
    agree = float(np.mean([np.sign(d.cents or 0.0) == np.sign(cents) for d in notes]))
    return Cause(
        kind,
        tuple(d.note.index for d in notes),
        round(0.6 + 0.35 * agree, 2),
        cents=round(cents, 1),
        mm=round(millimetres(cents, semitones, length), 1),
        towards="bridge" if cents < 0 else "scroll",
    )
