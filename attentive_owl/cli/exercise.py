"""owl exercise: exercises as MusicXML."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import click

from attentive_owl.cli.files import Sentence, write_file
from attentive_owl.core.exercises import (
    FAMILIES,
    HIGHEST_TEMPO_BPM,
    LOWEST_TEMPO_BPM,
    PATTERNS,
    Bowing,
    Ease,
    build,
)
from attentive_owl.core.instruments import INSTRUMENTS, FourthFinger
from attentive_owl.core.theory import ScaleForm
from attentive_owl.formats.musicxml import write_musicxml
from attentive_owl.store.exercises import recipe_from_document


@click.command()
@click.argument("family", type=click.Choice(list(FAMILIES)), default="scale")
@click.option("--instrument", type=click.Choice(list(INSTRUMENTS)), required=True)
@click.option("--tonic", help="D, G, Bb ...")
@click.option("--form", type=click.Choice([form.value for form in ScaleForm]))
@click.option("--octaves", type=click.IntRange(1, 2))
@click.option("--pattern", type=click.Choice(list(PATTERNS)))
@click.option("--tempo", "tempo_bpm", type=click.FloatRange(LOWEST_TEMPO_BPM, HIGHEST_TEMPO_BPM))
@click.option("--bowing", type=click.Choice([bowing.value for bowing in Bowing]))
@click.option("--fourth-finger", type=click.Choice([policy.value for policy in FourthFinger]))
@click.option("--line", "ease", type=click.Choice([ease.value for ease in Ease]), default=Ease.USUAL.value)
@click.option(
    "--set",
    "choices",
    multiple=True,
    metavar="NAME=VALUE",
    help="Any other choice: direction=up, bars=[2,3], wait=true ...",
)
@click.option("-o", "--output", type=click.Path(path_type=Path), required=True)
def exercise(
    family: str, instrument: str, ease: str, choices: tuple[str, ...], output: Path, **given: str | float | None
) -> None:
    """Make an exercise as MusicXML: any family of the workshop (a scale, where none is named), on one instrument."""
    document: dict[str, Any] = {"family": family, **{name: value for name, value in given.items() if value is not None}}
    for choice in choices:
        name, told, text = choice.partition("=")
        if not told:
            raise Sentence(f"{choice!r} is no choice such as direction=up")
        try:
            document[name] = json.loads(text)
        except json.JSONDecodeError:
            document[name] = text
    try:
        written = build(recipe_from_document(document), instrument, Ease(ease))
    except ValueError as error:
        raise Sentence(str(error)) from error
    write_file(output, write_musicxml(written))
    click.echo(f"{written.title}, {written.instrument.name.lower()}: {len(written.notes)} notes -> {output}")
