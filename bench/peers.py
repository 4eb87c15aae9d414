"""What an engineer would otherwise build in an afternoon, on the same takes: librosa (pYIN, onsets, dynamic time warping) and
Praat (pitch and intensity, notes cut at dips and pitch changes, aligned by edit distance). Both are given the score's tempo and range."""

from __future__ import annotations

from collections.abc import Callable

import librosa
import numpy as np
import parselmouth

from attentive_owl.core.listening import HeardNote
from bench.families import RATE, Take

Heard = tuple[list[HeardNote], float | None] | None
_HOP = 256
_SR = 22050


def _range(take: Take) -> tuple[float, float]:
    keys = [note.midi for note in take.score.notes]
    return 440 * 2 ** ((min(keys) - 3 - 69) / 12), 440 * 2 ** ((max(keys) + 13 - 69) / 12)


def librosa_peer(take: Take) -> Heard:
    """pYIN for pitch; the score's key numbers warped onto the frames; onsets at the nearest detected onset."""
    sound = librosa.resample(take.sound, orig_sr=RATE, target_sr=_SR)
    low, high = _range(take)
    length = 4096 if low < 80 else 2048
    f0, voiced, _ = librosa.pyin(sound, fmin=low, fmax=high, sr=_SR, frame_length=length, hop_length=_HOP)
    if voiced.mean() < 0.1:
        return None
    midi = librosa.hz_to_midi(np.where(np.isnan(f0), low, f0))
    beat = 60 / take.score.tempo_bpm
    owner = np.concatenate(
        [np.full(max(int(float(n.duration_beats) * beat * _SR / _HOP), 1), n.index) for n in take.score.notes]
    )
    keys = np.array([take.score.notes[i].midi for i in owner], float)
    frames = np.flatnonzero(voiced)
    cost = np.minimum(np.abs(keys[:, None] - midi[frames][None, :]), 4.0)
    _, path = librosa.sequence.dtw(C=cost, subseq=False)
    onsets = librosa.onset.onset_detect(y=sound, sr=_SR, hop_length=_HOP, units="time")
    heard: dict[int, list[int]] = {}
    for row, column in path:
        heard.setdefault(int(owner[row]), []).append(int(frames[column]))
    return [_note(n.index, n.midi, sorted(heard.get(n.index, [])), midi, onsets) for n in take.score.notes], None


def _note(index: int, key: int, frames: list[int], midi: np.ndarray, onsets: np.ndarray) -> HeardNote:
    if len(frames) < 3:
        return HeardNote(index, "missed", None, None, None, 0.5)
    start, stop = frames[0] * _HOP / _SR, frames[-1] * _HOP / _SR
    if len(onsets):
        nearest = onsets[np.argmin(np.abs(onsets - start))]
        start = float(nearest) if abs(nearest - start) < 0.1 else start
    pitch = float(np.median(midi[frames]))
    return HeardNote(
        index, "played" if abs(pitch - key) < 0.7 else "wrong_pitch", pitch, start, max(stop, start + 0.02), 0.5
    )


def praat_peer(take: Take) -> Heard:
    """Praat's autocorrelation pitch; a new note where the semitone changes or the intensity dips by 3 dB; edit distance."""
    low, high = _range(take)
    sound = parselmouth.Sound(take.sound.astype(np.float64), RATE)
    track = sound.to_pitch_ac(time_step=0.005, pitch_floor=low, pitch_ceiling=high)
    hz, times = track.selected_array["frequency"], track.xs()
    if (hz > 0).mean() < 0.1:
        return None
    level = sound.to_intensity(minimum_pitch=max(low, 50), time_step=0.005)
    loud = np.interp(times, level.xs(), level.values[0])
    midi = np.where(hz > 0, 69 + 12 * np.log2(np.maximum(hz, 1) / 440), np.nan)
    notes: list[tuple[float, float, float]] = []
    begin = None
    for at in range(len(times)):
        ends = np.isnan(midi[at])
        if begin is not None and not ends:
            ends = abs(midi[at] - np.nanmedian(midi[begin : at + 1])) > 0.6 or (
                at - begin > 8
                and loud[at] < loud[begin:at].max() - 3
                and loud[at] == loud[max(at - 8, 0) : at + 8].min()
            )
        if ends and begin is not None:
            if at - begin > 10:
                notes.append((times[begin], times[at - 1], float(np.nanmedian(midi[begin:at]))))
            begin = None
        if begin is None and not np.isnan(midi[at]):
            begin = at
    return _align(take, notes), None


def _align(take: Take, found: list[tuple[float, float, float]]) -> list[HeardNote]:
    keys = [note.midi for note in take.score.notes]
    rows, columns = len(keys), len(found)
    cost = np.full((rows + 1, columns + 1), np.inf)
    cost[0] = np.arange(columns + 1)
    cost[:, 0] = np.arange(rows + 1)
    for i in range(1, rows + 1):
        for j in range(1, columns + 1):
            swap = min(abs(keys[i - 1] - found[j - 1][2]), 2.0)
            cost[i, j] = min(cost[i - 1, j - 1] + swap, cost[i - 1, j] + 1, cost[i, j - 1] + 1)
    heard = [HeardNote(i, "missed", None, None, None, 0.5) for i in range(rows)]
    i, j = rows, columns
    while i > 0 and j > 0:
        swap = min(abs(keys[i - 1] - found[j - 1][2]), 2.0)
        if cost[i, j] == cost[i - 1, j - 1] + swap:
            start, stop, pitch = found[j - 1]
            status = "played" if abs(pitch - keys[i - 1]) < 0.7 else "wrong_pitch"
            heard[i - 1] = HeardNote(i - 1, status, pitch, start, stop, 0.5)
            i, j = i - 1, j - 1
        elif cost[i, j] == cost[i - 1, j] + 1:
            i -= 1
        else:
            j -= 1
    return heard


PEERS: dict[str, Callable[[Take], Heard]] = {
    "librosa: pYIN, onsets, warping": librosa_peer,
    "Praat: pitch, intensity, edit distance": praat_peer,
}
