"""Order statistics against numpy's."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from attentive_owl.core.listening.features.ordered import between_percentiles, middle, percentile

VALUES = arrays(np.float64, st.integers(1, 40), elements=st.floats(-1e6, 1e6))


@given(VALUES, st.floats(0.0, 100.0), st.floats(0.0, 100.0))
def test_they_are_numpy_s(values: np.ndarray, one: float, two: float) -> None:
    assert np.isclose(middle(values), np.median(values), atol=1e-9)
    assert np.isclose(percentile(values, one), np.percentile(values, one), atol=1e-9)
    low, high = min(one, two), max(one, two)
    assert np.isclose(
        between_percentiles(values, low, high), np.subtract(*np.percentile(values, [high, low])), atol=1e-9
    )
