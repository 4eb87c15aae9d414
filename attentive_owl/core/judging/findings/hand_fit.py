"""Which habits of the hand explain the deviations: a small robust model, in which the habits are asked against one another.

What is left after the tuning is explained by medians over groups of notes; the group that takes away most comes first and is
taken off, so that a finger is not blamed for what the whole hand does, nor the way down for what sinks all along.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence, Set
from dataclasses import dataclass, replace
from itertools import pairwise
from math import inf

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.judging.cause import LEAST_AGREE, LEAST_NOTES, Cause, millimetres, robust_deviation
from attentive_owl.core.judging.deviations import Deviation
from attentive_owl.core.judging.findings.finding import Evidence, Finding
from attentive_owl.core.listening.performance import NoteStatus

Array = NDArray[np.float64]

_SHARE_OF_TOLERANCE = 0.7
"""A habit is told from this share of the tolerance on: shared by many notes it is heard sooner than one note off."""
_MOST_HAND_CAUSES = 3
"""More reasons for one hand than these are no reasons."""
_SURE, _SURE_OF_A_LOOSE_HAND = 2.5, 4.0
"""Standard errors by which a median has to stand out of the hand's scatter; of a hand that lands apart on one and the same note some finger does by
chance (by hand: of 140 takes that scatter eight had another habit besides with the first, three with the second)."""
_OTHERS_SHARE = 0.4
"""Of the habit: where the notes without it are off by more, it is theirs too."""
_LEAST_OF_A_PLACE = 2
"""Landings of a finger on one note: a scale comes by its notes twice."""
_COST_OF_A_CAUSE = 1.0
"""In tolerances: what a cause has to explain beside itself."""
_LEAST_FOR_SCATTER, _LEAST_FOR_ONE_FINGER = 8, 4
"""Stopped notes without which nothing is said of a hand, or of one finger."""
_LEAST_SCATTER_CENTS = 14.0
"""Robust deviation: less is a hand as beginners have it (by hand)."""
_FEW, _FEW_WANT = 6, 1.2
"""Of fewer notes than these the deviation has to be so much greater."""
_LEAST_TWICE = 2
"""Notes of a finger, beside the first at each place, that tell whether it lands there alike. By hand."""
_WANDERS = 2.0
"""So many times the scatter of the other fingers."""
_LEAST_FOR_SINKING, _LEAST_SINKING_CENTS, _LEAST_TAU = 8, 18.0, 0.5
"""Notes, cents from the first to the last, and Kendall's tau that speak of a hand that sinks (by hand)."""


@dataclass(frozen=True)
class _Candidate:
    """A habit of the hand that would explain something of what was heard."""

    kind: str
    finger: int | None
    notes: tuple[Deviation, ...]
    explained: Array
    """What it takes off each of the stopped notes, in their order."""
    cents: float
    gain: float


def fit_hand(evidence: Evidence, findings: Sequence[Finding], elsewhere: Set[int]) -> list[Cause]:
    """Causes of the hand that explain the stopped notes together, what explains most first; each is looked for in what those before it leave
    over, in cents, with the tuning taken off. elsewhere: indices of notes that are explained by the place that the finger goes to."""
    stopped = tuple(
        d
        for d in evidence.notes
        if d.heard.status == NoteStatus.PLAYED
        and d.note.index not in elsewhere
        and d.tuned_cents is not None
        and d.note.placement
        and d.finger
    )
    if not stopped:
        return []
    left = np.array([float(d.tuned_cents or 0.0) for d in stopped])
    tolerance = float(np.median([d.pitch_tolerance_cents for d in stopped]))
    # A hand that lands loosely does so in short notes as well, which have more room.
    least = _least_scatter(min(tolerance, evidence.expectations.level.pitch_cents))
    apart = _within_places(stopped, left)
    sure = _SURE_OF_A_LOOSE_HAND if least < apart < inf else _SURE
    groups = [
        (finding, carrier.finger, carrier.notes)
        for finding in findings
        if finding.carriers is not None
        for carrier in finding.carriers(stopped, evidence.score)
        # By chance some place of a hand that lands loosely stands out.
        if not (apart > least and _is_of_one_place(finding, carrier.finger))
    ]
    causes = []
    heard = left
    for _ in range(_MOST_HAND_CAUSES):
        candidates = [_steady(*group, stopped, left, heard, tolerance, sure) for group in groups]
        candidates.append(_sinking(stopped, left, tolerance))
        best = max((own for own in candidates if own is not None), key=lambda own: own.gain, default=None)
        if best is None:
            break
        causes.append(_cause(best, evidence))
        left = left - best.explained
        groups = [group for group in groups if (group[0].kind, group[1]) != (best.kind, best.finger)]
    return causes + _scatter(stopped, left, least)


