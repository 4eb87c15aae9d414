"""A click heard in the recording: a metronome or a phone that ticks along. Its pulse is found and kept apart.

A click is an impulse: its level rises and is gone within some 40 ms, while a note's sound stays. Impulses that fall on an
even grid are a click; single ones are knocks.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from attentive_owl.core.listening.features.filters import moving_max
from attentive_owl.core.listening.features.frames import HOP_S, RATE_HZ, Array, Samples, band_powers, decibels
from attentive_owl.core.listening.features.novelty import BOW_DIP_DB, Boundaries

_BAND_HZ = (1700.0, 6000.0)
"""Where clicks are loud and strings soft."""
_WINDOW = 176
"""8 ms."""
_LEAST_DB = 8.0
"""An impulse stands out by so much at least over what is just before and after it (by hand)."""
_LOW_BAND_HZ = (100.0, 1500.0)
"""Where strings are loud."""
_PLUCK_DB = 9.0
"""A pluck lifts the lower band at once too; a click does not."""
_BEFORE, _AFTER = 5, 10
"""Frames: 25 ms before an impulse it is not there yet, 50 ms after it is gone."""
_SHORTEST_S, _LONGEST_S = 0.25, 1.6
"""From 240 to 37 beats a minute."""
_NEAR_S = 0.02
"""So near its place on the grid is a click on the beat. By hand."""
_STRETCH_S = 60.0
"""Looked for in so long a piece at a time."""
_LEAST_CLICKS = 6
"""Fewer are knocks that happen to be even."""
_LEAST_SHARE = 0.75
"""Of the beats of its grid a click is heard on so many: strong strokes cover the others."""
_UNDER_A_TICK = 0.1
"""Probability of a stroke where a click explains the attack."""


@dataclass(frozen=True)
class ClickPulse:
    """The beat of a metronome that was heard beside the playing."""

    bpm: float
    first_s: float
    clicks: int

    def is_near(self, at_s: float, reach_s: float = 0.03) -> bool:
        """Whether a moment lies on a beat of the click."""
        beat_s = 60.0 / self.bpm
        return abs((at_s - self.first_s + beat_s / 2) % beat_s - beat_s / 2) < reach_s


def find_click(samples: Samples) -> ClickPulse | None:
    """The pulse of a click, or None. samples: at the working rate, shape (n,). Looked for minute by minute, so that time grows with length
    and not with its square; from the minute that has the most of it the grid is followed to both sides."""
    impulse = _impulse_db(samples)
    peaks = np.flatnonzero((impulse > _LEAST_DB) & (impulse >= moving_max(impulse, 4, 4)))
    times: Array = peaks.astype(np.float64) * HOP_S
    minutes = np.split(times, np.searchsorted(times, np.arange(_STRETCH_S, len(impulse) * HOP_S, _STRETCH_S)))
    best = max((_best_grid(minute) for minute in minutes), key=lambda grid: len(grid.hits))
    if len(best.hits) < _LEAST_CLICKS:
        return None
    grid = _followed(times, best)
    return ClickPulse(round(60.0 / grid.period, 3), round(float(grid.hits[0]), 3), len(grid.hits))


def quieten_clicks(boundaries: Boundaries, click: ClickPulse) -> Boundaries:
    """A tick breaks every sound that it falls on, but lets no level fall: where one lies on a boundary without a dip, it tells
    of no stroke."""
    ticks = np.array([click.is_near(float(frame) * HOP_S) for frame in boundaries.frame])
    hidden = ticks & (boundaries.dip < BOW_DIP_DB)
    return replace(boundaries, attack=np.where(hidden, np.minimum(boundaries.attack, _UNDER_A_TICK), boundaries.attack))


def _impulse_db(samples: Samples) -> Array:
    """How far each frame's upper band stands over what comes 25 ms before and 50 ms after, in dB; 0 at a pluck."""
    upper, lower = _band_levels(samples)
    before = np.concatenate([np.full(_BEFORE, upper[0]), upper[:-_BEFORE]])
    after = np.concatenate([upper[_AFTER:], np.full(_AFTER, upper[-1])])
    rise = moving_max(np.concatenate([lower[4:], np.full(4, lower[-1])]) - lower, 3, 3)
    return np.where(rise > _PLUCK_DB, 0.0, upper - np.maximum(before, after))


def _band_levels(samples: Samples) -> tuple[Array, Array]:
    hz = np.fft.rfftfreq(_WINDOW, 1 / RATE_HZ)
    bands = np.stack([(hz >= low) & (hz <= high) for low, high in (_BAND_HZ, _LOW_BAND_HZ)], axis=1)
    upper, lower = decibels(band_powers(samples, _WINDOW, bands.astype(np.float32)).astype(np.float64)).T
    return upper, lower


@dataclass(frozen=True)
class _Grid:
    """Impulses that lie on an even grid (s), in order, and its period."""

    hits: Array
    period: float

    @property
    def is_click(self) -> bool:
        """Every beat must be there: a grid twice as fine is met only at every other place."""
        if len(self.hits) < _LEAST_CLICKS:
            return False
        return len(self.hits) >= _LEAST_SHARE * (round(float(self.hits[-1] - self.hits[0]) / self.period) + 1)


_NO_GRID = _Grid(np.empty(0), 1.0)
"""Where nothing is even."""


def _best_grid(times: Array) -> _Grid:
    """The even grid that meets the most of some impulses, as a click would; empty where none does."""
    if len(times) < _LEAST_CLICKS:
        return _NO_GRID
    gaps: Array = times[1:, None] - times[None, :-1]
    periods = np.unique(np.round(gaps[(gaps > _SHORTEST_S) & (gaps < _LONGEST_S)], 2))
    grids = [grid for grid in (_on_grid(times, float(period)) for period in periods) if grid.is_click]
    return max(grids, key=lambda grid: len(grid.hits), default=_NO_GRID)


def _on_grid(times: Array, period: float) -> _Grid:
    """Of the even grids of about this period that begin at one of the times the one that meets most of them, fitted."""
    starts = times[: max(len(times) // 2, 1)]
    beats = (times[None, :] - starts[:, None]) / period
    near = (np.abs(beats - np.rint(beats)) * period < _NEAR_S) & (beats > -0.5)
    count = near.sum(axis=1)
    best = _NO_GRID
    for start in np.argsort(-count, kind="stable"):
        if count[start] <= max(len(best.hits), 2):
            break
        since = times[times >= starts[start] - _NEAR_S]
        grid = _fitted(since, _Grid(times[near[start]], period))
        while len((wider := _fitted(since, grid)).hits) > len(grid.hits):
            grid = wider
        if len(grid.hits) > len(best.hits):
            best = grid
    return best


def _fitted(times: Array, grid: _Grid) -> _Grid:
    """The even grid through the hits of another, and the times that lie on it."""
    beats = np.rint((grid.hits - grid.hits[0]) / grid.period)
    from_mean = beats - beats.mean()
    period = float(from_mean @ grid.hits / (from_mean @ from_mean))
    first = float(grid.hits.mean() - period * beats.mean())
    off = (times - first) / period
    return _Grid(times[np.abs(off - np.rint(off)) * period < _NEAR_S], period)


def _followed(times: Array, grid: _Grid) -> _Grid:
    """A grid grown by a minute to both sides again and again, for as long as more impulses lie on it."""
    while True:
        around = times[(times > grid.hits[0] - _STRETCH_S) & (times < grid.hits[-1] + _STRETCH_S)]
        wider = _fitted(around, grid)
        if not wider.is_click or len(wider.hits) <= len(grid.hits):
            return grid
        grid = wider
