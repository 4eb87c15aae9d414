"""A pupil's week on one sheet for the adult at home: what is to be played, how often, and what to look at."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, KeepInFrame, PageBreak, SimpleDocTemplate, Spacer

from attentive_owl.core.exercises import Sign
from attentive_owl.core.theory import NoteNames
from attentive_owl.formats.paper.faces import BOLD, HEADING, QUIET
from attentive_owl.formats.paper.sheet import SheetPart, engraved, line_of_text

_MARGIN_MM = 15.0
_STAFF = 0.75


@dataclass(frozen=True)
class WeekItem:
    part: SheetPart | None
    """None where it is for the ear, and its notes are not shown yet."""
    title: str
    how: str
    """How often, how fast, until when."""
    note: str
    signs: Sequence[Sign] = ()


@dataclass(frozen=True)
class WeekSheet:
    pupil: str
    instrument: str
    day: date
    how_long: str
    items: Sequence[WeekItem]
    checklist: Sequence[str]
    tuning: str
    """The strings, and the caution that goes with them."""
    care: str
    names: NoteNames = NoteNames.LETTERS


def week_sheet_pdf(sheet: WeekSheet) -> bytes:
    """One page of A4, whatever has to go on it."""
    return week_sheets_pdf([sheet])


def week_sheets_pdf(sheets: Sequence[WeekSheet]) -> bytes:
    """A page of A4 for each of them, whatever has to go on it."""
    width, height = A4[0] - 2 * _MARGIN_MM * mm, A4[1] - 2 * _MARGIN_MM * mm - 14
    out = io.BytesIO()
    title = f"{sheets[0].pupil}: this week" if len(sheets) == 1 else "This week"
    page = SimpleDocTemplate(
        out, pagesize=A4, title=title, invariant=True,
        leftMargin=_MARGIN_MM * mm, rightMargin=_MARGIN_MM * mm, topMargin=_MARGIN_MM * mm, bottomMargin=_MARGIN_MM * mm,
    )  # fmt: skip
    flow: list[Flowable] = []
    for sheet in sheets:
        flow += [KeepInFrame(width, height, _flow(sheet, width), mode="shrink"), PageBreak()]
    page.build(flow[:-1])
    return out.getvalue()


def _flow(sheet: WeekSheet, width: float) -> list[Flowable]:
    flow: list[Flowable] = [
        line_of_text(f"{sheet.pupil}: this week", 18, HEADING),
        line_of_text(f"{sheet.instrument}, from {sheet.day:%A} {sheet.day.day} {sheet.day:%B}", 10.5, textColor=QUIET),
        line_of_text(sheet.how_long, 11, spaceBefore=4),
    ]
    for item in sheet.items:
        flow += [Spacer(1, 3 * mm), line_of_text(item.title, 13, HEADING), line_of_text(item.how, 10.5)]
        if item.note:
            flow.append(line_of_text(f"“{item.note}”", 11, BOLD))
        if item.part is None:
            flow.append(line_of_text("For the ear: it is heard on the page, and played back.", 10.5, textColor=QUIET))
        else:
            flow += engraved(item.part, width, _STAFF, item.signs, sheet.names)
    flow += [
        Spacer(1, 3 * mm),
        line_of_text("Before playing", 12, HEADING),
        line_of_text("; ".join(sheet.checklist) + ".", 10.5),
        line_of_text("The strings", 12, HEADING, spaceBefore=4),
        line_of_text(sheet.tuning, 10.5),
        line_of_text(sheet.care, 9.5, textColor=QUIET, spaceBefore=6),
    ]
    return flow
