"""owl archive: a whole studio out and in again."""

from __future__ import annotations

import uuid
from pathlib import Path

import click

from attentive_owl.cli.files import Sentence
from attentive_owl.settings import Settings, load_settings


@click.group()
def archive() -> None:
    """A whole studio as one file, out and in again."""


def _settings() -> Settings:
    try:
        return load_settings()
    except RuntimeError as error:
        raise Sentence(str(error)) from error


@archive.command("out")
@click.argument("path", type=click.Path(path_type=Path, dir_okay=False))
@click.option("--studio", help="Its name, where there are several.")
def out(path: Path, studio: str | None) -> None:
    """Write a studio to PATH (a zip). Keep it like a key: hashes of passwords and cards are in it."""
    from sqlalchemy import select

    from attentive_owl.store.archive import write_archive
    from attentive_owl.store.audio import AudioStore
    from attentive_owl.store.models import Studio
    from attentive_owl.store.session import make_engine, open_session

    settings = _settings()
    with open_session(make_engine(settings.database_url), "an archive is asked for by name") as session:
        known: dict[uuid.UUID, str] = {own.id: own.name for own in session.scalars(select(Studio))}
        chosen = [own for own, name in known.items() if studio in (None, name)]
        if len(chosen) != 1:
            raise Sentence(f"Say which with --studio: {', '.join(sorted(known.values())) or 'there is none'}.")
        part = path.with_suffix(path.suffix + ".part")
        with open(part, "wb") as file:
            sounds = write_archive(session, chosen[0], AudioStore(settings.audio_url, settings.store_seen), file)
        part.replace(path)
    click.echo(f"{known[chosen[0]]} is in {path}, with {sounds} sounds.")


@archive.command("in")
@click.argument("path", type=click.Path(path_type=Path, exists=True, dir_okay=False))
def back_in(path: Path) -> None:
    """Read a studio from PATH into this installation."""
    from attentive_owl.store.archive import ArchiveError, read_archive
    from attentive_owl.store.audio import AudioStore
    from attentive_owl.store.models import Studio
    from attentive_owl.store.session import make_engine, open_session

    settings = _settings()
    try:
        with open_session(make_engine(settings.database_url), "a studio comes in whole") as session:
            studio_id = read_archive(session, AudioStore(settings.audio_url, settings.store_seen), path)
            name = session.get_one(Studio, studio_id).name
    except ArchiveError as error:
        raise Sentence(str(error)) from error
    click.echo(f"{name} is here.")
