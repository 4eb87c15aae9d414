"""Is the cause named, and no other? Pupils with known habits, from the sound to the words: `python -m bench.judging [--seeds N]
[--write docs/benchmark.md]`, or with the options of another source.

Each seed is another instrument, key, pattern and size of habit. Takes are played by the simulated pupil and on sampled strings
that are moved into tune, once as they are and once with ordinary life added: air between the bows, a noisier room, a slip.
`named` is the quick way that the tests take: the performance goes to the judge with the ear's own errors added to the truth
(cents and onsets of docs/benchmark.md), so that thousands of takes cost seconds.
"""

from __future__ import annotations

import argparse
import os
from collections import Counter
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from datetime import date
from fractions import Fraction
from functools import cache
from itertools import repeat
from pathlib import Path

import numpy as np

from attentive_owl.core.checking import check
from attentive_owl.core.exercises import Bowing, Recipe, Score, ScoreNote, build, moves, turns_of
from attentive_owl.core.instruments import UnplayableError
from attentive_owl.core.judging import LEVELS, Expectations, judge
from attentive_owl.core.listening.performance import HeardNote, HeardPass, Performance
from attentive_owl.core.playing import Habits, Room, perform_score, place_in_room, render
from bench import families, sources
from bench.document import write_part
from bench.sampled import NoPitchError, render_in_tune

EAR_CENTS, EAR_ONSET_S = 2.0, 0.008
RATE = 44100
INSTRUMENTS = ("violin", "viola", "cello", "bass")
TONICS = ("D", "G", "A", "C", "F", "Bb")
PATTERNS = ("half-quarter", "halves", "quarters", "eighths", "sixteenths-eighths", "quarter-eighths", "eighths-rest")
BOWINGS = (Bowing.DETACHED, Bowing.DETACHED, Bowing.SLUR_4, Bowing.STACCATO)

Make = Callable[[np.random.Generator, Score], dict[str, object] | None]
"""Habits for a score, or None where the score can not show this habit."""


def _sign(rng: np.random.Generator, low: float, high: float) -> float:
    return float(rng.choice([-1, 1]) * rng.uniform(low, high))


def _used_finger(rng: np.random.Generator, score: Score) -> int | None:
    """A finger that is used often enough to be called a habit, and is not the only one."""
    used = Counter(n.placement.finger for n in score.notes if n.placement and n.placement.finger)
    fit = [finger for finger, count in used.items() if count >= 4]
    return int(rng.choice(fit)) if fit and len(used) > 1 else None


def _finger(rng: np.random.Generator, score: Score) -> dict[str, object] | None:
    finger = _used_finger(rng, score)
    return None if finger is None else {"finger_cents": {finger: _sign(rng, 30, 42)}}


def _one_place(rng: np.random.Generator, score: Score) -> dict[str, object] | None:
    """One note of a finger that has others, each landed on twice and more."""
    own = _stopped(score)
    landed = Counter(n.midi for n in own if not n.index or score.notes[n.index - 1].midi != n.midi)
    fingers = {n.midi: n.placement.finger for n in own if n.placement}
    fit = [
        midi
        for midi in sorted(landed)
        if landed[midi] >= 2 and any(landed[m] >= 2 and m != midi and fingers[m] == fingers[midi] for m in landed)
    ]
    return {"note_cents": {int(rng.choice(fit)): _sign(rng, 32, 44)}} if fit else None


def _string(rng: np.random.Generator, score: Score) -> dict[str, object] | None:
    """One string of several out of tune, with its open note and stopped ones played."""
    strings = {n.placement.string for n in score.notes if n.placement}
    both = [
        string
        for string in sorted(strings)
        if {n.placement.finger == 0 for n in score.notes if n.placement and n.placement.string == string}
        == {True, False}
    ]
    return {"string_cents": {str(rng.choice(both)): _sign(rng, 25, 40)}} if both and len(strings) > 1 else None


def _key(rng: np.random.Generator, score: Score) -> dict[str, object] | None:
    return {"forgets_key": True} if any(n.pitch.alter for n in score.notes) else None


