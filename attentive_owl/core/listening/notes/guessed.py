"""Strokes that the alignment placed where hardly one is heard.

On a string that speaks slowly a new stroke on the pitch of the note before may leave next to no sign. Where the line wants one the
alignment puts one: that it was played is likely, when is a guess.
"""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from attentive_owl.core.exercises import Score
from attentive_owl.core.listening.alignment.path import Path, Segment
from attentive_owl.core.listening.features.stroke_signs import LEAST_ODDS, StrokeSigns
from attentive_owl.core.listening.notes.absorbing import repeats_pitch

_PLAIN = 0.5
"""Log-odds from which on a stroke is plain by itself. By hand: in takes of four sources two thirds of the repeated notes of slow samples
lie under it, and one in fifty to one in four of all others."""
_STANDS_OUT = 2.0
"""By so much surer than all that is near, in log-odds, is one that stands out. By hand: of the notes of slow samples under both bounds
four in ten lie 50 ms off and more; of those of other sources one in thirty."""
_NEAR_S = 0.045
"""What is so near is the same stroke."""
_FROM, _UNTIL = 0.3, 0.6
"""Near is from so much of the note before to so much of the note."""


def guessed_strokes(path: Path, signs: StrokeSigns, score: Score) -> frozenset[int]:
    """Boundaries at which a note repeats the pitch before it with a stroke that is not plain, nor plainer than all around it."""
    found = set()
    for one, two in pairwise(path.events):
        if not (isinstance(one, Segment) and isinstance(two, Segment) and repeats_pitch(one, two, score)):
            continue
        begin, here, end = (float(signs.time[at]) for at in (one.start, two.start, two.stop))
        low, high = begin + _FROM * (here - begin), here + _UNTIL * (end - here)
        same = np.abs(signs.time - here) <= _NEAR_S
        around = (signs.time > low) & (signs.time < high) & ~same
        own = float(signs.odds[same].max())
        if own < min(_PLAIN, float(signs.odds[around].max(initial=LEAST_ODDS)) + _STANDS_OUT):
            found.add(two.start)
    return frozenset(found)
