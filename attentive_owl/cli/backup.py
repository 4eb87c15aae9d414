"""owl backup, owl restore: a whole installation as one file, and back."""

from __future__ import annotations

from pathlib import Path

import click

from attentive_owl.cli.files import Sentence
from attentive_owl.settings import load_settings


@click.command()
@click.argument("path", type=click.Path(path_type=Path, dir_okay=False))
def backup(path: Path) -> None:
    """Write everything to PATH: database, recordings, and the key. It may go on running. Keep the file like a key."""
    from attentive_owl.ops.backup import write_backup
    from attentive_owl.ops.cluster import OpsError

    try:
        sounds = write_backup(load_settings(), path)
    except (OpsError, RuntimeError, OSError) as error:
        raise Sentence(str(error)) from error
    click.echo(f"Everything is in {path}; sounds: {sounds}.")


@click.command()
@click.argument("path", type=click.Path(path_type=Path, exists=True, dir_okay=False))
def restore(path: Path) -> None:
    """Read PATH into an installation in which there is no studio yet. End the web and the workers first."""
    from attentive_owl.ops.backup import read_backup
    from attentive_owl.ops.cluster import OpsError

    try:
        sounds = read_backup(load_settings(), path)
    except (OpsError, RuntimeError, OSError) as error:
        raise Sentence(str(error)) from error
    click.echo(f"Everything of {path} is here; sounds: {sounds}.")
