"""Is a true take ever refused for its rhythm? Air between the bows, from none to 150 ms, over instruments, note values and tempos:
`python -m bench.air [--write docs/benchmark.md]`."""

from __future__ import annotations

import argparse
import os
from concurrent.futures import ProcessPoolExecutor
from datetime import date
from itertools import product
from pathlib import Path

from attentive_owl.core.exercises import Recipe, build
from attentive_owl.core.listening import Refusal, listen
from attentive_owl.core.playing import Habits, Room, perform_score, place_in_room, render
from bench.document import write_part
from bench.families import INSTRUMENTS, RATE
from bench.sampled import render_in_tune

AIR_MS = (0, 20, 40, 60, 100, 150)
VALUES = ("halves", "quarters", "eighths", "sixteenths")
TEMPOS = (40.0, 60.0, 76.0, 100.0, 132.0)

Job = tuple[str, str, float, int, str]


def refused(job: Job) -> str | None:
    """The code of the refusal of a true take; None where it is heard."""
    key, value, tempo, air, source = job
    score = build(Recipe("D", value, tempo), key)
    performed = perform_score(score, Habits(scatter_cents=6, timing_ms=10, air_ms=air), 11)
    dry = render_in_tune(performed, key) if source == "sampled" else render(performed, key, RATE, 11)[0]
    heard = listen(place_in_room(dry, RATE, Room(40, 0.15), 11), RATE, score)
    return heard.code if isinstance(heard, Refusal) else None


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument(
        "--sampled", action="store_true", help="On sampled strings as well (slow: every note is measured first)."
    )
    options.add_argument("--write", type=Path)
    chosen = options.parse_args()
    sources = ("simulated", "sampled") if chosen.sampled else ("simulated",)
    jobs: list[Job] = list(product(INSTRUMENTS, VALUES, TEMPOS, AIR_MS, sources))
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        found = dict(zip(jobs, pool.map(refused, jobs, chunksize=4), strict=True))
    lines = ["| value | " + " | ".join(f"{air} ms" for air in AIR_MS) + " |", "|---" * (len(AIR_MS) + 1) + "|"]
    for value in VALUES:
        cells = []
        for air in AIR_MS:
            own = [code for job, code in found.items() if (job[1], job[3]) == (value, air)]
            cells.append(f"{sum(code is not None for code in own)} of {len(own)}")
        lines.append(f"| {value} | {' | '.join(cells)} |")
    text = "\n".join(lines)
    print(text, *(f"{job}: {code}" for job, code in found.items() if code), sep="\n")
    if chosen.write:
        write_part(
            chosen.write,
            "Is a true take refused for its rhythm?",
            f"""`python -m bench.air{" --sampled" if chosen.sampled else ""} --write docs/benchmark.md`, {date.today()}: a scale of D on all four instruments ({", ".join(sources)}), at
{", ".join(f"{tempo:.0f}" for tempo in TEMPOS)} beats a minute, with so much silence between one bow and the next (at most half of a note). How many were refused:

{text}
""",
        )


if __name__ == "__main__":
    main()
