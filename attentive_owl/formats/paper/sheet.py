"""A sheet to hand out: what is to be played, for one instrument a page or for the whole class on one, and what there is to
tell of it."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from xml.sax.saxutils import escape

from reportlab.lib.pagesizes import A4, letter
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable, KeepInFrame, PageBreak, Paragraph, SimpleDocTemplate, Spacer

from attentive_owl.core.bowing import plan_bow
from attentive_owl.core.exercises import Score, Sign, Way, look_at, telling
from attentive_owl.core.instruments import Mark
from attentive_owl.core.theory import NoteNames, NoteValues, in_vocabulary, value_name
from attentive_owl.formats.engraving import engrave
from attentive_owl.formats.paper.faces import BOLD, HEADING, INK, LINE, PLAIN, QUIET, face_for, style
from attentive_owl.formats.paper.notation import EngravedSystem, tape_lane

PAPERS = {"a4": A4, "letter": letter}
_MARGIN_MM, _TOP_MM, _BOTTOM_MM = 16.0, 14.0, 12.0
_PIXELS_A_POINT = 1.55
"""How much of the page a staff takes: the engraver breaks lines for a screen of so many pixels to the point."""
_SMALL = 0.72
"""Of a staff's size, where all instruments stand on one page."""
_TAPE_LANE_PT = 11.0
_CARE = (
    "Stop and shake out if anything hurts; pain that stays is for the teacher and a doctor. Tuning pegs are for an adult: "
    "a string can snap, so keep the face away."
)


@dataclass(frozen=True)
class SheetPart:
    score: Score
    marks: Sequence[Mark] = ()
    """Tapes of the instrument."""


@dataclass(frozen=True)
class Sheet:
    studio: str
    parts: Sequence[SheetPart]
    signs: Sequence[Sign]
    ways: Sequence[Way] = ()
    words: str = ""
    """The teacher's own."""
    target_bpm: float | None = None
    days: int = 0
    good_repeats: int = 0
    due_on: date | None = None
    count: str = ""
    """How it is counted in."""
    names: NoteNames = NoteNames.LETTERS
    values: NoteValues = NoteValues.QUARTER
    one_page: bool = False
    """All instruments on one page, each smaller, in place of a page for each."""
    paper: str = "a4"


def sheet_pdf(sheet: Sheet) -> bytes:
    """Raises ValueError for a sheet without a score, or a paper that there is none of."""
    if not sheet.parts:
        raise ValueError("a sheet needs an instrument")
    if sheet.paper not in PAPERS:
        raise ValueError(f"{sheet.paper!r} is none of {', '.join(PAPERS)}")
    size = PAPERS[sheet.paper]
    width = size[0] - 2 * _MARGIN_MM * mm
    flow: list[Flowable] = []
    if sheet.one_page:
        flow += _head(sheet, sheet.parts[0].score, None)
        for part in sheet.parts:
            flow += [*_score(sheet, part, width, _SMALL), *_told(sheet, part, ("Half steps",))]
        flow += _foot(sheet)
        # One page is what was asked for, whatever has to go on it.
        height = size[1] - (_TOP_MM + _BOTTOM_MM) * mm - 14
        flow = [KeepInFrame(width, height, flow, mode="shrink")]
    else:
        for place, part in enumerate(sheet.parts):
            flow += [PageBreak()] if place else []
            flow += _head(sheet, part.score, part.score.instrument.name)
            flow += _score(sheet, part, width, 1.0)
            flow += _told(sheet, part)
            flow += _foot(sheet)
    out = io.BytesIO()
    title = in_vocabulary(sheet.parts[0].score.title, sheet.values)
    page = SimpleDocTemplate(
        out, pagesize=size, title=title, author=sheet.studio, invariant=True,
        leftMargin=_MARGIN_MM * mm, rightMargin=_MARGIN_MM * mm, topMargin=_TOP_MM * mm, bottomMargin=_BOTTOM_MM * mm,
    )  # fmt: skip
    page.build(flow)
    return out.getvalue()


def line_of_text(text: str, size: float, face: str = PLAIN, **more: object) -> Paragraph:
    own = style("line", size, face_for(text, face), **more)
    return Paragraph(escape(text), own)


