"""owl check: a take against a score."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

import click

from attentive_owl.cli.files import EXIT_REFUSED, Sentence, read_score, read_take, write_file
from attentive_owl.core.checking import check as check_take
from attentive_owl.core.instruments import INSTRUMENTS
from attentive_owl.core.judging import LEVELS, Expectations
from attentive_owl.core.listening import OtherLine
from attentive_owl.core.theory import Temperament


def _a4(_: click.Context, __: click.Parameter, value: str) -> float | None:
    if value == "strings":
        return None
    try:
        hz = float(value)
    except ValueError:
        raise click.BadParameter("a frequency such as 440, or 'strings'") from None
    if not 380 <= hz <= 500:
        raise click.BadParameter("A4 lies between 380 and 500 Hz")
    return hz


def _open_strings(_: click.Context, __: click.Parameter, value: str | None) -> dict[str, float]:
    found: dict[str, float] = {}
    for part in (value or "").split(",") if value else ():
        name, given, cents = part.strip().partition("=")
        try:
            found[name] = float(cents)
        except ValueError:
            raise click.BadParameter("strings with their cents, such as A=-12,D=3") from None
        if not given or not name or not abs(found[name]) <= 250:
            raise click.BadParameter("strings with their cents, such as A=-12,D=3")
    return found


@click.command()
@click.argument("score", type=click.Path(path_type=Path))
@click.argument("take", type=click.Path(path_type=Path))
@click.option("--instrument", type=click.Choice(list(INSTRUMENTS)), help="Else found from the score.")
@click.option("--tempo", type=click.FloatRange(20, 300), help="Target in quarter notes a minute; else the score's.")
@click.option("--level", type=click.Choice(list(LEVELS)), default="settling", show_default=True)
@click.option("--temperament", type=click.Choice([t.value for t in Temperament]), default="equal", show_default=True)
@click.option(
    "--a4", callback=_a4, default="440", show_default=True, help="A frequency, or 'strings': the pupil's own."
)
@click.option("--mode", type=click.Choice(["steady", "pauses", "repeats"]), default="steady", show_default=True)
@click.option("--string-length-mm", type=click.FloatRange(150, 1300))
@click.option(
    "--open-strings",
    callback=_open_strings,
    metavar="A=-12,D=3",
    help="What the day's tuning check found: cents of each string over its place (A = 440, pure fifths or fourths).",
)
@click.option(
    "--also",
    "others",
    multiple=True,
    type=click.Path(path_type=Path),
    metavar="SCORE",
    help="Another exercise that may have been played instead; a refusal then names it.",
)
@click.option(
    "--json", "json_path", type=click.Path(path_type=Path), help="Write the report here ('-': to the screen)."
)
def check(
    score: Path,
    take: Path,
    instrument: str | None,
    tempo: float | None,
    level: str,
    temperament: str,
    a4: float | None,
    mode: str,
    string_length_mm: float | None,
    open_strings: dict[str, float],
    others: tuple[Path, ...],
    json_path: Path | None,
) -> None:
    """Check TAKE (a sound file) against SCORE (MusicXML). Exit codes: 0 checked, 3 refused, 2 bad input."""
    written = read_score(score, instrument)
    samples, rate = read_take(take)
    names = {string.name for string in written.instrument.strings}
    if unknown := sorted(set(open_strings) - names):
        raise Sentence(f"A {written.instrument.name.lower()} has no {unknown[0]} string.")
    expectations = Expectations(
        tempo or written.tempo_bpm,
        LEVELS[level],
        Temperament(temperament),
        a4,
        mode,
        string_length_mm,
        open_strings=open_strings,
    )
    known = [OtherLine(other.title, other, str(path)) for path in others if (other := read_score(path, instrument))]
    report = check_take(samples, rate, written, expectations, known).to_document()
    if json_path is not None:
        text = json.dumps(report, indent=2, ensure_ascii=False) + "\n"
        if str(json_path) == "-":
            click.echo(text, nl=False)
        else:
            write_file(json_path, text.encode())
    if json_path is None or str(json_path) != "-":
        _summarise(report)
    if not report["accepted"]:
        sys.exit(EXIT_REFUSED)


def _summarise(report: dict[str, Any]) -> None:
    if not report["accepted"]:
        click.echo(f"Not checked: {report['refusal']['words']}")
        return
    for number, note in enumerate(report["notes"]):
        cents = "" if note["cents"] is None else f"{note['cents']:+6.1f} cents"
        timing = "" if note["timing_ms"] is None else f"{note['timing_ms']:+7.1f} ms"
        place = f"{note['string']}{note['finger']}" if note["string"] else ""
        click.echo(
            f"{number:3d}  bar {note['measure']:<3d} {note['name']:<4s} {place:<4s} {note['status']:<12s} {cents:>13s} {timing:>12s}"
        )
    tempo = report["tempo"]
    if tempo["played_bpm"] is not None:
        click.echo(f"tempo {tempo['played_bpm']:.1f} of {tempo['target_bpm']:g}, drift {tempo['drift_percent']:+.1f} %")
    for word in report["advice"]:
        click.echo(word["text"])
