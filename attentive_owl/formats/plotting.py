"""A picture of what the ear made of a take: pitch track, level, alignment and confidence over the score."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.exercises import Score
from attentive_owl.core.listening.features.extract import extract, take_in
from attentive_owl.core.listening.features.frames import HOP_S
from attentive_owl.core.listening.performance import NoteStatus, Performance

_COLOURS = {NoteStatus.PLAYED: "#24564C", NoteStatus.WRONG_PITCH: "#A8500F", NoteStatus.UNCLEAR: "#6B5B7B"}


def plot_hearing(samples: NDArray[np.floating], sample_rate: int, score: Score, heard: Performance, path: Path) -> None:
    """Write a PNG. Dots: period candidates, darker where likelier; bars: the aligned notes at their written pitch
    (thick and pale) and at the pitch heard (thin); triangles: missed notes, at the end of what was played."""
    import matplotlib

    matplotlib.use("Agg")
    from matplotlib import pyplot

    keys = np.array([note.midi for note in score.notes])
    low, high = float(keys.min()) - 3.0, float(keys.max()) + 4.0
    features = extract(take_in(samples, sample_rate, score.instrument), keys, score.instrument)
    found = features.candidates
    figure, (pitch, level) = pyplot.subplots(
        2, 1, sharex=True, figsize=(max(8.0, heard.duration_s * 0.7), 7), height_ratios=[4, 1], layout="constrained"
    )
    pitch.scatter(found.frame * HOP_S, found.midi, s=2, c="black", alpha=np.clip(found.probability, 0.02, 1))
    for heard_pass in heard.passes:
        for own, note in zip(heard_pass.notes, score.notes, strict=True):
            if own.onset_s is None or own.offset_s is None:
                if heard_pass is heard.chosen:
                    pitch.plot([heard_pass.end_s], [note.midi], marker="<", color="#6B5B7B")
                continue
            colour = _COLOURS[own.status]
            pitch.plot([own.onset_s, own.offset_s], [note.midi] * 2, color=colour, linewidth=9, alpha=0.18)
            if own.heard_midi is not None:
                pitch.plot([own.onset_s, own.offset_s], [own.heard_midi] * 2, color=colour, linewidth=1.5)
            pitch.axvline(own.onset_s, color=colour, linewidth=0.5, alpha=0.6)
            pitch.text(own.onset_s, high - 0.8, f"{own.index}\n{own.confidence:.2f}", fontsize=6, color=colour)
    for stray in heard.strays:
        pitch.plot([stray.onset_s, stray.offset_s], [stray.heard_midi] * 2, color="#A8500F", linewidth=3)
    pitch.set(ylim=(low, high), ylabel="key number (A4 = 69)", title=score.title)
    curve = features.level
    level.plot(np.arange(len(curve)) * HOP_S, curve, color="#24564C", linewidth=0.7)
    level.set(xlabel="seconds", ylabel="level, dB", ylim=(max(float(curve.min()), -90.0), 0))
    figure.savefig(path, dpi=110)
    pyplot.close(figure)
