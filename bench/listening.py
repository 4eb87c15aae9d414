"""The ear on all families: `python -m bench.listening [--seeds N] [--peers] [--family NAME] [--write docs/benchmark.md]`.

With `--soundfont FILE`, `--recorded FOLDER` or `--waveguide` all takes are played on the samples of that soundfont, on recorded
single notes (`recorded.py`) or on a bowed waveguide (`waveguide.py`), to tell whether the ear learnt strings or a benchmark."""

from __future__ import annotations

import argparse
import resource
import time
from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import date
from pathlib import Path

import mir_eval
import numpy as np

from attentive_owl.core.judging import LEVELS
from attentive_owl.core.judging.pulse import find_pulse
from attentive_owl.core.listening import HeardNote, Performance, Refusal, listen
from bench import sources
from bench.document import write_part
from bench.families import FAMILIES, RATE, REFUSALS, Take, make_take
from bench.sampled import NoPitchError

TIMING_MS = LEVELS["settling"].timing_ms
"""A note that is heard further than that from where it was played is called early or late though it was not."""
Heard = tuple[list[HeardNote], float | None] | None
"""Notes and played tempo; None for a refusal."""


@dataclass
class Tally:
    takes: int = 0
    refused: int = 0
    agree: int = 0
    total: int = 0
    said: int = 0
    """Notes that got a definite status."""
    accused: int = 0
    right: int = 0
    wrong_found: int = 0
    wrong: int = 0
    """Notes on another pitch, and how many of them were found."""
    missed_found: int = 0
    missed: int = 0
    cents: list[float] = field(default_factory=list)
    onset_ms: list[float] = field(default_factory=list)
    timed_ms: list[float] = field(default_factory=list)
    """Of the notes of which something is said in time: how far off the truth."""
    tempo_percent: list[float] = field(default_factory=list)
    onset_pitch_f: list[float] = field(default_factory=list)
    cpu_s: float = 0.0
    sound_s: float = 0.0
    confidence: list[tuple[float, bool]] = field(default_factory=list)


def ear(take: Take) -> Heard:
    performance = listen(take.sound, RATE, take.score)
    if isinstance(performance, Refusal):
        return None
    assert isinstance(performance, Performance)
    pulse = find_pulse(take.score, performance.chosen, performance.strays)
    return list(performance.chosen.notes), pulse.played_bpm if pulse else None


def score_take(tally: Tally, take: Take, hear: Callable[[Take], Heard]) -> None:
    begin = time.process_time()
    heard = hear(take)
    tally.cpu_s += time.process_time() - begin
    tally.sound_s += len(take.sound) / RATE
    tally.takes += 1
    if heard is None:
        tally.refused += 1
        return
    if take.refuse:
        return
    notes, tempo = heard
    last = max(t.note.go for t in take.truths)
    truth = {t.note.index: t for t in take.truths if t.note.go == last and t.note.index is not None}
    for note in notes:
        wanted = take.notes[note.index]
        tally.total += 1
        tally.said += note.status != "unclear"
        tally.agree += note.status == wanted
        tally.right += wanted == "played"
        tally.accused += wanted == "played" and note.status in ("wrong_pitch", "missed")
        tally.wrong += wanted == "wrong_pitch"
        tally.wrong_found += wanted == note.status == "wrong_pitch"
        tally.missed += wanted == "missed"
        tally.missed_found += wanted == note.status == "missed"
        if note.status != "unclear":
            tally.confidence.append((note.confidence, note.status == wanted))
        own = truth.get(note.index)
        if (
            own
            and wanted == "played"
            and note.status == "played"
            and note.heard_midi is not None
            and note.onset_s is not None
        ):
            tally.cents.append(abs(100 * (note.heard_midi - own.note.midi)))
            off_ms = abs(1000 * (note.onset_s - own.onset_s))
            tally.onset_ms.append(off_ms)
            tally.timed_ms += [off_ms] if note.moment_sure else []
    if tempo is not None and not take.habits.drift:
        tally.tempo_percent.append(abs(100 * (tempo / take.tempo_bpm - 1)))
    tally.onset_pitch_f.append(_onset_pitch(notes, list(truth.values())))


def _onset_pitch(notes: list[HeardNote], truths: list) -> float:
    """mir_eval's onset-pitch F-measure (50 ms, 50 cents), the field's usual yardstick for heard notes."""
    found = [n for n in notes if n.onset_s is not None and n.heard_midi is not None and n.offset_s is not None]
    if not found or not truths:
        return 0.0
    intervals = np.array([[n.onset_s, max(n.offset_s or 0.0, (n.onset_s or 0.0) + 0.01)] for n in found])
    hz = 440 * 2 ** ((np.array([n.heard_midi for n in found], dtype=float) - 69) / 12)
    wanted = np.array([[t.onset_s, max(t.offset_s, t.onset_s + 0.01)] for t in truths])
    wanted_hz = 440 * 2 ** ((np.array([float(t.note.midi) for t in truths]) - 69) / 12)
    scores = mir_eval.transcription.evaluate(wanted, wanted_hz, intervals, hz, offset_ratio=None)
    return float(scores["F-measure_no_offset"])


def _share(part: int, whole: int) -> str:
    return f"{part / whole:.2f}" if whole else "-"


def _percentile(values: list[float], at: float) -> str:
    return f"{np.percentile(values, at):.1f}" if values else "-"


