"""Weights of the ear that come out of a fit: log-odds for each unit of what is measured, the constant first.

A fitting command writes its own entry (`--write`) and touches no other. What is chosen by hand stands where it is used, with its
reason; of the weights here those that are not just what the fit gives say why.
"""

from __future__ import annotations

ATTACK_WEIGHTS = (
    -4.804,
    0.544,
    0.482,
    0.106,
    0.08,
    -0.182,
    0.17,
    -2.097,
    -1.881,
    0.042,
    -0.028,
    -2.437,
    2.79,
    -0.218,
    -0.822,
    0.701,
    -1.375,
    5.481,
    -0.591,
    0.678,
    0.643,
    0.047,
    0.184,
    0.151,
)
"""Of a new stroke at a novelty peak: for each of `features.novelty.FEATURES` in its own unit, then for their square roots, then for the
three products of roots that `_shaped` makes. `python -m bench.fit_attack`, on simulated and sampled strings, on an earlier ear. By
hand they stay: what the fit gives on ear-10 hardly moves docs/benchmark.md, but leaves 18 of 96 fast repeated notes of a held-out
take to the teacher, where these leave none (`tests/core/test_benchmark.py`)."""

STRUCK_WEIGHTS = (
    -2.3,
    0.5,
    0.6,
    0.7,
    0.4,
    0.9,
    1.0,
)
"""That a place of a pattern was struck; of what `acceptance.rhythm_mismatch.Place.measures` has (log-odds, dB, dB, log-odds, dB, log-odds).
`python -m bench.fit_rhythm --soundfont TimGM6mb.sf2 --waveguide`, with the pupil and FluidR3 four sources of sound, before
beeps were left out of the steps."""

LIKENESS_WEIGHTS = (
    -6.1,
    8.6,
    7.3,
    -11.6,
    -7.0,
)
"""That a take is a try at the exercise; of the shares covered, explained and strange, and of the log ratio of how much nearer another
line is. By hand: `python -m bench.fit_acceptance` on four sources of sound gives -6.4, 9.4, 5.5, -8.6 and -6.5; these lie half way from there
to a fit on poor takes of which more break off early, so that both keep clear of the limit."""

CONFIDENCE_WEIGHTS = (
    0.0,
    1.0,
)
"""That what is said of a note is right; of its strength (`notes.statuses`). By hand: `python -m bench.fit_confidence`, on takes that are
hard to hear, gives 0.7 and 0.8, which lie within their own error of these; these are the more modest."""
