"""Writes what was fitted into the one file of the ear's weights."""

from __future__ import annotations

import argparse
import re
from collections.abc import Iterable
from pathlib import Path

from attentive_owl.core.listening import weights

FILE = Path(weights.__file__)


def add_option(options: argparse.ArgumentParser) -> None:
    options.add_argument(
        "--write", action="store_true", help=f"into {FILE.name}; the engine's version is then to be raised"
    )


def write(name: str, values: Iterable[float], file: Path = FILE) -> None:
    """Puts the values, the constant first, in the place of those that stand there. Raises ValueError where there is no such entry."""
    lines = "".join(f"    {value},\n" for value in values)
    text, count = re.subn(rf"(?m)^{name} = \([^)]*\)$", f"{name} = (\n{lines})", file.read_text(encoding="utf-8"))
    if count != 1:
        raise ValueError(f"{file.name} has {count} entries of the name {name}")
    file.write_text(text, encoding="utf-8")
