"""Strokes that the alignment placed where hardly one is heard.

On a string that speaks slowly a new stroke on the pitch of the note before may leave next to no sign. Where the line wants one the
alignment puts one: that it was played is likely, when is a guess. So it is where a scratch, a bounce or a word is as plain as the stroke.
"""

from __future__ import annotations

from itertools import pairwise

from attentive_owl.core.exercises import Score
from attentive_owl.core.listening.alignment.path import Path, Segment
from attentive_owl.core.listening.features.stroke_signs import LEAST_ODDS, StrokeSigns
from attentive_owl.core.listening.notes.absorbing import on_one_pitch

_PLAIN = 0.5
"""Log-odds from which on a stroke is plain by itself. By hand: in takes of four sources two thirds of the repeated notes of slow samples
lie under it, and one in fifty to one in four of all others."""
_STANDS_OUT = 2.0
"""By so much surer than all that is near, in log-odds, is one that stands out. By hand: of the notes of slow samples under both bounds
four in ten lie 50 ms off and more; of those of other sources one in thirty."""
_NO_SIGN = -1.0
"""Under it, in log-odds, a stroke was not heard, whatever is near. By hand: of repeated notes that stood out all the same one in four lay 50 ms
off and more on slow samples (two of 26 on the simulated strings), where it is one in ten of the others."""
_RIVAL = 1.0
"""And a plain one has to be so much surer than all that is near: what scratches, bounces or is spoken into the stroke is as plain (by hand: of
the repeated notes of clean takes this takes one in 25 on simulated strings)."""
_NEAR_S = 0.045
"""What is so near is the same stroke."""
_MOST_GAP_S = 0.12
"""Two notes further apart are parted by a silence, after which a beginning is plain."""
_FROM, _UNTIL = 0.3, 0.6
"""Near is from so much of the note before to so much of the note."""


def guessed_strokes(path: Path, signs: StrokeSigns, score: Score) -> frozenset[int]:
    """Boundaries at which a note repeats the pitch before it with a stroke of which next to nothing was heard, or that is no plainer than
    something else near it."""
    found = set()
    for one, two in pairwise(path.events):
        if not (isinstance(one, Segment) and isinstance(two, Segment) and on_one_pitch(one, two, score)):
            continue
        begin, left, here, end = (float(signs.time[at]) for at in (one.start, one.stop, two.start, two.stop))
        if here - left > _MOST_GAP_S:
            continue
        low, high = begin + _FROM * (here - begin), here + _UNTIL * (end - here)
        same = (signs.time >= left - _NEAR_S) & (signs.time <= here + _NEAR_S)
        around = (signs.time > low) & (signs.time < high) & ~same
        own, other = float(signs.odds[same].max()), float(signs.odds[around].max(initial=LEAST_ODDS))
        if own < _NO_SIGN or own < min(_PLAIN, other + _STANDS_OUT) or own < other + _RIVAL:
            found.add(two.start)
    return frozenset(found)
