"""Notes about a half step away: the key signature forgotten, or a finger in its other place."""

from __future__ import annotations

from collections import defaultdict

import numpy as np

from attentive_owl.core.judging.cause import Cause, robust_deviation
from attentive_owl.core.judging.deviations import Deviation
from attentive_owl.core.judging.findings.finding import Evidence, Finding, Layer
from attentive_owl.core.judging.findings.leaning import HALF_WAY_CENTS, from_the_hand, landings, leans, stopped_notes
from attentive_owl.core.judging.speech import Speaker, Words, capital, counted, finger
from attentive_owl.core.listening.performance import NoteStatus

_AS_NATURAL_CENTS = 45.0
"""So near the natural the notes of a letter are naturals, by their median."""
_NEARER_CENTS, _MOST_NEARER = 50.0, 0.8
"""So far from its place towards the natural a note is nearer the natural; so many of them are, however loosely the hand lands."""
_ANOTHER_CENTS = 70.0
"""So far from where the hand stands it is another note, as it is for the ear of one that stands where it should. By hand."""
_NOT_AS_WRITTEN_CENTS = 25.0
"""So far towards the natural is every one of them: a single note as it is written, and the sign was not forgotten. By hand."""
_MOST_OFF_CENTS = 145.0
"""Further out it is no half step."""
_LOOSE = 2.5
"""Standard deviations of the hand: no further out a finger that lands anywhere is there by chance."""
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


def _as_natural(evidence: Evidence, step: str, group: list[Deviation]) -> bool:
    """Whether every note of a letter that the key signature alters was played without its sign."""
    alter = evidence.score.key.alter(step)
    if (
        not alter
        or len(group) < _LEAST_NATURAL
        or any(d.note.pitch.alter != alter or d.tuned_cents is None for d in group)
    ):
        return False
    # With a hand that stands low a natural does too; of what has a sign it is not known what it is.
    plain = [d for d in stopped_notes(evidence) if not evidence.score.key.alter(d.note.pitch.step)]
    towards = -alter * (np.array([d.tuned_cents for d in group], dtype=np.float64) - leans(group, plain))
    other = np.array([d.heard.status == NoteStatus.WRONG_PITCH for d in group]) | (towards > _ANOTHER_CENTS)
    return bool(
        np.mean(other) >= _LEAST_SHARE
        and abs(float(np.median(towards)) - 100.0) < _AS_NATURAL_CENTS
        and np.all(towards > _NOT_AS_WRITTEN_CENTS)
        and np.mean(towards > _NEARER_CENTS) >= _MOST_NEARER
    )


def _key_signature(evidence: Evidence) -> list[Cause]:
    natural = [d for step, group in _by_letter(evidence).items() if _as_natural(evidence, step, group) for d in group]
    return [Cause("key_signature", tuple(sorted(d.note.index for d in natural)), 0.9)] if natural else []


def _place(evidence: Evidence) -> list[Cause]:
    """The right finger in the wrong place: most of the notes of one name a half step off to the same side of where the hand stands."""
    causes = []
    stopped = [*stopped_notes(evidence), *stopped_notes(evidence, NoteStatus.WRONG_PITCH)]
    away = dict(zip((d.note.index for d in stopped), from_the_hand(evidence, stopped).tolist(), strict=True))
    loose = _LOOSE * robust_deviation([away[d.note.index] for d in stopped if d.heard.status == NoteStatus.PLAYED])

    def half_step_off(d: Deviation, side: float) -> bool:
        # What the ear takes for the note that is written may be another one for a hand that stands off to the other side.
        least = HALF_WAY_CENTS if d.heard.status == NoteStatus.WRONG_PITCH else _ANOTHER_CENTS
        return bool(max(least, loose) < side * away.get(d.note.index, 0.0) < _MOST_OFF_CENTS)

    for step, group in _by_letter(evidence).items():
        if _as_natural(evidence, step, group):
            continue
        for side in (-1.0, 1.0):
            near = [d for d in group if half_step_off(d, side)]
            if landings(near) >= _LEAST_NATURAL and len(near) >= _LEAST_SHARE * len(group):
                cents = float(np.median([away[d.note.index] for d in near]))
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
