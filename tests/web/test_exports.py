"""Out of the studio and in again: CSV, paper, and the whole studio as one file with nothing lost."""

from __future__ import annotations

import contextlib
import csv
import io
import json
import uuid
import zipfile
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given
from hypothesis import settings as limits
from hypothesis import strategies as st
from openapi_schema_validator import OAS31Validator
from pypdf import PdfReader
from sqlalchemy import Engine, select, text

from attentive_owl.formats.musicxml import read_musicxml
from attentive_owl.formats.results_csv import write_csv
from attentive_owl.settings import Settings
from attentive_owl.store.archive import ArchiveError, archive_schema, read_archive, write_archive
from attentive_owl.store.audio import AudioStore
from attentive_owl.store.models import Base, Pupil, Studio
from attentive_owl.store.session import make_engine, open_session
from tests.conftest import Filled, Visitor, fill, fresh_settings
from tests.damage import damaged, spoil
from tests.web.desk import cause, given_take, report
from tests.web.takes import hand_in

_NOT_COMPARED = {"sign_in_attempt"}


def whole(engine: Engine) -> dict[str, list[tuple[Any, ...]]]:
    """Every row of every table, what the database works out with it."""
    with engine.connect() as connection:
        return {
            table.name: sorted((tuple(row) for row in connection.execute(select(table))), key=str)
            for table in Base.metadata.sorted_tables
            if table.name not in _NOT_COMPARED
        }


def sounds(settings: Settings) -> dict[str, bytes]:
    root = Path(settings.audio_url.removeprefix("file://"))
    files = [path for kind in root.glob("*/") for path in kind.rglob("*") if path.is_file()]
    return {str(path.relative_to(root)): path.read_bytes() for path in files}


@pytest.fixture
def rich(app: Any, engine: Engine, filled: Filled, violin_take: bytes) -> Filled:
    """Something in every table that a studio has."""
    teacher, pupil = Visitor(app).teacher(filled), Visitor(app).pupil(filled)
    take = hand_in(pupil, filled, violin_take).json["id"]
    given_take(engine, filled, report(good=False, causes=[cause("finger", finger=2, mm=3.0, towards="bridge")]))
    teacher.post(f"/api/takes/{take}/marks", json={"verdict": "once_more", "remark": "Größer, bitte: 𝄞"})
    teacher.post(f"/api/takes/{take}/overrules", json={"cause": "drift", "says": "not_so"})
    own = teacher.get("/api/exercises").json["exercises"][0]
    teacher.call("PUT", f"/api/exercises/{own['id']}", json={"recipe": {**own["recipe"], "tonic": "G"}})
    other = teacher.post("/api/classes", json={"name": "Second"}).json["id"]
    teacher.call("PUT", f"/api/pupils/{filled.pupil_id}/classes", json={"class_ids": [other]})
    path = teacher.get("/api/paths").json["paths"][0]
    teacher.call("PATCH", f"/api/pupils/{filled.pupil_id}", json={"path_id": path["id"], "remarks": "Own words"})
    teacher.post(f"/api/pupils/{filled.pupil_id}/passed", json={"recipe": path["steps"][0]["recipe"], "take_id": take})
    teacher.post("/api/sheets/add", json={"recipe": own["recipe"]})
    teacher.post("/api/lessons", json={"class_id": other, "day": "2026-12-01", "starts": "10:00", "minutes": 45})
    teacher.post("/api/breaks", json={"name": "Ice", "first_day": "2026-12-01", "last_day": "2026-12-02"})
    teacher.call("PUT", f"/api/pupils/{filled.pupil_id}/declined", json={"recipe": own["recipe"]})
    teacher.post("/api/invitations", json={})
    return filled