def _is_of_one_place(finding: Finding, finger: int | None) -> bool:
    return finger is not None and finding.of_some_notes


def _steady(
    finding: Finding,
    finger: int | None,
    own: tuple[Deviation, ...],
    stopped: tuple[Deviation, ...],
    left: Array,
    heard: Array,
    tolerance: float,
    sure: float,
) -> _Candidate | None:
    """A group that stands together, if it is one that carries a cause: enough notes, far enough out, agreeing, so many standard errors out of
    the scatter of the hand, and not shared by the notes outside it."""
    inside = {d.note.index for d in own}
    member = np.array([d.note.index in inside for d in stopped])
    alone = _is_of_one_place(finding, finger)
    if len(own) < (_LEAST_OF_A_PLACE if alone else LEAST_NOTES):
        return None
    values = left[member]
    cents = float(np.median(values))
    fingers = np.array([d.finger for d in stopped])
    middles = {f: float(np.median(left[fingers == f])) for f in set(fingers.tolist())}
    loose = robust_deviation([value - middles[f] for value, f in zip(left.tolist(), fingers.tolist(), strict=True)])
    # A few notes can stand together by chance where the whole hand lands loosely.
    beside = robust_deviation(left[~member].tolist()) if finding.of_some_notes else 0.0
    spread = max(robust_deviation(list(values - cents)), loose if finger is not None else 0.0, beside)
    # Strokes on one note that follow one another are one landing of the finger.
    times = _landings(own) if alone else len(values)
    unsure = 1.25 * spread / times**0.5
    agree = float(np.mean(values * np.sign(cents) > 0.4 * abs(cents)))
    # Two notes that are in tune each are no habit.
    heard_from = float(np.median([d.pitch_tolerance_cents for d in own])) if alone else _SHARE_OF_TOLERANCE * tolerance
    if alone and float(np.median(heard[member])) * np.sign(cents) <= heard_from:
        # What is right where the rest of a finger is low is not high.
        return None
    if abs(cents) <= heard_from or abs(cents) < sure * unsure or agree < LEAST_AGREE:
        return None
    if finding.kind == "hand" and not _every_finger(fingers, left, cents):
        return None
    if alone and (times < _LEAST_OF_A_PLACE or not _stands_right(heard[~member & (fingers == finger)], cents)):
        return None
    if finding.of_some_notes and (np.sum(~member) < LEAST_NOTES or not _stands_right(left[~member], cents)):
        return None
    explained = np.where(member, cents, 0.0)
    return _weighed(finding.kind, finger, own, explained, cents, left, tolerance, _COST_OF_A_CAUSE)


def _stands_right(others: Array, cents: float) -> bool:
    return len(others) > 0 and abs(float(np.median(others))) <= _OTHERS_SHARE * abs(cents)


def _landings(own: Sequence[Deviation]) -> int:
    return 1 + sum(two.note.index - one.note.index > 1 for one, two in pairwise(own))


def _weighed(
    kind: str,
    finger: int | None,
    own: tuple[Deviation, ...],
    explained: Array,
    cents: float,
    left: Array,
    tolerance: float,
    cost: float,
) -> _Candidate | None:
    gain = float(np.sum(np.abs(left) - np.abs(left - explained))) - cost * tolerance
    return _Candidate(kind, finger, own, explained, cents, gain) if gain > 0 else None


def _every_finger(fingers: NDArray[np.int64], left: Array, cents: float) -> bool:
    medians = [float(np.median(left[fingers == finger])) for finger in set(fingers.tolist())]
    return all(median * np.sign(cents) > 0.4 * abs(cents) for median in medians)


