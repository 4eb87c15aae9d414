"""Audio by its SHA-256, through fsspec: a folder by default, any other store by a setting."""

from __future__ import annotations

import hashlib
import os
import uuid
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path
from typing import Any

import fsspec
from fsspec.implementations.local import LocalFileSystem

KINDS = ("original", "playback", "picture")
"""What is kept for good, by hash; demonstrations stand beside them, and can be made again."""
_PART = ".part"


_MARKER = "attentive-owl-store"


class StoreAwayError(OSError):
    """The store of recordings is not where it was: a disk that is not mounted, a service that does not answer."""


class AudioStore:
    """`seen`: where this machine remembers that it has seen the store. A store that was there and has lost its marker is away: nothing
    is written into the empty place that it has left, where it would vanish when the store comes back."""

    def __init__(self, url: str, seen: Path | None = None) -> None:
        self._files, self._root = fsspec.core.url_to_fs(url)
        self._seen = seen

    def check(self) -> None:
        """Raises StoreAwayError."""
        if self._seen is None:
            return
        marker = f"{self._root}/{_MARKER}"
        # In this order: another process may be the first to find it between the two looks, and it writes the marker before it remembers.
        was_seen = self._seen.exists()
        there = self._files.exists(marker)
        if not there and was_seen:
            raise StoreAwayError("the store of recordings is not there")
        if not there:
            self._files.makedirs(self._root, exist_ok=True)
            self._files.pipe_file(marker, b"The recordings of Attentive Owl stand beside this file.\n")
        if not was_seen:
            self._seen.write_text("The store of recordings was seen from here.\n")

    def put(self, source: Path, sha256: str, kind: str) -> None:
        """Keep a file under its own or its original's hash. Written beside its place and moved in, so that a name
        never stands for half a file; on the disk before this returns; putting the same again changes nothing. Raises StoreAwayError."""
        self.check()
        target = self._path(sha256, kind)
        if self._files.exists(target):
            return
        self._files.makedirs(target.rsplit("/", 1)[0], exist_ok=True)
        with self._part_of(target) as part:
            self._files.put_file(str(source), part)
            self._onto_disk(part)
        self._onto_disk(target.rsplit("/", 1)[0])

    @contextmanager
    def _part_of(self, target: str) -> Iterator[str]:
        """Beside its place, and moved in at the end; where that does not come to an end (a disk that is full), nothing of it stays."""
        part = f"{target}.{uuid.uuid4().hex[:12]}{_PART}"
        try:
            yield part
            self._files.mv(part, target)
        except BaseException:
            if self._files.exists(part):
                self._files.rm_file(part)
            raise

    def _onto_disk(self, path: str) -> None:
        """A power cut after the receipt loses nothing. Other stores see to that themselves."""
        if isinstance(self._files, LocalFileSystem):
            descriptor = os.open(path, os.O_RDONLY)
            try:
                os.fsync(descriptor)
            finally:
                os.close(descriptor)

    def sweep(self, older_than: datetime) -> int:
        """Removes halves that a killed process left behind. Returns how many."""
        self.check()
        found = self._files.find(self._root, detail=True) if self._files.exists(self._root) else {}
        old = [
            path for path, about in found.items() if path.endswith(_PART) and _changed(about) < older_than.timestamp()
        ]
        for path in old:
            self._files.rm_file(path)
        return len(old)

    def put_bytes(self, data: bytes, name: str, kind: str) -> None:
        self.check()
        target = self._path(name, kind)
        self._files.makedirs(target.rsplit("/", 1)[0], exist_ok=True)
        with self._part_of(target) as part:
            self._files.pipe_file(part, data)

    def read(self, sha256: str, kind: str) -> bytes:
        """Raises FileNotFoundError, and StoreAwayError."""
        self.check()
        data: bytes = self._files.cat_file(self._path(sha256, kind))
        return data

    def names(self) -> Iterator[tuple[str, str]]:
        """(kind, name) of everything that is kept for good. Raises StoreAwayError."""
        self.check()
        for path in self._files.find(self._root) if self._files.exists(self._root) else []:
            *_, kind, _, name = path.split("/")
            if kind in KINDS and not name.endswith(_PART):
                yield kind, name

    def exists(self, sha256: str, kind: str) -> bool:
        return bool(self._files.exists(self._path(sha256, kind)))

    def remove(self, sha256: str, kind: str) -> bool:
        """Whether there was such a file."""
        if not self.exists(sha256, kind):
            return False
        self._files.rm_file(self._path(sha256, kind))
        return True

    def _path(self, name: str, kind: str) -> str:
        """kind: original, playback (mono FLAC of it), demonstration, picture."""
        return f"{self._root}/{kind}/{name[:2]}/{name}"


def _changed(about: Mapping[str, Any]) -> float:
    """Seconds since 1970, as folders and object stores say it."""
    at = about.get("mtime") or about.get("LastModified") or 0.0
    return at.timestamp() if isinstance(at, datetime) else float(at)


def file_sha256(path: Path) -> str:
    with open(path, "rb") as handle:
        return hashlib.file_digest(handle, "sha256").hexdigest()
