"""Are the notes the exercise's, in another rhythm? Only what can be told for sure is said; in doubt it is this one."""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from attentive_owl.core.exercises import Score
from attentive_owl.core.listening.change import BOW_DIP_DB, Boundaries
from attentive_owl.core.listening.decoding import Path, Segment
from attentive_owl.core.listening.frames import HOP_S, Array

_LEAST_REPEATS = 6
_PRIOR_REPEATS, _PRIOR_STROKE_LOG, _PRIOR_OUTSTANDING = 4, -1.0, 2.0
_HELD_LOG, _HELD_OUTSTANDING, _HELD_DIP = -2.5, -3.9, -1.0
_HELD_LIMIT = 1.0
"""Few repetitions count as if some ordinary ones were beside them. A logistic regression of the first two means on takes of five
kinds of sound (simulated, two soundfonts, recorded single notes, a bowed waveguide), and the dip beside them;
`python -m bench.fit_rhythm` shows where true takes stand under the limit."""
_LEAST_ODDS_LOG, _MOST_ODDS_LOG = -4.6, 4.0
_WITHIN = (0.25, 0.8)
_MOST_OUTSTANDING = 4.0
_DEEPEST_DB, _MOST_DIP_DB = 15.0, 3.0

_LEAST_SPLIT_S = 0.3
_LEAST_SPLIT_NOTES = 6
_MORE_THAN_A_BOW = 1.6
_SLOW_NOTE_S = 1.5
_STROKE_SURE = 0.5
_PLACES = np.linspace(0.14, 0.88, 75)
_PLACE_WIDTH = 0.04
"""Shares of a note at which a stroke may fall, and how far to either side it counts."""
_PRIOR_ODDS, _LEAST_ODDS, _MOST_ODDS, _NOTHING_ODDS = 0.94, -2.0, 2.5, -1.5
"""Log-odds of a stroke inside a note: the prior by which they are centred, the ends at which one note's voice stops, and what
a note says in which nothing is marked."""
_PRIOR_NOTES, _PRIOR_NOTE_ODDS = 8, -1.0
_OVER_THE_REST = 1.5
_SPLIT_LIMIT = 1.2
"""Few notes are joined by such as are not split. Of 96 true takes of four kinds of sound none has more than 0.8, notes of
recorded strings that last four beats among them."""


def another_rhythm(path: Path, boundaries: Boundaries, score: Score, level: Array) -> bool:
    """Whether the notes are the exercise's, in another rhythm, as far as that can be told."""
    return long_for_short(path, boundaries, score) or short_for_long(path, boundaries)


def long_for_short(path: Path, boundaries: Boundaries, score: Score) -> bool:
    """Whether the pitches are the exercise's, but long notes were played where it repeats short ones.

    Where a held note has to be cut there is hardly any sign of a stroke, or none that stands out from what trembles within
    the note anyhow; nor does the level fall further there than within the note.
    """
    seen = seen_at_repeats(path, boundaries, score)
    return seen is not None and held_odds(*seen) > _HELD_LIMIT


def held_odds(stroke_log: float, stands_out: float, falls_db: float) -> float:
    """The higher, the likelier notes are held."""
    return _HELD_LOG * stroke_log + _HELD_OUTSTANDING * stands_out + _HELD_DIP * falls_db


def seen_at_repeats(path: Path, boundaries: Boundaries, score: Score) -> tuple[float, float, float] | None:
    """Where notes repeat a pitch: mean log-probability of a stroke, by how much its log-odds stand over what trembles within the
    notes, and how much further the level falls there than within them (dB). None where too few do."""
    strokes, outstanding, falls = list[float](), list[float](), list[float]()
    dips = np.minimum(boundaries.dip, _DEEPEST_DB)
    log_odds = np.clip(np.log(boundaries.attack / (1 - boundaries.attack)), _LEAST_ODDS_LOG, _MOST_ODDS_LOG)
    for one, two in pairwise(path.events):
        if (
            isinstance(one, Segment)
            and isinstance(two, Segment)
            and one.kind == two.kind == "note"
            and two.index == one.index + 1
            and one.midi == two.midi
            and one.stop == two.start
            and not score.notes[two.index].slurred_from(score.notes[one.index])
        ):
            strokes.append(float(np.log(boundaries.attack[two.start])))
            for marked, least, stand in ((log_odds, _LEAST_ODDS_LOG, outstanding), (dips, 0.0, falls)):
                within = [_most_within(segment, boundaries, marked, least) for segment in (one, two)]
                stand.append(float(marked[two.start]) - 0.5 * sum(within))
    if len(strokes) < _LEAST_REPEATS:
        return None
    return (
        _drawn(strokes, _PRIOR_STROKE_LOG),
        min(_drawn(outstanding, _PRIOR_OUTSTANDING), _MOST_OUTSTANDING),
        float(np.clip(_drawn(falls, 0.0), -_MOST_DIP_DB, _MOST_DIP_DB)),
    )


