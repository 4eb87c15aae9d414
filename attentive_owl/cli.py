"""The command line: owl ..."""

from __future__ import annotations

import json
import logging
import sys
import tempfile
from dataclasses import asdict
from pathlib import Path
from typing import Any

import click
import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.checking import check as check_take
from attentive_owl.core.exercises import FAMILIES, HIGHEST_TEMPO_BPM, LOWEST_TEMPO_BPM, PATTERNS, build
from attentive_owl.core.instruments import INSTRUMENTS, FourthFinger
from attentive_owl.core.judging import LEVELS, Expectations
from attentive_owl.core.listening import OtherLine
from attentive_owl.core.playing import Room, parse_habits, perform_score, place_in_room, render
from attentive_owl.core.theory import Temperament
from attentive_owl.formats.audio import AudioFileError, decode_to_flac, flac_bytes, read_flac
from attentive_owl.formats.engraving import engrave
from attentive_owl.formats.musicxml import ScoreFileError, read_musicxml, write_musicxml
from attentive_owl.settings import Settings, load_settings
from attentive_owl.store.exercises import recipe_from_document

EXIT_REFUSED = 3
_RATE = 44100


class _Sentence(click.ClickException):
    """Bad input: one clear line, exit code 2."""

    exit_code = 2


@click.group(context_settings={"help_option_names": ["-h", "--help"]})
def main() -> None:
    """Warm-ups for beginner strings: set, practised, recorded, checked, marked."""


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


@main.command()
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
    written = _read_score(score, instrument)
    samples, rate = _read_take(take)
    names = {string.name for string in written.instrument.strings}
    if unknown := sorted(set(open_strings) - names):
        raise _Sentence(f"A {written.instrument.name.lower()} has no {unknown[0]} string.")
    expectations = Expectations(
        tempo or written.tempo_bpm,
        LEVELS[level],
        Temperament(temperament),
        a4,
        mode,
        string_length_mm,
        open_strings=open_strings,
    )
    known = [OtherLine(other.title, other, str(path)) for path in others if (other := _read_score(path, instrument))]
    report = check_take(samples, rate, written, expectations, known).to_document()
    if json_path is not None:
        text = json.dumps(report, indent=2, ensure_ascii=False) + "\n"
        if str(json_path) == "-":
            click.echo(text, nl=False)
        else:
            _write(json_path, text.encode())
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


def _read_score(path: Path, instrument: str | None = None) -> Any:
    try:
        return read_musicxml(path, instrument)
    except ScoreFileError as error:
        raise _Sentence(str(error)) from error


def _read_take(path: Path) -> tuple[NDArray[np.float32], int]:
    if not path.is_file():
        raise _Sentence(f"There is no file {path.name}.")
    with tempfile.TemporaryDirectory() as folder:
        decoded = Path(folder, "take.flac")
        try:
            decode_to_flac(path, decoded)
        except AudioFileError as error:
            raise _Sentence(str(error)) from error
        return read_flac(decoded)


def _write(path: Path, data: bytes) -> None:
    try:
        path.write_bytes(data)
    except OSError as error:
        raise _Sentence(f"{path} could not be written ({error.strerror}).") from error


@main.command()
@click.argument("score", type=click.Path(path_type=Path))
@click.argument("take", type=click.Path(path_type=Path))
@click.option("--instrument", type=click.Choice(list(INSTRUMENTS)))
@click.option("--tempo", type=click.FloatRange(20, 300))
@click.option("--plot", type=click.Path(path_type=Path), required=True, help="A .png file.")
def hear(score: Path, take: Path, instrument: str | None, tempo: float | None, plot: Path) -> None:
    """Draw what the ear makes of TAKE: pitch, level, alignment and confidence over SCORE."""
    from attentive_owl.core.listening import Refusal, listen
    from attentive_owl.formats.plotting import plot_hearing

    if plot.suffix.lower() != ".png":
        raise _Sentence("The picture is a .png file.")
    written = _read_score(score, instrument)
    if tempo:
        written = written.at_tempo(tempo)
    samples, rate = _read_take(take)
    heard = listen(samples, rate, written)
    if isinstance(heard, Refusal):
        click.echo(f"Not heard as this exercise: {heard.code}.")
        sys.exit(EXIT_REFUSED)
    try:
        plot_hearing(samples, rate, written, heard, plot)
    except OSError as error:
        raise _Sentence(f"{plot} could not be written ({error.strerror}).") from error
    click.echo(f"{sum(len(go.played) for go in heard.goes)} notes in {len(heard.goes)} goes -> {plot}")


