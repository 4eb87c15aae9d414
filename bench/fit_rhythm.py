"""Fits what tells another rhythm of the same pitches (`acceptance/rhythm_mismatch.py`): logistic regression of what is seen at the places of a pattern,
and where true takes and others lie. Run `python -m bench.fit_rhythm --soundfont FILE --waveguide`, and with further sources; no true take
may lie over a limit, on any of them."""

from __future__ import annotations

import argparse
import os
from concurrent.futures import ProcessPoolExecutor

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.exercises import Recipe, Score, build
from attentive_owl.core.listening import Trace, listen
from attentive_owl.core.listening.acceptance import rhythm_mismatch
from attentive_owl.core.playing import Habits, Room, perform_score, place_in_room
from bench import families, sources
from bench.families import INSTRUMENTS, RATE, sounding
from bench.logistic import fit_logistic
from bench.weights import add_option, write

_BEATS = {"wholes": 4.0, "halves": 2.0, "quarters": 1.0, "eighths": 0.5}
_TRUE = (
    "eighths",
    "sixteenths",
    "sixteenths-eighths",
    "quarter-eighths",
    "dotted",
    "eighth-sixteenths",
    "quarters",
    "halves",
)
_HELD = (("eighths", "quarters"), ("sixteenths", "quarters"), ("sixteenths", "eighths"), ("sixteenths-eighths", "wholes"),
         ("sixteenths-eighths", "halves"), ("quarter-eighths", "halves"), ("eighth-sixteenths", "quarters"))  # fmt: skip
_SPLIT = (("quarters", "eighths"), ("quarters", "sixteenths"), ("quarters", "sixteenths-eighths"), ("quarters", "quarter-eighths"),
          ("halves", "eighths"), ("eighths", "sixteenths"))  # fmt: skip
Job = tuple[str, str, int]
Seen = tuple[list[tuple[bool, tuple[float, ...]]], float | None, list[NDArray[np.float64]]]


def seen_in(job: Job) -> Seen | None:
    """What is measured at the places (and whether a stroke fell there), over all of them, and inside the notes; None where the
    take never comes so far."""
    asked_for, given, seed = job
    rng = np.random.default_rng([seed, sum(map(ord, asked_for + given))])
    key, tonic, tempo = (
        str(rng.choice(INSTRUMENTS)),
        str(rng.choice(["D", "G", "C", "A"])),
        float(rng.integers(44, 120)),
    )
    asked, played = (build(Recipe(tonic, pattern, tempo), key) for pattern in (asked_for, given))
    habits = Habits(
        scatter_cents=8.0,
        timing_ms=float(rng.choice([10, 20, 35])),
        air_ms=float(rng.choice([0, 0, 20, 40, 80, 150])),
        vibrato_cents=float(rng.choice([0, 0, 15])),
    )
    dry, _ = sounding(str(rng.choice(families.SOURCES)), perform_score(played, habits, seed), key, seed)
    sound = place_in_room(dry, RATE, Room(float(rng.uniform(25, 45)), float(rng.uniform(0.05, 0.35))), seed)
    trace = Trace()
    listen(sound, RATE, asked, trace=trace)
    if not trace.alignments:
        return None
    path, signs, score = trace.alignments[0]
    places = rhythm_mismatch.places_of(path, signs, score)
    measured = [(_falls_there(score, place.notes[0], asked_for, given), place.measures) for place in places]
    return measured, rhythm_mismatch.struck_log_odds(places, score), rhythm_mismatch.split_measures(path, signs)


def _falls_there(score: Score, index: int, asked: str, given: str) -> bool:
    """Whether a stroke fell where a note is written: all of them do in a true take, in a held one those that share a boundary."""
    if asked == given or given not in _BEATS:
        return True
    first = index
    while first and score.notes[first - 1].midi == score.notes[index].midi:
        first -= 1
    since = float(score.notes[index].start_beats - score.notes[first].start_beats)
    return since % _BEATS[given] == 0.0


def collect(jobs: list[Job]) -> list[tuple[Job, Seen]]:
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        return [(job, own) for job, own in zip(jobs, pool.map(seen_in, jobs), strict=True) if own is not None]


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--seeds", type=int, default=8)
    options.add_argument("--first", type=int, default=760)
    sources.add_options(options)
    add_option(options)
    chosen = options.parse_args()
    pairs = [*((own, own) for own in _TRUE), *_HELD, *_SPLIT]
    jobs = [(*pair, seed) for pair in pairs for seed in range(chosen.first, chosen.first + chosen.seeds)]
    seen = collect(jobs)
    for _ in sources.each(chosen):
        seen += collect(jobs)

    rows = [row for (asked, given, _), own in seen if (asked, given) not in _SPLIT for row in own[0]]
    struck, measures = np.array([own for own, _ in rows]), np.array([own for _, own in rows])
    even = np.where(struck, 0.5 / struck.sum(), 0.5 / (~struck).sum()) * len(struck)
    found = np.round(fit_logistic(measures, struck, even), 1).tolist()
    print("STRUCK_WEIGHTS =", found)
    if chosen.write:
        write("STRUCK_WEIGHTS", found)
    for title, wanted in (("true", [(own, own) for own in _TRUE]), ("held", _HELD)):
        odds = [own[1] for job, own in seen if job[:2] in wanted and own[1] is not None]
        print(f"{title}: {len(odds)} takes, log-odds that they were struck", np.round(np.sort(odds)[:20], 1).tolist())
    for title, wanted in (("true", [(own, own) for own in _TRUE]), ("split", _SPLIT)):
        sums = [
            max(map(rhythm_mismatch.split_score, found[2]), default=-9.0) for job, found in seen if job[:2] in wanted
        ]
        print(f"{title}: {len(sums)} takes, strokes inside their notes", np.round(np.sort(sums)[::-1][:20], 1).tolist())


if __name__ == "__main__":
    main()
