"""What lists need to know of takes: a few figures of the newest report, read out of it by the database, and the newest mark."""

from __future__ import annotations

import uuid
from dataclasses import asdict, dataclass, field
from typing import Any

from sqlalchemy import ScalarSelect, Select, select
from sqlalchemy.orm import Session, selectinload

from attentive_owl.core.judging import REPORT_VERSION
from attentive_owl.core.judging import Report as JudgedReport
from attentive_owl.core.listening.performance import NoteStatus
from attentive_owl.store.models import Mark, Report, Take
from attentive_owl.web.schemas.reports import overruling_of, report_from


@dataclass
class TakeSummary:
    take: Take
    mark: Mark | None
    good: bool
    refusal: str | None
    """Why it was not judged, in two or three words."""
    refusal_code: str | None
    pitch_word: str | None
    rhythm_word: str | None
    played_bpm: float | None
    home_share: float = 0.0
    """Of its notes, those in tune and on time: 0 to 1."""
    in_a_row: int = 0
    """Good goes one after the other within the recording."""
    wrong: int = 0
    """Notes on another pitch."""
    unclear: int = 0
    untimed: int = 0
    """Notes that were heard, but not when they began; 0 where time is not asked for."""
    notes: int = 0
    causes: list[dict[str, Any]] = field(default_factory=list)
    """As the report has them, the weightiest first."""

    @property
    def good_line(self) -> bool:
        """Good, and of the whole line: such a go counts in the plan."""
        return self.good and self.take.bars is None

    @property
    def accepted(self) -> bool:
        """By the teacher, in the newest word."""
        return self.mark is not None and self.mark.verdict == "accepted"

    @property
    def handed_in(self) -> bool:
        return self.take.handed_in_at is not None


def summaries(session: Session, question: Select[Take]) -> list[TakeSummary]:
    """The takes of a question, in its order."""
    columns = question.outerjoin(Report, Report.id == newest_of_take(Report)).outerjoin(
        Mark, Mark.id == newest_of_take(Mark)
    )
    rows = session.execute(columns.add_columns(Mark, Report)).all()
    found: dict[uuid.UUID, TakeSummary] = {}
    old: set[uuid.UUID] = set()
    for take, mark, report in rows:
        found[take.id] = _summary(take, mark, report)
        if report is not None and (report.version or 0) < REPORT_VERSION:
            old.add(take.id)
    _read_whole(session, found, old)
    return list(found.values())


def _summary(take: Take, mark: Mark | None, report: Report | None) -> TakeSummary:
    if report is None:
        return TakeSummary(take, mark, False, None, None, None, None, None)
    return TakeSummary(
        take,
        mark,
        good=bool(report.good),
        refusal=report.refusal_title,
        refusal_code=report.refusal_code,
        pitch_word=report.pitch_word,
        rhythm_word=report.rhythm_word,
        played_bpm=report.played_bpm,
        home_share=share_home(report.pitch_home, report.pitch_of, report.rhythm_home, report.rhythm_of),
        in_a_row=report.in_a_row or 0,
        wrong=report.wrong_notes or 0,
        unclear=report.unclear_notes or 0,
        untimed=report.untimed_notes or 0,
        notes=report.all_notes or 0,
        causes=list(report.causes or []),
    )


def share_home(
    pitch_home: float | None, pitch_of: float | None, time_home: float | None, time_of: float | None
) -> float:
    """Of the notes that were judged, those in tune and on time: 0 to 1."""
    of = (pitch_of or 0.0) + (time_of or 0.0)
    return ((pitch_home or 0.0) + (time_home or 0.0)) / of if of else 0.0


def newest_of_take(model: type[Mark] | type[Report]) -> ScalarSelect[uuid.UUID]:
    """The id of the newest mark or report, for the take of the question around it."""
    return (
        select(model.id)
        .where(model.take_id == Take.id)
        .order_by(model.created_at.desc())
        .limit(1)
        .correlate(Take)
        .scalar_subquery()
    )


def _read_whole(session: Session, found: dict[uuid.UUID, TakeSummary], old: set[uuid.UUID]) -> None:
    """The few whose report does not say it as it stands: a teacher overruled the check, or an earlier program wrote it."""
    question = (
        select(Take)
        .where(Take.id.in_(found), Take.overrules.any() | Take.id.in_(old))
        .options(selectinload(Take.reports).undefer(Report.document), selectinload(Take.overrules))
    )
    for take in session.scalars(question):
        if take.report is not None:
            _tell(found[take.id], report_from(take.report.document, map(overruling_of, take.overrules)))


def _tell(own: TakeSummary, report: JudgedReport) -> None:
    judgement: Any = report.judgement
    own.good = report.good_go is not None and report.good_go.good
    own.refusal = report.refusal.title if report.refusal else None
    own.refusal_code = report.refusal.code if report.refusal else None
    own.wrong = sum(note.status == NoteStatus.WRONG_PITCH for note in report.notes)
    own.unclear = sum(note.status == NoteStatus.UNCLEAR for note in report.notes)
    own.untimed = report.untimed
    own.notes = len(report.notes)
    own.causes = [asdict(cause) for cause in report.causes]
    own.pitch_word = judgement.pitch.word if judgement else None
    own.rhythm_word = judgement.rhythm.word if judgement else None
    own.played_bpm = report.tempo.played_bpm
    own.in_a_row = report.good_go.in_a_row if report.good_go else 0
    if judgement:
        own.home_share = share_home(
            judgement.pitch.home, judgement.pitch.of, judgement.rhythm.home, judgement.rhythm.of
        )
