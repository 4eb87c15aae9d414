"""Engraving through Verovio: one picture a system, and where each note's head stands in it.

Every system is its own picture so that a lane (nests, string bands) can stand under it and never touch the next one.
"""

from __future__ import annotations

import re
import threading
from collections.abc import Collection
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import verovio
from lxml import etree

from attentive_owl.core.exercises import USUAL_SIGNS, Score, Sign
from attentive_owl.core.exercises.signs import half_steps, note_name
from attentive_owl.core.theory import NoteNames
from attentive_owl.formats.engraving_signs import tree_with_signs
from attentive_owl.formats.musicxml import note_id

_SVG = "{http://www.w3.org/2000/svg}"
_TRANSLATE = re.compile(r"translate\(\s*(-?[\d.]+)[ ,]+(-?[\d.]+)\s*\)")
_NAMED = re.compile(r"(note|measure)-\d+")
_COMPACT = etree.XMLParser(remove_blank_text=True)
_local = threading.local()


@dataclass(frozen=True)
class PlacedNote:
    index: int
    x: float
    """Middle of the note head, as a share (0..1) of the system's width."""
    y: float
    """As a share (0..1) of the system's height."""


@dataclass(frozen=True)
class System:
    svg: str
    width: int
    height: int
    notes: tuple[PlacedNote, ...]


def _toolkit() -> verovio.toolkit:
    if not hasattr(_local, "toolkit"):
        verovio.enableLog(verovio.LOG_OFF)
        # Verovio knows where its fonts are only in the thread that imported it.
        toolkit = verovio.toolkit(False)
        toolkit.setResourcePath(str(Path(verovio.__file__).parent / "data"))
        _local.toolkit = toolkit
    kept: verovio.toolkit = _local.toolkit
    return kept


def engrave(
    score: Score,
    width_px: int,
    staff_scale: int = 50,
    signs: Collection[Sign] = USUAL_SIGNS,
    names: NoteNames = NoteNames.LETTERS,
) -> tuple[System, ...]:
    """Systems of the score, broken to fit `width_px`. `staff_scale`: per cent, 50 makes a staff about 36 px high. `names`: how
    notes are called where their names stand in their heads."""
    own_names = tuple(_short(note_name(score, note, names)) for note in score.notes) if Sign.NOTE_NAMES in signs else ()
    written = etree.tostring(tree_with_signs(score, signs), encoding="unicode")
    close = tuple((span.first, span.last) for span in half_steps(score)) if Sign.HALF_STEPS in signs else ()
    return _engrave(written, width_px, staff_scale, own_names, close)


def _short(name: str) -> str:
    """As it fits into a head."""
    return name.replace(" sharp", "♯").replace(" flat", "♭")


@lru_cache(maxsize=256)
def _engrave(
    text: str, width_px: int, staff_scale: int, names: tuple[str, ...], close: tuple[tuple[int, int], ...]
) -> tuple[System, ...]:
    toolkit = _toolkit()
    options = {
        "scale": staff_scale,
        "pageWidth": int(width_px * 100 / staff_scale),
        # A page that holds one system only: each system becomes a page, cut to its height.
        "pageHeight": 100,
        "adjustPageHeight": True,
        "pageMarginTop": 24,
        "pageMarginBottom": 10,
        "pageMarginLeft": 16,
        "pageMarginRight": 16,
        "header": "none",
        "footer": "none",
        "breaks": "auto",
        "minLastJustification": 0.0,
        "lyricWordSpace": 1.6,
        "svgViewBox": True,
        "svgRemoveXlink": True,
        "svgHtml5": False,
        "font": "Leland",
        "lyricSize": 4.0,
        "spacingNonLinear": 0.5,
        "spacingLinear": 0.3,
    }
    systems = _loaded(toolkit, text, options)
    if systems > 1:
        _break_evenly(toolkit, text, options, systems)
    return tuple(
        _system(toolkit.renderToSVG(page, False), names, close) for page in range(1, toolkit.getPageCount() + 1)
    )


def _loaded(toolkit: verovio.toolkit, text: str, options: dict[str, object]) -> int:
    """How many systems there are. Raises ValueError where there are none."""
    toolkit.setOptions(options)
    if not toolkit.loadData(text):
        raise ValueError("the score could not be engraved")
    return int(toolkit.getPageCount())


