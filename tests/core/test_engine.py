"""A result that changes belongs to another version: reports are kept by their engine, and checked again only where it moved."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from bench import weights
from bench.digest import FILE, made_now


def test_results_change_only_with_the_version() -> None:
    kept, now = json.loads(FILE.read_text(encoding="utf-8")), made_now()
    assert kept["engine"] == now["engine"], "another engine: python -m bench.digest --write"
    for name, take in kept["takes"].items():
        own = now["takes"][name]
        for field in ("refused", "statuses", "causes", "says", "good"):
            assert own[field] == take[field], f"{name}: raise EAR or JUDGE, then python -m bench.digest --write"
        # What another processor rounds otherwise is no other result.
        for field, within in (("cents", 0.4), ("onsets_s", 0.003), ("bpm", 0.1)):
            assert _numbers(own[field]) == pytest.approx(_numbers(take[field]), abs=within, rel=0), name


def _numbers(value: list[float | None] | float | None) -> list[float]:
    values = value if isinstance(value, list) else [value]
    return [-1e3 if own is None else own for own in values]


def test_a_fit_writes_its_own_weights_and_no_others(tmp_path: Path) -> None:
    kept = tmp_path / "weights.py"
    kept.write_text(weights.FILE.read_text())
    weights.write("STRUCK_WEIGHTS", [0.5, -1.25], kept)
    before: dict[str, object] = {}
    after: dict[str, object] = {}
    exec(weights.FILE.read_text(), before)
    exec(kept.read_text(), after)
    changed = {name for name in before if name.endswith("WEIGHTS") and before[name] != after[name]}
    assert (changed, after["STRUCK_WEIGHTS"]) == ({"STRUCK_WEIGHTS"}, (0.5, -1.25))
    # What each of them means stays with it.
    assert kept.read_text().count('"""') == weights.FILE.read_text().count('"""')
    with pytest.raises(ValueError, match="0 entries of the name STROKE"):
        weights.write("STROKE", [1.0], kept)
