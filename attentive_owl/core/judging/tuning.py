"""What is known of the strings: only from open ones, in the take or in the day's tuning check.

A flat hand and a flat instrument sound the same where no open string is heard. So nothing is said of a string's tuning, and
nothing taken off for it, unless its own open note was heard, or other open strings show that the whole instrument is off.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from attentive_owl.core.exercises import Score, ScoreNote
from attentive_owl.core.judging.cause import robust_deviation
from attentive_owl.core.judging.expectations import Expectations
from attentive_owl.core.judging.report import TuningSource
from attentive_owl.core.listening.performance import HeardNote, NoteStatus, Performance
from attentive_owl.core.theory import Pitch, Temperament, cents_between, pitch_offset_cents

OUT_OF_TUNE_CENTS = 12.0
"""From here on a string counts as out of tune (common practice; a child's fine tuner is hardly set closer than this)."""
_AGREE_CENTS = 10.0
"""Strings, or looks at one string, that lie so near each other agree (by hand)."""
_EAR_CENTS = 1.0
"""What the ear may be off by in a long open note."""
_SETTLED_CENTS = 8.0
"""An open note whose pitch moves by so much within itself (half its 16 to 84 percentile range) tells nothing of its string: a low one that is stopped
soon after its stroke glides up all the time. By hand: of 200 open notes of two sources that keep their pitch one has more, 8.4; recorded bass notes
of a fifth of a second have 6 to 13."""
_LEFT_CENTS = 5.0
"""By so much nearer have the fingers to stand to their places than the string would have them, for the hand to have put them right by ear."""


@dataclass(frozen=True)
class StringTuning:
    """How far one string is out, and how surely that is known."""

    cents: float
    """Over its place with A4 = 440."""
    uncertainty_cents: float
    """One standard deviation."""
    source: TuningSource
    """open: heard in the take; check: in the day's tuning check."""


@dataclass(frozen=True)
class Tuning:
    """What is known, against the assignment's reference."""

    strings: dict[str, StringTuning]
    instrument_cents: float | None
    """How far the strings as a whole stand from A4 = 440; None where none was heard."""
    reference_cents: float
    """How far what is asked for stands over A4 = 440."""
    instrument_out: bool
    """Whether the whole instrument is out of tune."""
    strings_out: dict[str, float]
    """Single strings that are out of tune, with cents over the reference."""
    taken_off: dict[str, float]
    """String -> cents that its notes owe to the tuning."""

    @property
    def known(self) -> bool:
        return bool(self.strings)


def offset_cents(note: ScoreNote, score: Score, expectations: Expectations) -> float:
    """Where the temperament puts a note, in cents over equal temperament."""
    strings = [string.pitch for string in score.instrument.strings]
    return pitch_offset_cents(note.pitch, expectations.temperament, score.tonic, strings)


def raw_cents(note: ScoreNote, heard: HeardNote, score: Score, expectations: Expectations) -> float | None:
    """Deviation with A4 = 440."""
    if heard.heard_midi is None:
        return None
    return 100.0 * (heard.heard_midi - note.midi) - offset_cents(note, score, expectations)


def find_tuning(performance: Performance, score: Score, expectations: Expectations) -> Tuning:
    """How instrument and strings are tuned, in cents over A4 = 440: by open strings of this take, else by today's tuning check; nothing is said of a string that neither has heard."""
    opens, stopped = _heard(performance, score, expectations)
    strings = {name: _from_take(values) for name, values in opens.items()}
    for name, cents in expectations.open_strings.items():
        if name not in strings:
            strings[name] = StringTuning(cents + _pure_over(name, score, expectations), _EAR_CENTS, "check")
    own = _instrument(strings, stopped)
    if expectations.a4_hz is not None:
        reference = cents_between(440.0, expectations.a4_hz)
    else:
        # Asked for are the pupil's own strings; with none heard only how the notes stand to one another is judged.
        reference = performance.tuning_cents if own is None else own
    if own is None:
        return Tuning(strings, None, reference, False, {}, {})
    whole = own - (0.0 if expectations.a4_hz is None else reference)
    instrument_out = abs(whole) > OUT_OF_TUNE_CENTS and _agree(strings, stopped, own)
    base = own if instrument_out else reference
    out = {
        name: string.cents - reference
        for name, string in strings.items()
        if abs(string.cents - base) > OUT_OF_TUNE_CENTS
    }
    taken_off = {}
    for string in score.instrument.strings:
        known = strings.get(string.name)
        cents = own - reference if known is None and instrument_out else 0.0
        if known is not None and (instrument_out or string.name in out):
            cents = known.cents - reference
        if cents:
            taken_off[string.name] = cents
    return Tuning(strings, own, reference, instrument_out, out, taken_off)


def put_right_by_ear(
    tuning: Tuning, performance: Performance, score: Score, expectations: Expectations
) -> frozenset[str]:
    """Strings that are out of tune, on which the hand puts every finger right by ear: their stopped notes owe the string
    nothing. Told only where several fingers do it; one alone may have a habit that happens to make up for the string."""
    by_finger: dict[str, dict[int, list[float]]] = {}
    for string, finger, cents, _ in _played(performance, score, expectations):
        if finger and string in tuning.taken_off:
            by_finger.setdefault(string, {}).setdefault(finger, []).append(cents - tuning.reference_cents)
    right = set()
    for string, fingers in by_finger.items():
        owed = tuning.taken_off[string]
        middles = [float(np.median(own)) for own in fingers.values()]
        if len(middles) > 1 and all(abs(middle) + _LEFT_CENTS < abs(middle - owed) for middle in middles):
            right.add(string)
    return frozenset(right)


def _played(
    performance: Performance, score: Score, expectations: Expectations
) -> Iterator[tuple[str, int, float, float]]:
    """(string, finger, cents with A4 = 440, their spread within the note) of every note that was played on its pitch."""
    for note, own in zip(score.notes, performance.chosen.notes, strict=True):
        cents = raw_cents(note, own, score, expectations)
        if note.placement and own.status == NoteStatus.PLAYED and cents is not None:
            yield note.placement.string, note.placement.finger, cents, own.scatter_cents


def _heard(
    performance: Performance, score: Score, expectations: Expectations
) -> tuple[dict[str, list[float]], dict[str, list[float]]]:
    """Cents with A4 = 440 of open and of stopped notes, by string."""
    opens: dict[str, list[float]] = {}
    stopped: dict[str, list[float]] = {}
    for string, finger, cents, scatter in _played(performance, score, expectations):
        if finger or scatter <= _SETTLED_CENTS:
            (stopped if finger else opens).setdefault(string, []).append(cents)
    return opens, stopped


def _from_take(cents: list[float]) -> StringTuning:
    """Median; the uncertainty of a median of n is 1.25 times the deviation over the square root of n."""
    within = 1.25 * max(robust_deviation(cents), _EAR_CENTS) / len(cents) ** 0.5
    return StringTuning(float(np.median(cents)), float(np.hypot(within, _EAR_CENTS)), "open")


def _pure_over(name: str, score: Score, expectations: Expectations) -> float:
    """Cents by which a string's place in pure fifths (fourths) stands over its place in the temperament that is asked for."""
    strings = [string.pitch for string in score.instrument.strings]
    pitch = score.instrument.string(name).pitch
    pure = pitch_offset_cents(pitch, Temperament.RINGING, Pitch.parse("A4"), strings)
    return pure - pitch_offset_cents(pitch, expectations.temperament, score.tonic, strings)


def _instrument(strings: dict[str, StringTuning], stopped: dict[str, list[float]]) -> float | None:
    """Where the open strings agree their mean; where one is out, what the others say (of two, the one nearer to its place)."""
    cents = sorted((string.cents for string in strings.values()), key=abs)
    if not cents:
        return None
    if len(cents) == 1:
        return cents[0] if _others_agree(strings, stopped, cents[0]) else 0.0
    if max(cents) - min(cents) <= _AGREE_CENTS:
        return float(np.mean(cents))
    return cents[0] if len(cents) == 2 else float(np.median(cents))


def _others_agree(strings: dict[str, StringTuning], stopped: dict[str, list[float]], cents: float) -> bool:
    """Whether the stopped notes of other strings stand where a single open one does; none of them says nothing against it."""
    others = [value for name, values in stopped.items() if name not in strings for value in values]
    return not others or abs(float(np.median(others)) - cents) <= _AGREE_CENTS


def _agree(strings: dict[str, StringTuning], stopped: dict[str, list[float]], own: float) -> bool:
    """Whether it is the whole instrument: most of the open strings that were heard stand together (a single one, with what was
    stopped on others)."""
    if len(strings) == 1:
        played = set(stopped) | set(strings)
        return len(played) > 1 and _others_agree(strings, stopped, own)
    together = sum(abs(string.cents - own) <= _AGREE_CENTS for string in strings.values())
    return together >= 2 and together > len(strings) / 2