def test_a_studio_goes_out_and_comes_in_with_nothing_lost(
    app: Any, engine: Engine, settings: Settings, rich: Filled, cluster: Any, tmp_path_factory: pytest.TempPathFactory
) -> None:
    before = whole(engine)
    empty = {name for name, rows in before.items() if not rows}
    assert empty <= {"outbox_message", "tuning_reading"}, f"nothing would be proven of {empty}"
    data = Visitor(app).teacher(rich).get("/api/studio/archive.zip").data
    package = zipfile.ZipFile(io.BytesIO(data))
    document, schema = (json.loads(package.read(name)) for name in ("studio.json", "studio.schema.json"))
    assert schema == archive_schema()
    OAS31Validator(schema).validate(document)
    folder = tmp_path_factory.mktemp("other")
    (folder / "studio.zip").write_bytes(data)
    # Another studio is there already, and stays as it is.
    with fresh_settings(cluster, folder) as other:
        target = make_engine(other.database_url)
        fill(target, other, "resident")
        resident = whole(target)
        audio = AudioStore(other.audio_url)
        with open_session(target, "tests read it") as session:
            assert read_archive(session, audio, folder / "studio.zip") == rich.studio_id
        after = whole(target)
        assert {name: [row for row in rows if row not in resident[name]] for name, rows in after.items()} == before
        assert sounds(other) == sounds(settings)
        with open_session(target, "tests read it twice") as session, pytest.raises(ArchiveError, match="here already"):
            read_archive(session, audio, folder / "studio.zip")
        assert whole(target) == after
        target.dispose()


def test_exercises_in_it_are_read_by_our_own_reader(app: Any, rich: Filled, tmp_path: Path) -> None:
    package = zipfile.ZipFile(io.BytesIO(Visitor(app).teacher(rich).get("/api/studio/archive.zip").data))
    names = [name for name in package.namelist() if name.endswith(".musicxml")]
    assert len(names) == 8
    for name in names:
        package.extract(name, tmp_path)
        score = read_musicxml(tmp_path / name)
        assert (score.instrument_key, len(score.notes)) == (Path(name).stem, 16)


def test_no_archive_holds_another_studio(app: Any, engine: Engine, settings: Settings, rich: Filled) -> None:
    stranger = fill(engine, settings, "two")
    data = Visitor(app).teacher(stranger).get("/api/studio/archive.zip").data
    text = zipfile.ZipFile(io.BytesIO(data)).read("studio.json").decode()
    for secret in (rich.pupil_name, str(rich.studio_id), str(rich.pupil_id), rich.email, "Own words"):
        assert secret not in text
    assert stranger.pupil_name in text


def archive_of(document: Any, folder: Path) -> Path:
    path = folder / f"{uuid.uuid4()}.zip"
    with zipfile.ZipFile(path, "w") as package:
        package.writestr("studio.json", json.dumps(document))
    return path


def test_what_is_no_archive_is_refused_whole(
    app: Any, engine: Engine, settings: Settings, rich: Filled, tmp_path: Path
) -> None:
    audio = AudioStore(settings.audio_url)
    with open_session(engine, "tests") as session, open(tmp_path / "own.zip", "wb") as out:
        write_archive(session, rich.studio_id, audio, out)
    own = json.loads(zipfile.ZipFile(tmp_path / "own.zip").read("studio.json"))
    stranger = fill(engine, settings, "two")
    before = whole(engine)
    fresh = "11111111-1111-1111-1111-111111111111"
    renamed = json.loads(json.dumps(own).replace(str(rich.studio_id), fresh))
    reaching = {**renamed, "tables": {name: [] for name in renamed["tables"]} | {"studio": renamed["tables"]["studio"]}}
    reaching["tables"]["assignment_pupil"] = [
        {"assignment_id": str(stranger.assignment_id), "pupil_id": str(stranger.other_pupil_id), "ease": "usual"}
    ]
    not_zip = tmp_path / "x.zip"
    not_zip.write_bytes(b"PK nothing")
    for made, sentence in (
        (not_zip, "no archive"),
        (archive_of([], tmp_path), "no archive"),
        (archive_of({**own, "version": 9}, tmp_path), "another version"),
        (archive_of(renamed, tmp_path), "used here already"),
        (archive_of(reaching, tmp_path), "another studio"),
        (archive_of({**own, "tables": {**own["tables"], "studio": []}}, tmp_path), "one studio"),
    ):
        made = Path(made)
        with pytest.raises(ArchiveError, match=sentence), open_session(engine, "tests") as session:
            read_archive(session, audio, made)
        assert whole(engine) == before


