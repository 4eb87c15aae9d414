"""The report of a take as a PDF."""

from __future__ import annotations

import io
from typing import Any

from flask import send_file
from sqlalchemy import select

from attentive_owl.core.instruments import INSTRUMENTS
from attentive_owl.core.judging import Report as JudgedReport
from attentive_owl.core.theory import in_vocabulary
from attentive_owl.formats.paper.report import Heading, report_pdf
from attentive_owl.store.exercises import line_of_take
from attentive_owl.store.models import Overrule, Studio
from attentive_owl.web.access import own_studio, signed_in, visitor
from attentive_owl.web.clock import studio_clock
from attentive_owl.web.problems import ProblemError
from attentive_owl.web.schemas.common import ById, Problem
from attentive_owl.web.studio import studio_settings
from attentive_owl.web.takes.blueprint import api
from attentive_owl.web.takes.visible import judged, visible_take

_SAID = {"home": "is home", "away": "is away", "missed": "was left out", "not_so": "is not so"}


@api.get("/takes/<uuid:id>/report.pdf", responses={409: Problem})
@signed_in
def report_on_paper(path: ById) -> Any:
    clock = studio_clock()
    with own_studio() as session:
        take = visible_take(session, path.id)
        report = judged(take)
        if report is None or not report.accepted:
            raise ProblemError(409, "This take was not measured, so there is no report to print.")
        size = take.pupil.size
        heading = Heading(
            pupil=take.pupil.name,
            instrument=f"{INSTRUMENTS[take.pupil.instrument].name.lower()} {size}",
            title=in_vocabulary(take.assignment.exercise.title, studio_settings().values),
            day=f"{clock.local(take.recorded_at):%d %B %Y, %H:%M}",
            studio=session.scalar(select(Studio.name).where(Studio.id == visitor().studio_id)) or "",
            marks=tuple(f"{_in_words(own.verdict)}. {own.remark}".strip() for own in take.marks),
            overruled=tuple(_overruled_words(own, report) for own in take.overrules),
        )
        score = line_of_take(session, take).score
    pdf = report_pdf(report, heading, score, studio_settings().names)
    return send_file(io.BytesIO(pdf), mimetype="application/pdf", download_name="report.pdf", max_age=0)


def _in_words(verdict: str) -> str:
    """A verdict is called as it is kept: once_more is "Once more"."""
    return verdict.replace("_", " ").capitalize()


def _overruled_words(own: Overrule, report: JudgedReport) -> str:
    if own.note_index is None:
        title = next((cause.title for cause in report.causes if cause.key == own.cause), own.cause)
        what = f"“{title}”"
    else:
        note = next((note for note in report.notes if note.index == own.note_index), None)
        what = f"{note.name} in {note.measure}.{note.beat:g}" if note else f"Note {own.note_index + 1}"
    return f"{what} {_SAID[own.says]}. {own.remark}".strip()
