"""The results that are kept: each benchmark writes its own part of docs/benchmark.md and leaves the other's alone."""

from __future__ import annotations

import re
from pathlib import Path


def write_part(path: Path, title: str, text: str) -> None:
    """Puts `text` under the first-level heading `title`, in place of what stood there, else at the end."""
    before = path.read_text() if path.exists() else ""
    parts = [own for own in re.split(r"(?m)^(?=# )", before) if own.strip()]
    fresh = f"# {title}\n\n{text.strip()}\n"
    places = [at for at, own in enumerate(parts) if own.startswith(f"# {title}\n")]
    if places:
        parts[places[0]] = fresh
    else:
        parts.append(fresh)
    path.write_text("\n".join(own.strip() + "\n" for own in parts))
