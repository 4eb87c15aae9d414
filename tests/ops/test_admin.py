"""owl admin and owl archive, as they are typed."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner
from sqlalchemy import Engine, func, select

from attentive_owl.cli.main import main
from attentive_owl.settings import Settings
from attentive_owl.store.models import Studio, Teacher
from attentive_owl.store.session import open_session
from tests.conftest import PASSWORD, Filled, Visitor, fill


@pytest.fixture
def owl(settings: Settings, monkeypatch: pytest.MonkeyPatch) -> Any:
    monkeypatch.setenv("OWL_VAR", str(settings.var))
    monkeypatch.setenv("OWL_DATABASE_URL", settings.database_url)
    monkeypatch.setenv("OWL_AUDIO_URL", settings.audio_url)
    return lambda *words: CliRunner().invoke(main, list(words))


def sign_in(app: Any, email: str, password: str) -> int:
    return int(Visitor(app).post("/api/session/teacher", json={"email": email, "password": password}).status_code)


def test_a_studio_is_made_and_a_password_reset(app: Any, owl: Any) -> None:
    made = owl("admin", "studio", "Boat House", "--teacher", "Ida", "--email", "ida@boat.example")
    assert made.exit_code == 0, made.output
    first = made.output.strip().split(": ", 1)[1]
    assert sign_in(app, "ida@boat.example", first) == 200
    visitor = Visitor(app)
    visitor.post("/api/session/teacher", json={"email": "ida@boat.example", "password": first})
    fresh = owl("admin", "password", "IDA@boat.example").output.strip().split(": ", 1)[1]
    assert visitor.get("/api/week").status_code == 401
    assert (sign_in(app, "ida@boat.example", first), sign_in(app, "ida@boat.example", fresh)) == (401, 200)
    second = owl("admin", "teacher", "bo@boat.example", "--studio", "Boat House", "--name", "Bo")
    assert sign_in(app, "bo@boat.example", second.output.strip().split(": ", 1)[1]) == 200
    again = owl("admin", "teacher", "BO@boat.example", "--studio", "Boat House", "--name", "Bo")
    assert (again.exit_code, "has an account already" in again.output) == (2, True)


@pytest.mark.parametrize(
    "words", [("password", "nobody@x.example"), ("sign-out", "Nowhere"), ("erase-studio", "Nowhere", "--yes")]
)
def test_who_is_not_there_gets_one_line(owl: Any, filled: Filled, words: tuple[str, ...]) -> None:
    answer = owl("admin", *words)
    assert (answer.exit_code, answer.output.count("\n")) == (2, 1)


def test_everybody_is_signed_out_of_one_studio(
    app: Any, engine: Engine, settings: Settings, owl: Any, filled: Filled
) -> None:
    stranger = fill(engine, settings, "two")
    ours, pupil, theirs = Visitor(app).teacher(filled), Visitor(app).pupil(filled), Visitor(app).teacher(stranger)
    assert owl("admin", "sign-out", "Studio one").output == "3 people are signed out.\n"
    assert [
        own.get(path).status_code for own, path in ((ours, "/api/week"), (pupil, "/api/today"), (theirs, "/api/week"))
    ] == [401, 401, 200]


def test_a_studio_is_erased_only_when_it_is_meant(engine: Engine, settings: Settings, owl: Any, filled: Filled) -> None:
    fill(engine, settings, "two")
    assert owl("admin", "erase-studio", "Studio one").exit_code != 0
    assert owl("admin", "erase-studio", "Studio one", "--yes").exit_code == 0
    with open_session(engine, "tests look") as session:
        assert session.scalars(select(Studio.name)).all() == ["Studio two"]
        assert session.scalar(select(func.count()).select_from(Teacher)) == 1


def test_a_studio_goes_into_a_file_and_comes_back(
    app: Any, engine: Engine, owl: Any, filled: Filled, tmp_path: Path
) -> None:
    path = tmp_path / "studio.zip"
    out = owl("archive", "out", str(path))
    assert (out.exit_code, path.exists()) == (0, True), out.output
    assert not path.with_suffix(".zip.part").exists()
    twice = owl("archive", "in", str(path))
    assert (twice.exit_code, twice.output.strip()) == (2, "Error: This studio is here already.")
    owl("admin", "erase-studio", "Studio one", "--yes")
    assert owl("archive", "in", str(path)).output == "Studio one is here.\n"
    assert sign_in(app, filled.email, PASSWORD) == 200
    path.write_bytes(b"nothing")
    assert owl("archive", "in", str(path)).exit_code == 2
