"""The report of a take on paper: what was said, the nests, the causes, and every note with its figures."""

from __future__ import annotations

import io
from collections.abc import Mapping
from dataclasses import dataclass
from xml.sax.saxutils import escape

from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from attentive_owl.core.exercises import Score
from attentive_owl.core.judging import Report
from attentive_owl.core.judging.report import ReportNote
from attentive_owl.core.listening.performance import NoteStatus
from attentive_owl.core.theory import NoteNames
from attentive_owl.formats.engraving import engrave
from attentive_owl.formats.paper.faces import HEADING, INK, LANTERN, LINE, QUIET, SIGNS, SIGNS_BOLD, face_for, style
from attentive_owl.formats.paper.notation import EngravedSystem, Lane

_SIGNS = {"b": "\u266d", "#": "\u266f"}
_NEST_MM = 9.5
_MARGIN_MM = 18.0
_PIXELS_A_POINT = 1.6
_STATUS = {
    NoteStatus.PLAYED: "",
    NoteStatus.WRONG_PITCH: "another pitch",
    NoteStatus.MISSED: "not heard",
    NoteStatus.UNCLEAR: "not sure",
}


@dataclass(frozen=True)
class Heading:
    """What stands over the figures; all of it words."""

    pupil: str
    instrument: str
    title: str
    day: str
    studio: str
    marks: tuple[str, ...] = ()
    """The teacher's words, the newest last."""
    overruled: tuple[str, ...] = ()


def report_pdf(report: Report, heading: Heading, score: Score, names: NoteNames = NoteNames.LETTERS) -> bytes:
    """What an accepted report says, and nothing else, with its nests under the notes of the score. Raises ValueError for a
    report of a refused take."""
    if not report.accepted:
        raise ValueError("a take that was not measured has no report to print")
    quiet, large = style("quiet", 9, textColor=QUIET), style("large", 17, HEADING)
    second = style("second", 12, HEADING, spaceBefore=8)
    body = style("body", 10)

    def line(text: str, own: ParagraphStyle = body) -> Paragraph:
        return Paragraph(escape(text), ParagraphStyle("line", own, fontName=face_for(text, own.fontName)))

    width = A4[0] - 2 * _MARGIN_MM * mm
    systems = engrave(score, round(width * _PIXELS_A_POINT), 40, (), names)
    lane = _nest_lane({note.index: note for note in report.notes})
    parts: list[Flowable] = [
        line(f"{heading.pupil}, {heading.instrument}", large),
        line(f"{heading.title} · {heading.day} · {heading.studio}", quiet),
        Spacer(1, 4 * mm),
        *(EngravedSystem(own, width, lane, _NEST_MM * mm) for own in systems),
        line("What was heard", second),
        *(line(own.text) for own in report.advice),
        *(line(own.teacher, quiet) for own in report.advice if own.teacher != own.text),
        Spacer(1, 2 * mm),
        _table([["", "", ""], *_dimensions(report)][1:], (32, 34, 100)),
    ]
    if heading.marks or heading.overruled:
        parts += [line("The teacher's word", second), *(line(own) for own in (*heading.marks, *heading.overruled))]
    by = report.expectations
    reference = "the pupil's own strings" if by.a4_hz is None else f"A = {by.a4_hz:g} Hz"
    parts += [
        line("Note by note", second),
        _table([["Note", "Place", "", "cents", "ms", "length"], *map(_row, report.notes)], None, head=True),
        Spacer(1, 3 * mm),
        line(
            f"Judged by {by.pitch_cents:g} cents, {by.timing_ms:g} ms and {by.tempo_percent:g} % either way "
            f"({by.level.replace('-', ' ')}), {by.temperament}, {reference}. {_taken_off(report)}Checked by {report.engine}. "
            "Where it is not sure it says so; the teacher's word goes first.",
            quiet,
        ),
    ]
    out = io.BytesIO()
    page = SimpleDocTemplate(
        out, pagesize=A4, title=f"{heading.pupil}: {heading.title}", author=heading.studio, invariant=True,
        leftMargin=_MARGIN_MM * mm, rightMargin=_MARGIN_MM * mm, topMargin=16 * mm, bottomMargin=16 * mm,
    )  # fmt: skip
    page.build(parts)
    return out.getvalue()


