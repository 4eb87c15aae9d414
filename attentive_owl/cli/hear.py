"""owl hear: what the ear makes of a take, drawn."""

from __future__ import annotations

import sys
from pathlib import Path

import click

from attentive_owl.cli.files import EXIT_REFUSED, Sentence, read_score, read_take
from attentive_owl.core.instruments import INSTRUMENTS
from attentive_owl.core.listening import Refusal, listen
from attentive_owl.formats.plotting import plot_hearing


@click.command()
@click.argument("score", type=click.Path(path_type=Path))
@click.argument("take", type=click.Path(path_type=Path))
@click.option("--instrument", type=click.Choice(list(INSTRUMENTS)))
@click.option("--tempo", type=click.FloatRange(20, 300))
@click.option("--plot", type=click.Path(path_type=Path), required=True, help="A .png file.")
def hear(score: Path, take: Path, instrument: str | None, tempo: float | None, plot: Path) -> None:
    """Draw what the ear makes of TAKE: pitch, level, alignment and confidence over SCORE."""
    if plot.suffix.lower() != ".png":
        raise Sentence("The picture is a .png file.")
    written = read_score(score, instrument)
    if tempo:
        written = written.at_tempo(tempo)
    samples, rate = read_take(take)
    heard = listen(samples, rate, written)
    if isinstance(heard, Refusal):
        click.echo(f"Not heard as this exercise: {heard.code}.")
        sys.exit(EXIT_REFUSED)
    try:
        plot_hearing(samples, rate, written, heard, plot)
    except OSError as error:
        raise Sentence(f"{plot} could not be written ({error.strerror}).") from error
    notes, passes = sum(len(own.played) for own in heard.passes), len(heard.passes)
    click.echo(f"{notes} notes in {'one pass' if passes == 1 else f'{passes} passes'} -> {plot}")
