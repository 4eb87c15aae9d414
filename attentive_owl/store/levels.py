"""Tolerance levels as a studio has them: ours, with the values that its teacher changed."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from attentive_owl.core.judging import LEVELS, GoodGoRule, Level


def level_of(key: str, settings: dict[str, Any]) -> Level:
    """Raises KeyError for a level that does not exist."""
    own = settings.get("levels", {}).get(key, {})
    changed: dict[str, Any] = {str(name): float(value) for name, value in own.items()}
    return replace(LEVELS[key], **changed)


def good_go_of(settings: dict[str, Any]) -> GoodGoRule:
    """What counts as a good go in a studio: our rule, with what its teacher changed."""
    return replace(GoodGoRule(), **settings.get("good_go", {}))
