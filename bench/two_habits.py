"""What is said of two habits at once, for all pairs of them: `python -m bench.two_habits [--first N] [--write docs/benchmark.md]`.

Each pair is played once, by the simulated pupil with ordinary life added, on the first seed whose score can show both.
"""

from __future__ import annotations

import argparse
import os
from collections.abc import Iterable
from concurrent.futures import ProcessPoolExecutor
from datetime import date
from functools import partial
from itertools import combinations
from pathlib import Path

from bench.document import write_part
from bench.judging import HABITS, LIVES, SOUND_ALONE, Outcome, case, heard_and_named, wanted_of

_MOST_SEEDS = 25
"""Looked through for a score that can show both; two that contradict one another find none."""
_NAMES = [name for name in HABITS | SOUND_ALONE if name != "none"]
SAID = ("both", "one of them", "nothing", "something else named", "refused")


def pairs() -> list[str]:
    """Of all habits, by the names that `bench.judging.case` takes."""
    return [f"{one} + {two}" for one, two in combinations(_NAMES, 2)]


def said_of(name: str, outcome: Outcome) -> str:
    """Which of `SAID` was said of a take with these habits. What is named besides the true causes counts before what is missing."""
    code, kinds = outcome
    if code != "accepted":
        return "refused"
    wanted = wanted_of(name)
    if kinds - wanted:
        return "something else named"
    return {len(wanted): "both", 0: "nothing"}.get(len(kinds), "one of them")


def _heard(name: str, first: int) -> tuple[int, Outcome] | None:
    """The seed that was played, and what was said; None where no score can show both."""
    for seed in range(first, first + _MOST_SEEDS):
        if case(name, seed) and (outcome := heard_and_named(name, seed, "simulated", LIVES[1])):
            return seed, outcome
    return None


def _row(title: str, said: Iterable[str]) -> str:
    own = list(said)
    return f"| {title} | {len(own)} | {' | '.join(f'{own.count(kind) / max(len(own), 1):.2f}' for kind in SAID)} |"


def table(first: int) -> tuple[list[str], list[str]]:
    """The table as lines of Markdown, and what was said of every pair of which more was named or that was refused."""
    names = pairs()
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        heard = dict(zip(names, pool.map(partial(_heard, first=first), names, chunksize=2), strict=True))
    said = {name: said_of(name, found[1]) for name, found in heard.items() if found}
    lines = [f"| habit | pairs | {' | '.join(SAID)} |", "|---" * (2 + len(SAID)) + "|"]
    for habit in _NAMES:
        lines.append(_row(habit, (kind for name, kind in said.items() if habit in wanted_of(name))))
    lines.append(_row("**all**", said.values()))
    untrue = [
        f"{name}, {found[0]}: {found[1][0]}, {', '.join(sorted(found[1][1])) or 'nothing'}"
        for name, found in heard.items()
        if found and said[name] in ("something else named", "refused")
    ]
    return lines, untrue


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--first", type=int, default=8700)
    options.add_argument("--write", type=Path)
    chosen = options.parse_args()
    lines, untrue = table(chosen.first)
    print(*lines, *untrue, sep="\n")
    if chosen.write:
        rows, listed = "\n".join(lines), "\n".join(f"- {line}" for line in untrue)
        write_part(
            chosen.write,
            "Does it name two causes at once?",
            f"""`python -m bench.two_habits --first {chosen.first} --write docs/benchmark.md`, {date.today()}: every pair of habits that do not contradict one
another, once each, by the simulated pupil with ordinary life added. A row is the pairs with that habit; a cell is the share of them in which
both were named and nothing else, one of them, or none; then the share in which something else was named, which may follow from
the two (a hand that stands low and half steps that are wide leave some fingers too low), and in which the take was refused.
Of a line that was played on another string or in another octave that is said and nothing else: one of the two is the aim there.

{rows}

Of which more was named, or that were refused:

{listed}
""",
        )


if __name__ == "__main__":
    main()
