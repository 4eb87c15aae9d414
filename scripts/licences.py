"""The licences of everything that is shipped, as the packages themselves state them, into docs/licences.md: python scripts/licences.py"""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from importlib.metadata import PackageNotFoundError, metadata
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
PAGE = ROOT / "docs" / "licences.md"
_HEAD = """# Licences

Of what is shipped, as the packages say themselves; written by `python scripts/licences.py` from the locks. Fonts, and what is used in
development alone, stand in [THIRD_PARTY.md](../THIRD_PARTY.md).
"""


def locked() -> list[tuple[str, str]]:
    """(name, version) of every package of `requirements.lock`."""
    return re.findall(r"^([\w.-]+)==([^\s;\\]+)", (ROOT / "requirements.lock").read_text(), re.MULTILINE)


def shipped_by_page() -> list[tuple[str, str, str]]:
    """(name, version, licence) of what the built page is made of."""
    lock = json.loads((ROOT / "frontend" / "package-lock.json").read_text())
    return [
        (path.rsplit("node_modules/", 1)[1], own["version"], own.get("license", ""))
        for path, own in sorted(lock["packages"].items())
        if path and not own.get("dev") and not own.get("optional")
    ]


def _licence(name: str) -> str:
    """An expression (PEP 639) where there is one; else what the classifiers say; else the first line of the field."""
    try:
        about = metadata(name)
    except PackageNotFoundError:
        return "not installed on this system"
    if about["License-Expression"]:
        return str(about["License-Expression"])
    classes = [own.rsplit(" :: ", 1)[1] for own in about.get_all("Classifier") or [] if own.startswith("License :: ")]
    field = (about["License"] or "").strip().splitlines()
    return ", ".join(own for own in classes if own != "OSI Approved") or (field[0][:60] if field else "not stated")


def page() -> str:
    return "\n".join(
        [
            _HEAD,
            *_table("Python", [(n, v, _licence(n)) for n, v in locked()]),
            "",
            *_table("The page", shipped_by_page()),
            "",
        ]
    )


def _table(title: str, rows: list[tuple[str, str, str]]) -> Iterator[str]:
    yield from (f"## {title}", "", "| package | version | licence |", "|---|---|---|")
    for name, version, licence in rows:
        yield f"| {name} | {version} | {licence or 'not stated'} |"


if __name__ == "__main__":
    PAGE.write_text(page())
