"""The database's own wall between studios holds where a query has no scope at all."""

from __future__ import annotations

import uuid

import pytest
from sqlalchemy import Engine, text
from sqlalchemy.exc import ProgrammingError

from attentive_owl.settings import Settings
from attentive_owl.store.models import Base
from attentive_owl.store.session import open_session, studio_session
from attentive_owl.store.wall import ROLE
from tests.conftest import Filled, fill
from tests.web.desk import given_take, report

TABLES = [table.name for table in Base.metadata.sorted_tables]


def test_every_table_has_its_rule(engine: Engine) -> None:
    with engine.connect() as connection:
        walled = connection.execute(
            text("SELECT relname FROM pg_class WHERE relrowsecurity AND relnamespace = 'public'::regnamespace")
        ).scalars()
        assert set(walled) == set(TABLES)


@pytest.mark.parametrize("table", TABLES)
def test_a_query_without_a_scope_sees_one_studio(
    engine: Engine, settings: Settings, filled: Filled, table: str
) -> None:
    other = fill(engine, settings, "two")
    for own in (filled, other):
        given_take(engine, own, report())
    everything = text(f'SELECT count(*) FROM "{table}"')
    with open_session(engine, "tests look") as session:
        all_rows = session.execute(everything).scalar() or 0
    seen = []
    for own in (filled, other):
        with studio_session(engine, own.studio_id) as session:
            seen.append(session.connection().execute(everything).scalar() or 0)
    with studio_session(engine, uuid.uuid4()) as session:
        assert session.connection().execute(everything).scalar() == 0
    assert sum(seen) == (0 if table == "sign_in_attempt" else all_rows)
    if all_rows:
        assert 0 < seen[0] < all_rows


def test_nothing_is_written_into_another_studio(engine: Engine, settings: Settings, filled: Filled) -> None:
    other = fill(engine, settings, "two")
    with studio_session(engine, filled.studio_id) as session:
        connection = session.connection()
        assert connection.execute(text("UPDATE pupil SET name = 'Nobody'")).rowcount == 2
        assert connection.execute(text("DELETE FROM exercise WHERE id = :id"), {"id": other.exercise_id}).rowcount == 0
    with (
        pytest.raises(ProgrammingError, match="row-level security"),
        studio_session(engine, filled.studio_id) as session,
    ):
        session.connection().execute(text("UPDATE class_group SET studio_id = :other"), {"other": other.studio_id})
    with (
        pytest.raises(ProgrammingError, match="row-level security"),
        studio_session(engine, filled.studio_id) as session,
    ):
        session.connection().execute(
            text("INSERT INTO class_pupil VALUES (:one, :other)"), {"one": other.group_id, "other": filled.pupil_id}
        )
    with open_session(engine, "tests look") as session:
        names = session.execute(text("SELECT name FROM pupil WHERE studio_id = :own"), {"own": other.studio_id})
        assert set(names.scalars()) == {other.pupil_name, other.other_pupil_name}


def test_the_role_is_left_with_the_transaction(engine: Engine, filled: Filled) -> None:
    with engine.connect() as connection:
        own = connection.execute(text("SELECT current_user")).scalar()
        connection.rollback()
        for _ in range(2):
            with studio_session(engine, filled.studio_id) as session:
                assert session.connection().execute(text("SELECT current_user")).scalar() == ROLE
            with open_session(engine, "tests look") as session:
                assert session.execute(text("SELECT current_user")).scalar() == own


def test_the_role_owns_nothing_and_can_not_sign_in(engine: Engine, filled: Filled) -> None:
    with engine.connect() as connection:
        flags = "rolsuper OR rolcanlogin OR rolbypassrls OR rolcreatedb OR rolcreaterole"
        assert connection.execute(text(f"SELECT {flags} FROM pg_roles WHERE rolname = '{ROLE}'")).scalar() is False
        owned = connection.execute(text(f"SELECT count(*) FROM pg_class WHERE relowner = '{ROLE}'::regrole"))
        assert owned.scalar() == 0
