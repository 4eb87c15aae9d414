"""Another pattern on every degree of a line than the one that is written, told by the time of whole degrees.

Whoever plays another pattern may strike as often as is written: then each written note finds a stroke, too early or too late, and the player seems
to stop at every turn of the pattern. Whoever leaves one stroke out of each seems to hold it. So a degree's strokes are looked at however the
alignment dealt them out. In the middle of a written note none falls, on all degrees alike, but for another pattern; and where one
place of a pattern is plainly struck on all degrees and another on none, that one was not played.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from math import exp, inf, log

import numpy as np

from attentive_owl.core.exercises import PATTERNS, RhythmPattern, Score, patterns_at
from attentive_owl.core.listening.acceptance.degrees import LEAST_DEGREES, Degrees, alike, played_degrees
from attentive_owl.core.listening.acceptance.rhythm_mismatch import (
    A_NEW_BOW_S,
    FAST,
    SPLIT_LIMIT,
    SPLITS,
    Place,
    Shares,
    as_if_held,
    split_score,
    strokes_within,
)
from attentive_owl.core.listening.alignment.path import Path
from attentive_owl.core.listening.features.frames import Array
from attentive_owl.core.listening.features.stroke_signs import StrokeSigns

_MIDDLE = (0.4, 0.6)
"""Shares of a written note between which a stroke is of another pattern however uneven the player."""
_ITS_OWN, _FAR = 0.01, 0.2
"""Of a degree's time: within the first a stroke is at its place, and where as many as are written are played and one is so far from its own as the
second, they are no longer uneven. By hand: two to one for even notes is a sixth, even notes for dotted ones a quarter."""
_ANOTHER_TEMPO, _SAME_TEMPO = 1.8, 1.15
"""As many times too fast or too slow as the first, and a pattern that is as long as what was played, within the second: it was that one. By hand: two
to one for three to one, or for even notes, is a fault that goes with half as slow again, too, and one and a half times as long."""
_NEARLY_ALL = 0.9
"""Of the degrees of a line. By hand."""
_ABSENT, _PLAIN_STROKE = -2.0, 4.0
"""Log-odds of two places of one pattern. By hand: of true takes of four sources none has a place under -0.4 where another lies over the
second."""
_UNPLAYABLE, _UNLIKELY = 0.4, 0.0
"""So much of the time that is set: then a place was not struck where its log-odds leave it in doubt."""
_PLAIN = 10.0
"""From so sure on a pattern is called by its name; by hand, as what follows: of 176 takes on slow samples it was another's in four where all that are
struck were named, all of them less plain or closer to another pattern."""
_MOST_OF_A_RIVAL = 0.8
"""Of how sure it is."""
_MOST_OF_MORE = (1.0, 1.5)
"""Log-odds and dB by which strokes that it has not may stand out."""


@dataclass(frozen=True)
class OtherPattern:
    """What was played instead of a written pattern."""

    rhythm: str
    """long: one note for several; fewer: some of the written strokes; short: more strokes; other: as many, at other places."""
    heard: str | None
    """Name of the pattern that was heard, where one of the catalogue's is."""
    written: str | None
    is_whole: bool
    """Whether nearly all degrees of the line were played on their pitches: then it is no other line."""


@dataclass(frozen=True)
class _Measured:
    """How far the strokes of a pattern stand out on the degrees."""

    shares: Shares
    contrasts: Array
    """Of each stroke, shape (strokes, 3)."""
    sure: float
    """Of all of them."""


def another_pattern(
    path: Path, signs: StrokeSigns, places: Sequence[Place], score: Score, runs: Sequence[range]
) -> OtherPattern | None:
    """What was played instead, where it can be told. runs: written indices of each degree's notes."""
    played = played_degrees(path, signs, runs)
    for degrees in alike(played, score, runs):
        least = max(LEAST_DEGREES, 0.5 * len(degrees.spans))
        measured = [
            _Measured(shares, contrasts, split_score(contrasts))
            for shares, contrasts in strokes_within(degrees.spans, degrees.sound_ends, SPLITS, signs, least)
        ]
        struck = [own for own in measured if own.sure > SPLIT_LIMIT]
        heard = max(struck, key=lambda own: (len(own.shares), own.sure), default=None)
        is_plain = heard is not None and _is_plain(heard, measured)
        rhythm = None
        if any(_falls_elsewhere(own, degrees) for own in struck):
            more = any(len(own.shares) > len(degrees.written) for own in struck)
            rhythm = "short" if more else "other"
        elif heard and is_plain and _as_many_elsewhere(heard.shares, degrees, score):
            rhythm = "other"
        elif len(heard.shares if heard else ()) < len(degrees.written) and _are_fewer(degrees, places):
            rhythm = "long" if heard is None and as_if_held(degrees.pace, score) else "fewer"
        if rhythm:
            named, written = _names(heard, degrees, score) if heard and is_plain else (None, None)
            return OtherPattern(
                rhythm, named, written, len({degree.place for degree in played}) >= _NEARLY_ALL * len(runs)
            )
    return None


