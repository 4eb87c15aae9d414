"""Takes with reports that were not listened to: for what is done with many of them. The documents are of the core's own types."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import Engine

from attentive_owl.core.judging import ENGINE, REPORT_FORMAT, REPORT_VERSION
from attentive_owl.core.judging.cause import cause_key
from attentive_owl.core.judging.report import (
    CompletenessJudgement,
    GoodGoReport,
    Judgement,
    ModeKey,
    PitchJudgement,
    Report,
    ReportCause,
    ReportExpectations,
    ReportNote,
    ReportRecording,
    ReportRefusal,
    RhythmJudgement,
    TempoJudgement,
    TempoReport,
    TuningReport,
)
from attentive_owl.store.models import Report as ReportRow
from attentive_owl.store.models import Take
from attentive_owl.store.session import open_session
from tests.conftest import Filled


def note(index: int, status: str = "played", name: str = "D4", home: bool = True) -> ReportNote:
    at = 0.5 * index
    return ReportNote(
        index, index // 4 + 1, float(index % 4 + 1), 62, name, "D", 1, status, None, 62.0, 2.0, 2.0, None, at, at + 0.45,
        4.0, 1.0, 0.9, 20.0, 60.0, home, home, home, home,
    )  # fmt: skip


def cause(kind: str, notes: Sequence[int] = (1, 2, 3), **rest: Any) -> ReportCause:
    given = {"string": None, "finger": None, "cents": None, "mm": None, "towards": None, **rest}
    title = given.pop("title", kind.replace("_", " ").capitalize())
    key = cause_key(kind, given["string"], given["finger"])
    return ReportCause(key, kind, title, "", notes=list(notes), confidence=0.9, sure=True, **given)


def report(
    *,
    good: bool = True,
    home: int = 16,
    wrong: Sequence[str] = (),
    unclear: int = 0,
    untimed: int = 0,
    mode: ModeKey = "steady",
    causes: Sequence[ReportCause] = (),
    refusal: str | None = None,
) -> Report:
    notes = [note(at, home=at < home) for at in range(16)]
    for at, name in enumerate(wrong):
        notes[at] = note(at, "wrong_pitch", name, home=False)
    for at in range(unclear):
        notes[15 - at] = note(15 - at, "unclear", home=False)
    for at in range(untimed):
        notes[at] = replace(notes[at], moment_guessed=True)
    judgement = Judgement(
        PitchJudgement("in tune" if good else "on the way", home, 16, 2.0, 6.0),
        RhythmJudgement("steady", home, 16, 20.0),
        TempoJudgement("at tempo", 0.0),
        CompletenessJudgement("complete", 16, 16, 0, 0, 0, 0, 0),
    )
    return Report(
        REPORT_FORMAT, REPORT_VERSION, ENGINE, "ear", "judge", refusal is None,
        ReportRefusal(refusal, refusal.replace("_", " "), "Words.", "Words.", "Words.") if refusal else None,
        ReportExpectations("settling", 20.0, 60.0, 8.0, "equal", None, mode),
        ReportRecording(9.0, 40.0, 0.0, []),
        TempoReport(100.0, 100.0, 0.0, []),
        TuningReport(None, {}),
        None if refusal else GoodGoReport(good, [], 0.9, 0.9, 0, False, int(good)),
        [], [] if refusal else notes, [], [], None, [], None if refusal else judgement, list(causes), [],
    )  # fmt: skip


def given_take(engine: Engine, filled: Filled, made: Report | None = None, **changes: Any) -> uuid.UUID:
    """A take that was handed in, `days_ago`, with a report or without one."""
    days_ago = changes.pop("days_ago", 0)
    at = datetime.now(UTC) - timedelta(days=days_ago, seconds=changes.pop("seconds_ago", 0))
    state = "waiting" if made is None else "checked" if made.accepted else "refused"
    with open_session(engine, "tests make takes") as session:
        take = Take(
            **{
                "studio_id": filled.studio_id, "pupil_id": filled.pupil_id, "assignment_id": filled.assignment_id,
                "client_key": uuid.uuid4().hex, "sha256": "0" * 64, "file_name": "take.flac", "size_bytes": 1,
                "duration_s": 9.0, "recorded_at": at, "handed_in_at": at, "state": state, **changes,
            }
        )  # fmt: skip
        session.add(take)
        session.flush()
        if made is not None:
            session.add(
                ReportRow(studio_id=filled.studio_id, take_id=take.id, engine=ENGINE, document=made.to_document())
            )
        return take.id
