"""The whole line stands elsewhere: on another string, or an octave away."""

from __future__ import annotations

from attentive_owl.core.judging.cause import Cause
from attentive_owl.core.judging.findings.finding import Evidence, Finding, Layer
from attentive_owl.core.judging.speech import Speaker, Words, counted


def _shifted(evidence: Evidence, *, octaves: bool) -> list[Cause]:
    shift = evidence.performance.shift_semitones
    if not shift or (shift % 12 == 0) is not octaves:
        return []
    every = tuple(d.note.index for d in evidence.notes if d.judged)
    kind = "octave_off" if octaves else "wrong_string"
    return [Cause(kind, every, 0.95, cents=100.0 * shift)]


def _wrong_string(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    cause = causes[0]
    way = "higher" if cause.low else "lower"
    first = speaker.note(0)
    away = abs(round((cause.cents or 0.0) / 100))
    return Words(
        f"You began on another string. Start one string {way}: the first note is {first}.",
        f"Everything was played on a neighbouring string. Find out together which string the first note, {first}, is on.",
        f"The whole line stands {counted(away, 'half step')} {'low' if cause.low else 'high'}: another string from the first note on.",
    )


def _octave_off(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    cause = causes[0]
    octaves = abs(round((cause.cents or 0.0) / 1200))
    how_far = "an octave" if octaves == 1 else f"{octaves} octaves"
    way, other = ("low", "higher") if cause.low else ("high", "lower")
    first = speaker.note(0)
    return Words(
        f"You played it {how_far} too {way}. Start on the {other} {first}.",
        f"The line was played {how_far} too {way}. Find the {other} {first} together, and start there.",
        f"The whole line stands {how_far} {way}.",
    )


FINDINGS = (
    Finding(
        "wrong_string",
        Layer.LINE,
        10,
        lambda cause, speaker: "On another string all through",
        _wrong_string,
        lambda evidence: _shifted(evidence, octaves=False),
    ),
    Finding(
        "octave_off",
        Layer.LINE,
        11,
        lambda cause, speaker: f"An octave too {'low' if cause.low else 'high'}",
        _octave_off,
        lambda evidence: _shifted(evidence, octaves=True),
    ),
)
