"""owl exercise: exercises as MusicXML."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import click

from attentive_owl.cli.files import Sentence, write_file
from attentive_owl.core.exercises import FAMILIES, HIGHEST_TEMPO_BPM, LOWEST_TEMPO_BPM, PATTERNS, build
from attentive_owl.core.instruments import INSTRUMENTS, FourthFinger
from attentive_owl.formats.musicxml import write_musicxml
from attentive_owl.store.exercises import recipe_from_document


@click.group()
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
            raise Sentence(f"{choice!r} is no choice such as tonic=G")
        try:
            document[name] = json.loads(text)
        except json.JSONDecodeError:
            document[name] = text
    _make(document, instrument, output)


def _make(document: dict[str, Any], instrument: str, output: Path) -> None:
    try:
        written = build(recipe_from_document(document), instrument)
    except ValueError as error:
        raise Sentence(str(error)) from error
    write_file(output, write_musicxml(written))
    click.echo(f"{written.title}, {written.instrument.name.lower()}: {len(written.notes)} notes -> {output}")
