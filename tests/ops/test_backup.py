"""A backup is restored into another installation, and everything is compared."""

from __future__ import annotations

import stat
import tarfile
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner
from sqlalchemy import Engine, text

from attentive_owl.cli import main
from attentive_owl.ops.backup import read_backup, write_backup
from attentive_owl.ops.cluster import Cluster, OpsError
from attentive_owl.settings import Settings, load_settings
from attentive_owl.store.models import Base
from attentive_owl.store.session import make_engine, studio_session
from attentive_owl.web.app import create_app
from tests.conftest import Filled, Visitor, fresh_settings
from tests.web.desk import given_take, report
from tests.web.takes import hand_in

pytestmark = pytest.mark.own_database


def rows(engine: Engine) -> dict[str, list[str]]:
    tables = [*(table.name for table in Base.metadata.sorted_tables), "procrastinate_jobs", "alembic_version"]
    with engine.connect() as connection:
        return {
            name: sorted(connection.execute(text(f"SELECT to_jsonb(own)::text FROM {name} own")).scalars())
            for name in tables
        }


def sounds(settings: Settings) -> dict[str, bytes]:
    root = settings.var / "audio"
    return {
        str(path.relative_to(root)): path.read_bytes()
        for kind in ("original", "playback", "picture") for path in root.glob(f"{kind}/*/*")
    }  # fmt: skip


@pytest.fixture
def rich(app: Any, engine: Engine, filled: Filled, violin_take: bytes) -> Filled:
    hand_in(Visitor(app).pupil(filled), filled, violin_take)
    take = given_take(engine, filled, report())
    Visitor(app).teacher(filled).post(f"/api/takes/{take}/marks", json={"verdict": "accepted", "remark": "Größer: 𝄞"})
    return filled


def test_what_is_restored_is_all_there_and_goes_on(
    engine: Engine, settings: Settings, rich: Filled, cluster: Cluster, tmp_path_factory: pytest.TempPathFactory
) -> None:
    path = settings.var / "backup.tar"
    assert write_backup(settings, path) == 1
    assert stat.S_IMODE(path.stat().st_mode) == 0o600
    assert not list(settings.var.glob("*.part"))
    before, heard = rows(engine), sounds(settings)
    with fresh_settings(cluster, tmp_path_factory.mktemp("other")) as other:
        (other.var / "secret.key").write_text("another key")
        assert read_backup(other, path) == 1
        assert (other.var / "secret.key").read_text() == settings.secret_key
        new = make_engine(other.database_url)
        assert rows(new) == before
        assert sounds(other) == heard
        # Cards, passwords, the walls and the queue are as they were.
        app = create_app(other)
        pupil, teacher = Visitor(app).pupil(rich), Visitor(app).teacher(rich)
        assert [own["title"] for own in pupil.get("/api/today").json["items"]] == ["D major, one octave, quarters"]
        assert teacher.get("/api/takes?only=all").json["total"] == 2
        with studio_session(new, rich.studio_id) as session:
            assert session.execute(text("SELECT count(*) FROM studio")).scalar() == 1
        app.extensions["owl"].engine.dispose()
        with pytest.raises(OpsError, match="studio here already"):
            read_backup(other, path)
        new.dispose()


@pytest.mark.parametrize("kept", [0.3, 0.9])
def test_a_backup_that_is_cut_short_changes_nothing(
    settings: Settings, rich: Filled, cluster: Cluster, tmp_path_factory: pytest.TempPathFactory, kept: float
) -> None:
    path = settings.var / "backup.tar"
    write_backup(settings, path)
    with tarfile.open(path) as package:
        end = max(own.offset_data + own.size for own in package)
    path.write_bytes(path.read_bytes()[: int(kept * end)])
    with fresh_settings(cluster, tmp_path_factory.mktemp("other")) as other:
        before = rows(new := make_engine(other.database_url))
        with pytest.raises(OpsError, match="no whole backup"):
            read_backup(other, path)
        assert rows(new) == before
        new.dispose()


def test_from_the_command_line(
    settings: Settings, rich: Filled, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("OWL_VAR", str(settings.var))
    monkeypatch.setenv("OWL_DATABASE_URL", settings.database_url)
    assert load_settings().audio_url == settings.audio_url
    path = tmp_path / "all.tar"
    done = CliRunner().invoke(main, ["backup", str(path)])
    assert (done.exit_code, "sounds: 1" in done.output) == (0, True), done.output
    refused = CliRunner().invoke(main, ["restore", str(path)])
    assert (refused.exit_code, "empty installation" in refused.output) == (2, True)
    path.write_bytes(b"x" * 2000)
    assert "no whole backup" in CliRunner().invoke(main, ["restore", str(path)]).output
