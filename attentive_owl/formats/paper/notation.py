"""Engraved systems as drawings for a PDF, with the tapes or the nests of their notes in a lane under them."""

from __future__ import annotations

import logging
from collections.abc import Callable, Mapping
from itertools import pairwise

from lxml import etree
from reportlab.graphics.shapes import Drawing
from reportlab.lib.colors import HexColor, black
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable
from svglib import fonts as svg_fonts
from svglib.svglib import SvgRenderer

from attentive_owl.core.instruments import Mark
from attentive_owl.formats.engraving import System
from attentive_owl.formats.paper.faces import BOLD, PLAIN, SIGNS_BOLD, file_of, register

_SVG = "{http://www.w3.org/2000/svg}"
_INK = "#1d3330"
_DRAWN = {f"{_SVG}{tag}" for tag in ("path", "polygon", "rect", "line", "polyline", "ellipse")}
_FACES = {"fing": BOLD, "syl": PLAIN, "note": SIGNS_BOLD}
"""By the class of the group that a text stands in; all other text is plain."""

Lane = Callable[[Canvas, int, float, float], None]
"""Draws what belongs to note `index` at x, with so much room to its neighbours (all in points); the lane's lower edge is at 0."""


def drawing(system: System, width_pt: float) -> Drawing:
    """One system, as wide as is asked. What the pages' style sheet would say is written into the picture."""
    register()
    root = _flat(etree.fromstring(system.svg.encode()))
    # Elements are held here: an element that nobody holds may share its place in memory with a later one.
    everything = list(root.iter(etree.Element))
    glyphs = {id(part) for defs in root.iter(f"{_SVG}defs") for part in defs.iter()}
    for element in everything:
        for name in ("fill", "stroke", "color"):
            if element.get(name) == "currentColor":
                element.set(name, _INK)
        if element.tag in _DRAWN and id(element) not in glyphs and element.get("stroke") in (None, "currentColor"):
            element.set("stroke", _INK)
        if element.tag in (f"{_SVG}text", f"{_SVG}tspan"):
            element.set("font-family", _face(element))
    for group in list(root.iter(f"{_SVG}g")):
        # Those that only tell what belongs together: each would cost as much as a shape, and every shape asks all that it stands in.
        if id(group) not in glyphs and not set(group.attrib) - {"class", "id"}:
            group.tag = "plain"
    etree.strip_tags(root, "plain")
    found = SvgRenderer("score.svg").render(root)
    scale = width_pt / found.width
    found.scale(scale, scale)
    found.width, found.height = width_pt, found.height * scale
    return found


def _flat(root: etree._Element) -> etree._Element:
    """The engraver's picture within a picture as one, in its own units: the reader of pictures would scale them apart."""
    inner = next(element for element in root.iter(f"{_SVG}svg") if element is not root)
    box = inner.get("viewBox") or root.get("viewBox") or ""
    group = etree.Element(f"{_SVG}g", {"color": inner.get("color", _INK)})
    group.extend(list(inner))
    parent = inner.getparent()
    if parent is not None:
        parent.replace(inner, group)
    _, _, width, height = box.split()
    for name, value in (("viewBox", box), ("width", width), ("height", height)):
        root.set(name, value)
    return root


def _face(element: etree._Element) -> str:
    around = element
    while around is not None:
        face = _FACES.get((around.get("class") or "").split(" ")[0])
        if face:
            return face
        around = around.getparent()  # type: ignore[assignment]
    return PLAIN


class EngravedSystem(Flowable):
    """A system with a lane under it."""

    def __init__(self, system: System, width_pt: float, lane: Lane | None = None, lane_pt: float = 0.0) -> None:
        super().__init__()
        self.picture = drawing(system, width_pt)
        self.system, self.lane, self.lane_pt = system, lane, lane_pt
        self.width, self.height = width_pt, self.picture.height + lane_pt

    def draw(self) -> None:
        self.picture.drawOn(self.canv, 0, self.lane_pt)
        if self.lane is None:
            return
        places = [note.x * self.width for note in self.system.notes]
        room = min((b - a for a, b in pairwise(places)), default=self.width)
        for note, x in zip(self.system.notes, places, strict=True):
            self.canv.saveState()
            self.lane(self.canv, note.index, x, room)
            self.canv.restoreState()


def tape_lane(marks: Mapping[int, Mark | None], height_pt: float) -> Lane:
    """The tape under each note (by index), in its colour and with the first letter of its colour's name, for who prints in grey."""

    def draw(canvas: Canvas, index: int, x: float, _room: float) -> None:
        mark = marks.get(index)
        if mark is None:
            return
        canvas.setFillColor(HexColor(mark.shade))
        canvas.setStrokeColor(black)
        canvas.setLineWidth(0.3)
        canvas.rect(x - 4, height_pt - 4.5, 8, 3.5, stroke=1, fill=1)
        canvas.setFillColor(black)
        canvas.setFont(PLAIN, 5)
        canvas.drawCentredString(x, height_pt - 9.5, mark.colour[:1])

    return draw


# Below this level it works out, of every element, what it could not use, and says it nowhere.
logging.getLogger("svglib.svglib").setLevel(logging.INFO)


def _known_faces() -> None:
    for face in (PLAIN, BOLD, SIGNS_BOLD):
        svg_fonts.register_font(face, str(file_of(face)), rlgFontName=face)


_known_faces()
