"""Fits the weights by which the ear tells a new stroke from a wobble (`change.ATTACK_WEIGHTS`): logistic regression on
takes of both sources. Run `python -m bench.fit_attack`; it prints the array to paste."""

from __future__ import annotations

import itertools

import numpy as np
from scipy.optimize import minimize
from scipy.special import expit

from attentive_owl.core.exercises import Recipe, build
from attentive_owl.core.listening import listener
from attentive_owl.core.listening.breaks import period_break
from attentive_owl.core.listening.change import _shaped, find_marks, level_db, spectral_flux
from attentive_owl.core.listening.emission import emission
from attentive_owl.core.listening.frames import HOP_S, to_working_rate, without_rumble
from attentive_owl.core.listening.gate import gate_recording
from attentive_owl.core.listening.periods import period_candidates
from attentive_owl.core.playing import Habits, Room, perform_score, place_in_room, render
from attentive_owl.core.theory import frequency_hz
from bench.sampled import render_sampled

_ROOMS = (Room(45), Room(25, 0.3), Room(30, 0.5), Room(18), Room(35, 0.2, 150))


def collect(seeds: range) -> tuple[np.ndarray, np.ndarray]:
    """Shaped features of every mark, and whether a stroke begins there."""
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
        as_recorded = to_working_rate(place_in_room(sound, 44100, room, number), 44100)
        working = without_rumble(as_recorded, frequency_hz(score.instrument.lowest.midi))
        gate = gate_recording(working, as_recorded)
        lowest = frequency_hz(score.instrument.lowest.midi - 1.6)
        top = max(note.midi for note in score.notes)
        candidates = period_candidates(working, lowest, frequency_hz(top + 12.5))
        level = level_db(working, max(0.016, 1 / lowest))
        heard = emission(candidates, level, gate, score.instrument.lowest.midi - 1, top + 12, 0.0)
        broken_db = period_break(working, candidates)
        marks = find_marks(level, spectral_flux(working), heard.quiet, heard.pitch, candidates.roughness(), broken_db)
        time = marks.frame * HOP_S
        label = np.full(len(time), 0.0)
        for truth in truths:
            distance = time - truth.onset_s
            around = (distance > -0.05) & (distance < 0.09)
            label[around & (label == 0)] = np.nan
            if around.any():
                label[np.argmin(np.where(around, np.abs(distance - 0.015), 9.0))] = 1.0
        known = np.isfinite(label)
        rows.append(_shaped(marks.features)[known])
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
    rows, labels = collect(range(8))
    weights = fit(rows, labels)
    print(
        "ATTACK_WEIGHTS = np.array(",
        np.array2string(np.round(weights, 3), separator=", ", max_line_width=100),
        ")",
        sep="",
    )
    test_rows, test_labels = collect(range(100, 104))
    logit = test_rows @ weights[1:] + weights[0]
    for threshold in (0.1, 0.3, 0.5, 0.7):
        chosen = expit(logit) > threshold
        print(threshold, "recall", np.mean(chosen[test_labels == 1]), "precision", np.mean(test_labels[chosen]))
    print(listener.EAR, len(labels), "marks", labels.mean(), "attacks")


if __name__ == "__main__":
    main()
