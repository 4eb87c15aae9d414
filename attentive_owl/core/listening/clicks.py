"""A click heard in the recording: a metronome or a phone that ticks along. Its pulse is found and kept apart.

A click is an impulse: its level rises and is gone within some 40 ms, while a note's sound stays. Impulses that fall on an
even grid are a click; single ones are knocks.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from scipy import fft
from scipy.ndimage import maximum_filter1d

from attentive_owl.core.listening.change import BOW_DIP_DB, Boundaries
from attentive_owl.core.listening.frames import HOP_S, RATE_HZ, Array, Samples, decibels, frame_count, framed

_BAND_HZ = (1700.0, 6000.0)
_WINDOW = 176
"""8 ms."""
_BLOCK = 8000
_LEAST_DB = 8.0
_LOW_BAND_HZ = (100.0, 1500.0)
_PLUCK_DB = 9.0
"""A pluck lifts the lower band at once too; a click does not."""
_BEFORE, _AFTER = 5, 10
_SHORTEST_S, _LONGEST_S = 0.25, 1.6
_NEAR_S = 0.02
_LEAST_CLICKS = 6
_LEAST_SHARE = 0.75
_UNDER_A_TICK = 0.1


@dataclass(frozen=True)
class ClickPulse:
    bpm: float
    first_s: float
    clicks: int

    def is_near(self, at_s: float, reach_s: float = 0.03) -> bool:
        """Whether a moment lies on a beat of the click."""
        beat_s = 60.0 / self.bpm
        return abs((at_s - self.first_s + beat_s / 2) % beat_s - beat_s / 2) < reach_s


def find_click(samples: Samples) -> ClickPulse | None:
    """The pulse of a click, or None. samples: at the working rate."""
    impulse = _impulse_db(samples)
    peaks = np.flatnonzero((impulse > _LEAST_DB) & (impulse >= maximum_filter1d(impulse, 9)))
    times: Array = peaks.astype(np.float64) * HOP_S
    if len(times) < _LEAST_CLICKS:
        return None
    gaps: Array = times[1:, None] - times[None, :-1]
    periods = sorted({round(float(gap), 2) for gap in gaps[(gaps > _SHORTEST_S) & (gaps < _LONGEST_S)]})
    best: ClickPulse | None = None
    for period in periods:
        hits, fitted = _on_grid(times, period)
        if len(hits) < _LEAST_CLICKS:
            continue
        # Every beat must be there: a grid twice as fine is met only at every other place.
        share = len(hits) / (round((hits[-1] - hits[0]) / fitted) + 1)
        if share >= _LEAST_SHARE and (best is None or len(hits) > best.clicks):
            best = ClickPulse(round(60.0 / fitted, 2), round(float(hits[0]), 3), len(hits))
    return best


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
    rise = maximum_filter1d(np.concatenate([lower[4:], np.full(4, lower[-1])]) - lower, 7)
    return np.where(rise > _PLUCK_DB, 0.0, upper - np.maximum(before, after))


def _band_levels(samples: Samples) -> tuple[Array, Array]:
    total = frame_count(samples)
    hz = np.fft.rfftfreq(_WINDOW, 1 / RATE_HZ)
    bands = np.stack([(hz >= low) & (hz <= high) for low, high in (_BAND_HZ, _LOW_BAND_HZ)], axis=1)
    window = np.hanning(_WINDOW).astype(np.float32)
    levels = np.empty((total, 2))
    for first in range(0, total, _BLOCK):
        count = min(_BLOCK, total - first)
        power = np.abs(fft.rfft(framed(samples, _WINDOW, first, count) * window, axis=1)) ** 2
        levels[first : first + count] = decibels(power @ bands.astype(np.float32))
    return levels[:, 0], levels[:, 1]


def _on_grid(times: Array, period: float) -> tuple[Array, float]:
    """The times that lie on the even grid of about this period which meets most of them, and the fitted period."""
    best: tuple[Array, float] = (times[:0], period)
    for start in times[: max(len(times) // 2, 1)]:
        beats = np.rint((times - start) / period)
        near = np.abs(times - start - beats * period) < _NEAR_S
        hits = times[near & (beats >= 0)]
        if len(hits) <= max(len(best[0]), 2):
            continue
        slope, first = np.polyfit(np.rint((hits - start) / period), hits, 1)
        beats = np.rint((times - first) / slope)
        hits = times[(np.abs(times - first - beats * slope) < _NEAR_S) & (beats >= 0)]
        if len(hits) > len(best[0]):
            best = (hits, float(slope))
    return best
