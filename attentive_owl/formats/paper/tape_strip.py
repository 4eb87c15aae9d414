"""A paper strip that goes under the strings: where each tape belongs, at true size, as a PDF.

A ruler stands beside it, because printers scale: it is to be measured before the strip is cut out. Strips longer than the
page are cut into lengths that overlap by a marked line.
"""

from __future__ import annotations

import io

from reportlab.lib.colors import HexColor, black
from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from attentive_owl.core.instruments import Instrument, PlacedMark
from attentive_owl.formats.paper.faces import BOLD, PLAIN, register

_WIDTH_MM = 24.0
_MARGIN_MM = 18.0
_USABLE_MM = 297.0 - 2 * _MARGIN_MM - 24.0
_RULER_MM = 100.0
_BEYOND_MM = 12.0
_TAPE_MM = 4.0


def tape_strip_pdf(instrument: Instrument, size: str, string_length_mm: float, marks: tuple[PlacedMark, ...]) -> bytes:
    """The strip as a PDF of one page or more. Raises ValueError where there is no mark."""
    if not marks:
        raise ValueError("a strip needs at least one mark")
    register()
    out = io.BytesIO()
    page = Canvas(out, pagesize=A4, invariant=True)
    page.setTitle(f"Tape strip, {instrument.name} {size}")
    end = marks[-1].mm + _BEYOND_MM
    start, number = 0.0, 1
    while start < end:
        stop = min(start + _USABLE_MM, end)
        _page(page, instrument, size, string_length_mm, marks, start, stop, number)
        page.showPage()
        start, number = stop, number + 1
    page.save()
    return out.getvalue()


def _page(
    page: Canvas,
    instrument: Instrument,
    size: str,
    string_length_mm: float,
    marks: tuple[PlacedMark, ...],
    start: float,
    stop: float,
    number: int,
) -> None:
    height = A4[1]
    top = height - (_MARGIN_MM + 24.0) * mm
    left = _MARGIN_MM * mm
    page.setFont(BOLD, 12)
    page.drawString(left, height - 15 * mm, f"{instrument.name} {size}, string {string_length_mm:g} mm, part {number}")
    page.setFont(PLAIN, 9)
    page.drawString(
        left, height - 21 * mm, "Print at 100 %. Measure the ruler: it must be 100 mm long. Then cut along the frame."
    )
    page.drawString(
        left,
        height - 26 * mm,
        "The top edge goes to the nut." if start == 0 else f"The top edge joins the last part at {start:.0f} mm.",
    )
    page.setStrokeColor(black)
    page.setLineWidth(0.4)
    page.rect(left, top - (stop - start) * mm, _WIDTH_MM * mm, (stop - start) * mm)
    for placed in marks:
        if not start <= placed.mm <= stop:
            continue
        at = top - (placed.mm - start) * mm
        page.setFillColor(HexColor(placed.mark.shade))
        page.rect(left, at - _TAPE_MM / 2 * mm, _WIDTH_MM * mm, _TAPE_MM * mm, stroke=1, fill=1)
        page.setStrokeColor(black)
        page.line(left, at, left + _WIDTH_MM * mm, at)
        page.setFillColor(black)
        page.setFont(PLAIN, 9)
        page.drawString(
            left + (_WIDTH_MM + 3) * mm,
            at - 1.1 * mm,
            f"{placed.mm:.1f} mm  {placed.mark.name} ({placed.mark.colour}): {', '.join(placed.notes)}",
        )
    _ruler(page, 165 * mm, top)


def _ruler(page: Canvas, left: float, top: float) -> None:
    page.setFont(PLAIN, 7)
    page.line(left, top, left, top - _RULER_MM * mm)
    for millimetre in range(int(_RULER_MM) + 1):
        long = 6 if millimetre % 10 == 0 else 4 if millimetre % 5 == 0 else 2
        at = top - millimetre * mm
        page.line(left, at, left + long * mm, at)
        if millimetre % 10 == 0:
            page.drawString(left + 7 * mm, at - 0.9 * mm, f"{millimetre}")
