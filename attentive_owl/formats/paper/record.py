"""On paper for a parents' evening: one pupil's way, and a class at one glance."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from reportlab.graphics.charts.lineplots import LinePlot
from reportlab.graphics.shapes import Drawing, String
from reportlab.graphics.widgets.markers import makeMarker
from reportlab.lib.pagesizes import A4, landscape
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, PageBreak, SimpleDocTemplate, Spacer, Table, TableStyle

from attentive_owl.formats.paper.faces import HEADING, INK, LINE, PLAIN, QUIET
from attentive_owl.formats.paper.sheet import line_of_text

_MARGIN_MM = 16.0
_MOST_PLOTS = 4


@dataclass(frozen=True)
class StepLine:
    title: str
    standing: str
    """In words: passed on ..., on the way."""
    best: str
    goes: Sequence[tuple[date, float]] = ()
    """(day, share of the notes at home: 0 to 1), in order."""


@dataclass(frozen=True)
class PupilRecord:
    pupil: str
    instrument: str
    studio: str
    day: date
    goal: str
    keys: Sequence[str]
    steps: Sequence[StepLine]
    habits: Sequence[str]
    """What came and what went, a sentence each."""


@dataclass(frozen=True)
class ClassRecord:
    name: str
    studio: str
    day: date
    steps: Sequence[str]
    pupils: Sequence[tuple[str, Sequence[str]]]
    """(name, a sign for each step)."""
    key: Sequence[tuple[str, str]]
    """(sign, what it means)."""


def pupil_records_pdf(records: Sequence[PupilRecord]) -> bytes:
    """A new page for each pupil."""
    flow: list[Flowable] = []
    for record in records:
        flow += [*_pupil(record), PageBreak()]
    return _built(flow[:-1], "Record")


def _pupil(record: PupilRecord) -> list[Flowable]:
    flow: list[Flowable] = [
        line_of_text(record.pupil, 20, HEADING),
        line_of_text(f"{record.instrument} · {record.studio} · {record.day:%d %B %Y}", 10, textColor=QUIET),
    ]
    if record.goal:
        flow.append(line_of_text(f"The goal: {record.goal}", 11, spaceBefore=6))
    if record.keys:
        flow.append(line_of_text(f"Passed so far: {', '.join(record.keys)}.", 11, spaceBefore=6))
    if not record.steps:
        flow.append(line_of_text("Nothing was recorded yet.", 11, spaceBefore=6))
        return flow
    rows = [["Exercise", "Where it stands", "Best tempo", "Goes"]]
    rows += [[own.title, own.standing, own.best, str(len(own.goes))] for own in record.steps]
    cells = [[line_of_text(text, 9.5) for text in row] for row in rows]
    flow += [Spacer(1, 4 * mm), Table(cells, [75 * mm, 55 * mm, 28 * mm, 18 * mm], style=_ruled(), hAlign="LEFT")]
    plotted = [own for own in record.steps if len(own.goes) > 1][:_MOST_PLOTS]
    if plotted:
        flow += [Spacer(1, 4 * mm), line_of_text("Notes in tune and on time, go by go", 12, HEADING)]
        flow += [_plot(own) for own in plotted]
    if record.habits:
        flow += [line_of_text("What came and went", 12, HEADING, spaceBefore=6)]
        flow += [line_of_text(own, 10) for own in record.habits]
    flow.append(
        line_of_text(
            "Measured by a program from recordings at home; what it was not sure of is not counted. The teacher's word goes first.",
            8.5,
            textColor=QUIET,
            spaceBefore=8,
        )
    )
    return flow


def _plot(step: StepLine) -> Drawing:
    drawing = Drawing(176 * mm, 30 * mm)
    plot = LinePlot()
    plot.x, plot.y, plot.width, plot.height = 12 * mm, 6 * mm, 155 * mm, 16 * mm
    plot.data = [[(at + 1, 100 * share) for at, (_, share) in enumerate(step.goes)]]
    plot.lines[0].strokeColor = INK
    plot.lines[0].symbol = makeMarker("FilledCircle")
    plot.lines[0].symbol.size, plot.lines[0].symbol.fillColor = 4, INK
    plot.yValueAxis.valueMin, plot.yValueAxis.valueMax, plot.yValueAxis.valueStep = 0, 100, 50
    plot.yValueAxis.labelTextFormat = "%d %%"
    plot.xValueAxis.valueMin, plot.xValueAxis.valueMax = 1, max(len(step.goes), 2)
    plot.xValueAxis.visibleTicks = plot.xValueAxis.visibleLabels = 0
    for axis in (plot.xValueAxis, plot.yValueAxis):
        axis.strokeColor, axis.labels.fontName, axis.labels.fontSize = LINE, PLAIN, 7
    first, last = step.goes[0][0], step.goes[-1][0]
    words = f"{step.title}: {first.day} {first:%b} to {last.day} {last:%b}"
    drawing.add(String(12 * mm, 25 * mm, words, fontName=PLAIN, fontSize=9, fillColor=INK))
    drawing.add(plot)
    return drawing


def class_record_pdf(record: ClassRecord) -> bytes:
    """Pupils by steps, by signs that are told apart without colour."""
    flow: list[Flowable] = [
        line_of_text(record.name, 18, HEADING),
        line_of_text(f"{record.studio} · {record.day:%d %B %Y}", 10, textColor=QUIET),
        Spacer(1, 4 * mm),
    ]
    if record.pupils and record.steps:
        head = [line_of_text("", 8), *(line_of_text(own, 7.5) for own in record.steps)]
        rows = [
            [line_of_text(name, 9), *(line_of_text(sign, 9, alignment=1) for sign in signs)]
            for name, signs in record.pupils
        ]
        width = landscape(A4)[0] - 2 * _MARGIN_MM * mm
        first = 38 * mm
        each = min((width - first) / len(record.steps), 26 * mm)
        table = Table([head, *rows], [first, *[each] * len(record.steps)], style=_ruled(), hAlign="LEFT", repeatRows=1)
        flow += [table, Spacer(1, 4 * mm)]
        flow += [line_of_text(f"{sign}  {meaning}", 8.5, textColor=QUIET) for sign, meaning in record.key]
    else:
        flow.append(line_of_text("Nothing was set yet.", 11))
    return _built(flow, record.name, landscape(A4))


def _ruled() -> TableStyle:
    return TableStyle(
        [
            ("LINEBELOW", (0, 0), (-1, -1), 0.4, LINE),
            ("VALIGN", (0, 0), (-1, -1), "MIDDLE"),
            ("LEFTPADDING", (0, 0), (-1, -1), 2),
            ("RIGHTPADDING", (0, 0), (-1, -1), 2),
        ]
    )


def _built(flow: list[Flowable], title: str, size: tuple[float, float] = A4) -> bytes:
    out = io.BytesIO()
    margin = _MARGIN_MM * mm
    page = SimpleDocTemplate(
        out, pagesize=size, title=title, invariant=True,
        leftMargin=margin, rightMargin=margin, topMargin=margin, bottomMargin=margin,
    )  # fmt: skip
    page.build(flow)
    return out.getvalue()
