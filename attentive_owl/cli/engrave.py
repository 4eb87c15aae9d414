"""owl engrave: a score as pictures."""

from __future__ import annotations

from pathlib import Path

import click

from attentive_owl.cli.files import Sentence, read_score, write_file
from attentive_owl.formats.engraving import engrave as engrave_score


@click.command()
@click.argument("score", type=click.Path(path_type=Path))
@click.option("--width", type=click.IntRange(200, 4000), default=900, show_default=True)
@click.option("-o", "--output", type=click.Path(path_type=Path), required=True, help="A folder: one SVG a system.")
def engrave(score: Path, width: int, output: Path) -> None:
    """Engrave SCORE, one picture a system."""
    try:
        systems = engrave_score(read_score(score), width)
    except ValueError as error:
        raise Sentence(f"{score.name} can not be engraved: {error}") from error
    try:
        output.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise Sentence(f"{output} could not be made ({error.strerror}).") from error
    for number, system in enumerate(systems, 1):
        write_file(output / f"system-{number}.svg", system.svg.encode())
    click.echo(f"{len(systems)} systems -> {output}")
