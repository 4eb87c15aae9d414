"""Recordings in an object store: the same promises as in a folder. The store is moto's server, which answers as S3 does."""

from __future__ import annotations

import multiprocessing
import uuid
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from moto.server import ThreadedMotoServer
from s3fs import S3FileSystem

from attentive_owl.store.audio import AudioStore, StoreAwayError
from tests.object_store import BUCKET, object_store

NAME, OTHER = "ab" * 32, "ab" + "cd" * 31
"""Two in one folder."""


@pytest.fixture
def server() -> Iterator[ThreadedMotoServer]:
    with object_store() as (_, own):
        yield own


@pytest.fixture
def place(server: ThreadedMotoServer) -> str:
    return f"s3://{BUCKET}/{uuid.uuid4().hex}"


def test_what_one_machine_puts_another_finds_at_once(place: str, tmp_path: Path) -> None:
    one = AudioStore(place, tmp_path / "one")
    S3FileSystem.clear_instance_cache()
    two = AudioStore(place, tmp_path / "two")
    source = tmp_path / "take"
    source.write_bytes(b"sound")
    one.put(source, NAME, "original")
    # The second has looked into the folder before the next one came.
    assert two.names() == [("original", NAME)]
    one.put_bytes(b"another", OTHER, "original")
    assert (two.exists(OTHER, "original"), two.read(OTHER, "original")) == (True, b"another")
    assert sorted(two.names()) == sorted([("original", NAME), ("original", OTHER)])
    source.write_bytes(b"changed")
    two.put(source, NAME, "original")
    assert one.read(NAME, "original") == b"sound", "a second putting changes nothing"
    assert (two.remove(NAME, "original"), one.remove(NAME, "original")) == (True, False)
    with pytest.raises(FileNotFoundError):
        one.read(NAME, "original")


def test_a_forked_process_reaches_it_too(place: str, tmp_path: Path) -> None:
    """As the web's processes do: the program is read once, before they part."""
    own = AudioStore(place, tmp_path / "seen")
    own.put_bytes(b"sound", NAME, "original")
    child = multiprocessing.get_context("fork").Process(target=own.put_bytes, args=(b"another", OTHER, "original"))
    child.start()
    child.join(30)
    assert (child.exitcode, own.read(OTHER, "original")) == (0, b"another")


def test_halves_are_swept(place: str, tmp_path: Path) -> None:
    own = AudioStore(place, tmp_path / "seen")
    own.put_bytes(b"sound", NAME, "original")
    own._files.pipe_file(f"{place}/original/ab/{NAME}.0123.part", b"half")
    now = datetime.now(UTC)
    assert (own.sweep(now - timedelta(hours=1)), own.sweep(now + timedelta(minutes=1))) == (0, 1)
    assert own.names() == [("original", NAME)]


def test_a_store_that_does_not_answer_is_away_and_not_broken(
    place: str, server: ThreadedMotoServer, tmp_path: Path
) -> None:
    own = AudioStore(place, tmp_path / "seen")
    own.put_bytes(b"sound", NAME, "original")
    server.stop()
    for act in (
        lambda: own.put_bytes(b"x", OTHER, "original"),
        lambda: own.read(NAME, "original"),
        own.check,
        own.names,
    ):
        with pytest.raises(StoreAwayError, match="does not answer"):
            act()
    server.start()
    assert own.read(NAME, "original") == b"sound"


def test_an_emptied_bucket_is_missed_and_not_filled_anew(place: str, tmp_path: Path) -> None:
    own = AudioStore(place, tmp_path / "seen")
    own.put_bytes(b"sound", NAME, "original")
    for path in own._files.find(place):
        own._files.rm_file(path)
    with pytest.raises(StoreAwayError, match="not there"):
        own.put_bytes(b"x", OTHER, "original")
    assert own._files.find(place) == []
