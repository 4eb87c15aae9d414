"""A whole installation as one file and back: the database (PostgreSQL's own dump), the recordings, and the key that signs.

The database is written first: a recording stands in the store before its row does, so that no row of the dump lacks its sound.
"""

from __future__ import annotations

import io
import json
import os
import subprocess
import tarfile
import tempfile
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import psycopg
from sqlalchemy import make_url, text

from attentive_owl.ops.cluster import OpsError, programs
from attentive_owl.settings import Settings
from attentive_owl.store.audio import AudioStore
from attentive_owl.store.migrate import migrate
from attentive_owl.store.session import make_engine

_FORMAT = "attentive-owl-backup"
_VERSION = 1
_DUMP, _KEY, _ABOUT, _SOUNDS = "database.dump", "secret.key", "about.json", "sounds/"


def write_backup(settings: Settings, path: Path) -> int:
    """Writes PATH, readable by its owner alone; a half is never under its name. Returns how many sounds are in it. Raises OpsError."""
    audio = AudioStore(settings.audio_url, settings.store_seen)
    part = path.with_name(path.name + ".part")
    sounds = 0
    with (
        tempfile.NamedTemporaryFile(dir=path.parent) as dump,
        open(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "wb") as out,
        tarfile.open(fileobj=out, mode="w") as package,
    ):
        _run(settings, "pg_dump", "--format=custom", f"--file={dump.name}")
        about = {"format": _FORMAT, "version": _VERSION, "at": datetime.now(UTC).isoformat()}
        _add(package, _ABOUT, json.dumps(about).encode())
        _add(package, _KEY, settings.secret_key.encode())
        package.add(dump.name, _DUMP)
        for kind, name in audio.names():
            try:
                data = audio.read(name, kind)
            except FileNotFoundError:
                # Erased in the meantime.
                continue
            _add(package, f"{_SOUNDS}{kind}/{name}", data)
            sounds += 1
        out.flush()
        os.fsync(out.fileno())
    part.replace(path)
    return sounds


def read_backup(settings: Settings, path: Path) -> int:
    """Into an installation in which there is no studio yet; the key of the backup takes the place of its own. Returns how many sounds
    came. Raises OpsError, and then nothing was changed but what had come already of the recordings, which no row names."""
    audio = AudioStore(settings.audio_url, settings.store_seen)
    try:
        with tarfile.open(path) as package:
            _check(_member(package, _ABOUT))
            key = _member(package, _KEY).decode()
            _refuse_if_used(settings)
            sounds = 0
            with tempfile.TemporaryDirectory() as folder:
                dump = Path(folder, _DUMP)
                dump.write_bytes(_member(package, _DUMP))
                sound = Path(folder, "sound")
                for own in package:
                    if own.isfile() and own.name.startswith(_SOUNDS):
                        kind, name = own.name.removeprefix(_SOUNDS).split("/")
                        sound.write_bytes(_member(package, own.name))
                        audio.put(sound, name, kind)
                        sounds += 1
                _restore(settings, dump)
    except (tarfile.TarError, EOFError, ValueError) as error:
        raise OpsError(f"{path} is no whole backup of Attentive Owl.") from error
    place = settings.var / _KEY
    place.unlink(missing_ok=True)
    with open(os.open(place, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as handle:
        handle.write(key)
    return sounds


def _restore(settings: Settings, dump: Path) -> None:
    with psycopg.connect(settings.conninfo, autocommit=True) as connection:
        connection.execute("DROP SCHEMA public CASCADE")
        connection.execute("CREATE SCHEMA public")
    _run(settings, "pg_restore", "--no-owner", "--no-privileges", "--exit-on-error", str(dump))
    engine = make_engine(settings.database_url)
    try:
        # An older backup is brought to the newest form, and the role of the pages gets its rights here.
        migrate(engine)
    finally:
        engine.dispose()


def _refuse_if_used(settings: Settings) -> None:
    engine = make_engine(settings.database_url)
    try:
        with engine.connect() as connection:
            there = connection.execute(text("SELECT to_regclass('studio') IS NOT NULL")).scalar()
            if there and connection.execute(text("SELECT EXISTS (SELECT FROM studio)")).scalar():
                raise OpsError("There is a studio here already; a backup goes into an empty installation.")
    finally:
        engine.dispose()


def _check(about: bytes) -> None:
    found: Any = json.loads(about)
    if not isinstance(found, dict) or found.get("format") != _FORMAT:
        raise ValueError
    if found.get("version") != _VERSION:
        raise OpsError("This backup was made by a newer program.")


def _member(package: tarfile.TarFile, name: str) -> bytes:
    """Raises ValueError for what is not there, or not whole."""
    try:
        file = package.extractfile(name)
    except KeyError as error:
        raise ValueError(name) from error
    if file is None:
        raise ValueError(name)
    data = file.read()
    if len(data) != package.getmember(name).size:
        raise ValueError(name)
    return data


def _add(package: tarfile.TarFile, name: str, data: bytes) -> None:
    about = tarfile.TarInfo(name)
    about.size, about.mode = len(data), 0o600
    package.addfile(about, io.BytesIO(data))


def _run(settings: Settings, program: str, *arguments: str) -> None:
    """A program of PostgreSQL's, on our database; the password goes by the environment, where no list of processes shows it."""
    url = make_url(settings.database_url)
    environment = {**os.environ, "PGPASSWORD": url.password or ""}
    where = [
        f"--host={url.host}",
        f"--port={url.port or 5432}",
        f"--username={url.username}",
        f"--dbname={url.database}",
    ]
    done = subprocess.run(
        [str(programs() / program), *where, *arguments], env=environment, capture_output=True, text=True, check=False
    )
    if done.returncode != 0:
        said = done.stderr.strip().splitlines()
        raise OpsError(f"PostgreSQL's {program} did not work: {said[-1] if said else done.returncode}")
