"""Every migration down and up again on a studio with something in every table: nothing that an earlier program knew is lost."""

from __future__ import annotations

from typing import Any

import pytest
from alembic import command
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, inspect, text

from attentive_owl.store.migrate import alembic_config, migrate
from tests.conftest import Filled, Visitor
from tests.web.desk import cause, given_take, report

pytestmark = pytest.mark.own_database


def to(engine: Engine, revision: str) -> None:
    config = alembic_config()
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        step = command.upgrade if revision == "head" else command.downgrade
        step(config, revision)


def known(engine: Engine) -> dict[str, tuple[set[str], int]]:
    """Table -> its columns, and how many rows it has."""
    with engine.connect() as connection:
        inspector = inspect(connection)
        return {
            name: (
                {column["name"] for column in inspector.get_columns(name)},
                int(connection.scalar(text(f'SELECT count(*) FROM "{name}"')) or 0),
            )
            for name in inspector.get_table_names()
            if not name.startswith(("procrastinate", "alembic"))
        }


def test_down_to_nothing_and_up_again_step_by_step(engine: Engine) -> None:
    revisions = [own.revision for own in ScriptDirectory.from_config(alembic_config()).walk_revisions()]
    forms = [known(engine)]
    for revision in [*revisions[1:], "base"]:
        to(engine, revision)
        forms.append(known(engine))
    assert forms[-1] == {}
    for revision, form in zip(reversed(revisions), reversed(forms[:-1]), strict=True):
        config = alembic_config()
        with engine.begin() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, revision)
        assert known(engine) == form, revision
    with engine.connect() as connection:
        assert MigrationContext.configure(connection).get_current_revision() == revisions[0]


def test_what_an_earlier_program_made_is_all_there_under_the_new_one(app: Any, engine: Engine, filled: Filled) -> None:
    """The database of version 0.4: reports without columns of their own, cards without an epoch."""
    low = cause("finger", finger=2, cents=-20.0, mm=3.0, towards="bridge", title="Second finger stands low")
    given_take(engine, filled, report(good=False, home=11, wrong=["F#4"], causes=[low]))
    given_take(engine, filled, report(refusal="voices"))
    teacher = Visitor(app).teacher(filled)
    before = teacher.get("/api/takes").json
    to(engine, "0012")
    assert "causes" not in known(engine)["report"][0]
    migrate(engine)
    again = Visitor(app).teacher(filled)
    assert again.get("/api/takes").json == before
    assert [row["need"] for row in before["takes"]] == ["refused", "wrong_notes"]
    assert again.get("/api/together").json["of"] == 1
    assert Visitor(app).pupil(filled).get("/api/today").status_code == 200