def _dragging(rng: np.random.Generator, score: Score) -> dict[str, object] | None:
    values = {float(n.duration_beats) for n in score.notes}
    return {"dragging": {"eighth": float(rng.uniform(0.15, 0.3))}} if 0.5 in values and len(values) > 1 else None


def _half_steps(rng: np.random.Generator, score: Score) -> dict[str, object] | None:
    """Wide half steps, where more than one finger closes them."""
    stopped = {(n.placement.string, n.placement.semitones): n.placement.finger for n in _stopped(score)}
    upper = {finger for (string, semitones), finger in stopped.items() if (string, semitones - 1) in stopped}
    return {"half_step_cents": float(rng.uniform(30, 42))} if len(upper) > 1 else None


def _octaves(rng: np.random.Generator, score: Score) -> dict[str, object] | None:
    strings = score.instrument.strings
    ringing = [n for n in _stopped(score) if any((n.midi - s.pitch.midi) % 12 == 0 for s in strings)]
    others = len(_stopped(score)) - len(ringing)
    several = len({n.placement.finger for n in ringing if n.placement}) > 1
    return {"octave_cents": _sign(rng, 32, 42)} if several and len(ringing) >= 3 and others >= 3 else None


def _rushed(rng: np.random.Generator, score: Score) -> dict[str, object] | None:
    """One measure of several, with notes enough to tell it from a slip."""
    measures = sorted({n.measure for n in score.notes if n.measure > 0})
    full = [m for m in measures if sum(n.measure == m for n in score.notes) >= 4]
    return {"rushed": {int(rng.choice(full)): 0.25}} if len(full) >= 4 and not score.rests else None


def _pairs(score: Score) -> int:
    """Pairs of eighths in a beat, in separate bows: where every second one ends a slur, short and long is a wait for the bow."""
    if any(n.slur is not None for n in score.notes):
        return 0
    return sum(
        n.duration_beats == m.duration_beats == Fraction(1, 2)
        and n.start_beats % 1 == 0
        and o.start_beats == m.end_beats
        for n, m, o in zip(score.notes, score.notes[1:], score.notes[2:], strict=False)
    )


def _long(score: Score) -> bool:
    long = [n for n in score.notes if n.duration_beats >= 2]
    return len(long) >= 4 and float(long[0].duration_beats) * 60.0 / score.tempo_bpm >= 0.95 and not long[0].staccato


def _slow(score: Score) -> bool:
    """Notes long enough for a slide to be heard in most of them."""
    slow = [n for n in _stopped(score) if float(n.duration_beats) * 60.0 / score.tempo_bpm > 0.4 and n.slur is None]
    return len(slow) >= 0.7 * len(_stopped(score)) and len(slow) >= 6 and not score.notes[0].staccato


def _unhurried(score: Score) -> bool:
    """Whether the silence after a short note is long enough not to be filled by the room."""
    return all(float(n.duration_beats) * 60.0 / score.tempo_bpm >= 0.42 for n in score.notes)


def _top_notes(score: Score) -> int:
    """How many notes stand on the highest pitch, until the line comes down."""
    return sum(n.midi == max(m.midi for m in score.notes) for n in score.notes)


def _octave_way(score: Score) -> int:
    """1 or -1 where the instrument has the line an octave higher or lower, else 0."""
    low, high = (pick(n.midi for n in score.notes) for pick in (min, max))
    if high + 12 <= score.instrument.highest.midi:
        return 1
    return -1 if low - 12 >= score.instrument.lowest.midi else 0


def _next_string(rng: np.random.Generator, score: Score) -> int:
    """Semitones to a string beside it on which the whole line can be played; 0 where there is none."""
    low, high = (pick(n.midi for n in score.notes) for pick in (min, max))
    fifth = score.instrument.string_interval
    ways = [
        way * fifth
        for way in (-1, 1)
        if score.instrument.lowest.midi <= low + way * fifth and high + way * fifth <= score.instrument.highest.midi
    ]
    return int(rng.choice(ways)) if ways else 0


def _stopped(score: Score) -> list[ScoreNote]:
    return [n for n in score.notes if n.placement and n.placement.finger]