def _written(name: str) -> str:
    """F#4 as F♯4."""
    return name[0] + "".join(_SIGNS.get(sign, sign) for sign in name[1:])


def _signed(value: float | None) -> str:
    return "" if value is None else "0" if round(value) == 0 else f"{value:+.0f}".replace("-", "\u2212")


def _taken_off(report: Report) -> str:
    """Which strings' tuning the figures leave out."""
    strings = ", ".join(f"{name} {_signed(cents)} cents" for name, cents in report.tuning.taken_off.items())
    return f"The figures leave out how the strings are tuned: {strings}. " if strings else ""


def _row(note: ReportNote) -> list[str]:
    place = "" if note.string is None else f"{note.string}{note.finger}"
    length = note.duration_ratio
    not_come_to = note.reason == "not_come_to"
    return [
        f"{note.measure}.{note.beat:g}  {_written(note.name)}",
        place,
        "not come to" if not_come_to else _STATUS[note.status],
        _signed(note.tuned_cents),
        _signed(note.timing_ms),
        "" if length is None else f"{100 * length:.0f} %",
    ]


def _dimensions(report: Report) -> list[list[str]]:
    judged, tempo = report.judgement, report.tempo
    if judged is None:
        return []
    whole = judged.completeness
    rests = f", {whole.rests_kept} of {whole.rests} rests silent" if whole.rests else ""
    spread = "" if judged.pitch.spread_cents is None else f", spread {judged.pitch.spread_cents:g} cents"
    played = "no steady beat" if tempo.played_bpm is None else f"{tempo.played_bpm:.0f} played"
    stops = f"{whole.stops} stop" + ("" if whole.stops == 1 else "s")
    return [
        ["Pitch", judged.pitch.word, f"{judged.pitch.home} of {judged.pitch.of} home{spread}"],
        ["Rhythm", judged.rhythm.word, f"{judged.rhythm.home} of {judged.rhythm.of} home"],
        ["Tempo", judged.tempo.word, f"{played}, {tempo.target_bpm:g} set"],
        ["Complete", whole.word, f"{whole.played} of {whole.of} notes, {stops}{rests}"],
    ]


def _table(rows: list[list[str]], widths_mm: tuple[float, ...] | None, *, head: bool = False) -> Table:
    own_style = [
        ("FONT", (0, 0), (-1, -1), SIGNS, 8),
        ("TEXTCOLOR", (0, 0), (-1, -1), INK),
        ("LINEBELOW", (0, 0), (-1, -1), 0.3, LINE),
        ("TOPPADDING", (0, 0), (-1, -1), 1.5),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 1.5),
    ]
    if head:
        own_style.append(("FONT", (0, 0), (-1, 0), SIGNS_BOLD, 8))
    widths = None if widths_mm is None else [own * mm for own in widths_mm]
    return Table(rows, colWidths=widths, style=TableStyle(own_style), hAlign="LEFT", repeatRows=1 if head else 0)


def _nest_lane(notes: Mapping[int, ReportNote]) -> Lane:
    """A nest under each note: up and down is sharp and flat, right and left late and early; inside the ring is home."""

    def draw(canvas: Canvas, index: int, x: float, room: float) -> None:
        note = notes.get(index)
        if note is None:
            return
        radius = min(0.32 * _NEST_MM * mm, 0.46 * room)
        middle = _NEST_MM * mm / 2
        canvas.setStrokeColor(LINE)
        canvas.setLineWidth(1)
        canvas.setDash(2, 2) if note.status == NoteStatus.MISSED else canvas.setDash()
        canvas.circle(x, middle, radius)
        canvas.setDash()
        if note.tuned_cents is None or note.status in (NoteStatus.MISSED, NoteStatus.UNCLEAR):
            return
        up = max(-1.3, min(1.3, note.tuned_cents / note.pitch_tolerance_cents))
        right = max(-1.3, min(1.3, (note.timing_ms or 0.0) / note.timing_tolerance_ms))
        canvas.setFillColor(INK if note.home else LANTERN)
        canvas.circle(
            x + right * radius * 0.75, middle + up * radius * 0.75, min(1.0 * mm, 0.4 * radius), stroke=0, fill=1
        )

    return draw
