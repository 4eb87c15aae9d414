"""Moments of nothing in a recording, as where a phone could not keep up: bridged before anything is measured.

A string dies away, and a room goes on sounding: nothing but a lost block of samples is zero for some thousandths of a second in the middle of a tone,
and its ends look like strokes. It is filled with the period of the tone before it, as telephones do (waveform substitution: Goodman et
al., "Waveform substitution techniques for recovering missing speech segments in packet voice communications", IEEE Trans. ASSP 34,
1986, from memory).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

_SHORTEST_S, _LONGEST_S = 0.003, 0.06
"""A zero or two is chance; what is longer may be a rest behind a noise gate (by hand)."""
_BESIDE_S = 0.06
"""So much of the tone before is looked at for its period, and so much has to sound after it."""
_LEAST_PEAK = 0.01
"""Of the loudest sample: less beside the gap is no tone. By hand."""
_AT_ONCE_S, _AT_ONCE_SHARE = 0.003, 0.4
"""So soon so much of the peak beside the gap. By hand."""
_LOWEST_HZ, _HIGHEST_HZ = 36.0, 2000.0
"""Between which a period is looked for: from under a bass's lowest string on, and of what is higher some multiple is found."""
_FADE_S = 0.004
"""In which the filling goes over into what follows."""


def bridged(samples: NDArray[np.float32], sample_rate: int) -> NDArray[np.float32]:
    """samples: one channel, shape (n,); the same where nothing is lost."""
    gaps = _gaps(samples, sample_rate)
    if not gaps:
        return samples
    out = samples.copy()
    for start, stop in gaps:
        _fill(out, start, stop, sample_rate)
    return out


def _gaps(samples: NDArray[np.float32], sample_rate: int) -> list[tuple[int, int]]:
    """First sample and the one after the last, of each."""
    zero = np.concatenate([[False], samples == 0.0, [False]])
    edges = np.flatnonzero(zero[1:] != zero[:-1]).reshape(-1, 2)
    lasting = np.diff(edges)[:, 0]
    short = edges[(lasting >= _SHORTEST_S * sample_rate) & (lasting <= _LONGEST_S * sample_rate)]
    if not len(short):
        return []
    beside = round(_BESIDE_S * sample_rate)
    least = _LEAST_PEAK * float(np.abs(samples).max())
    return [
        (start, stop)
        for start, stop in short.tolist()
        if start >= beside
        and _breaks_off(samples[start - beside : start][::-1], least, sample_rate)
        and _breaks_off(samples[stop : stop + beside], least, sample_rate)
    ]


def _breaks_off(tone: NDArray[np.float32], least: float, sample_rate: int) -> bool:
    """Whether a tone, from the gap on, is loud at once: a bow that stops or begins takes its time."""
    loud = np.abs(tone)
    peak = float(loud.max(initial=0.0))
    return peak >= least and float(loud[: round(_AT_ONCE_S * sample_rate)].max()) >= _AT_ONCE_SHARE * peak


def _fill(samples: NDArray[np.float32], start: int, stop: int, sample_rate: int) -> None:
    before = samples[start - round(_BESIDE_S * sample_rate) : start].astype(np.float64)
    period = _period(before, sample_rate)
    fade = min(round(_FADE_S * sample_rate), len(samples) - stop)
    filling = np.resize(before[len(before) - period :], stop - start + fade)
    samples[start:stop] = filling[: stop - start]
    share = np.linspace(0.0, 1.0, fade)
    samples[stop : stop + fade] = share * samples[stop : stop + fade] + (1.0 - share) * filling[stop - start :]


def _period(tone: NDArray[np.float64], sample_rate: int) -> int:
    """In samples: the lag at which the end of a tone is most like what came before it."""
    shortest, longest = round(sample_rate / _HIGHEST_HZ), min(round(sample_rate / _LOWEST_HZ), len(tone) // 2)
    end = tone[longest:]
    lags = np.arange(shortest, longest + 1)
    earlier = np.lib.stride_tricks.sliding_window_view(tone, len(end))[longest - lags]
    alike = earlier @ end / np.sqrt(np.maximum((earlier**2).sum(axis=1), 1e-12))
    return int(lags[np.argmax(alike)])