def test_a_sound_of_an_archive_is_the_one_that_its_name_says_and_changes_none_that_is_here(
    app: Any, engine: Engine, settings: Settings, rich: Filled, cluster: Any, tmp_path: Path, tmp_path_factory: Any
) -> None:
    audio, own = AudioStore(settings.audio_url), tmp_path / "own.zip"
    with open_session(engine, "tests") as session, open(own, "wb") as out:
        write_archive(session, rich.studio_id, audio, out)
    with zipfile.ZipFile(own) as package:
        held = {name: package.read(name) for name in package.namelist()}
    original = next(name for name in held if name.startswith("sounds/original/"))
    name = original.rsplit("/", 1)[1]
    damaged_one, planted = tmp_path / "damaged.zip", tmp_path / "planted.zip"
    # The damaged one is the last; the planted one is what would be played in the place of another studio's recording.
    for made, parts in (
        (damaged_one, {**{own: data for own, data in held.items() if own != original}, original: b"another sound"}),
        (planted, {**held, f"sounds/playback/{name}": b"another sound"}),
    ):
        with zipfile.ZipFile(made, "w") as package:
            for own_name, data in parts.items():
                package.writestr(own_name, data)
    with fresh_settings(cluster, tmp_path_factory.mktemp("other")) as other:
        target, here = make_engine(other.database_url), AudioStore(other.audio_url)
        with pytest.raises(ArchiveError, match="not the one"), open_session(target, "tests") as session:
            read_archive(session, here, damaged_one)
        assert here.names() == [], "none of the others was put either: no row would name it"
        here.put_bytes(b"what another studio has", name, "original")
        with open_session(target, "tests") as session:
            read_archive(session, here, planted)
        assert here.read(name, "original") == b"what another studio has"
        assert not here.exists(name, "playback")
        target.dispose()