def _late(place: str) -> Make:
    def make(rng: np.random.Generator, score: Score) -> dict[str, object] | None:
        own = list(moves(score).values()).count(place)
        if any(n.duration_beats > 1 for n in score.notes):
            # Where every long note ends a bow, a wait for the bow and a long note are one thing.
            return None
        return {"late_before": {place: float(rng.uniform(0.2, 0.3))}} if own >= 4 else None

    return make


def _rests(score: Score) -> bool:
    """Rests enough, and enough notes that simply follow; short notes would hide what the bow does in a rest."""
    rests = list(moves(score).values()).count("rest")
    return rests >= 4 and len(score.notes) - rests >= 8 and not score.notes[0].staccato


HABITS: dict[str, Make] = {
    "none": lambda r, s: {},
    "instrument": lambda r, s: {"tuning_cents": _sign(r, 22, 45)},
    "string": _string,
    "hand": lambda r, s: {"hand_cents": _sign(r, 30, 42)},
    "finger": _finger,
    "one_place": _one_place,
    "scatter": lambda r, s: {"scatter_cents": float(r.uniform(28, 36))},
    "direction": lambda r, s: {"descending_cents": _sign(r, 34, 44)},
    "key_signature": _key,
    "wrong_string": lambda r, s: {"shift_semitones": by} if (by := _next_string(r, s)) else None,
    "stop": lambda r, s: {"stops": {int(r.integers(2, len(s.notes) - 1)): float(r.uniform(0.9, 1.8))}},
    "drift": lambda r, s: {"drift": _sign(r, 0.2, 0.3)},
    "note_value": _dragging,
    "half_step": _half_steps,
    "octave": _octaves,
    "crossing_late": _late("crossing"),
    "shift_late": _late("shift"),
    "bow_late": _late("bow"),
    "rest_short": lambda r, s: {"rests_cut": float(r.uniform(0.3, 0.5))} if _rests(s) else None,
    "rest": lambda r, s: {"rests_sound": True} if _rests(s) else None,
    "staccato": lambda r, s: {"staccato_held": True} if s.notes[0].staccato and _unhurried(s) else None,
    "sinking": lambda r, s: {"sinking_cents": float(r.uniform(38, 55))} if len(_stopped(s)) >= 8 else None,
    "uneven": lambda r, s: {"uneven": float(r.choice([0.38, 0.4, 0.6, 0.62]))} if _pairs(s) >= 6 else None,
    "rushed": _rushed,
    "cut_short": lambda r, s: {"long_cut": float(r.uniform(0.42, 0.55))} if _long(s) else None,
    "skipped": lambda r, s: {"skipped": (int(r.integers(2, len(s.notes) - 3)),)},
    "ended_early": lambda r, s: {"last": int(len(s.notes) * r.uniform(0.6, 0.85))},
    "one_way": lambda r, s: {"last": [t - 1 for t, _ in turns_of(s)][-1] + _top_notes(s)} if turns_of(s) else None,
    "joined_late": lambda r, s: {
        "first": int(r.choice([n for n in s.measure_starts() if n][: len(s.measure_starts()) // 2 + 1]))
    },
}
SOUND_ALONE: dict[str, Make] = {
    "stray": lambda r, s: {
        "stray": {int(r.integers(2, len(s.notes) - 2)): int(r.choice([-3, 3, 5]))},
        "stray_s": float(r.uniform(0.15, 0.4)),
    },
    "settling_in": lambda r, s: {"slide_cents": _sign(r, 45, 60), "slide_ms": 140.0} if _slow(s) else None,
    "restart": lambda r, s: {
        "restarts": {(at := int(r.integers(5, len(s.notes) - 3))): max(m for m in s.measure_starts() if m < at)}
    },
    "octave_off": lambda r, s: {"shift_semitones": 12 * way} if (way := _octave_way(s)) else None,
}
"""What the quick way can not show: it is heard, and not taken from the truth."""


def performance(score: Score, habits: Habits, seed: int) -> Performance:
    """What the ear would hear: the truth with the ear's own errors."""
    rng = np.random.default_rng([seed, 7])
    played = perform_score(score, habits, seed)
    truth = played.last_go()
    notes = []
    for note in score.notes:
        own = truth.get(note.index)
        if own is None:
            notes.append(HeardNote(note.index, "missed", None, None, None, 0.9))
            continue
        midi = own.midi + rng.normal(0, EAR_CENTS) / 100
        status = (
            "wrong_pitch"
            if abs(midi - habits.tuning_cents / 100 - habits.shift_semitones - note.midi) > 0.7
            else "played"
        )
        onset = own.start_s + rng.normal(0, EAR_ONSET_S)
        notes.append(HeardNote(note.index, status, midi, onset, max(own.end_s, onset + 0.04), 0.98))
    quiet = tuple(not habits.rests_sound for _ in score.rests)
    begin = min(own.start_s for own in truth.values())
    heard_pass = HeardPass(tuple(notes), begin, played.duration_s, habits.last is None, rests_quiet=quiet)
    return Performance((heard_pass,), (), habits.tuning_cents, habits.shift_semitones, duration_s=played.duration_s)


@cache
def case(name: str, seed: int) -> tuple[Score, Habits] | None:
    """What is played with a habit, or with two of them ("hand + stop"); None where the seed's score can not show it."""
    rng = np.random.default_rng([seed, sum(map(ord, name))])
    recipe = Recipe(
        str(rng.choice(TONICS)),
        str(rng.choice(PATTERNS)),
        float(rng.integers(56, 92)),
        octaves=int(rng.integers(1, 3)),
        bowing=BOWINGS[rng.integers(len(BOWINGS))],
    )
    key = str(rng.choice(INSTRUMENTS))
    try:
        score = build(recipe, key)
    except UnplayableError:
        score = build(replace(recipe, octaves=1), key)
    known = HABITS | SOUND_ALONE
    own: dict[str, object] = {}
    for part in name.split(" + "):
        settings = known[part](rng, score)
        # Two habits that need the same setting can not be had at once.
        if settings is None or own.keys() & settings:
            return None
        own |= settings
    habits = Habits(**{"scatter_cents": 5.0, "timing_ms": 10.0} | own)  # type: ignore[arg-type]
    if habits.last is not None and habits.first > habits.last:
        return None
    return score, habits


def named(name: str, seed: int) -> set[str] | None:
    """Kinds of cause that the judge gives; None where the seed's score can not show the habit."""
    made = case(name, seed)
    if made is None:
        return None
    score, habits = made
    report = judge(performance(score, habits, seed), score, Expectations(score.tempo_bpm, LEVELS["settling"]))
    return {cause.kind for cause in report.causes}


PAIRS = ("finger + note_value", "instrument + finger", "hand + stop", "string + drift", "key_signature + stop")
LIVES = ("as it is", "with ordinary life")
_SAMPLED_CAN_NOT = ("settling_in",)
"""A sample can not be made to slide within itself."""
Outcome = tuple[str, set[str]]


def heard_and_named(name: str, seed: int, source: str, life: str) -> Outcome | None:
    """("accepted" or the code of the refusal, kinds of cause), from the sound; None where the seed's score can not show the habit
    or the source can not play it."""
    made = case(name, seed)
    if made is None or (source != "simulated" and (name in _SAMPLED_CAN_NOT or made[0].notes[0].slur is not None)):
        return None
    score, habits = made
    rng = np.random.default_rng([seed, 31])
    room = Room(42.0, 0.15)
    if life == LIVES[1]:
        room = Room(float(rng.uniform(26, 40)), float(rng.uniform(0.1, 0.4)))
        habits = replace(habits, air_ms=float(rng.uniform(0, 60)), timing_ms=max(habits.timing_ms, 18.0))
        if not habits.shift_semitones and "scatter" not in name:
            habits = replace(habits, scatter_cents=max(habits.scatter_cents, 7.0))
    performed = perform_score(score, habits, seed)
    if source == "simulated":
        dry, _ = render(performed, score.instrument_key, RATE, seed)
    elif source == "sampled":
        try:
            dry = render_in_tune(performed, score.instrument_key)
        except NoPitchError:
            return None
    else:
        dry, _ = families.RENDERERS[source](performed, score.instrument_key)
    sound = place_in_room(dry, RATE, room, seed)
    report = check(sound, RATE, score, Expectations(score.tempo_bpm, LEVELS["settling"]))
    outcome = report.refusal.code if report.refusal else "accepted"
    return outcome, {cause.kind for cause in report.causes}


def wanted_of(name: str) -> set[str]:
    """Kinds of cause that are to be named for some habits, and no other."""
    parts = set(name.split(" + ")) - {"none"}
    if parts == {"one_way", "joined_late"}:
        # Of the way up a part alone was played: that it ended before the end is said.
        return {"ended_early", "joined_late"}
    return parts


_CLEAN_TIMES = 10
"""So many more clean takes: one in a hundred in which something is named would be many."""


def _enough(name: str, seeds: int, first: int) -> list[int]:
    """The first so many seeds that can show a habit."""
    seeds *= _CLEAN_TIMES if name == "none" else 1
    return [seed for seed in range(first, first + 60 * seeds) if case(name, seed) is not None][:seeds]


def table(seeds: int, first: int) -> tuple[list[str], list[str]]:
    """The table as lines of Markdown, and what was said of every take that was not named just so."""
    names = [*HABITS, *SOUND_ALONE, *PAIRS]
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        chosen = pool.map(_enough, names, repeat(seeds), repeat(first))
        jobs = [
            (name, seed, source, life)
            for name, own in zip(names, chosen, strict=True)
            for source in families.SOURCES
            for life in LIVES
            for seed in own
        ]
        outcomes = list(pool.map(heard_and_named, *zip(*jobs, strict=True), chunksize=4))
    found = {job: outcome for job, outcome in zip(jobs, outcomes, strict=True) if outcome is not None}
    head = " | ".join(f"{source}, {life}" for source in families.SOURCES for life in LIVES)
    lines = [
        f"habit | takes | {head} | something else named | refused",
        "---|" * (4 + len(families.SOURCES) * len(LIVES)),
    ]
    worst = []
    for name in (*names, "**all**"):
        own = {job: outcome for job, outcome in found.items() if job[0] == name or name == "**all**"}
        just = {job: outcome == "accepted" and kinds == wanted_of(job[0]) for job, (outcome, kinds) in own.items()}
        cells = []
        for source in families.SOURCES:
            for life in LIVES:
                rates = [right for job, right in just.items() if job[2:] == (source, life)]
                cells.append(f"{np.mean(rates):.2f}" if rates else "-")
        more = np.mean([bool(kinds - wanted_of(job[0])) for job, (_, kinds) in own.items()]) if own else 0.0
        refused = np.mean([outcome != "accepted" for outcome, _ in own.values()]) if own else 0.0
        lines.append(f"{name} | {len(own)} | {' | '.join(cells)} | {more:.2f} | {refused:.2f}")
        if name != "**all**":
            worst += [
                f"{', '.join(map(str, job))}: {own[job][0]}, {', '.join(sorted(own[job][1])) or 'nothing'}"
                for job, right in just.items()
                if not right
            ]
    return lines, worst


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--seeds", type=int, default=10)
    options.add_argument("--first", type=int, default=3000)
    options.add_argument("--write", type=Path)
    sources.add_options(options)
    chosen = options.parse_args()
    other = sources.choose(chosen)
    lines, worst = table(chosen.seeds, chosen.first)
    text = "\n".join(f"| {line.strip('|')} |" for line in lines)
    print(text, *worst, sep="\n")
    if chosen.write:
        write_part(
            chosen.write,
            f"Does it name the cause on {other.title}?" if other else "Does it name the cause?",
            f"""`python -m bench.judging --seeds {chosen.seeds} --first {chosen.first}{f" {other.option}" if other else ""} --write docs/benchmark.md`, {date.today()}: from the sound to the words. Each row is a
pupil with one known habit (the last rows: two; the first row: none, ten times as many), over {chosen.seeds} seeds of instrument, key, pattern and size of habit for each source
and room. Ordinary life is air between the bows (up to 60 ms), looser fingers and onsets, and a noisier room that rings. A
cell is the share of takes in which just the true cause was named and nothing else; then the share in which something
else was named, and in which the take was refused.

{text}
""",
        )


if __name__ == "__main__":
    main()
