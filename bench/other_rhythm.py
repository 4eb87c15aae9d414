"""Is another rhythm of the same notes told, and how? From the sound to the words, the pupil and sampled strings:
`python -m bench.other_rhythm [--seeds 12] [--first 7300] [--write docs/benchmark.md]`, or with the options of another source."""

from __future__ import annotations

import argparse
import os
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from datetime import date
from pathlib import Path

import numpy as np

from attentive_owl.core.checking import check
from attentive_owl.core.exercises import Recipe, build
from attentive_owl.core.instruments import UnplayableError
from attentive_owl.core.judging import Expectations
from attentive_owl.core.playing import Habits, Room, perform_score, place_in_room
from bench import families, sources
from bench.document import write_part
from bench.families import INSTRUMENTS, RATE, sounding

PAIRS = (
    ("eighths", "quarters"), ("quarter-eighths", "quarters"), ("half-quarter", "eighths"), ("sixteenths-eighths", "quarters"),
    ("quarters", "eighths"), ("quarters", "sixteenths-eighths"), ("quarters", "quarter-eighths"), ("eighths", "sixteenths"),
)  # fmt: skip
"""Asked for, and played; long for short, then short for long."""
TONICS = ("C", "G", "D", "A", "F")
OUTCOMES = ("told", "refused as something else", "left to the teacher", "taken for good")
Job = tuple[str, str, str, int]


def outcome(job: Job) -> str | None:
    """What the program makes of the take; None where the instrument has no such line."""
    source, asked, given, seed = job
    rng = np.random.default_rng([seed, sum(map(ord, asked + given))])
    key, tonic, tempo = str(rng.choice(INSTRUMENTS)), str(rng.choice(TONICS)), float(rng.integers(56, 92))
    try:
        wanted, played = (build(Recipe(tonic, pattern, tempo), key) for pattern in (asked, given))
    except UnplayableError:
        return None
    performed = perform_score(played, Habits(scatter_cents=5, timing_ms=12), seed)
    dry, _ = sounding(source, performed, key, seed)
    report = check(place_in_room(dry, RATE, Room(38, 0.2), seed), RATE, wanted, Expectations(tempo))
    if report.refusal is not None:
        return OUTCOMES[0] if report.refusal.code == "another_rhythm" else OUTCOMES[1]
    return OUTCOMES[3] if report.good_go is not None and report.good_go.good else OUTCOMES[2]


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--seeds", type=int, default=12)
    options.add_argument("--first", type=int, default=7300)
    options.add_argument("--write", type=Path)
    sources.add_options(options)
    chosen = options.parse_args()
    other = sources.choose(chosen)
    jobs = [
        (source, *pair, seed)
        for source in families.SOURCES
        for pair in PAIRS
        for seed in range(chosen.first, chosen.first + chosen.seeds)
    ]
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        found = {job: own for job, own in zip(jobs, pool.map(outcome, jobs, chunksize=4), strict=True) if own}
    lines = [f"| asked for | played | source | takes | {' | '.join(OUTCOMES)} |", "|---" * (4 + len(OUTCOMES)) + "|"]
    for asked, given in PAIRS:
        for source in families.SOURCES:
            counts = Counter(own for job, own in found.items() if job[:3] == (source, asked, given))
            shares = [f"{counts[name] / max(counts.total(), 1):.2f}" for name in OUTCOMES]
            lines.append(f"| {asked} | {given} | {source} | {counts.total()} | {' | '.join(shares)} |")
    text = "\n".join(lines)
    print(text)
    if chosen.write:
        option = f" {other.option}" if other else ""
        write_part(
            chosen.write,
            "Is another rhythm told?" if other is None else f"Is another rhythm told on {other.title}?",
            f"""`python -m bench.other_rhythm --seeds {chosen.seeds} --first {chosen.first}{option} --write docs/benchmark.md`, {date.today()}: a scale whose notes are
right, in another rhythm than is set. "Told" is refused as another rhythm, and by what was heard. The least contrast of a stroke
inside a note was chosen with an eye on sampled takes of the seeds from 7300 on.

{text}
""",
        )


if __name__ == "__main__":
    main()