@given(st.randoms(use_true_random=False))
@limits(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_a_damaged_archive_is_read_or_refused(engine: Engine, settings: Settings, filled: Filled, drawn: Any) -> None:
    """Of the bytes, or of one value somewhere in the document."""
    out = io.BytesIO()
    with open_session(engine, "tests") as session:
        write_archive(session, filled.studio_id, AudioStore(settings.audio_url), out)
    if drawn.random() < 0.5:
        data = damaged(out.getvalue(), drawn)
    else:
        document = json.loads(zipfile.ZipFile(out).read("studio.json"))
        spoil(document["tables"], drawn)
        changed = io.BytesIO()
        with zipfile.ZipFile(changed, "w") as package:
            package.writestr("studio.json", json.dumps(document))
        data = changed.getvalue()
    path = settings.var / "damaged.zip"
    path.write_bytes(data)
    with contextlib.suppress(ArchiveError), open_session(engine, "tests") as session:
        session.execute(text("DELETE FROM take"))
        session.execute(text("DELETE FROM studio"))
        read_archive(session, AudioStore(settings.audio_url), path)
        # What came is not kept: the next one goes against the same studio.
        raise ArchiveError("read")


def test_results_as_csv_hold_no_formula(app: Any, engine: Engine, filled: Filled) -> None:
    with open_session(engine, "tests rename") as session:
        session.get_one(Pupil, filled.pupil_id).name = '=HYPERLINK("x")'
    given_take(engine, filled, report(home=15))
    given_take(engine, filled, report(refusal="voices"), seconds_ago=60)
    teacher = Visitor(app).teacher(filled)
    data = teacher.get("/api/results.csv").data
    assert data.startswith(b"\xef\xbb\xbf")
    rows = list(csv.DictReader(io.StringIO(data.decode("utf-8-sig"), newline="")))
    assert [row["pupil"] for row in rows] == ['\'=HYPERLINK("x")'] * 2
    assert [(row["notes at home %"], row["good go"], row["not judged because"]) for row in rows] == [
        ("94", "yes", ""), ("", "", "voices"),
    ]  # fmt: skip
    assert len(teacher.get(f"/api/results.csv?class_id={filled.group_id}").data.splitlines()) == 3


def test_csv_cells_are_kept_as_they_are() -> None:
    data = write_csv(("a", "b"), [("one, two", -3.5), ('say "x"\nand y', None), ("-dash", 0)])
    rows = list(csv.reader(io.StringIO(data.decode("utf-8-sig"), newline="")))
    assert rows == [["a", "b"], ["one, two", "-3.5"], ['say "x"\nand y', ""], ["'-dash", "0"]]


def test_a_class_and_its_pupils_on_paper(app: Any, engine: Engine, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    assert (
        "Nothing was recorded yet"
        in PdfReader(io.BytesIO(teacher.get(f"/api/pupils/{filled.other_pupil_id}/record.pdf").data))
        .pages[0]
        .extract_text()
    )
    low = cause("finger", finger=2, mm=3.0, towards="bridge", title="Second finger stands low")
    for ago in (20, 12, 1):
        given_take(
            engine, filled, report(good=ago < 5, home=16 - ago // 2, causes=[low] if ago > 5 else []), days_ago=ago
        )
    teacher.post(f"/api/pupils/{filled.pupil_id}/passed", json={"recipe": {"tonic": "G", "tempo_bpm": 60}})
    text = PdfReader(io.BytesIO(teacher.get(f"/api/pupils/{filled.pupil_id}/record.pdf").data)).pages[0].extract_text()
    for words in (
        "Passed so far: G major",
        "played well at its tempo",
        "Second finger stands low: heard until",
        "in 2 of 3 takes",
    ):
        assert words in " ".join(text.split()), words
    assert len(PdfReader(io.BytesIO(teacher.get("/api/records.pdf").data)).pages) == 2
    picture = PdfReader(io.BytesIO(teacher.get("/api/class.pdf").data)).pages[0].extract_text()
    assert filled.pupil_name in picture
    # A sign for each step and pupil (played well, not set), and below what the signs mean.
    assert "R\n" in picture.split(filled.pupil_name)[1].split("played well")[0]
    assert "played well at its tempo" in picture


@pytest.mark.parametrize(
    ("heard", "first", "words"),
    [((23, 15), 15, "heard until the week of {}, and not since"), ((15, 8, 0), 15, "heard since the week of {}")],
)
def test_a_habit_has_its_weeks_on_paper(
    app: Any, engine: Engine, filled: Filled, heard: tuple[int, ...], first: int, words: str
) -> None:
    """A take a week or so, the last one of today."""
    low = cause("finger", finger=2, mm=3.0, towards="bridge", title="Second finger stands low")
    for ago in (23, 15, 8, 0):
        given_take(engine, filled, report(causes=[low] if ago in heard else []), days_ago=ago)
    on = (datetime.now(UTC) - timedelta(days=first)).date()
    monday = on - timedelta(days=on.weekday())
    paper = Visitor(app).teacher(filled).get(f"/api/pupils/{filled.pupil_id}/record.pdf").data
    text = " ".join(PdfReader(io.BytesIO(paper)).pages[0].extract_text().split())
    when = words.format(f"{monday.day} {monday:%B}")
    assert f"Second finger stands low: {when}, in {len(heard)} of 4 takes." in text


def test_an_empty_class_has_no_records(app: Any, engine: Engine, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    empty = teacher.post("/api/classes", json={"name": "Nobody"}).json["id"]
    assert teacher.get(f"/api/records.pdf?class_id={empty}").status_code == 422
    assert teacher.get(f"/api/class.pdf?class_id={empty}").status_code == 200
    with open_session(engine, "tests look") as session:
        assert session.scalars(select(Studio)).one()
