"""Notes about a half step away: the key signature forgotten, or a finger in its other place."""

from __future__ import annotations

from collections import defaultdict

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.judging.cause import Cause
from attentive_owl.core.judging.deviations import Deviation
from attentive_owl.core.judging.findings.finding import Evidence, Finding, Layer
from attentive_owl.core.judging.speech import Speaker, Words, capital, counted, finger
from attentive_owl.core.listening.performance import NoteStatus

Array = NDArray[np.float64]

_AS_NATURAL_CENTS = 45.0
"""So near the natural the notes of a letter are naturals, by their median."""
_NEARER_CENTS, _MOST_NEARER = 50.0, 0.8
"""So far from its place towards the natural a note is nearer the natural; so many of them are, however loosely the hand lands."""
_NOT_AS_WRITTEN_CENTS = 25.0
"""So far towards the natural is every one of them: a single note as it is written, and the sign was not forgotten. By hand."""
_NEIGHBOURS, _LEAST_NEIGHBOURS = 8, 3
"""Notes nearby without a sign that tell how high or low the hand stands there, and how few tell nothing."""
_HALF_STEP_CENTS = (55.0, 145.0)
"""So far from its place a finger stands in its other one."""
_LEAST_NATURAL = 2
"""One is a slip."""
_LEAST_SHARE = 0.5
"""Of the notes of that finger."""


def _by_letter(evidence: Evidence) -> dict[str, list[Deviation]]:
    groups: dict[str, list[Deviation]] = defaultdict(list)
    for d in evidence.notes:
        if d.judged:
            groups[d.note.pitch.step].append(d)
    return groups


def _leans(evidence: Evidence, group: list[Deviation]) -> Array:
    """Cents by which the notes around each of a group lean that have no sign, open strings left out: with a hand that stands low a natural does
    too. Shape (group,)."""
    plain = [
        (d.note.index, d.tuned_cents)
        for d in evidence.notes
        if d.heard.status == NoteStatus.PLAYED
        and d.tuned_cents is not None
        and d.finger
        and not evidence.score.key.alter(d.note.pitch.step)
    ]
    if len(plain) < _LEAST_NEIGHBOURS:
        return np.zeros(len(group))
    index, cents = np.array(plain).T
    nearest = [np.argsort(abs(index - d.note.index), kind="stable")[:_NEIGHBOURS] for d in group]
    return np.array([np.median(cents[near]) for near in nearest])


def _as_natural(evidence: Evidence, step: str, group: list[Deviation]) -> bool:
    """Whether every note of a letter that the key signature alters was played without its sign."""
    alter = evidence.score.key.alter(step)
    if (
        not alter
        or len(group) < _LEAST_NATURAL
        or any(d.note.pitch.alter != alter or d.tuned_cents is None for d in group)
    ):
        return False
    towards = -alter * (np.array([d.tuned_cents for d in group], dtype=np.float64) - _leans(evidence, group))
    wrong = np.mean([d.heard.status == NoteStatus.WRONG_PITCH for d in group])
    return bool(
        wrong >= _LEAST_SHARE
        and abs(float(np.median(towards)) - 100.0) < _AS_NATURAL_CENTS
        and np.all(towards > _NOT_AS_WRITTEN_CENTS)
        and np.mean(towards > _NEARER_CENTS) >= _MOST_NEARER
    )


def _key_signature(evidence: Evidence) -> list[Cause]:
    natural = [d for step, group in _by_letter(evidence).items() if _as_natural(evidence, step, group) for d in group]
    return [Cause("key_signature", tuple(sorted(d.note.index for d in natural)), 0.9)] if natural else []


def _place(evidence: Evidence) -> list[Cause]:
    """The right finger in the wrong place: most of the notes of one name a half step off to the same side."""
    causes = []
    for step, group in _by_letter(evidence).items():
        if _as_natural(evidence, step, group):
            continue
        low, high = _HALF_STEP_CENTS
        for side in (-1.0, 1.0):
            near = [
                d
                for d in group
                if d.heard.status == NoteStatus.WRONG_PITCH and d.finger and low < side * (d.tuned_cents or 0.0) < high
            ]
            if len(near) >= _LEAST_NATURAL and len(near) >= _LEAST_SHARE * len(group):
                cents = float(np.median([d.tuned_cents for d in near if d.tuned_cents is not None]))
                notes = tuple(d.note.index for d in near)
                causes.append(Cause("place", notes, 0.85, near[0].string, near[0].finger, round(cents, 1)))
    return causes


def _key_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    names = speaker.notes(causes[0].notes)
    several = " and " in names
    were = "were" if several else "was"
    return Words(
        f"Look at the key signature: it is {names} all the way through.",
        f"The signs at the start of the line were forgotten. Ask which notes they change: {names}.",
        f"The key signature was forgotten: {names} {were} played as {'naturals' if several else 'a natural'} throughout.",
    )


def _place_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    cause = causes[0]
    name = speaker.note(cause.notes[0])
    own = finger(cause.finger)
    way = "higher, towards the bridge" if cause.low else "lower, towards the scroll"
    return Words(
        f"{capital(name)} wants the {own} a half step {way}.",
        f"One finger goes to its other place: {name} needs the {own} {way}, a clear step away.",
        f"{capital(name)}: the {own} stands a half step too {'low' if cause.low else 'high'} in {counted(len(cause.notes), 'note')}.",
    )


FINDINGS = (
    Finding("key_signature", Layer.PLACE, 30, lambda c, s: "The key signature was forgotten", _key_words, _key_signature),
    Finding(
        "place",
        Layer.PLACE,
        31,
        lambda cause, speaker: f"{capital(finger(cause.finger))} in its other place",
        _place_words,
        _place,
    ),
)  # fmt: skip
