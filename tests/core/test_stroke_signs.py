"""The signs of strokes over those half way to their neighbours, worked out by hand."""

from __future__ import annotations

import numpy as np
import pytest

from attentive_owl.core.listening.features.frames import HOP_S
from attentive_owl.core.listening.features.novelty import Boundaries
from attentive_owl.core.listening.features.stroke_signs import stroke_signs


def test_a_stroke_stands_out_of_what_is_half_way_to_its_neighbours() -> None:
    """Moments at 0, 1 and 3 s: looked at are 0.2 s around 1, around 0.5 and around 2 s. What lies at 1.25 s belongs to none of them."""
    at_s = np.array([0.0, 0.5, 0.9, 1.0, 1.25, 2.0, 3.0])
    odds = np.array([0.0, 1.0, 0.5, 2.0, 4.0, -3.0, 0.0])
    dip_db = np.array([0.0, 2.0, 7.0, 6.0, 11.0, 1.0, 0.0])
    frames = np.round(at_s / HOP_S).astype(np.int64)
    level = np.where(np.arange(frames[-1] + 1) < 200, -20.0, -26.0)
    signs = stroke_signs(Boundaries(frames, 1.0 / (1.0 + np.exp(-odds)), dip_db), level)
    found = signs.contrast(np.array([0.0]), np.array([1.0]), np.array([3.0]))
    assert found == pytest.approx(np.array([[2.0 - 0.5 * (1.0 - 3.0), 7.0 - 0.5 * (2.0 + 1.0), 6.0]]))


def test_signs_are_counted_up_to_a_limit() -> None:
    signs = stroke_signs(
        Boundaries(np.array([0, 10]), np.array([1e-6, 1.0 - 1e-6]), np.array([0.5, 60.0])), np.zeros(11)
    )
    assert signs.odds.tolist() == [-4.6, 4.0]
    assert signs.dip.tolist() == [0.5, 12.0]
