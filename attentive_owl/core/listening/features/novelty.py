"""Where something new begins: level, spectral flux, pitch change, and the note boundaries that they propose."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.listening.features.filters import (
    moving_max,
    moving_mean,
    moving_percentile,
    smoothed,
    without_peaks,
)
from attentive_owl.core.listening.features.frames import (
    HOP_S,
    RATE_HZ,
    Array,
    Samples,
    band_powers,
)
from attentive_owl.core.listening.logistic import logistic
from attentive_owl.core.listening.weights import ATTACK_WEIGHTS

_WINDOW = 512
"""Samples: 23 ms."""
_BANDS = 48
"""On a logarithmic scale of frequency."""
_LAG_FRAMES = 3
"""15 ms: an attack has begun to rise by then."""

_FILL_SHARE = 0.45
"""Of the shortest note: so far apart boundaries are put in where none is found for twice as long. What melts together has to be cut somewhere."""
_FILL_FRAMES = (8, 50)
"""And within these bounds: 40 ms and a quarter of a second."""

BOW_DIP_DB = 3.0
"""A bow that changes lets the level fall by so much at least."""
_CLICK_FRAMES = 11
"""What stands out for less than 50 ms is a click: beside it no level has fallen."""


def spectral_flux(samples: Samples) -> Array:
    """Rise of the band levels over 15 ms, in dB averaged over bands, shape (frames,) (log-frequency bands, half-wave rectified;
    after Boeck and Widmer, "Maximum filter vibrato suppression for onset detection", DAFx 2013: the earlier frame is
    widened over neighbouring bands, so that vibrato and wobble do not count as something new)."""
    bands = band_powers(samples, _WINDOW, _band_weights())
    top = np.percentile(bands.max(axis=1), 95)
    logs = 10.0 * np.log10(bands + 1e-5 * top + 1e-12)
    earlier = moving_max(logs, 1, 1)
    flux = np.zeros(len(bands))
    rise = logs[_LAG_FRAMES:] - earlier[:-_LAG_FRAMES]
    flux[_LAG_FRAMES:] = np.maximum(rise, 0.0).mean(axis=1)
    # The rise is centred between the two frames that are compared.
    return np.roll(flux, -(_LAG_FRAMES // 2))


def _band_weights() -> NDArray[np.float32]:
    hz = np.fft.rfftfreq(_WINDOW, 1 / RATE_HZ)
    edges = np.geomspace(80.0, 9000.0, _BANDS + 2)
    weights = np.zeros((len(hz), _BANDS), np.float32)
    for band in range(_BANDS):
        low, mid, high = edges[band : band + 3]
        weights[:, band] = np.clip(np.minimum((hz - low) / (mid - low), (high - hz) / (high - mid)), 0.0, 1.0)
        if not weights[:, band].any():
            weights[np.argmin(np.abs(hz - mid)), band] = 1.0
    return weights


SURE_STROKE = 0.5
"""Probability of an attack from which on a stroke is taken to be one."""


@dataclass(frozen=True)
class Boundaries:
    """Frames at which a note may begin or end, the first and the last frame included; all shapes (boundaries,)."""

    frame: NDArray[np.int64]
    attack: Array
    """Probability that a new stroke begins here."""
    dip: Array
    """How far the level lies under what comes before and after, in dB: a bow that changes, unlike a click, lets it fall."""


FEATURES = (
    "flux",
    "flux_share",
    "dip",
    "rise",
    "fall",
    "pitch_change",
    "roughness",
    "quiet_before",
    "break",
    "break_before",
)


@dataclass(frozen=True)
class NoveltyPeaks:
    """Proposed places and what is seen around them: `features` has shape (places, len(FEATURES))."""

    frame: NDArray[np.int64]
    features: Array
    bow_dip: Array
    """How far the level lies under what comes before and after, a click left out, in dB; shape (places,)."""


def novelty_peaks(
    level: Array, flux: Array, quiet: Array, pitches: Array, roughness: Array, broken_db: Array
) -> NoveltyPeaks:
    """Every place where a note might start or stop: too many rather than too few; the decoder chooses.

    All per frame: `quiet` is the probability of silence, `pitches` the emission of each semitone (frames, semitones),
    `roughness` the least value of the normalised difference function (0 periodic, 1 noise), `broken_db` from `period_breaks.period_break`.
    """
    total = len(level)
    novelty = np.maximum(flux - moving_percentile(flux, 60, 30), 0.0)
    dip = _dip_depth(level)
    change = _pitch_change(pitches)
    broken = np.maximum(roughness - moving_percentile(roughness, 40, 30), 0.0)
    after = np.maximum(moving_max(level, 0, 15) - level, 0.0)
    before = np.maximum(moving_max(level, 15, 0) - level, 0.0)
    peaks = np.zeros(total, bool)
    silence_edge = np.abs(np.gradient(quiet)) if total > 1 else np.zeros(total)
    for curve, least in (
        (novelty, 0.6),
        (dip, 1.0),
        (change, 0.2),
        (silence_edge, 0.08),
        (broken, 0.12),
        (broken_db, 4.0),
    ):
        peaks |= (curve >= moving_max(curve, 3, 3)) & (curve > least)

    near = {
        "flux": np.minimum(moving_max(novelty, 4, 4), 8.0),
        "dip": np.minimum(moving_max(dip, 3, 3), 20.0),
        "rise": np.minimum(moving_max(after, 2, 2), 24.0),
        "fall": np.minimum(moving_max(before, 2, 2), 24.0),
        "pitch_change": moving_max(change, 3, 3),
        "roughness": np.minimum(moving_max(broken, 4, 4), 1.0),
        "quiet_before": moving_mean(quiet, 7, 0),
        "break": np.maximum(moving_max(broken_db, 4, 4), 0.0),
        "break_before": np.maximum(moving_max(broken_db, 11, 3), 0.0),
    }
    near["flux_share"] = near["flux"] / max(float(np.percentile(novelty, 98)), 1.0)
    strength = near["dip"] / 6.0 + near["flux"] / 2.0 + 2.0 * near["pitch_change"] + near["roughness"]
    kept: list[int] = []
    for frame in np.flatnonzero(peaks):
        if not 2 < frame < total - 2:
            continue
        if kept and frame - kept[-1] < 5:
            if strength[frame] > strength[kept[-1]]:
                kept[-1] = int(frame)
        else:
            kept.append(int(frame))
    index = np.array(kept, dtype=np.int64)
    bow_dip = moving_max(_dip_depth(without_peaks(level, _CLICK_FRAMES)), 3, 3)
    return NoveltyPeaks(index, np.stack([near[name][index] for name in FEATURES], axis=1), bow_dip[index])


def propose_boundaries(peaks: NoveltyPeaks, total: int, shortest_s: float) -> Boundaries:
    """The peaks with the probability that a stroke begins there, and places between where nothing is observed for long: every
    250 ms, or in fast music so often that no note of `shortest_s` falls between two."""
    fill = int(np.clip(_FILL_SHARE * shortest_s / HOP_S, *_FILL_FRAMES))
    constant, *weights = ATTACK_WEIGHTS
    attack = logistic(_shaped(peaks.features) @ np.array(weights) + constant)
    frames, probabilities, dips = [0], [0.02], [0.0]
    for frame, probability, dip in zip(
        [*peaks.frame.tolist(), total], [*attack.tolist(), 0.02], [*peaks.bow_dip.tolist(), 0.0], strict=True
    ):
        while frame - frames[-1] > 2 * fill:
            frames.append(frames[-1] + fill)
            probabilities.append(0.01)
            dips.append(0.0)
        frames.append(frame)
        probabilities.append(probability)
        dips.append(dip)
    return Boundaries(np.array(frames), np.clip(np.array(probabilities), 0.004, 0.99), np.array(dips))


def _shaped(features: Array) -> Array:
    """Square roots of what has no upper end, and products of what counts most together."""
    root = np.sqrt(np.maximum(features, 0.0))
    flux, dip, rise, early = (root[:, FEATURES.index(name)] for name in ("flux", "dip", "rise", "break_before"))
    return np.concatenate([features, root, np.stack([dip * rise, flux * rise, dip * early], axis=1)], axis=1)


def _dip_depth(level: Array) -> Array:
    """How far the level at a frame lies under what comes before and after it (120 ms each), in dB."""
    before = moving_max(level, 23, 0)
    after = moving_max(level, 0, 23)
    return np.maximum(np.minimum(before, after) - level, 0.0)


def _pitch_change(pitches: Array, reach: int = 7) -> Array:
    """1 - Bhattacharyya coefficient of the pitch distributions before and after each frame (35 ms each)."""
    mean = moving_mean(pitches, reach // 2, reach // 2)
    mean = mean / np.maximum(mean.sum(axis=1, keepdims=True), 1e-9)
    half = reach // 2 + 1
    change = np.zeros(len(pitches))
    if len(pitches) > 2 * half:
        change[half:-half] = 1.0 - np.sqrt(np.maximum(mean[: -2 * half] * mean[2 * half :], 0.0)).sum(axis=1)
    return smoothed(np.maximum(change, 0.0), 1.0)