def _drawn(values: list[float], prior: float) -> float:
    """Mean of some values and of `_PRIOR_REPEATS` ordinary ones."""
    return (sum(values) + _PRIOR_REPEATS * prior) / (len(values) + _PRIOR_REPEATS)


def _most_within(segment: Segment, boundaries: Boundaries, marked: Array, least: float) -> float:
    """The most that is marked well inside a segment: the surest sign of a stroke, or the deepest fall."""
    frames = boundaries.frame[segment.start : segment.stop + 1]
    share = (frames - frames[0]) / (frames[-1] - frames[0])
    inside = (share > _WITHIN[0]) & (share < _WITHIN[1])
    return float(marked[segment.start : segment.stop + 1][inside].max(initial=least))


def short_for_long(path: Path, boundaries: Boundaries) -> bool:
    """Whether short strokes were played inside the written notes: a pattern on every degree where one note is asked for."""
    strokes = strokes_within(path, boundaries)
    return strokes is not None and strokes > _SPLIT_LIMIT


def strokes_within(path: Path, boundaries: Boundaries) -> float | None:
    """How surely a stroke falls at one place inside the written notes; None where too few are long enough, or one stroke more
    in a slow note is a bow that ran out.

    A pattern strikes at the same share of every note; scraping, a trembling bow and beating strings strike anywhere. So
    the notes are laid over one another, each stretched to the same length, and the log-odds of a stroke at one place are
    averaged over them: how high they are, and how far over the median place. A click that is heard lets no level fall, and
    is no stroke.
    """
    odds = np.clip(np.log(boundaries.attack / (1 - boundaries.attack)) + _PRIOR_ODDS, _LEAST_ODDS, _MOST_ODDS)
    bowed = boundaries.dip >= BOW_DIP_DB
    odds = np.where(bowed, odds, _NOTHING_ODDS)
    lengths, counts, laid = [], [], []
    for event in path.events:
        if not isinstance(event, Segment) or event.kind == "stray":
            continue
        frames = boundaries.frame[event.start : event.stop + 1]
        length_s = float(frames[-1] - frames[0]) * HOP_S
        if length_s < _LEAST_SPLIT_S:
            continue
        shares = (frames[1:-1] - frames[0]) / (frames[-1] - frames[0])
        within = slice(event.start + 1, event.stop)
        near = np.abs(_PLACES[:, None] - shares[None, :]) < _PLACE_WIDTH
        laid.append(np.where(near, odds[None, within], _NOTHING_ODDS).max(axis=1, initial=_NOTHING_ODDS))
        inside = (shares > _PLACES[0]) & (shares < _PLACES[-1])
        counts.append(int((inside & bowed[within] & (boundaries.attack[within] > _STROKE_SURE)).sum()))
        lengths.append(length_s)
    if len(lengths) < _LEAST_SPLIT_NOTES:
        return None
    if np.mean(counts) < _MORE_THAN_A_BOW and np.median(lengths) > _SLOW_NOTE_S:
        return None
    strokes = np.sum(laid, axis=0)
    best, over = float(strokes.max()), float(strokes.max() - np.median(strokes))
    total = best + _PRIOR_NOTES * _PRIOR_NOTE_ODDS + _OVER_THE_REST * over
    return total / (len(laid) + _PRIOR_NOTES)
