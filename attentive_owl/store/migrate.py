"""Brings a database to the newest form: our tables by Alembic, the queue's by procrastinate."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from procrastinate.schema import SchemaManager
from sqlalchemy import Engine, inspect

from attentive_owl.store.wall import raise_wall


def alembic_config() -> Config:
    return Config(str(Path(__file__).with_name("alembic.ini")))


def is_newest(engine: Engine) -> bool:
    """Whether every migration was run."""
    with engine.connect() as connection:
        return MigrationContext.configure(connection).get_current_revision() == _head()


@cache
def _head() -> str | None:
    return ScriptDirectory.from_config(alembic_config()).get_current_head()


def migrate(engine: Engine) -> None:
    """Safe to run again, and by several at once (an advisory lock lets one through at a time)."""
    config = alembic_config()
    with engine.begin() as connection:
        connection.exec_driver_sql("SELECT pg_advisory_xact_lock(7390412)")
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
        if not inspect(connection).has_table("procrastinate_jobs"):
            # The driver's own connection: the schema is many statements, which a prepared one can not be.
            connection.connection.driver_connection.execute(SchemaManager.get_schema())  # type: ignore[union-attr]
        raise_wall(connection)
