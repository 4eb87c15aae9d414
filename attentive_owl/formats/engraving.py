"""Engraving through Verovio: one picture a system, and where each note's head stands in it.

Every system is its own picture so that a lane (nests, string bands) can stand under it and never touch the next one.
"""

from __future__ import annotations

import re
import threading
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import verovio
from lxml import etree

from attentive_owl.core.exercises import Score
from attentive_owl.formats.musicxml import note_id, write_musicxml

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


def engrave(score: Score, width_px: int, staff_scale: int = 50, show_cues: bool = True) -> tuple[System, ...]:
    """Systems of the score, broken to fit `width_px`. `staff_scale`: per cent, 50 makes a staff about 36 px high."""
    return _engrave(write_musicxml(score), width_px, staff_scale, show_cues)


@lru_cache(maxsize=256)
def _engrave(musicxml: bytes, width_px: int, staff_scale: int, show_cues: bool) -> tuple[System, ...]:
    toolkit = _toolkit()
    toolkit.setOptions(
        {
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
            "svgViewBox": True,
            "svgRemoveXlink": True,
            "svgHtml5": False,
            "font": "Leland",
            "lyricSize": 4.0,
            "spacingNonLinear": 0.5,
            "spacingLinear": 0.3,
        }
    )
    text = musicxml.decode().replace("<part-name>", '<part-name print-object="no">')
    # The tempo mark is text in a music font that only an inline style would bring; every view says the tempo itself.
    text = re.sub(r"<direction [^>]*>\s*<direction-type>\s*<metronome>.*?</direction>", "", text, flags=re.DOTALL)
    text = re.sub(r'<fingering print-object="no">.*?</fingering>', "", text)
    if not show_cues:
        text = re.sub(r"<lyric .*?</lyric>", "", text, flags=re.DOTALL)
    if not toolkit.loadData(text):
        raise ValueError("the score could not be engraved")
    return tuple(_system(toolkit.renderToSVG(page, False)) for page in range(1, toolkit.getPageCount() + 1))


def _system(svg: str) -> System:
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
    for group in root.iter(f"{_SVG}g"):
        identity = group.get("id") or ""
        if group.get("class", "").split()[:1] == ["note"] and re.fullmatch(r"note-\d+", identity):
            x, y = _head(group, identity)
            notes.append(PlacedNote(int(identity.removeprefix("note-")), x / width, y / height))
        if group.get("class", "").startswith("page-margin"):
            margin = _TRANSLATE.search(group.get("transform", ""))
            if margin:
                shift = (float(margin[1]) / width, float(margin[2]) / height)
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


__all__ = ["PlacedNote", "System", "engrave", "note_id"]