def _head(sheet: Sheet, score: Score, instrument: str | None) -> list[Flowable]:
    bpm = score.tempo_bpm if sheet.target_bpm is None else sheet.target_bpm
    value = value_name(float(score.meter.pulse_beats), sheet.values, several=True)
    tempo = f"Up to {bpm / float(score.meter.pulse_beats):.0f} {value} a minute; slow and clean is right."
    title = in_vocabulary(score.title, sheet.values)
    facts = [tempo, f"Count in: {sheet.count}." if sheet.count else ""]
    if sheet.due_on:
        facts.append(f"For {sheet.due_on:%A} {sheet.due_on.day} {sheet.due_on:%B}.")
    parts: list[Flowable] = [
        line_of_text(title[:1].upper() + title[1:], 17, HEADING),
        line_of_text(
            " · ".join(part for part in (instrument or "For the class", sheet.studio) if part), 10.5, textColor=QUIET
        ),
        line_of_text(" ".join(fact for fact in facts if fact), 10.5, spaceBefore=3),
    ]
    if sheet.ways:
        steps = ", then ".join(way.value for way in sheet.ways)
        parts.append(line_of_text(f"{steps[:1].upper()}{steps[1:]}.", 10.5, BOLD))
    if sheet.words:
        parts.append(line_of_text(sheet.words, 11.5, BOLD, spaceBefore=4))
    if sheet.days:
        parts += [Spacer(1, 2 * mm), _Days(sheet.days, sheet.good_repeats)]
    parts.append(Spacer(1, 4 * mm))
    return parts


def _score(sheet: Sheet, part: SheetPart, width: float, share: float) -> list[Flowable]:
    title = [line_of_text(part.score.instrument.name, 11, BOLD)] if sheet.one_page else []
    return [*title, *engraved(part, width, share, sheet.signs, sheet.names)]


def engraved(
    part: SheetPart, width: float, share: float, signs: Sequence[Sign], names: NoteNames
) -> list[EngravedSystem]:
    """The lines of a score with their tapes, for a page of this width in points; `share` of the usual staff."""
    systems = engrave(part.score, round(width * _PIXELS_A_POINT), round(50 * share), signs, names)
    by_place = {mark.semitones: mark for mark in part.marks}
    tapes = {
        note.index: by_place.get(note.placement.semitones)
        for note in part.score.notes
        if note.placement and note.placement.finger
    }
    lane = tape_lane(tapes, _TAPE_LANE_PT) if any(tapes.values()) else None
    return [EngravedSystem(own, width, lane, _TAPE_LANE_PT if lane else 0.0) for own in systems]


def _told(sheet: Sheet, part: SheetPart, about: Sequence[str] = ()) -> list[Flowable]:
    rows = telling(part.score, look_at(part.score, sheet.names), plan_bow(part.score).words)
    told = [(name, words) for name, words in rows if not about or name in about]
    used = {note.placement.semitones for note in part.score.notes if note.placement and note.placement.finger}
    tapes = [f"{mark.colour}: {mark.name}" for mark in part.marks if mark.semitones in used]
    if tapes and not about:
        told.append(("Tapes", ", ".join(tapes)))
    size = 8.5 if about else 10.5
    lines = [
        Paragraph(
            f'<font name="{face_for(name, BOLD)}">{escape(name)}</font> {escape(words)}',
            style("told", size, face_for(words, PLAIN), spaceBefore=2),
        )
        for name, words in told
    ]
    heading = [] if about else [line_of_text("What to tell them", 12, HEADING, spaceBefore=10)]
    return [*heading, *lines, Spacer(1, 3 * mm)]


def _foot(sheet: Sheet) -> list[Flowable]:
    return [line_of_text(_CARE, 8.5, textColor=QUIET, spaceBefore=6)]


class _Days(Flowable):
    """A box to fill for every good go of every day: the days side by side where they have room, else under one another."""

    _BOX, _GAP, _LABEL, _APART = 4.0 * mm, 1.2 * mm, 12.0 * mm, 4.0 * mm
    _MOST_BOXES = 10

    def __init__(self, days: int, repeats: int) -> None:
        super().__init__()
        self.days, self.repeats = days, max(min(repeats, self._MOST_BOXES), 1)
        self.day_width = self._LABEL + self.repeats * (self._BOX + self._GAP) + self._APART
        self.across = days

    def wrap(self, width: float, height: float) -> tuple[float, float]:
        self.across = max(min(self.days, int((width + self._APART) / self.day_width)), 1)
        self.width, self.height = width, -(-self.days // self.across) * (self._BOX + self._GAP)
        return self.width, self.height

    def draw(self) -> None:
        canvas: Canvas = self.canv
        for day in range(self.days):
            row, column = divmod(day, self.across)
            x, y = column * self.day_width, self.height - (row + 1) * (self._BOX + self._GAP)
            canvas.setFillColor(INK)
            canvas.setFont(PLAIN, 9)
            canvas.drawString(x, y + 1.0 * mm, f"Day {day + 1}")
            canvas.setStrokeColor(LINE)
            for go in range(self.repeats):
                left = x + self._LABEL + go * (self._BOX + self._GAP)
                canvas.roundRect(left, y, self._BOX, self._BOX, 1.5, stroke=1, fill=0)
