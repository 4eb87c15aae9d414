"""The faces of our pages, as files for paper: Atkinson Hyperlegible Next for reading, Literata for headings; DejaVu, which
matplotlib ships, for letters and musical signs that they do not have."""

from __future__ import annotations

from functools import cache
from importlib.util import find_spec
from pathlib import Path

from reportlab.lib.colors import HexColor
from reportlab.lib.styles import ParagraphStyle
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

INK, QUIET, LINE, LANTERN = (HexColor(own) for own in ("#1d3330", "#5a6b66", "#b9a98c", "#a9470f"))
PLAIN, BOLD, HEADING, SIGNS, SIGNS_BOLD = "owl", "owl-bold", "owl-heading", "owl-signs", "owl-signs-bold"
_OURS = {
    PLAIN: "AtkinsonHyperlegibleNext-Regular.ttf",
    BOLD: "AtkinsonHyperlegibleNext-Bold.ttf",
    HEADING: "Literata-SemiBold.ttf",
}
_FALLBACK = {SIGNS: "DejaVuSans.ttf", SIGNS_BOLD: "DejaVuSans-Bold.ttf"}


def file_of(face: str) -> Path:
    """Raises RuntimeError where matplotlib, which brings the fallback, is not installed."""
    if face in _OURS:
        return Path(__file__).parent.parent / "fonts" / _OURS[face]
    found = find_spec("matplotlib")
    if found is None or not found.submodule_search_locations:
        raise RuntimeError("matplotlib, which brings the font, is not installed")
    return Path(found.submodule_search_locations[0], "mpl-data", "fonts", "ttf", _FALLBACK[face])


@cache
def register() -> None:
    for face in (*_OURS, *_FALLBACK):
        pdfmetrics.registerFont(TTFont(face, file_of(face)))


def face_for(text: str, wanted: str) -> str:
    """The wanted face, or the fallback where it lacks a letter."""
    register()
    letters = pdfmetrics.getFont(wanted).face.charToGlyph
    if all(ord(letter) in letters for letter in text):
        return wanted
    return SIGNS if wanted == PLAIN else SIGNS_BOLD


def style(name: str, size: float, face: str = PLAIN, **more: object) -> ParagraphStyle:
    register()
    return ParagraphStyle(
        name, **{"fontName": face, "fontSize": size, "leading": 1.35 * size, "textColor": INK, **more}
    )
