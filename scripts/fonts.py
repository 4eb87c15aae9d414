"""Makes the faces that go into PDFs out of the web fonts of the front end, as static TrueType files.

Wants `pip install fonttools brotli` and `npm --prefix frontend ci`; the files it makes are kept in the repository, so that nobody
else has to.
"""

from __future__ import annotations

import tempfile
from pathlib import Path

from fontTools.merge import Merger
from fontTools.ttLib import TTFont
from fontTools.varLib import instancer

ROOT = Path(__file__).parent.parent
WEB = ROOT / "frontend" / "node_modules" / "@fontsource-variable"
HERE = ROOT / "attentive_owl" / "formats" / "fonts"
FACES = (
    ("AtkinsonHyperlegibleNext-Regular", "atkinson-hyperlegible-next", 400),
    ("AtkinsonHyperlegibleNext-Bold", "atkinson-hyperlegible-next", 700),
    ("Literata-SemiBold", "literata", 600),
)


def static(path: Path, weight: int) -> TTFont:
    font = TTFont(path)
    font.flavor = None
    return instancer.instantiateVariableFont(font, {"wght": weight})


def main() -> None:
    for name, family, weight in FACES:
        with tempfile.TemporaryDirectory() as folder:
            parts = []
            for subset in ("latin", "latin-ext"):
                part = Path(folder, f"{subset}.ttf")
                static(WEB / family / "files" / f"{family}-{subset}-wght-normal.woff2", weight).save(part)
                parts.append(str(part))
            merged = Merger().merge(parts)
            # Two weights of one variable font carry one name, and a reader of PDFs would take one for the other.
            for record in merged["name"].names:
                if record.nameID in (1, 4, 6, 16):
                    record.string = name
            merged.save(HERE / f"{name}.ttf")


if __name__ == "__main__":
    main()