def _sinking(stopped: tuple[Deviation, ...], left: Array, tolerance: float) -> _Candidate | None:
    """A line that goes down evenly all along: slope by the median over all pairs (Theil and Sen), order by the share of pairs
    that fall (Kendall's tau)."""
    if len(stopped) < _LEAST_FOR_SINKING:
        return None
    time = np.array([d.heard.onset_s or 0.0 for d in stopped])
    one, two = np.triu_indices(len(time), 1)
    rises = (left[two] - left[one]) / np.maximum(time[two] - time[one], 1e-3)
    slope, tau = float(np.median(rises)), float(np.sign(rises).mean())
    start = float(np.median(left - slope * time))
    fall = -slope * float(time[-1] - time[0])
    if fall < max(_LEAST_SINKING_CENTS, _SHARE_OF_TOLERANCE * tolerance) or tau > -_LEAST_TAU:
        return None
    explained = np.asarray(start + slope * time, dtype=np.float64)
    return _weighed("sinking", None, stopped, explained, -fall, left, tolerance, 2 * _COST_OF_A_CAUSE)


def _cause(found: _Candidate, evidence: Evidence) -> Cause:
    places = [d.note.placement.semitones for d in found.notes if d.note.placement]
    agree = float(np.mean([np.sign(d.tuned_cents or 0.0) == np.sign(found.cents) for d in found.notes]))
    cause = Cause(
        found.kind,
        tuple(d.note.index for d in found.notes),
        round(0.6 + 0.35 * agree, 2),
        finger=found.finger,
        cents=round(found.cents, 1),
        mm=round(millimetres(found.cents, int(np.median(places)), evidence.string_length_mm), 1),
        towards="bridge" if found.cents < 0 else "scroll",
    )
    every = {d.finger for d in evidence.notes if d.finger}
    alone = found.kind == "hand" or (found.kind == "finger" and len(every) == 1)
    if alone and evidence.expectations.a4_hz is not None and not evidence.tuning.known:
        # A flat hand and flat strings sound the same where no open string is heard.
        return replace(cause, confidence=0.5, detail={"or": "strings"})
    return cause


def _least_scatter(tolerance: float) -> float:
    return max(_SHARE_OF_TOLERANCE * tolerance, _LEAST_SCATTER_CENTS)


def _scatter(stopped: tuple[Deviation, ...], left: Array, least: float) -> list[Cause]:
    """What has no fixed place: all of it, or one finger of a hand that is steady otherwise. least: cents (a standard deviation)."""
    spread = min(robust_deviation(left.tolist()), _within_places(stopped, left))
    if len(stopped) >= _LEAST_FOR_SCATTER and spread > least:
        wide = {d.finger for d in stopped if abs(left[stopped.index(d)]) > spread}
        if len(wide) > 1 or len({d.finger for d in stopped}) == 1:
            return [_loose("scatter", None, stopped, left, spread)]
    causes = []
    for finger in sorted({d.finger for d in stopped if d.finger}):
        own = np.array([d.finger == finger for d in stopped])
        if own.sum() < _LEAST_FOR_ONE_FINGER or own.all():
            continue
        deviation = min(
            float(np.std(left[own], ddof=1)), _within_places([d for d in stopped if d.finger == finger], left[own])
        )
        others = robust_deviation(left[~own].tolist())
        out = np.sum(np.abs(left[own] - np.median(left[own])) > 0.5 * deviation)
        wanted = least * (_FEW_WANT if own.sum() < _FEW else 1.0)
        if deviation > max(wanted, _WANDERS * others) and out >= 2:
            causes.append(_loose("scatter", finger, [d for d in stopped if d.finger == finger], left[own], deviation))
    return causes


def _within_places(stopped: Sequence[Deviation], left: Array) -> float:
    """Standard deviation of notes about the mean of their own place (pooled, in cents): a finger that lands on each of its notes off, but always
    alike, has a place. Infinite where too few places come twice."""
    places: dict[int, list[float]] = defaultdict(list)
    for d, value in zip(stopped, left.tolist(), strict=True):
        places[d.note.midi].append(value)
    free = len(stopped) - len(places)
    if free < _LEAST_TWICE:
        return inf
    return float((sum(len(own) * np.var(own) for own in places.values()) / free) ** 0.5)


def _loose(kind: str, finger: int | None, own: Sequence[Deviation], left: Array, spread: float) -> Cause:
    notes = tuple(d.note.index for d, value in zip(own, left, strict=True) if abs(value) > 0.5 * spread)
    return Cause(kind, notes or tuple(d.note.index for d in own), 0.75, finger=finger, cents=round(spread, 1))
