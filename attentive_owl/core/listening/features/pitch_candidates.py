"""Period candidates of every frame, with their probabilities.

YIN's difference function by FFT (de Cheveigne and Kawahara, "YIN, a fundamental frequency estimator for speech and
music", JASA 111, 2002) and pYIN's threshold prior (Mauch and Dixon, "pYIN: a fundamental frequency estimator using
probabilistic threshold distributions", ICASSP 2014), here in closed form for all frames at once: a dip is chosen by
every threshold that lies above it and below all dips at shorter lags, so its probability is a difference of two
values of the thresholds' cumulative distribution. Unlike pYIN the thresholds are counted from the frame's best dip, so
that noise and a weak fundamental do not turn a note into its octave.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

from attentive_owl.core.listening.features.filters import moving_percentile
from attentive_owl.core.listening.features.frames import (
    HOP,
    RATE_HZ,
    Array,
    Samples,
    frame_count,
    pieces,
    resampled,
    running_power,
)
from attentive_owl.core.theory import frequency_hz

_BLOCK = 500
"""Frames at a time: so few stay in the processor's cache, which is a sixth quicker."""
_SHORTEST_WINDOW_S = 0.022
"""No window is shorter, however high the line. By hand."""
_WINDOW_PERIODS = 1.7
"""Of the longest period: fewer would compare less than one swing of it (by hand)."""
_LOW_HZ = 100.0
"""Lines whose lowest period is longer than that of this."""
_HALF_RATE_BELOW_HZ = 1300.0
"""Over it half the working rate would read periods too coarsely."""
_THRESHOLDS = np.linspace(0.0, 1.0, 1001)
"""Of the difference function, in thousandths."""


def _beta_2(beta: int) -> NDArray[np.float32]:
    """Share of a beta distribution with alpha = 2 that lies under each threshold: with a whole beta it is the chance of two or more
    successes in beta + 1 trials (NIST Digital Library of Mathematical Functions, 8.17.5)."""
    fails = 1.0 - _THRESHOLDS
    return (1.0 - fails**beta * (fails + (beta + 1) * _THRESHOLDS)).astype(np.float32)


_VOICING = _beta_2(8)
"""How shallow the best dip may be before a frame counts as unpitched."""
_CHOICE = _beta_2(24)
"""How much deeper a longer period must dip before it is preferred."""
_NOISE_SHARE = 0.85
"""So much of the best dip of a frame is taken for what noise lifts all dips by (by hand)."""
_RIVALS = 4
"""So many dips after one are compared with it."""
_WHOLE_WITHIN = 0.03
"""So near a whole number is a multiple, beside what the lags themselves leave open."""
_RISE_FLOOR, _RISE_SHARE = 0.008, 0.5
"""What a dip must rise above a deeper one to lose most of its probability to it: more where noise lifts both."""
_LEAST_PROBABILITY = 0.02
"""Candidates under it are dropped."""
_SURE = 0.3
"""From this probability on a candidate is the period of the sound."""
_MIDDLE_MIDI = 60.0
"""Stands for the period where nothing was ever sure: some period is needed."""
CLEAR_DIP = 0.2
"""A candidate whose dip is no shallower is a clear pitch (by hand; twice the threshold of the YIN paper, from memory)."""


@dataclass(frozen=True)
class Candidates:
    """Sparse list of period candidates, sorted by frame."""

    frame: NDArray[np.int64]
    midi: Array
    """Fractional key number, A4 = 440 Hz, refined at the longest multiple of the period that fits."""
    probability: Array
    dip: Array
    """The difference function there: 0 is perfectly periodic."""
    frames: int
    longest_s: float = 0.0
    """The longest period that was looked for."""

    def heard_late_s(self, pitch: float) -> float:
        """By how much a pitch is heard later than it sounds: a frame is centred for the longest period, and a shorter one is
        compared in its earlier part."""
        return max(0.5 * (self.longest_s - 1.0 / frequency_hz(pitch)), 0.0)

    def voiced(self) -> Array:
        """Summed probability of a pitch in every frame, shape (frames,)."""
        return np.bincount(self.frame, self.probability, self.frames).astype(np.float64)

    def nearest(self, pitch: float, first: int, last: int, reach: float) -> tuple[NDArray[np.int64], Array]:
        """The likeliest candidate within `reach` semitones of `pitch` in each frame of first..last: frames that have one and
        its pitch, each of shape (found,)."""
        part = slice(*np.searchsorted(self.frame, [first, last]))
        distance = np.abs(self.midi[part] - pitch)
        inside = np.flatnonzero(distance < reach)
        frames, midi = self.frame[part][inside], self.midi[part][inside]
        weight = self.probability[part][inside] * (1.2 * reach - distance[inside])
        order = np.lexsort((-weight, frames))
        picked, where = np.unique(frames[order], return_index=True)
        return picked, midi[order][where]

    def latest_period(self, rate_hz: float, hold: int) -> Array:
        """The period (samples at `rate_hz`) of the likeliest pitch `hold` frames before each frame; where there is none, that
        of the last frame that has one. Shape (frames,)."""
        order = np.lexsort((self.probability, self.frame))
        frame, last = np.unique(self.frame[order][::-1], return_index=True)
        likeliest = order[::-1][last]
        sure = self.probability[likeliest] > _SURE
        midi = np.full(self.frames, _MIDDLE_MIDI)
        if sure.any():
            places = np.searchsorted(frame[sure], np.arange(self.frames), side="right") - 1
            midi = moving_percentile(self.midi[likeliest[sure]][np.maximum(places, 0)], 50, 2)
        held = np.concatenate([np.full(min(hold, self.frames), midi[0]), midi[: max(self.frames - hold, 0)]])
        return rate_hz / (frequency_hz(0.0) * 2.0 ** (held / 12.0))

    def roughness(self) -> Array:
        """The least dip of every frame (1 where there is no candidate), shape (frames,)."""
        least = np.ones(self.frames)
        np.minimum.at(least, self.frame, self.dip)
        return least


