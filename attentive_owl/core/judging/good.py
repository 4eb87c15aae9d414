"""What counts as a good go: one rule, for the counter, the ladder and the report alike."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from attentive_owl.core.judging.expectations import GoodGoRule
from attentive_owl.core.judging.report import ReportNote
from attentive_owl.core.judging.speech import counted
from attentive_owl.core.listening.performance import NoteStatus

MOST_UNCLEAR = 1 / 3
"""Share of the notes that can not be judged from which on a go can not be called good."""

FAR_ABOVE_PERCENT = 80.0
"""So far over the tempo that is set it is as much another note value, quarters for half notes: not what was asked for, however clean. By hand; 1.8 times
is also from where on the ear takes as many strokes at other places for another pattern."""


@dataclass(frozen=True)
class GoodGo:
    """Whether a pass is a good one."""

    good: bool
    reasons: tuple[str, ...]
    """Why it is not: sentences for the teacher. Empty for a good one."""


@dataclass(frozen=True)
class Circumstances:
    """What is asked beside the notes themselves."""

    elsewhere: bool
    """The whole line was played on another string or in another octave."""
    strays: int
    stops: int
    restarts: int
    below_tempo: bool
    far_above_tempo: bool
    timed: bool
    """Whether time is judged."""


def good_go(notes: Sequence[ReportNote], around: Circumstances, rule: GoodGoRule) -> GoodGo:
    """Every note there, on its pitch, none too many; nearly all in tune and on time; no stop (see `GoodGoRule`); not far over the tempo. What was
    unclear, or when it came, is not counted, unless it is a third of the notes."""
    judged = [note for note in notes if note.status in (NoteStatus.PLAYED, NoteStatus.WRONG_PITCH)]
    not_come_to = sum(note.status == NoteStatus.MISSED and note.reason == "not_come_to" for note in notes)
    left_out = sum(note.status == NoteStatus.MISSED for note in notes) - not_come_to
    wrong = sum(note.status == NoteStatus.WRONG_PITCH for note in notes)
    unclear = sum(note.status == NoteStatus.UNCLEAR for note in notes)
    reasons = []
    if around.elsewhere:
        reasons.append("The line was played somewhere else.")
    for count, what in ((not_come_to, "not come to"), (left_out, "left out"), (around.strays, "too many")):
        if count:
            reasons.append(f"{counted(count, 'note')} {what}.")
    if wrong and not around.elsewhere:
        reasons.append(f"{counted(wrong, 'note')} on another pitch.")
    if unclear > MOST_UNCLEAR * len(notes):
        reasons.append(f"{counted(unclear, 'note')} could not be judged.")
    reasons += _too_few(sum(note.in_tune for note in judged), len(judged), rule.pitch_share, "in tune")
    if around.timed:
        guessed = sum(note.moment_guessed for note in judged)
        if guessed > MOST_UNCLEAR * len(notes):
            reasons.append(f"{counted(guessed, 'note')} could not be timed.")
        timed = [note for note in notes if note.timing_ms is not None]
        reasons += _too_few(sum(note.on_time for note in timed), len(timed), rule.time_share, "on time")
        if around.stops > rule.most_stops:
            reasons.append(f"{counted(around.stops, 'stop')}.")
        if around.restarts:
            reasons.append("Went back and played again.")
        if rule.at_tempo and around.below_tempo:
            reasons.append("Below the tempo that is set.")
        if around.far_above_tempo:
            reasons.append("Nearly twice as fast as is set, or faster.")
    return GoodGo(not reasons, tuple(reasons))


def is_far_above(percent: float | None) -> bool:
    """percent: of the tempo that is set, by which it was played faster; None where no pulse was found."""
    return percent is not None and percent >= FAR_ABOVE_PERCENT


def _too_few(home: int, of: int, share: float, what: str) -> list[str]:
    return [f"{home} of {of} {what}; {100 * share:.0f} % are asked for."] if home < share * of else []