@main.group()
def exercise() -> None:
    """Make an exercise as MusicXML."""


@exercise.command()
@click.option("--tonic", required=True, help="D, G, Bb ...")
@click.option("--mode", type=click.Choice(["major"]), default="major", show_default=True)
@click.option("--instrument", type=click.Choice(list(INSTRUMENTS)), required=True)
@click.option("--pattern", type=click.Choice(list(PATTERNS)), default="quarters", show_default=True)
@click.option("--tempo", type=click.FloatRange(LOWEST_TEMPO_BPM, HIGHEST_TEMPO_BPM), default=72, show_default=True)
@click.option("--fourth-finger", type=click.Choice([f.value for f in FourthFinger]), default="open", show_default=True)
@click.option("-o", "--output", type=click.Path(path_type=Path), required=True)
def scale(tonic: str, mode: str, instrument: str, pattern: str, tempo: float, fourth_finger: str, output: Path) -> None:
    """One octave up and down, the pattern on every degree."""
    _make({"tonic": tonic, "pattern": pattern, "tempo_bpm": tempo, "fourth_finger": fourth_finger}, instrument, output)


@exercise.command("make")
@click.argument("family", type=click.Choice(list(FAMILIES)))
@click.option("--instrument", type=click.Choice(list(INSTRUMENTS)), required=True)
@click.option(
    "--set",
    "choices",
    multiple=True,
    metavar="NAME=VALUE",
    help="tonic=G, form='harmonic minor', octaves=2, bars=[2,3] ...",
)
@click.option("-o", "--output", type=click.Path(path_type=Path), required=True)
def make(family: str, instrument: str, choices: tuple[str, ...], output: Path) -> None:
    """Any family of the workshop, with any of its choices (the fields of a recipe)."""
    document: dict[str, Any] = {"family": family}
    for choice in choices:
        name, given, text = choice.partition("=")
        if not given:
            raise _Sentence(f"{choice!r} is no choice such as tonic=G")
        try:
            document[name] = json.loads(text)
        except json.JSONDecodeError:
            document[name] = text
    _make(document, instrument, output)


def _make(document: dict[str, Any], instrument: str, output: Path) -> None:
    try:
        written = build(recipe_from_document(document), instrument)
    except ValueError as error:
        raise _Sentence(str(error)) from error
    _write(output, write_musicxml(written))
    click.echo(f"{written.title}, {written.instrument.name.lower()}: {len(written.notes)} notes -> {output}")


@main.command("engrave")
@click.argument("score", type=click.Path(path_type=Path))
@click.option("--width", type=click.IntRange(200, 4000), default=900, show_default=True)
@click.option("-o", "--output", type=click.Path(path_type=Path), required=True, help="A folder: one SVG a system.")
def engrave_command(score: Path, width: int, output: Path) -> None:
    """Engrave SCORE, one picture a system."""
    systems = engrave(_read_score(score), width)
    try:
        output.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise _Sentence(f"{output} could not be made ({error.strerror}).") from error
    for number, system in enumerate(systems, 1):
        _write(output / f"system-{number}.svg", system.svg.encode())
    click.echo(f"{len(systems)} systems -> {output}")


