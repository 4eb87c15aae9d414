"""Which habits of the hand explain the deviations: a small robust model, in which the habits are asked against one another.

What is left after the tuning is explained by medians over groups of notes; the group that takes away most comes first and is
taken off, so that a finger is not blamed for what the whole hand does, nor the way down for what sinks all along. Two that share notes are
fitted at once where they explain more like that.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Sequence, Set
from dataclasses import dataclass, replace
from functools import partial
from itertools import combinations
from math import inf
from statistics import median

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.judging.cause import LEAST_AGREE, LEAST_NOTES, Cause, even_slope, millimetres, robust_deviation
from attentive_owl.core.judging.deviations import Deviation
from attentive_owl.core.judging.findings.finding import Evidence, Finding
from attentive_owl.core.judging.findings.leaning import HALF_WAY_CENTS, from_the_hand, landings, stopped_notes
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
_ROUNDS = 4
"""In which two habits come to rest, each in what the other leaves over."""
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
class _Hand:
    """Stopped notes of a pass, and what is asked of a habit that would explain them."""

    stopped: tuple[Deviation, ...]
    heard: Array
    """Cents, with the tuning taken off. Shape (stopped,)."""
    onset_s: Array
    fingers: NDArray[np.int64]
    tolerance: float
    sure: float
    """Standard errors by which a habit has to stand out."""

    def left_by(self, found: Sequence[_Candidate]) -> Array:
        """Cents that these habits leave over."""
        return self.heard - np.sum([own.explained for own in found], axis=0) if found else self.heard

    def gain(self, found: Sequence[_Candidate]) -> float:
        """Cents that these habits explain, less what each has to explain beside itself."""
        over = np.sum(np.abs(self.heard)) - np.sum(np.abs(self.left_by(found)))
        return float(over) - self.tolerance * sum(own.cost for own in found)


@dataclass(frozen=True)
class _Group:
    """Notes that would carry a habit of the hand."""

    kind: str
    finger: int | None
    notes: tuple[Deviation, ...]
    member: NDArray[np.bool_]
    """Which of the stopped notes they are."""
    of_some_notes: bool

    @property
    def alone(self) -> bool:
        """Whether it is one place of one finger."""
        return self.of_some_notes and self.finger is not None

    def lean(self, left: Array) -> Array:
        # Of a few values a plain median is quicker than one of arrays.
        return np.where(self.member, median(left[self.member].tolist()), 0.0)


@dataclass(frozen=True)
class _Candidate:
    """A habit of the hand that would explain something of what was heard."""

    kind: str
    finger: int | None
    notes: tuple[Deviation, ...]
    explained: Array
    """What it takes off each of the stopped notes, in their order."""
    cents: float
    cost: float
    """In tolerances: what it has to explain beside itself."""


@dataclass(frozen=True)
class _Habit:
    """One that concerns more than a place of one finger, in what others leave over: cents of shape (stopped,)."""

    member: NDArray[np.bool_]
    """The notes that it concerns."""
    lean: Callable[[Array], Array]
    """What it takes off each note, whether or not it is one."""
    asked: Callable[[Array], _Candidate | None]
    """The habit, if it is one."""


def fit_hand(evidence: Evidence, findings: Sequence[Finding], elsewhere: Set[int]) -> list[Cause]:
    """Causes of the hand that explain the stopped notes together, in cents, with the tuning taken off. elsewhere: indices of notes that are
    explained by the place that the finger goes to."""
    wrong = stopped_notes(evidence, NoteStatus.WRONG_PITCH)
    # What is another note by itself may be a finger's own for a hand that stands off.
    own = [d for d, away in zip(wrong, from_the_hand(evidence, wrong), strict=True) if abs(away) < HALF_WAY_CENTS]
    found = [d for d in [*stopped_notes(evidence), *own] if d.note.index not in elsewhere]
    stopped = tuple(sorted(found, key=lambda d: d.note.index))
    if not stopped:
        return []
    heard = np.array([float(d.tuned_cents or 0.0) for d in stopped])
    tolerance = float(np.median([d.pitch_tolerance_cents for d in stopped]))
    # A hand that lands loosely does so in short notes as well, which have more room.
    least = _least_scatter(min(tolerance, evidence.expectations.level.pitch_cents))
    apart = _within_places(stopped, heard)
    sure = _SURE_OF_A_LOOSE_HAND if least < apart < inf else _SURE
    onset_s = np.array([d.heard.onset_s or 0.0 for d in stopped])
    hand = _Hand(stopped, heard, onset_s, np.array([d.finger for d in stopped], dtype=np.int64), tolerance, sure)
    groups = [
        group
        for group in _groups(hand, findings, evidence)
        # By chance some place of a hand that lands loosely stands out.
        if not (apart > least and group.alone)
    ]
    habits = _explain(hand, groups)
    return [_cause(own, evidence) for own in habits] + _scatter(stopped, hand.left_by(habits), least)


def _groups(hand: _Hand, findings: Sequence[Finding], evidence: Evidence) -> list[_Group]:
    found = []
    for finding in findings:
        for carrier in finding.carriers(hand.stopped, evidence.score) if finding.carriers else ():
            inside = {d.note.index for d in carrier.notes}
            member = np.array([d.note.index in inside for d in hand.stopped])
            found.append(_Group(finding.kind, carrier.finger, carrier.notes, member, finding.of_some_notes))
    return found


def _explain(hand: _Hand, groups: Sequence[_Group]) -> list[_Candidate]:
    """The habits that explain most together: one after the other, what explains most first; or two of them fitted at once, and what comes
    after those, where that says more. Of a finger that stands low and notes that ring each is in the way of the other."""
    in_turn = _in_turn(hand, groups, [])
    habits = [
        _Habit(group.member, group.lean, partial(_steady, group, hand))
        for group in groups
        if not group.alone and group.notes
    ]
    habits.append(_Habit(np.ones(len(hand.heard), bool), partial(_fall, hand), partial(_sinking, hand)))
    pairs = [both for one, two in combinations(habits, 2) if (both := _at_once(hand, one, two))]
    if not pairs:
        return in_turn
    together = _in_turn(hand, groups, max(pairs, key=hand.gain))
    return together if hand.gain(together) > hand.gain(in_turn) else in_turn


def _in_turn(hand: _Hand, groups: Sequence[_Group], found: list[_Candidate]) -> list[_Candidate]:
    """These habits, and then whatever explains most of what is left over, as long as something does."""
    while len(found) < _MOST_HAND_CAUSES:
        known = {(own.kind, own.finger) for own in found}
        left = hand.left_by(found)
        candidates = [_steady(group, hand, left) for group in groups if (group.kind, group.finger) not in known]
        candidates.append(_sinking(hand, left))
        longer = [[*found, own] for own in candidates if own is not None]
        best = max(longer, key=hand.gain, default=found)
        if hand.gain(best) <= hand.gain(found):
            break
        found = best
    return found


def _at_once(hand: _Hand, one: _Habit, two: _Habit) -> list[_Candidate] | None:
    """Two habits, each in what the other leaves over; None where they do not come to rest as two."""
    if not np.any(one.member & two.member):
        # Neither is in the other's way.
        return None
    of_two = np.zeros(len(hand.heard))
    for _ in range(_ROUNDS):
        of_one = one.lean(hand.heard - of_two)
        of_two = two.lean(hand.heard - of_one)
    first = one.asked(hand.heard - of_two)
    second = two.asked(hand.heard - of_one) if first else None
    return [first, second] if first and second else None


def _steady(group: _Group, hand: _Hand, left: Array) -> _Candidate | None:
    """A group that stands together, if it is one that carries a cause: enough notes, far enough out, agreeing, so many standard errors out of
    the scatter of the hand, and not shared by the notes outside it."""
    member, alone, fingers = group.member, group.alone, hand.fingers
    if len(group.notes) < (_LEAST_OF_A_PLACE if alone else LEAST_NOTES):
        return None
    values = left[member]
    cents = float(np.median(values))
    middles = {f: median(left[fingers == f].tolist()) for f in set(fingers.tolist())}
    loose = robust_deviation([value - middles[f] for value, f in zip(left.tolist(), fingers.tolist(), strict=True)])
    # A few notes can stand together by chance where the whole hand lands loosely.
    beside = robust_deviation(left[~member].tolist()) if group.of_some_notes else 0.0
    spread = max(robust_deviation(list(values - cents)), loose if group.finger is not None else 0.0, beside)
    # Strokes on one note that follow one another are one landing of the finger.
    times = landings(group.notes) if alone else len(values)
    unsure = 1.25 * spread / times**0.5
    agree = float(np.mean(values * np.sign(cents) > 0.4 * abs(cents)))
    # Two notes that are in tune each are no habit.
    heard_from = _SHARE_OF_TOLERANCE * hand.tolerance
    if alone:
        heard_from = float(np.median([d.pitch_tolerance_cents for d in group.notes]))
    if alone and float(np.median(hand.heard[member])) * np.sign(cents) <= heard_from:
        # What is right where the rest of a finger is low is not high.
        return None
    if abs(cents) <= heard_from or abs(cents) < hand.sure * unsure or agree < LEAST_AGREE:
        return None
    if group.kind == "hand" and not _every_finger(fingers, left, cents):
        return None
    if alone and (
        times < _LEAST_OF_A_PLACE or not _stands_right(hand.heard[~member & (fingers == group.finger)], cents)
    ):
        return None
    if group.of_some_notes and (np.sum(~member) < LEAST_NOTES or not _stands_right(left[~member], cents)):
        return None
    return _Candidate(group.kind, group.finger, group.notes, np.where(member, cents, 0.0), cents, _COST_OF_A_CAUSE)


def _stands_right(others: Array, cents: float) -> bool:
    return len(others) > 0 and abs(float(np.median(others))) <= _OTHERS_SHARE * abs(cents)


def _every_finger(fingers: NDArray[np.int64], left: Array, cents: float) -> bool:
    medians = [float(np.median(left[fingers == finger])) for finger in set(fingers.tolist())]
    return all(median * np.sign(cents) > 0.4 * abs(cents) for median in medians)


def _fall(hand: _Hand, left: Array) -> Array:
    """An even change from start to end."""
    changed = even_slope(hand.onset_s, left) * hand.onset_s
    return np.asarray(np.median(left - changed) + changed, dtype=np.float64)


def _sinking(hand: _Hand, left: Array) -> _Candidate | None:
    """A line that goes down evenly all along: its order is told by the share of pairs that fall (Kendall's tau)."""
    if len(left) < _LEAST_FOR_SINKING:
        return None
    one, two = np.triu_indices(len(left), 1)
    tau, explained = float(np.sign(left[two] - left[one]).mean()), _fall(hand, left)
    fall = float(explained[0] - explained[-1])
    if fall < max(_LEAST_SINKING_CENTS, _SHARE_OF_TOLERANCE * hand.tolerance) or tau > -_LEAST_TAU:
        return None
    return _Candidate("sinking", None, hand.stopped, explained, -fall, 2 * _COST_OF_A_CAUSE)


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