def _is_plain(heard: _Measured, measured: Sequence[_Measured]) -> bool:
    """Whether it was this pattern and none that is like it: none with as many strokes close to where they fell, none with some more
    of which anything can be seen."""
    own = set(heard.shares)
    for other in measured:
        more = [place for place, share in enumerate(other.shares) if share not in own]
        if other is not heard and len(other.shares) == len(own) and other.sure > _MOST_OF_A_RIVAL * heard.sure:
            return False
        if own < set(other.shares) and np.any(other.contrasts[more][:, :2].max(axis=0) > _MOST_OF_MORE):
            return False
    return heard.sure >= _PLAIN


def _names(heard: _Measured, degrees: Degrees, score: Score) -> tuple[str, str] | tuple[None, None]:
    """Of the pattern that was heard and of the written one, where the catalogue has both. The tempo that is set tells eighths from quarters that are played
    twice as fast."""
    written = next((own.name for own in PATTERNS.values() if tuple(map(float, own.values)) == degrees.values), None)
    nearest = _nearest(heard.shares, degrees, score)
    return (nearest.name, written) if nearest and written else (None, None)


def _nearest(heard: Shares, degrees: Degrees, score: Score) -> RhythmPattern | None:
    """Of the patterns with these strokes the one whose length, at the tempo that is set, is nearest to that of the degrees."""
    return min(patterns_at(heard, score.meter.beat_unit), key=lambda own: _times_too_long(own, degrees), default=None)


def _times_too_long(pattern: RhythmPattern, degrees: Degrees) -> float:
    """Or too short: 1 where the degrees took just its time."""
    return float(exp(abs(log(degrees.pace * degrees.beats / float(pattern.beats)))))


def _falls_elsewhere(own: _Measured, degrees: Degrees) -> bool:
    foreign = _foreign(own.shares, degrees.written, float(np.median(np.diff(degrees.spans))))
    return bool(foreign) and split_score(own.contrasts[foreign]) > SPLIT_LIMIT


def _as_many_elsewhere(heard: Shares, degrees: Degrees, score: Score) -> bool:
    """Whether as many strokes as are written were played, at other places: one of them far from its own, or all in the time of another pattern that has
    them there, where the tempo would be far from that which is set. Not where a rest is written, which may have been left out."""
    if len(heard) != len(degrees.written) or min(degrees.values) < 0.0:
        return False
    off = max((abs(one - two) for one, two in zip(heard, degrees.written, strict=True)), default=0.0)
    nearest = _nearest(heard, degrees, score)
    fits = nearest is not None and _times_too_long(nearest, degrees) <= _SAME_TEMPO
    return off >= _FAR or (off > _ITS_OWN and fits and exp(abs(log(degrees.pace))) >= _ANOTHER_TEMPO)


def _foreign(shares: Shares, written: Shares, lasts_s: float) -> list[int]:
    """Which of some shares of a degree, that lasts so long, nothing is written at; none where a player who is uneven may have meant a written one,
    or whose bow ran out half way through a long note."""
    found: list[int] = []
    more = len(shares) > len(written)
    for before, after in pairwise((0.0, *written, 1.0)):
        within = {place: round((share - before) / (after - before), 3) for place, share in enumerate(shares)}
        inside = [place for place, at in within.items() if 0.0 < at < 1.0]
        half_way = [place for place in inside if _MIDDLE[0] <= within[place] <= _MIDDLE[1]]
        if not more and inside != half_way:
            return []
        if inside != half_way or (after - before) * lasts_s <= A_NEW_BOW_S:
            found += inside
    return found


def _are_fewer(degrees: Degrees, places: Sequence[Place]) -> bool:
    """Whether some of the written strokes fell on no degree. Slow strings hide strokes too: they hide all of a pattern, or it is the tempo that tells."""
    odds = [own.log_odds for own in places if 2 * len(degrees.notes.intersection(own.notes)) > len(own.notes)]
    limit = _UNLIKELY if degrees.pace <= _UNPLAYABLE else _ABSENT
    missing = degrees.passed_over or min(odds, default=inf) <= limit
    return missing and (degrees.pace <= FAST or (max(odds, default=-inf) >= _PLAIN_STROKE and min(odds) <= _ABSENT))
