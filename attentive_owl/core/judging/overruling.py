"""The teacher's ear laid over a report: the report stays what the ear heard, and what is shown and counted is this."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Literal

from attentive_owl.core.judging.expectations import GoodGoRule
from attentive_owl.core.judging.findings import FINDINGS, Layer
from attentive_owl.core.judging.good import Circumstances, good_go, is_far_above
from attentive_owl.core.judging.report import Report, ReportNote
from attentive_owl.core.listening.performance import NoteStatus

Says = Literal["home", "away", "missed", "not_so"]


@dataclass(frozen=True)
class Overruling:
    """Of one note (home, away, missed), or of a cause (not so) by its key."""

    says: Says
    note_index: int | None = None
    cause: str | None = None


def overruled(report: Report, words: Iterable[Overruling]) -> Report:
    """The report as it stands after the teacher's ear: verdicts of notes, whether it was a good go, and no advice from a cause
    that is not so."""
    said = list(words)
    if not report.accepted or not said:
        return report
    by_note = {own.note_index: own.says for own in said if own.note_index is not None}
    not_so = {own.cause for own in said if own.says == "not_so"}
    notes = [_as_heard(note, by_note.get(note.index)) for note in report.notes]
    kept = [place for place, cause in enumerate(report.causes) if cause.key not in not_so]
    advice = [own for own in report.advice if own.cause is None or own.cause in kept]
    good = report.good_go
    if good is not None:
        rule = GoodGoRule(good.pitch_share, good.time_share, good.most_stops, good.at_tempo)
        again = good_go(notes, _circumstances(report, not_so), rule)
        good = replace(good, good=again.good, reasons=list(again.reasons))
    return replace(report, notes=notes, advice=advice, good_go=good)


def _as_heard(note: ReportNote, says: str | None) -> ReportNote:
    if says == "home":
        timed = note.timing_ms is not None
        return replace(note, status=NoteStatus.PLAYED, in_tune=True, on_time=timed, home=True, overruled="home")
    if says == "away":
        status = note.status if note.status == NoteStatus.WRONG_PITCH else NoteStatus.PLAYED
        return replace(note, status=status, in_tune=False, home=False, overruled="away")
    if says == "missed":
        return replace(note, status=NoteStatus.MISSED, in_tune=False, on_time=False, home=False, overruled="missed")
    return note


def _circumstances(report: Report, not_so: set[str | None]) -> Circumstances:
    causes = [cause for cause in report.causes if cause.key not in not_so and cause.kind in FINDINGS]
    chosen = next((own for own in report.passes if own.chosen), None)
    off = report.judgement.tempo.percent if report.judgement else None
    return Circumstances(
        elsewhere=any(FINDINGS[cause.kind].layer is Layer.LINE for cause in causes),
        strays=sum(len(cause.notes) for cause in causes if cause.kind == "stray"),
        stops=0 if "stop" in not_so else len(report.tempo.stops),
        restarts=len(chosen.restarts) if chosen and "restart" not in not_so else 0,
        below_tempo=(off is not None and off < -report.expectations.tempo_percent),
        far_above_tempo=is_far_above(off),
        timed=report.expectations.mode != "pauses",
    )
