"""The report of a take on paper: what was said, the nests, the causes, and every note with its figures."""

from __future__ import annotations

import io
from dataclasses import dataclass
from functools import cache
from importlib.util import find_spec
from pathlib import Path
from xml.sax.saxutils import escape

from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.platypus import Flowable, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from attentive_owl.core.judging import Report
from attentive_owl.core.judging.report import ReportNote

_INK, _QUIET, _RING, _LANTERN = (HexColor(own) for own in ("#1d3330", "#5a6b66", "#b9a98c", "#a9470f"))
_SIGNS = {"b": "\u266d", "#": "\u266f"}
_NEST_MM = 10.6
_A_ROW = 16
_STATUS = {"played": "", "wrong_pitch": "another pitch", "missed": "not heard", "unclear": "not sure"}


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


@cache
def _fonts() -> tuple[str, str]:
    """A face that has every letter of a name and the musical signs: DejaVu, as matplotlib ships it."""
    found = find_spec("matplotlib")
    if found is None or not found.submodule_search_locations:
        raise RuntimeError("matplotlib, which brings the font, is not installed")
    folder = Path(found.submodule_search_locations[0], "mpl-data", "fonts", "ttf")
    pdfmetrics.registerFont(TTFont("report", folder / "DejaVuSans.ttf"))
    pdfmetrics.registerFont(TTFont("report-bold", folder / "DejaVuSans-Bold.ttf"))
    return "report", "report-bold"


def report_pdf(report: Report, heading: Heading) -> bytes:
    """What an accepted report says, and nothing else. Raises ValueError for a report of a refused take."""
    if not report.accepted:
        raise ValueError("a take that was not measured has no report to print")
    plain, bold = _fonts()
    body = ParagraphStyle("body", fontName=plain, fontSize=10, leading=14, textColor=_INK)
    quiet = ParagraphStyle("quiet", parent=body, textColor=_QUIET, fontSize=9)
    large = ParagraphStyle("large", parent=body, fontName=bold, fontSize=17, leading=22)
    second = ParagraphStyle("second", parent=body, fontName=bold, fontSize=11.5, leading=18, spaceBefore=8)

    def line(text: str, style: ParagraphStyle = body) -> Paragraph:
        return Paragraph(escape(text), style)

    parts: list[Flowable] = [
        line(f"{heading.pupil}, {heading.instrument}", large),
        line(f"{heading.title} · {heading.day} · {heading.studio}", quiet),
        Spacer(1, 4 * mm),
        *(_Nests(report.notes[at : at + _A_ROW]) for at in range(0, len(report.notes), _A_ROW)),
        line("What was heard", second),
        *(line(own.text) for own in report.advice),
        *(line(own.teacher, quiet) for own in report.advice if own.teacher != own.text),
        Spacer(1, 2 * mm),
        _table([["", "", ""], *_dimensions(report)][1:], (32, 34, 100), plain),
    ]
    if heading.marks or heading.overruled:
        parts += [line("The teacher's word", second), *(line(own) for own in (*heading.marks, *heading.overruled))]
    by = report.expectations
    reference = "the pupil's own strings" if by.a4_hz is None else f"A = {by.a4_hz:g} Hz"
    parts += [
        line("Note by note", second),
        _table([["Note", "Place", "", "cents", "ms", "length"], *map(_row, report.notes)], None, plain, bold),
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
        leftMargin=18 * mm, rightMargin=18 * mm, topMargin=16 * mm, bottomMargin=16 * mm,
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


def _table(rows: list[list[str]], widths_mm: tuple[float, ...] | None, plain: str, bold: str | None = None) -> Table:
    style = [
        ("FONT", (0, 0), (-1, -1), plain, 8.5),
        ("TEXTCOLOR", (0, 0), (-1, -1), _INK),
        ("LINEBELOW", (0, 0), (-1, -1), 0.3, _RING),
        ("TOPPADDING", (0, 0), (-1, -1), 1.5),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 1.5),
    ]
    if bold:
        style.append(("FONT", (0, 0), (-1, 0), bold, 8.5))
    widths = None if widths_mm is None else [own * mm for own in widths_mm]
    return Table(rows, colWidths=widths, style=TableStyle(style), hAlign="LEFT", repeatRows=1 if bold else 0)


class _Nests(Flowable):
    """A row of nests: up and down is sharp and flat, right and left late and early; inside the ring is home."""

    def __init__(self, notes: list[ReportNote]) -> None:
        super().__init__()
        self.notes = notes
        self.width, self.height = len(notes) * _NEST_MM * mm, (_NEST_MM + 4) * mm

    def draw(self) -> None:
        radius = 0.36 * _NEST_MM * mm
        for at, note in enumerate(self.notes):
            x, y = (at + 0.5) * _NEST_MM * mm, (_NEST_MM / 2 + 4) * mm
            self.canv.setFont("report", 6.5)
            self.canv.setFillColor(_QUIET)
            self.canv.drawCentredString(x, 1.2 * mm, _written(note.name))
            self.canv.setStrokeColor(_RING)
            self.canv.setLineWidth(1)
            self.canv.setDash(2, 2) if note.status == "missed" else self.canv.setDash()
            self.canv.circle(x, y, radius)
            self.canv.setDash()
            if note.tuned_cents is None or note.status in ("missed", "unclear"):
                continue
            up = max(-1.3, min(1.3, note.tuned_cents / note.pitch_tolerance_cents))
            right = max(-1.3, min(1.3, (note.timing_ms or 0.0) / note.timing_tolerance_ms))
            self.canv.setFillColor(_INK if note.home else _LANTERN)
            self.canv.circle(x + right * radius * 0.75, y + up * radius * 0.75, 1.1 * mm, stroke=0, fill=1)