@dataclass(frozen=True)
class _Grid:
    """How frames are cut: all but `rate_hz` in samples. The window is a whole number of hops."""

    rate_hz: int
    hop: int
    window: int
    shortest: int
    longest: int


def _grid(rate_hz: int, hop: int, lowest_hz: float, highest_hz: float) -> _Grid:
    longest = int(np.ceil(rate_hz / lowest_hz)) + 2
    shortest = max(int(rate_hz / highest_hz) - 2, 3)
    window = hop * round(max(_SHORTEST_WINDOW_S * rate_hz, _WINDOW_PERIODS * longest) / hop)
    return _Grid(rate_hz, hop, window, shortest, longest)


def period_candidates(samples: Samples, lowest_hz: float, highest_hz: float) -> Candidates:
    """Candidates between two frequencies in samples of shape (n,) at the working rate. Memory grows with the number of candidates, not of lags."""
    total = frame_count(samples)
    grid = _grid(RATE_HZ, HOP, lowest_hz, highest_hz)
    if lowest_hz < _LOW_HZ and highest_hz < _HALF_RATE_BELOW_HZ:
        # Cello and bass have long periods and no use for the upper octave of the sound: half the rate, a third of the work.
        samples = resampled(samples, RATE_HZ, RATE_HZ // 2)
        grid = _grid(RATE_HZ // 2, HOP // 2, lowest_hz, highest_hz)
    # One running sum of squares serves all frames.
    power = running_power(samples)
    parts = [_block(samples, power, first, min(_BLOCK, total - first), grid) for first in range(0, total, _BLOCK)]
    frame, midi, probability, dip = (np.concatenate(column) for column in zip(*parts, strict=True))
    return Candidates(frame, midi, probability, dip, total, grid.longest / grid.rate_hz)


def _block(
    samples: Samples, power: Array, first: int, count: int, grid: _Grid
) -> tuple[NDArray[np.int64], Array, Array, Array]:
    window, longest = grid.window, grid.longest
    product = _correlation(samples, first, count, grid)
    running = _running(power, first, count, window + longest, grid.hop)
    energy = (running[:, window : window + longest + 1] - running[:, : longest + 1]).astype(np.float32)
    difference = np.maximum(energy[:, :1] + energy - 2.0 * product, 0.0)
    lags = np.arange(1, longest + 1, dtype=np.float32)
    mean = np.cumsum(difference[:, 1:], axis=1) / lags
    normal = np.ones_like(difference)
    # A frame of digital silence has no difference at any lag: it stays at one, unvoiced.
    np.divide(difference[:, 1:], mean, out=normal[:, 1:], where=mean > 1e-9)

    inner = normal[:, 1:-1]
    dips = (inner <= normal[:, :-2]) & (inner < normal[:, 2:]) & (inner < 1.0)
    dips[:, : grid.shortest - 1] = False
    depth = np.where(dips, inner, np.float32(1.0))
    at = np.nonzero(dips)
    depth[at] = _bottom(normal, *at)
    best = depth.min(axis=1, keepdims=True)
    # Dips are compared by what they rise above the best one: noise lifts them all alike, a true octave differs.
    height = np.where(dips, depth - _NOISE_SHARE * best, np.float32(1.0))
    before = np.minimum.accumulate(height, axis=1)
    before = np.concatenate([np.ones((count, 1), np.float32), before[:, :-1]], axis=1)
    rows, columns = np.nonzero(dips & (height < before))
    share = _cumulative(_CHOICE, before[rows, columns]) - _cumulative(_CHOICE, height[rows, columns])
    share = _given_to_deeper(rows, columns + 1, depth[rows, columns], share)
    probability = share * (1.0 - _cumulative(_VOICING, best[rows, 0]))
    keep = probability > _LEAST_PROBABILITY
    rows, lag, probability = rows[keep], columns[keep] + 1, probability[keep]
    period = _refined(difference, rows, lag, longest)
    midi = 69.0 + 12.0 * np.log2(grid.rate_hz / period / 440.0)
    return rows + first, midi, probability.astype(np.float64), normal[rows, lag].astype(np.float64)


def _bottom(normal: NDArray[np.float32], rows: NDArray[np.int64], columns: NDArray[np.int64]) -> NDArray[np.float32]:
    """How deep each dip is between the samples, by a parabola (YIN's fifth step). A loud high partial makes a dip so narrow that
    half a sample beside its bottom two periods dip deeper than one."""
    left, mid, right = (normal[rows, columns + step] for step in (0, 1, 2))
    bend = np.maximum(left - 2.0 * mid + right, np.float32(1e-9))
    return np.maximum(mid - 0.125 * (left - right) ** 2 / bend, np.float32(0.0))


def _given_to_deeper(
    rows: NDArray[np.int64], lag: NDArray[np.int64], depth: NDArray[np.float32], share: NDArray[np.float32]
) -> NDArray[np.float32]:
    """The choice between dips that are no multiples of one another. All of the same shape, sorted by row, then lag.

    A shorter period is preferred because its multiples dip as well. That holds for whole multiples only: where the third
    partial of a string is the loudest, two thirds of the period dip too, a fifth above, but never so deep as the period.
    """
    share = share.copy()
    for step in range(1, _RIVALS + 1):
        one, two = slice(None, -step), slice(step, None)
        times = lag[two] / lag[one]
        unsure = (1.0 + times) / (2.0 * lag[one]) + _WHOLE_WITHIN
        rival = (rows[one] == rows[two]) & (np.abs(times - np.rint(times)) > unsure)
        at = np.flatnonzero(rival)
        rise = (depth[at] - depth[at + step]) / (_RISE_FLOOR + _RISE_SHARE * depth[at + step])
        given = share[at] * -np.expm1(-np.maximum(rise, 0.0))
        share[at] -= given
        share[at + step] += given
    return share


def _correlation(samples: Samples, first: int, count: int, grid: _Grid) -> NDArray[np.float32]:
    """Correlation of the first `window` samples of each frame with what follows, shape (count, longest + 1). Neighbouring
    frames share most of their samples, so it is taken of pieces of one hop, each once, and summed over those of a frame."""
    hop, shared = grid.hop, grid.window // grid.hop
    start = first * hop - (grid.window + grid.longest) // 2
    cut = pieces(samples, start, hop + grid.longest, count - 1 + shared, hop)
    size = _fast_length(hop + grid.longest)
    head = np.fft.rfft(cut[:, :hop], size, axis=1)
    product = np.conj(head, out=head) * np.fft.rfft(cut, size, axis=1)
    each: NDArray[np.float32] = np.fft.irfft(product, size, axis=1)[:, : grid.longest + 1].astype(
        np.float32, copy=False
    )
    return sum((each[later : later + count] for later in range(1, shared)), start=each[:count])


def _fast_length(least: int) -> int:
    """The next length that is a product of twos, threes and fives: a Fourier transform of such a length is quick."""
    return next(n for n in range(least, 2 * least + 1) if pow(30, 12, n) == 0)


def _running(power: Array, first: int, count: int, length: int, hop: int) -> Array:
    """The running sum of squares at the edges of every sample of each frame, shape (count, length + 1)."""
    start = first * hop - length // 2
    stop = start + (count - 1) * hop + length + 1
    left, right = max(-start, 0), max(stop - len(power), 0)
    piece = power[max(start, 0) : max(min(stop, len(power)), 0)]
    piece = np.concatenate([np.zeros(left), piece, np.full(right, power[-1])])
    return sliding_window_view(piece, length + 1)[::hop][:count]


def _cumulative(table: NDArray[np.float32], values: NDArray[np.float32]) -> NDArray[np.float32]:
    return table[np.clip((values * 1000.0).astype(np.int64), 0, 1000)]


def _vertex(difference: NDArray[np.float32], rows: NDArray[np.int64], lag: NDArray[np.int64]) -> Array:
    """Sub-sample place of the minimum, by a parabola through three points."""
    left, mid, right = (difference[rows, lag + step].astype(np.float64) for step in (-1, 0, 1))
    bend = left - 2.0 * mid + right
    found: Array = lag + np.clip(np.where(bend > 0, 0.5 * (left - right) / np.maximum(bend, 1e-12), 0.0), -0.7, 0.7)
    return found


def _refined(difference: NDArray[np.float32], rows: NDArray[np.int64], lag: NDArray[np.int64], longest: int) -> Array:
    """Periods from the dip at the longest whole multiple that fits: the error shrinks with the multiple."""
    period = _vertex(difference, rows, lag)
    for multiple in (2, 4, 8):
        target = period * multiple
        fits = target < longest - 2
        if not fits.any():
            break
        near = np.clip(np.rint(target[fits]).astype(np.int64), 2, longest - 2)
        own_rows = rows[fits]
        around = np.stack([difference[own_rows, near + step] for step in (-1, 0, 1)], axis=1)
        near = np.clip(near + np.argmin(around, axis=1) - 1, 2, longest - 2)
        refined = _vertex(difference, own_rows, near) / multiple
        # A jump of more than a third of a semitone is another dip, not a better reading of this one.
        same = np.abs(np.log2(refined / period[fits])) < 1 / 36
        period[fits] = np.where(same, refined, period[fits])
    return period