def _break_evenly(toolkit: verovio.toolkit, text: str, options: dict[str, object], systems: int) -> None:
    """The same line with as many measures in each system, as near as it goes, loaded in place of what the engraver chose."""
    root = etree.fromstring(text)
    # A pickup stands with the measure that it leads to.
    measures = [measure for measure in root.iter("measure") if measure.get("implicit") != "yes"]
    more = next((n for n in range(systems, systems + systems // 2 + 1) if len(measures) % n == 0), systems)
    for system in range(1, more):
        first = measures[-(-len(measures) * system // more)]
        first.insert(0, etree.Element("print", {"new-system": "yes"}))
    # A last system that holds less than the others is not stretched.
    even = {**options, "breaks": "line", "minLastJustification": 0.0 if len(measures) % more == 0 else 0.8}
    if _loaded(toolkit, etree.tostring(root, encoding="unicode"), even) != more:
        # Measures that are too full to go together: as the engraver would have them.
        _loaded(toolkit, text, options)


def _system(svg: str, names: tuple[str, ...], close: tuple[tuple[int, int], ...]) -> System:
    root = etree.fromstring(svg.encode(), _COMPACT)
    _, _, outer_width, outer_height = (float(part) for part in root.get("viewBox", "0 0 1 1").split())
    # Style rules stand in the page's own style sheet (an inline style would break its security policy), and
    # placeholders are dots that only such a rule would hide.
    # Groups that draw nothing, names that nobody asks for and blanks are most of what a browser would have to take in.
    unwanted = [
        *root.iter(f"{_SVG}style", f"{_SVG}desc"),
        *(g for g in root.iter(f"{_SVG}g") if "placeholder" in g.get("class", "") or not (len(g) or g.text)),
    ]
    for element in unwanted:
        parent = element.getparent()
        if parent is not None:
            parent.remove(element)
    inner = next((element for element in root.iter(f"{_SVG}svg") if element is not root), root)
    _, _, width, height = (float(part) for part in inner.get("viewBox", root.get("viewBox", "")).split())
    notes = []
    heads: dict[int, tuple[etree._Element, float, float]] = {}
    for group in root.iter(f"{_SVG}g"):
        identity = group.get("id") or ""
        if group.get("class", "").split()[:1] == ["note"] and re.fullmatch(r"note-\d+", identity):
            x, y = _head(group, identity)
            index = int(identity.removeprefix("note-"))
            notes.append(PlacedNote(index, x / width, y / height))
            heads[index] = (group, x, y)
            if names:
                _write_in_head(group, names[index], x, y)
        if group.get("class", "").startswith("page-margin"):
            margin = _TRANSLATE.search(group.get("transform", ""))
            if margin:
                shift = (float(margin[1]) / width, float(margin[2]) / height)
    for first, last in close:
        # A pair that is broken by the end of a system is left out.
        if first in heads and last in heads:
            _bracket_under(heads[first], heads[last])
    placed = tuple(
        PlacedNote(note.index, round(note.x + shift[0], 5), round(note.y + shift[1], 5))
        for note in sorted(notes, key=lambda note: note.index)
    )
    glyphs = {glyph for defs in root.iter(f"{_SVG}defs") for glyph in defs}
    for element in root.iter(f"{_SVG}g", f"{_SVG}tspan"):
        if "id" in element.attrib and element not in glyphs and not _NAMED.fullmatch(str(element.get("id"))):
            del element.attrib["id"]
    return System(etree.tostring(root, encoding="unicode"), round(outer_width), round(outer_height), placed)


def _head(group: etree._Element, identity: str) -> tuple[float, float]:
    for use in group.iter(f"{_SVG}use"):
        place = _TRANSLATE.search(use.get("transform", ""))
        if place:
            # A head is about 220 units wide in Verovio's own coordinates; its anchor is the left edge.
            return float(place[1]) + 110.0, float(place[2])
    raise ValueError(f"no head was drawn for {identity}")


def _bracket_under(one: tuple[etree._Element, float, float], two: tuple[etree._Element, float, float]) -> None:
    """From head to head, under the lower of the two: the engraver's own brackets may not overlap one another."""
    group, low = one[0], max(one[2], two[2]) + 260
    points = f"{one[1]:.0f},{low - 90:.0f} {one[1]:.0f},{low:.0f} {two[1]:.0f},{low:.0f} {two[1]:.0f},{low - 90:.0f}"
    shape = {"points": points, "fill": "none", "stroke-width": "36", "class": "half-step"}
    etree.SubElement(group, f"{_SVG}polyline", shape)


def _write_in_head(group: etree._Element, name: str, x: float, y: float) -> None:
    """The name on a light disc over the head, so that open and filled heads read alike."""
    disc = {
        "cx": f"{x:.0f}",
        "cy": f"{y:.0f}",
        "r": "180",
        "fill": "#fffdf6",
        "stroke": "currentColor",
        "stroke-width": "22",
    }
    etree.SubElement(group, f"{_SVG}circle", disc)
    size = "270" if len(name) < 2 else "220" if len(name) < 3 else "150"
    text = etree.SubElement(
        group,
        f"{_SVG}text",
        {"x": f"{x:.0f}", "y": f"{y + 85:.0f}", "font-size": size, "text-anchor": "middle", "font-weight": "700"},
    )
    text.text = name


__all__ = ["PlacedNote", "System", "engrave", "note_id"]
