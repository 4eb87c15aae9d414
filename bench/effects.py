"""What the world adds to a take: codec, clicks, voices, rustling, another player. All by seed."""

from __future__ import annotations

import io

import av
import numpy as np
from numpy.typing import NDArray
from scipy import signal

from attentive_owl.core.exercises import Recipe, Score, build
from attentive_owl.core.playing import Habits, perform_score, render
from attentive_owl.core.playing.accompaniment import click

Samples = NDArray[np.float32]
RATE = 44100


def loudness(sound: Samples) -> float:
    """Root mean square of what is not silence."""
    loud = np.abs(sound) > 0.02 * np.max(np.abs(sound), initial=1e-9)
    return float(np.sqrt(np.mean(sound[loud].astype(np.float64) ** 2))) if loud.any() else 1e-6


def codec(sound: Samples, bits_per_s: int = 48000) -> Samples:
    """Through Opus at a telephone's rate and back, in time with the original."""
    buffer = io.BytesIO()
    resampled = signal.resample_poly(sound, 160, 147).astype(np.float32)
    with av.open(buffer, "w", format="webm") as out:
        stream = out.add_stream("libopus", rate=48000)
        stream.layout, stream.bit_rate = "mono", bits_per_s
        frame = av.AudioFrame.from_ndarray(resampled.reshape(1, -1), format="fltp", layout="mono")
        frame.sample_rate, frame.pts = 48000, 0
        resampler = av.AudioResampler(format=stream.format, layout="mono", rate=48000, frame_size=960)
        for piece in resampler.resample(frame) + resampler.resample(None):
            out.mux(stream.encode(piece))
        out.mux(stream.encode(None))
    buffer.seek(0)
    with av.open(buffer) as back:
        resampler = av.AudioResampler(format="flt", layout="mono", rate=48000)
        pieces = [p.to_ndarray().reshape(-1) for f in back.decode(audio=0) for p in resampler.resample(f)]
    decoded = signal.resample_poly(np.concatenate(pieces), 147, 160).astype(np.float32)[: len(sound)]
    return np.pad(decoded, (0, len(sound) - len(decoded)))


def metronome(sound: Samples, bpm: float, level: float = 0.5) -> Samples:
    """A click on every beat, `level` of the playing's loudness at its peak times four."""
    out = sound.copy()
    tick = click(RATE, False) / 0.3 * loudness(sound) * 4 * level
    for start in (np.arange(0.1, len(sound) / RATE - 0.1, 60 / bpm) * RATE).astype(int):
        out[start : start + len(tick)] += tick[: len(out) - start]
    return out


def rustle(seconds: float, level: float, rng: np.random.Generator) -> Samples:
    """Paper, chair, bow: bursts of coloured noise."""
    count = int(seconds * RATE)
    out = np.zeros(count)
    for _ in range(int(seconds * 3)):
        length = int(rng.uniform(0.03, 0.3) * RATE)
        start = int(rng.uniform(0, max(count - length, 1)))
        burst = rng.normal(0, 1, length) * np.hanning(length)
        out[start : start + length] += signal.lfilter([1.0], [1.0, -rng.uniform(0.2, 0.95)], burst)[: count - start]
    return (out / (np.std(out) + 1e-9) * level * 0.4).astype(np.float32)


def speech(seconds: float, level: float, rng: np.random.Generator) -> Samples:
    """A voice: syllables of glottal pulses through wandering formants, falling in pitch, with breath between."""
    count = int(seconds * RATE)
    out = np.zeros(count)
    at = 0.0
    while at < seconds - 0.1:
        length_s = float(rng.uniform(0.12, 0.35))
        length = min(int(length_s * RATE), count - int(at * RATE))
        time = np.arange(length) / RATE
        start_hz = rng.uniform(150, 300)
        hz = start_hz * (1 + rng.uniform(-0.3, 0.1) * time / length_s) * (1 + 0.02 * np.sin(2 * np.pi * 5 * time))
        phase = np.cumsum(hz) / RATE
        pulses = np.diff(np.floor(phase), prepend=0.0)
        voice = pulses + 0.02 * rng.normal(0, 1, length)
        for formant in (rng.uniform(300, 800), rng.uniform(900, 2300), rng.uniform(2400, 3000)):
            radius = 0.985
            angle = 2 * np.pi * formant / RATE
            voice = signal.lfilter([1 - radius], [1, -2 * radius * np.cos(angle), radius**2], voice)
        own = voice * np.hanning(length)
        start = int(at * RATE)
        out[start : start + length] += own / (np.std(own) + 1e-9)
        at += length_s + float(rng.uniform(0.02, 0.5))
    return (out * level * 0.6).astype(np.float32)


