"""Audio by its SHA-256, through fsspec: a folder by default, any other store by a setting."""

from __future__ import annotations

import functools
import hashlib
import os
import uuid
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path
from typing import Any, Concatenate, ParamSpec, TypeVar

import fsspec
from fsspec.implementations.local import LocalFileSystem

KINDS = ("original", "playback", "picture")
"""What is kept for good, by hash; demonstrations stand beside them, and can be made again."""
_PART = ".part"


_MARKER = "attentive-owl-store"


class StoreAwayError(OSError):
    """The store of recordings is not where it was: a disk that is not mounted, a service that does not answer."""


_Asked = ParamSpec("_Asked")
_Answer = TypeVar("_Answer")


def _told_as_away(
    method: Callable[Concatenate[AudioStore, _Asked], _Answer],
) -> Callable[Concatenate[AudioStore, _Asked], _Answer]:
    """Every service has exceptions of its own for one that does not answer. A folder has none: what goes wrong there (a disk that is
    full) is told as it is."""

    @functools.wraps(method)
    def asked(self: AudioStore, /, *arguments: _Asked.args, **named: _Asked.kwargs) -> _Answer:
        try:
            return method(self, *arguments, **named)
        except (FileNotFoundError, StoreAwayError):
            raise
        except Exception as error:
            if self.local:
                raise
            raise StoreAwayError(f"the store of recordings does not answer ({type(error).__name__})") from error

    return asked


class AudioStore:
    """`seen`: where this machine remembers that it has seen the store. A store that was there and has lost its marker is away: nothing
    is written into the empty place that it has left, where it would vanish when the store comes back."""

    def __init__(self, url: str, seen: Path | None = None) -> None:
        self._url, self._seen = url, seen
        self._connect()
        self.local = isinstance(self._files, LocalFileSystem)

    def _connect(self) -> None:
        self._process = os.getpid()
        # Others write into it too: what a listing said a moment ago is not asked again.
        self._made, self._root = fsspec.core.url_to_fs(self._url, use_listings_cache=False)

    @property
    def _files(self) -> Any:
        """A client of a service has a thread that does not come along into a forked process (the web's): there it is made anew."""
        if self._process != os.getpid():
            self._connect()
        return self._made

    @_told_as_away
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

    @_told_as_away
    def put(self, source: Path, sha256: str, kind: str) -> None:
        """Keep a file under its own or its original's hash. Written beside its place and moved in, so that a name
        never stands for half a file; on the disk before this returns; putting the same again changes nothing. Raises StoreAwayError."""
        self.check()
        target = self._path(sha256, kind)
        if self._files.exists(target):
            return
        with self._part_of(target) as part:
            self._files.put_file(str(source), part)

    @contextmanager
    def _part_of(self, target: str) -> Iterator[str]:
        """Beside its place, and moved in when it is on the disk; where that does not come to an end (a disk that is full), nothing of it
        stays."""
        folder, part = target.rsplit("/", 1)[0], f"{target}.{uuid.uuid4().hex[:12]}{_PART}"
        self._files.makedirs(folder, exist_ok=True)
        try:
            yield part
            self._onto_disk(part)
            self._files.mv(part, target)
            # The folders too: a name that is on no disk is lost with the power, and the file with it.
            for own in (folder, folder.rsplit("/", 1)[0], self._root):
                self._onto_disk(own)
        except BaseException:
            if self._files.exists(part):
                self._files.rm_file(part)
            raise

    def _onto_disk(self, path: str) -> None:
        """A power cut after the receipt loses nothing. Other stores see to that themselves."""
        if self.local:
            descriptor = os.open(path, os.O_RDONLY)
            try:
                os.fsync(descriptor)
            finally:
                os.close(descriptor)

    @_told_as_away
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

    @_told_as_away
    def put_bytes(self, data: bytes, name: str, kind: str) -> None:
        self.check()
        with self._part_of(self._path(name, kind)) as part:
            self._files.pipe_file(part, data)

    @_told_as_away
    def read(self, sha256: str, kind: str) -> bytes:
        """Raises FileNotFoundError, and StoreAwayError."""
        self.check()
        data: bytes = self._files.cat_file(self._path(sha256, kind))
        return data

    @_told_as_away
    def names(self) -> list[tuple[str, str]]:
        """(kind, name) of everything that is kept for good. Raises StoreAwayError."""
        self.check()
        found = []
        for path in self._files.find(self._root) if self._files.exists(self._root) else []:
            *_, kind, _, name = path.split("/")
            if kind in KINDS and not name.endswith(_PART):
                found.append((kind, name))
        return found

    @_told_as_away
    def exists(self, sha256: str, kind: str) -> bool:
        return bool(self._files.exists(self._path(sha256, kind)))

    @_told_as_away
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
