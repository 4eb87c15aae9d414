"""Log-odds to probability."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray


def logistic(log_odds: ArrayLike) -> NDArray[np.float64]:
    """1 / (1 + exp(-x)), for any x; the shape of `log_odds`."""
    return 0.5 + 0.5 * np.tanh(0.5 * np.asarray(log_odds, np.float64))