@main.command()
@click.argument("score", type=click.Path(path_type=Path))
@click.option("-o", "--output", type=click.Path(path_type=Path), required=True, help="A .wav or .flac file.")
@click.option("--instrument", type=click.Choice(list(INSTRUMENTS)))
@click.option("--habit", "habits", multiple=True, help="name=value, for example finger_cents=2:-30 or missed=4,7.")
@click.option("--tempo", type=click.FloatRange(20, 300))
@click.option("--snr-db", type=float, default=45.0, show_default=True)
@click.option("--reverb-s", type=click.FloatRange(0, 5), default=0.2, show_default=True)
@click.option("--seed", type=int, default=0, show_default=True)
@click.option("--truth", type=click.Path(path_type=Path), help="Write what was really played, as JSON.")
def perform(
    score: Path,
    output: Path,
    instrument: str | None,
    habits: tuple[str, ...],
    tempo: float | None,
    snr_db: float,
    reverb_s: float,
    seed: int,
    truth: Path | None,
) -> None:
    """Let the simulated pupil play SCORE with the given habits."""
    written = _read_score(score, instrument)
    if tempo:
        written = written.at_tempo(tempo)
    try:
        performed = perform_score(written, parse_habits(habits), seed)
    except ValueError as error:
        raise _Sentence(str(error)) from error
    dry, truths = render(performed, written.instrument_key, _RATE, seed)
    samples = place_in_room(dry, _RATE, Room(snr_db=snr_db, reverb_s=reverb_s), seed)
    if output.suffix.lower() == ".flac":
        _write(output, flac_bytes(samples, _RATE))
    elif output.suffix.lower() == ".wav":
        import soundfile

        try:
            soundfile.write(output, samples, _RATE, subtype="PCM_16")
        except (OSError, soundfile.LibsndfileError) as error:
            raise _Sentence(f"{output} could not be written.") from error
    else:
        raise _Sentence("The output is a .wav or .flac file.")
    if truth is not None:
        entries = [
            {
                "index": t.note.index,
                "onset_s": t.onset_s,
                "offset_s": t.offset_s,
                "midi": float(t.note.midi),
                "pass": t.note.go,
            }
            for t in truths
        ]
        document = {"tempo_bpm": performed.tempo_bpm, "notes": entries, "habits": asdict(parse_habits(habits))}
        _write(truth, (json.dumps(document, indent=1) + "\n").encode())
    click.echo(f"{len(samples) / _RATE:.1f} s -> {output}")


@main.command()
def worker() -> None:
    """Check takes from the queue until told to stop. Run as many as there are processors."""
    from attentive_owl.jobs.worker import run_worker

    logging.basicConfig(level=logging.INFO, format="%(asctime)s %(levelname)s %(name)s: %(message)s")
    run_worker(_settings())


@main.command("migrate")
def migrate_command() -> None:
    """Bring the database to the newest form."""
    from attentive_owl.store.migrate import migrate
    from attentive_owl.store.session import make_engine

    migrate(make_engine(_settings().database_url))
    click.echo("The database is up to date.")


@main.command()
def demo() -> None:
    """Fill an empty database with the demo scenario."""
    from attentive_owl.demo.load import load_demo

    click.echo("The demo is loaded." if load_demo(_settings()) else "There is data already; nothing was changed.")


@main.command()
@click.option("-o", "--output", type=click.Path(path_type=Path), required=True)
def openapi(output: Path) -> None:
    """Write the OpenAPI document of the web interface."""
    from attentive_owl.web.app import openapi_document

    _write(output, (json.dumps(openapi_document(), indent=1, sort_keys=True) + "\n").encode())


@main.command()
def serve() -> None:
    """Database, web and worker together on this machine (what ./start runs)."""
    from attentive_owl.ops.cluster import OpsError
    from attentive_owl.ops.supervise import supervise

    try:
        sys.exit(supervise())
    except OpsError as error:
        click.echo(str(error), err=True)
        sys.exit(1)


def _settings() -> Settings:
    try:
        return load_settings()
    except RuntimeError as error:
        raise _Sentence(str(error)) from error


if __name__ == "__main__":
    main()
