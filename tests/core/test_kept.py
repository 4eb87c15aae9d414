"""Exercises are kept as recipes and built again whenever they are opened: what a recipe gives changes on purpose, or not at all."""

from __future__ import annotations

import json

import pytest

from bench.kept import FILE, MAKERS, hashes

KEPT = json.loads(FILE.read_text(encoding="utf-8"))


@pytest.mark.parametrize("name", MAKERS)
def test_what_is_built_and_said_is_what_was_kept(name: str) -> None:
    """`python -m bench.kept NAME` prints it, before and after; where the change is meant: `python -m bench.kept --write`."""
    assert hashes(name) == KEPT[name]


def test_nothing_is_kept_that_is_made_no_more() -> None:
    assert set(KEPT) == set(MAKERS)
