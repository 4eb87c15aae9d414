"""owl serve, worker, migrate, demo, openapi: the program itself."""

from __future__ import annotations

import json
import os
import sys
from pathlib import Path

import click

from attentive_owl.cli.files import Sentence, write_file
from attentive_owl.settings import Settings, load_settings


@click.command()
def worker() -> None:
    """Check takes from the queue until told to stop. Run as many as there are processors."""
    from attentive_owl.jobs.worker import run_worker
    from attentive_owl.ops import logs

    # Whatever it writes is for whoever runs it alone.
    os.umask(0o077)
    # Somebody waits for a page; a check may take a second longer.
    os.nice(10)
    logs.begin()
    run_worker(_settings())


@click.command()
def migrate() -> None:
    """Bring the database to the newest form."""
    from attentive_owl.store.migrate import migrate as bring_up
    from attentive_owl.store.session import make_engine

    bring_up(make_engine(_settings().database_url))
    click.echo("The database is up to date.")


@click.command()
def demo() -> None:
    """Fill an empty database with the demo scenario."""
    from attentive_owl.demo.load import load_demo

    click.echo("The demo is loaded." if load_demo(_settings()) else "There is data already; nothing was changed.")


@click.command()
@click.option("-o", "--output", type=click.Path(path_type=Path), required=True)
def openapi(output: Path) -> None:
    """Write the OpenAPI document of the web interface."""
    from attentive_owl.web.app import openapi_document

    write_file(output, (json.dumps(openapi_document(), indent=1, sort_keys=True) + "\n").encode())


@click.command()
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
        raise Sentence(str(error)) from error
