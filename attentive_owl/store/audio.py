"""Audio by its SHA-256, through fsspec: a folder by default, any other store by a setting."""

from __future__ import annotations

import hashlib
from pathlib import Path

import fsspec


class AudioStore:
    def __init__(self, url: str) -> None:
        self._files, self._root = fsspec.core.url_to_fs(url)

    def put(self, source: Path, sha256: str, kind: str) -> None:
        """Keep a file under its own or its original's hash. Written beside its place and moved in, so that a name
        never stands for half a file; putting the same again changes nothing."""
        target = self._path(sha256, kind)
        if self._files.exists(target):
            return
        self._files.makedirs(target.rsplit("/", 1)[0], exist_ok=True)
        part = f"{target}.{hashlib.sha256(str(source).encode()).hexdigest()[:12]}.part"
        self._files.put_file(str(source), part)
        self._files.mv(part, target)

    def put_bytes(self, data: bytes, name: str, kind: str) -> None:
        target = self._path(name, kind)
        self._files.makedirs(target.rsplit("/", 1)[0], exist_ok=True)
        part = f"{target}.{hashlib.sha256(data).hexdigest()[:12]}.part"
        self._files.pipe_file(part, data)
        self._files.mv(part, target)

    def read(self, sha256: str, kind: str) -> bytes:
        """Raises FileNotFoundError."""
        data: bytes = self._files.cat_file(self._path(sha256, kind))
        return data

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


def file_sha256(path: Path) -> str:
    with open(path, "rb") as handle:
        return hashlib.file_digest(handle, "sha256").hexdigest()
