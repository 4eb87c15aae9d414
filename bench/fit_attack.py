"""Fits the weights by which the ear tells a new stroke from a wobble (`ATTACK_WEIGHTS`): logistic regression on
takes of both sources. Run `python -m bench.fit_attack [--write]`."""

from __future__ import annotations

import argparse
import itertools

import numpy as np
from scipy.optimize import minimize
from scipy.special import expit

from attentive_owl.core.exercises import Recipe, build
from attentive_owl.core.listening import listener
from attentive_owl.core.listening.alignment.observations import emission
from attentive_owl.core.listening.features.extract import extract, highest_heard, take_in
from attentive_owl.core.listening.features.frames import HOP_S
from attentive_owl.core.listening.features.novelty import _shaped, novelty_peaks
from attentive_owl.core.playing import Habits, Room, perform_score, place_in_room, render
from bench.sampled import render_sampled
from bench.weights import add_option, write

_ROOMS = (Room(45), Room(25, 0.3), Room(30, 0.5), Room(18), Room(35, 0.2, 150))


def collect(seeds: range) -> tuple[np.ndarray, np.ndarray]:
    """Shaped features of every peak, and whether a stroke begins there."""
    rows, labels = [], []
    takes = itertools.product(
        ("violin", "viola", "cello", "bass"), ("quarters", "eighths", "sixteenths-eighths"), seeds
    )
    for number, (instrument, pattern, seed) in enumerate(takes):
        rng = np.random.default_rng([number, seed])
        tonic, tempo = "DGAC"[number % 4], float(rng.integers(56, 116))
        score = build(Recipe(tonic, pattern=pattern, tempo_bpm=tempo), instrument)
        habits = Habits(
            scatter_cents=12,
            timing_ms=12,
            vibrato_cents=float(rng.choice([0, 0, 12, 20])),
            short=float(rng.choice([0, 0, 0, 0.3])),
            pizzicato=bool(rng.random() < 0.12),
        )
        performed = perform_score(score, habits, number)
        if (number + seed) % 2:
            sound, truths = render(performed, instrument, 44100, number)
        else:
            sound, truths = render_sampled(performed, instrument)
        room = _ROOMS[int(rng.integers(len(_ROOMS)))]
        written = np.array([note.midi for note in score.notes])
        seen = extract(
            take_in(place_in_room(sound, 44100, room, number), 44100, score.instrument), written, score.instrument
        )
        lowest, top = score.instrument.lowest.midi - 1, highest_heard(written)
        heard = emission(seen.candidates, seen.level, seen.recording.gate, lowest, top, 0.0)
        peaks = novelty_peaks(
            seen.level, seen.flux, heard.quiet, heard.pitch, seen.candidates.roughness(), seen.broken_db
        )
        time = peaks.frame * HOP_S
        label = np.full(len(time), 0.0)
        for truth in truths:
            distance = time - truth.onset_s
            around = (distance > -0.05) & (distance < 0.09)
            label[around & (label == 0)] = np.nan
            if around.any():
                label[np.argmin(np.where(around, np.abs(distance - 0.015), 9.0))] = 1.0
        known = np.isfinite(label)
        rows.append(_shaped(peaks.features)[known])
        labels.append(label[known])
    return np.concatenate(rows), np.concatenate(labels)


def fit(rows: np.ndarray, labels: np.ndarray) -> np.ndarray:
    """Weights, the constant first; a small ridge keeps them tame."""
    design = np.concatenate([np.ones((len(rows), 1)), rows], axis=1)
    scale = design.std(axis=0)
    scale[0] = 1.0

    def loss(weights: np.ndarray) -> tuple[float, np.ndarray]:
        logit = design / scale @ weights
        value = np.mean(np.logaddexp(0.0, logit) - labels * logit) + 1e-3 * np.sum(weights[1:] ** 2)
        gradient = (design / scale).T @ (expit(logit) - labels) / len(labels)
        gradient[1:] += 2e-3 * weights[1:]
        return float(value), gradient

    return minimize(loss, np.zeros(design.shape[1]), jac=True).x / scale


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    add_option(options)
    chosen = options.parse_args()
    rows, labels = collect(range(8))
    weights = fit(rows, labels)
    found = np.round(weights, 3).tolist()
    print("ATTACK_WEIGHTS =", found)
    if chosen.write:
        write("ATTACK_WEIGHTS", found)
    test_rows, test_labels = collect(range(100, 104))
    logit = test_rows @ weights[1:] + weights[0]
    for threshold in (0.1, 0.3, 0.5, 0.7):
        told = expit(logit) > threshold
        print(threshold, "recall", np.mean(told[test_labels == 1]), "precision", np.mean(test_labels[told]))
    print(listener.EAR, len(labels), "peaks", labels.mean(), "attacks")


if __name__ == "__main__":
    main()
