"""A session sees one studio; migrations and models agree."""

from __future__ import annotations

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from attentive_owl.settings import Settings
from attentive_owl.store.audio import AudioStore
from attentive_owl.store.models import Base, ClassGroup, Exercise, Pupil, StudioOwned
from attentive_owl.store.session import ScopeError, studio_session
from tests.conftest import Filled, fill


def test_a_session_reads_only_its_studio(engine: Engine, settings: Settings, filled: Filled) -> None:
    other = fill(engine, settings, "two")
    with studio_session(engine, filled.studio_id) as session:
        assert {p.id for p in session.scalars(select(Pupil))} == {filled.pupil_id, filled.other_pupil_id}
        assert session.get(Pupil, other.pupil_id) is None
        assert session.scalar(select(ClassGroup).where(ClassGroup.id == other.group_id)) is None


def test_a_session_writes_only_into_its_studio(engine: Engine, settings: Settings, filled: Filled) -> None:
    other = fill(engine, settings, "two")
    with pytest.raises(ScopeError), studio_session(engine, filled.studio_id) as session:
        session.add(Exercise(studio_id=other.studio_id, title="t", recipe={}))
    with studio_session(engine, filled.studio_id) as session:
        exercise = Exercise(title="own", recipe={})
        session.add(exercise)
        session.flush()
        assert exercise.studio_id == filled.studio_id


def test_a_session_without_a_studio_asks_nothing(engine: Engine) -> None:
    with Session(engine) as session, pytest.raises(ScopeError):
        session.scalars(select(Pupil)).all()


def test_every_table_with_people_s_data_belongs_to_a_studio() -> None:
    owned = {mapper.class_.__tablename__ for mapper in Base.registry.mappers if issubclass(mapper.class_, StudioOwned)}
    assert set(Base.metadata.tables) - owned == {"studio", "assignment_pupil", "class_pupil", "sign_in_attempt"}


def test_migrations_lead_to_the_models(engine: Engine) -> None:
    with engine.connect() as connection:
        context = MigrationContext.configure(
            connection,
            opts={
                "include_object": lambda item, name, kind, *_: (
                    not (kind == "table" and name.startswith("procrastinate"))
                )
            },
        )
        assert compare_metadata(context, Base.metadata) == []


def test_audio_is_kept_whole_and_once(tmp_path) -> None:
    store = AudioStore(f"file://{tmp_path / 'audio'}")
    source = tmp_path / "s"
    source.write_bytes(b"sound")
    store.put(source, "ab12", "original")
    source.write_bytes(b"other")
    store.put(source, "ab12", "original")
    assert store.read("ab12", "original") == b"sound"
    assert not list((tmp_path / "audio").rglob("*.part"))
    with pytest.raises(FileNotFoundError):
        store.read("cd34", "original")
