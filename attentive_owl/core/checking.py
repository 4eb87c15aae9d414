"""The whole check of one sound against one score: the same for the command line and the worker."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.exercises import Score
from attentive_owl.core.judging import Expectations, Report, judge
from attentive_owl.core.listening import OtherLine, listen


def check(
    samples: NDArray[np.floating],
    sample_rate: int,
    score: Score,
    expectations: Expectations,
    others: Sequence[OtherLine] = (),
) -> Report:
    """Hear and judge a recording (one channel, shape (n,), full scale +-1). A refused take gives a report too.

    The ear expects the assignment's tempo, and finds the pupil's own from there.
    """
    heard = listen(samples, sample_rate, score.at_tempo(expectations.target_bpm), others)
    return judge(heard, score, expectations)