def row(name: str, t: Tally) -> str:
    precision, recall = t.agree / max(t.said, 1), t.agree / max(t.total, 1)
    f1 = 2 * precision * recall / max(precision + recall, 1e-9)
    return " | ".join(
        [
            name, str(t.takes), str(t.refused),
            f"{precision:.3f}" if t.total else "-", f"{recall:.3f}" if t.total else "-", f"{f1:.3f}" if t.total else "-",
            f"{100 * t.accused / t.right:.2f}" if t.right else "-",
            f"{_share(t.wrong_found, t.wrong)} / {_share(t.missed_found, t.missed)}",
            f"{_percentile(t.cents, 50)} / {_percentile(t.cents, 95)}",
            f"{_percentile(t.onset_ms, 50)} / {_percentile(t.onset_ms, 95)}",
            f"{100 * np.mean(np.array(t.timed_ms) > TIMING_MS):.2f}" if t.timed_ms else "-",
            _percentile(t.tempo_percent, 50),
            f"{np.mean(t.onset_pitch_f):.3f}" if t.onset_pitch_f else "-",
            f"{t.cpu_s / max(t.sound_s, 1e-9):.3f}",
        ]
    )  # fmt: skip


HEAD = (
    "family | takes | refused | precision | recall | F1 | accused of 100 right | wrong / missed found | "
    "cents median / 95 % | onset ms median / 95 % | misplaced of 100 timed | tempo % | onset-pitch F | CPU s / s"
)


def run(names: list[str], seeds: range, hear: Callable[[Take], Heard] = ear, verbose: bool = True) -> dict[str, Tally]:
    tallies: dict[str, Tally] = defaultdict(Tally)
    for name in names:
        for seed in seeds:
            try:
                take = make_take(name, seed)
            except NoPitchError as error:
                print(f"left out: {name}, seed {seed}: {error}", flush=True)
                continue
            score_take(tallies[name], take, hear)
        if verbose:
            print("| " + row(name, tallies[name]) + " |", flush=True)
    return tallies


def total(tallies: dict[str, Tally]) -> Tally:
    whole = Tally()
    for name, tally in tallies.items():
        if name in REFUSALS:
            continue
        for key, value in tally.__dict__.items():
            setattr(whole, key, getattr(whole, key) + value)
    return whole


def calibration(tally: Tally) -> list[str]:
    lines = ["confidence | notes | of these right", "---|---|---"]
    for low, high in ((0.0, 0.7), (0.7, 0.8), (0.8, 0.9), (0.9, 0.95), (0.95, 1.01)):
        own = [right for confidence, right in tally.confidence if low <= confidence < high]
        if own:
            lines.append(f"{low:.2f} to {min(high, 1):.2f} | {len(own)} | {np.mean(own):.3f}")
    return lines


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--seeds", type=int, default=6)
    options.add_argument("--first", type=int, default=0)
    options.add_argument("--family", action="append")
    options.add_argument("--peers", action="store_true", help="Run the two peers on the same takes (slow).")
    sources.add_options(options)
    options.add_argument("--write", type=Path)
    chosen = options.parse_args()
    other = sources.choose(chosen)
    names = chosen.family or [*FAMILIES, *REFUSALS]
    seeds = range(chosen.first, chosen.first + chosen.seeds)
    print("| " + HEAD + " |\n|" + "---|" * 14)
    tallies = run(names, seeds)
    whole = total(tallies)
    peak_mb = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print("| " + row("**all true takes**", whole) + " |")
    lines = ["| " + line + " |" for line in calibration(whole)]
    print("\n".join(lines), f"\npeak memory of the whole run {peak_mb:.0f} MB")
    peers: list[str] = []
    if chosen.peers:
        from bench.peers import PEERS

        for peer, hear in PEERS.items():
            theirs = total(
                run([n for n in names if n not in REFUSALS], range(seeds.start, seeds.start + 1), hear, verbose=False)
            )
            peers.append("| " + row(peer, theirs) + " |")
            print(peers[-1], flush=True)
    if chosen.write:
        table = "\n".join("| " + row(name, tally) + " |" for name, tally in tallies.items())
        if other:
            _write_other(chosen.write, table, whole, seeds, other)
        else:
            _write(chosen.write, table, whole, peers, seeds, peak_mb)


def _write(path: Path, table: str, whole: Tally, peers: list[str], seeds: range, peak_mb: float) -> None:
    write_part(
        path,
        "How well it hears",
        f"""`python -m bench.listening --seeds {len(seeds)} --first {seeds.start} --peers --write docs/benchmark.md`, {date.today()}, two cores of a shared x86_64
machine, Python 3.11. Takes come from two sources that know nothing of each other: the simulated pupil, and sampled strings
from a soundfont whose own tuning and attack are measured first (Praat, level). An unclear note counts against recall, not
against precision. A note is misplaced that is said to be heard at its moment and lies more than {TIMING_MS:.0f} ms off. The peers run on one seed of each family.

| {HEAD} |
|{"---|" * 14}
{table}
| {row("**all true takes**", whole)} |
{chr(10).join(peers)}

## Is the confidence what it says?

{chr(10).join("| " + line + " |" for line in calibration(whole))}

Peak memory of the whole run, making the takes included: {peak_mb:.0f} MB.
""",
    )


def _write_other(path: Path, table: str, whole: Tally, seeds: range, other: sources.Source) -> None:
    write_part(
        path,
        f"How well it hears {other.title}",
        f"""`python -m bench.listening --seeds {len(seeds)} --first {seeds.start} {other.option} --write docs/benchmark.md`, {date.today()}.
{other.words} Slurs, and what is to be refused but other rhythms, by the simulated pupil. No weight of the decoder was fitted on it.

| {HEAD} |
|{"---|" * 14}
{table}
| {row("**all true takes**", whole)} |
""",
    )


if __name__ == "__main__":
    main()
