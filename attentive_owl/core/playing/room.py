"""What happens to the sound between the string and the file: room, noise, microphone. Order as in the world."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Samples = NDArray[np.float32]


@dataclass(frozen=True)
class Room:
    """What lies between the string and the file."""

    snr_db: float = 45.0
    """Level of the playing over the room's noise."""
    reverb_s: float = 0.0
    """Time in which the room's ring falls by 60 dB; 0 is a dry room."""
    low_cut_hz: float = 0.0
    """A telephone microphone hears little below this."""
    clip_at: float = 1.0
    gain: float = 1.0


def place_in_room(sound: Samples, sample_rate: int, room: Room, seed: int = 0) -> Samples:
    """The sound as a microphone in the room would give it: shape (n,) both."""
    # Imported here: scipy.signal takes a second, and most processes never play.
    from scipy import signal

    rng = np.random.default_rng([seed, 99])
    out = sound.astype(np.float64)
    if room.reverb_s > 0:
        out = out + 0.5 * _reverb(out, sample_rate, room.reverb_s, rng)
    sounding = np.abs(out) > 0.02 * np.max(np.abs(out), initial=0.0)
    level = float(np.sqrt(np.mean(out[sounding] ** 2))) if sounding.any() else 0.1
    pink = signal.lfilter([0.05, 0.05], [1.0, -0.9], rng.normal(0.0, 1.0, len(out)))
    out = out + pink / np.std(pink) * level * 10.0 ** (-room.snr_db / 20.0)
    if room.low_cut_hz > 0:
        out = signal.sosfilt(signal.butter(2, room.low_cut_hz, "highpass", fs=sample_rate, output="sos"), out)
    return np.clip(out * room.gain, -room.clip_at, room.clip_at).astype(np.float32)


def _reverb(
    dry: NDArray[np.float64], sample_rate: int, reverb_s: float, rng: np.random.Generator
) -> NDArray[np.float64]:
    from scipy import signal

    count = int(reverb_s * sample_rate)
    time = np.arange(count) / sample_rate
    response = rng.normal(0.0, 1.0, count) * 10.0 ** (-3.0 * time / reverb_s)
    response[: int(0.006 * sample_rate)] = 0.0
    response = signal.sosfilt(signal.butter(1, 4000, fs=sample_rate, output="sos"), response)
    wet = signal.oaconvolve(dry, response)[: len(dry)]
    found: NDArray[np.float64] = wet / (np.sqrt(np.sum(response**2)) + 1e-12)
    return found
