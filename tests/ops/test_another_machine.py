"""A worker on another machine, that shares nothing with the pages but the database, the object store and the key: it stands in a network
namespace of its own, with a folder of its own. The store is moto's server."""

from __future__ import annotations

import subprocess
import tempfile
from dataclasses import replace
from pathlib import Path

import pytest
from sqlalchemy import Engine
from sqlalchemy.engine import make_url

from attentive_owl.settings import Settings
from attentive_owl.web.app import create_app
from tests.conftest import Filled, Visitor
from tests.object_store import BUCKET, object_store
from tests.processes import running, wait_for
from tests.relay import ALONE, apart
from tests.web.takes import hand_in, state


@pytest.mark.skipif(
    subprocess.run([*ALONE, "true"], capture_output=True, check=False).returncode != 0,
    reason="no network namespaces here",
)
def test_a_worker_that_reaches_the_database_and_the_store_alone_checks_what_the_pages_took(
    settings: Settings, engine: Engine, filled: Filled, tmp_path: Path, violin_take: bytes
) -> None:
    here = replace(settings, audio_url=f"s3://{BUCKET}/recordings")
    elsewhere = tmp_path / "elsewhere"
    elsewhere.mkdir()
    (elsewhere / "secret.key").write_text(here.secret_key)
    database = int(make_url(here.database_url).port or 0)
    with object_store() as (port, _), tempfile.TemporaryDirectory(prefix="owl-doors-") as doors:
        pupil = Visitor(create_app(here)).pupil(filled)
        receipt = hand_in(pupil, filled, violin_take).json
        behind = apart(Path(doors), [port, database])
        with running(replace(here, var=elsewhere), "worker", "attentive_owl.cli", "worker", behind=behind):
            wait_for(lambda: state(engine, receipt["id"]) == "checked")
        given = pupil.get(f"/api/takes/{receipt['id']}/audio").data
    assert given[:4] == b"fLaC"
    # Neither wrote a recording into a folder of its own.
    assert not [path for path in tmp_path.rglob("*") if receipt["sha256"] in path.name]
