"""The store of recordings: whole files or none, what a killed process left, and a store that has gone."""

from __future__ import annotations

import errno
import os
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from attentive_owl.store.audio import AudioStore, StoreAwayError

NAME = "ab" * 32


def store(folder: Path) -> AudioStore:
    return AudioStore(f"file://{folder / 'audio'}", folder / "seen")


def test_a_store_that_was_there_is_missed_and_not_made_anew(tmp_path: Path) -> None:
    own = store(tmp_path)
    own.put_bytes(b"sound", NAME, "original")
    (tmp_path / "audio").rename(tmp_path / "unmounted")
    (tmp_path / "audio").mkdir()
    source = tmp_path / "take"
    source.write_bytes(b"another")
    for act in (
        lambda: own.put(source, NAME, "original"), lambda: own.put_bytes(b"x", NAME, "original"),
        lambda: own.read(NAME, "original"), lambda: own.sweep(datetime.now(UTC)), own.check,
    ):  # fmt: skip
        with pytest.raises(StoreAwayError):
            act()
    assert list((tmp_path / "audio").iterdir()) == []
    (tmp_path / "audio").rmdir()
    (tmp_path / "unmounted").rename(tmp_path / "audio")
    assert own.read(NAME, "original") == b"sound"


def test_another_machine_finds_the_store_that_is_there(tmp_path: Path) -> None:
    store(tmp_path).put_bytes(b"sound", NAME, "original")
    other = AudioStore(f"file://{tmp_path / 'audio'}", tmp_path / "seen by another")
    assert other.read(NAME, "original") == b"sound"
    assert (tmp_path / "seen by another").exists()


def test_halves_that_were_left_behind_are_swept_and_nothing_else(tmp_path: Path) -> None:
    own = store(tmp_path)
    own.put_bytes(b"sound", NAME, "original")
    folder = tmp_path / "audio" / "original" / NAME[:2]
    old, fresh = folder / f"{NAME}.0123456789ab.part", folder / f"{NAME}.ba9876543210.part"
    for path in (old, fresh):
        path.write_bytes(b"half")
    day_ago = (datetime.now(UTC) - timedelta(days=1, hours=1)).timestamp()
    os.utime(old, (day_ago, day_ago))
    os.utime(folder / NAME, (day_ago, day_ago))
    assert own.sweep(datetime.now(UTC) - timedelta(days=1)) == 1
    assert sorted(path.name for path in folder.iterdir()) == sorted([NAME, fresh.name])


def test_a_second_putting_changes_nothing(tmp_path: Path) -> None:
    own, source = store(tmp_path), tmp_path / "take"
    source.write_bytes(b"sound")
    own.put(source, NAME, "original")
    source.write_bytes(b"other sound")
    own.put(source, NAME, "original")
    assert own.read(NAME, "original") == b"sound"
    assert own.remove(NAME, "original")
    assert not own.remove(NAME, "original")


def test_two_who_find_an_empty_store_at_one_time_both_find_it(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    own, other = store(tmp_path), store(tmp_path)
    look = own._files.exists

    def look_and_be_overtaken(path: str) -> bool:
        found = bool(look(path))
        monkeypatch.setattr(own._files, "exists", look)
        other.check()
        return found

    monkeypatch.setattr(own._files, "exists", look_and_be_overtaken)
    own.check()
    own.put_bytes(b"sound", NAME, "original")
    assert other.read(NAME, "original") == b"sound"


def test_a_disk_that_is_full_keeps_no_half(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    own = store(tmp_path)
    source = tmp_path / "take"
    source.write_bytes(b"x" * 1000)

    def half(source: str, target: str) -> None:
        Path(target).write_bytes(b"x" * 500)
        raise OSError(errno.ENOSPC, "No space left on device")

    own.check()
    monkeypatch.setattr(own._files, "put_file", half)
    with pytest.raises(OSError, match="No space"):
        own.put(source, NAME, "original")
    monkeypatch.undo()
    assert [path.name for path in (tmp_path / "audio").rglob("*") if path.is_file()] == ["attentive-owl-store"]
    own.put(source, NAME, "original")
    assert own.read(NAME, "original") == source.read_bytes()