def singing(score: Score, level: float, rng: np.random.Generator) -> Samples:
    """A child singing a line on one vowel: pulses that glide into each note, with vibrato and breath."""
    beat_s = 60.0 / score.tempo_bpm
    octave = -12 * round((np.mean([n.midi for n in score.notes]) - 66) / 12)
    midi = np.concatenate(
        [np.full(int(float(n.duration_beats) * beat_s * RATE), n.midi + octave, float) for n in score.notes]
    )
    glide = np.hanning(int(0.09 * RATE))
    midi = np.convolve(np.pad(midi, len(glide) // 2, mode="edge"), glide / glide.sum(), "valid")[: len(midi)]
    time = np.arange(len(midi)) / RATE
    midi += 0.35 * np.sin(2 * np.pi * 5.4 * time) + np.cumsum(rng.normal(0, 0.0006, len(midi)))
    phase = np.cumsum(440.0 * 2 ** ((midi - 69) / 12)) / RATE
    voice = np.diff(np.floor(phase), prepend=0.0) + 0.02 * rng.normal(0, 1, len(midi))
    for formant, radius in ((700, 0.985), (1200, 0.985), (2700, 0.98)):
        voice = signal.lfilter([1 - radius], [1, -2 * radius * np.cos(2 * np.pi * formant / RATE), radius**2], voice)
    voice *= np.abs(np.sin(np.pi * np.arange(len(midi)) / (2.0 * RATE))) ** 0.2
    return (voice / (np.std(voice) + 1e-9) * level).astype(np.float32)


def second_player(sound: Samples, instrument_key: str, down_db: float, seed: int) -> Samples:
    """Another beginner at another scale in the same room."""
    score = build(Recipe("C", "eighths", 88), instrument_key)
    other, _ = render(perform_score(score, Habits(scatter_cents=15, passes=3), seed), instrument_key, RATE, seed)
    return beside(sound, other, down_db)


def around(sound: Samples, before: Samples, after: Samples) -> Samples:
    return np.concatenate([before, sound, after]).astype(np.float32)


def scratches(sound: Samples, rng: np.random.Generator) -> Samples:
    """The bow slips or presses too hard: every second or so some hundredths of a second of noise, up to as loud as the playing."""
    out = sound.copy()
    for _ in range(max(int(len(sound) / RATE), 1)):
        length = int(rng.uniform(0.02, 0.08) * RATE)
        start = int(rng.uniform(0, len(sound) - length))
        noise = signal.lfilter([1.0, -0.9], [1.0], rng.normal(0, 1, length)) * np.hanning(length)
        out[start : start + length] += (noise / np.std(noise) * loudness(sound) * rng.uniform(0.3, 1.0)).astype(
            np.float32
        )
    return out


def bounces(sound: Samples, rng: np.random.Generator) -> Samples:
    """A bow that trembles: two to four short dips of 6 to 12 dB one after another, at some five places."""
    gain = np.ones(len(sound))
    for _ in range(5):
        start = int(rng.uniform(0, max(len(sound) - RATE, 1)))
        for number in range(int(rng.integers(2, 5))):
            length = int(rng.uniform(0.025, 0.045) * RATE)
            at = start + int(number * rng.uniform(0.07, 0.1) * RATE)
            depth = 1 - 10 ** (-rng.uniform(6, 12) / 20)
            gain[at : at + length] = np.minimum(
                gain[at : at + length], (1 - depth * np.hanning(length))[: len(gain) - at]
            )
    return (sound * gain).astype(np.float32)


def brushed(sound: Samples, strings_hz: list[float], rng: np.random.Generator) -> Samples:
    """The bow touches an open string beside its own: a tenth or two of a second, 8 to 14 dB under the playing."""
    out = sound.copy()
    for _ in range(4):
        length = int(rng.uniform(0.08, 0.2) * RATE)
        start = int(rng.uniform(0, len(sound) - length))
        time = np.arange(length) / RATE
        tone = sum(np.sin(2 * np.pi * k * strings_hz[rng.integers(len(strings_hz))] * time) / k for k in range(1, 8))
        tone = np.asarray(tone) * np.hanning(length)
        level = loudness(sound) * 10 ** (-rng.uniform(8, 14) / 20)
        out[start : start + length] += (tone / np.std(tone) * level).astype(np.float32)
    return out


def beside(sound: Samples, other: Samples, down_db: float) -> Samples:
    """Another sound in the same room for as long as the playing lasts, so far under it."""
    fitted = np.resize(other, len(sound)).astype(np.float32)
    return (sound + fitted / loudness(fitted) * loudness(sound) * 10 ** (-down_db / 20)).astype(np.float32)


def spoken_into(sound: Samples, seconds: float, rng: np.random.Generator) -> Samples:
    """Somebody says a word while the playing goes on, as loud as it."""
    out = sound.copy()
    word = speech(seconds, loudness(sound), rng)
    start = int(rng.uniform(0, max(len(sound) - len(word), 1)))
    out[start : start + len(word)] += word[: len(out) - start]
    return out
