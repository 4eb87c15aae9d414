"""A whole studio as one file, out and in again: rows as JSON with a schema, exercises as MusicXML beside them, and the sounds."""

from __future__ import annotations

import base64
import hashlib
import json
import uuid
import zipfile
import zlib
from collections.abc import Collection, Iterator, Mapping
from datetime import date, datetime, time
from pathlib import Path
from typing import IO, Any

from sqlalchemy import Column, Table, Uuid, insert, select
from sqlalchemy.exc import IntegrityError, OperationalError, StatementError
from sqlalchemy.orm import Session

from attentive_owl.core.exercises import RecipeError
from attentive_owl.core.instruments import INSTRUMENTS, UnplayableError
from attentive_owl.formats.musicxml import write_musicxml
from attentive_owl.store.audio import KINDS, AudioStore
from attentive_owl.store.exercises import score_for
from attentive_owl.store.models import Base
from attentive_owl.store.queue import defer_check

FORMAT = "attentive-owl-studio"
VERSION = 1
_NOT_OURS = ("sign_in_attempt",)
_MOST_JSON = 2_000_000_000
_MOST_SOUND = 200_000_000


class ArchiveError(ValueError):
    """One sentence on why a file is no archive of a studio."""


def tables() -> list[Table]:
    """What belongs to a studio, each after what it points at."""
    return [table for table in Base.metadata.sorted_tables if table.name not in _NOT_OURS]


def _written(table: Table) -> list[Column[Any]]:
    """Columns that are kept: what the database works out is worked out again."""
    return [column for column in table.columns if column.computed is None]


def archive_schema() -> dict[str, Any]:
    """Of `studio.json`, as JSON Schema 2020-12."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "A studio of Attentive Owl",
        "type": "object",
        "required": ["format", "version", "tables"],
        "properties": {
            "format": {"const": FORMAT},
            "version": {"const": VERSION},
            "tables": {
                "type": "object",
                "additionalProperties": False,
                "properties": {
                    table.name: {
                        "type": "array",
                        "items": {
                            "type": "object",
                            "additionalProperties": False,
                            "required": [column.name for column in _written(table)],
                            "properties": {column.name: _kind(column) for column in _written(table)},
                        },
                    }
                    for table in tables()
                },
            },
        },
    }


def _kind(column: Column[Any]) -> dict[str, Any]:
    kinds: dict[type, list[str]] = {
        bool: ["boolean"], int: ["integer"], float: ["number"], dict: ["object"], list: ["array"],
    }  # fmt: skip
    python = column.type.python_type
    found = (
        ["object", "array"] if column.type.__class__.__name__ in ("JSON", "JSONB") else kinds.get(python, ["string"])
    )
    return {"type": [*found, "null"] if column.nullable else found}


def write_archive(session: Session, studio_id: uuid.UUID, audio: AudioStore, out: IO[bytes]) -> int:
    """A zip of `studio.json`, its schema, exercises as MusicXML and sounds. Returns how many sounds are in it; a sound that is not
    there any more is left out."""
    rows = {table.name: list(_rows(session, table, studio_id)) for table in tables()}
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as package:
        document = {"format": FORMAT, "version": VERSION, "tables": rows}
        package.writestr("studio.json", json.dumps(document, indent=1, ensure_ascii=False))
        package.writestr("studio.schema.json", json.dumps(archive_schema(), indent=1))
        for exercise in rows["exercise"]:
            for instrument in INSTRUMENTS:
                try:
                    score = score_for(exercise["recipe"], instrument)
                except (UnplayableError, RecipeError):
                    # That instrument has no such line.
                    continue
                package.writestr(f"exercises/{exercise['id']}/{instrument}.musicxml", write_musicxml(score))
        sounds = 0
        for take in rows["take"]:
            for sha256 in {take["sha256"], take["help_sha256"], take["picture_sha256"]} - {None}:
                for kind in KINDS:
                    name = f"sounds/{kind}/{sha256}"
                    if name not in package.NameToInfo and audio.exists(sha256, kind):
                        # Sound does not get smaller.
                        package.writestr(name, audio.read(sha256, kind), zipfile.ZIP_STORED)
                        sounds += 1
        return sounds


def _rows(session: Session, table: Table, studio_id: uuid.UUID) -> Iterator[dict[str, Any]]:
    columns = _written(table)
    question = select(*columns)
    if table.name == "studio":
        question = question.where(table.c.id == studio_id)
    elif "studio_id" in table.c:
        question = question.where(table.c.studio_id == studio_id)
    else:
        # A table between two others: the studio is that of the first.
        column = next(iter(table.primary_key.columns))
        other = next(iter(column.foreign_keys)).column.table
        question = question.where(column.in_(select(other.c.id).where(other.c.studio_id == studio_id)))
    order = list(table.primary_key.columns)
    if "created_at" in table.c:
        order = [table.c.created_at, *order]
    for row in session.execute(question.order_by(*order)):
        yield {column.name: _plain(value) for column, value in zip(columns, row, strict=True)}


def _plain(value: Any) -> Any:
    if isinstance(value, uuid.UUID):
        return str(value)
    if isinstance(value, (datetime, date, time)):
        return value.isoformat()
    if isinstance(value, bytes):
        return base64.b64encode(value).decode()
    return value


def read_archive(session: Session, audio: AudioStore, source: Path) -> uuid.UUID:
    """Everything of an archive, under its own ids; the studio must not be here already. Returns the studio's id.

    Cards and passwords work on where the installation has the same `secret.key`; else new cards are made. Raises ArchiveError.
    """
    try:
        with _opened(source) as package:
            document = json.loads(_read(package, "studio.json", _MOST_JSON))
            studio_id = _put_rows(session, document)
            named = {own for row in document["tables"].get("take", []) for own in _hashes(row)}
            # Read twice: a recording that no row names would stay for ever, so none is put before the last is known to be whole.
            for name, kind, data in _sounds(package, named):
                _refuse_another(data, name, kind)
            known = _known_here(audio, named)
            for name, kind, data in _sounds(package, named):
                if name not in known[kind]:
                    audio.put_bytes(data, name, kind)
            return studio_id
    except (ArchiveError, OperationalError):
        # Of the database itself: not of the file.
        raise
    except _NO_ARCHIVE as error:
        raise ArchiveError("This file is no archive of a studio.") from error


_NO_ARCHIVE = (
    zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError, RecursionError, KeyError, TypeError, AttributeError,
    ValueError, StatementError,
)  # fmt: skip
"""What a file that another program or a bad disk made can raise: in the zip (a secret word wanted, a way of packing that is not known),
in the document, and in the database that is to hold it."""


def _read(package: zipfile.ZipFile, name: str, most: int) -> bytes:
    """zipfile gives no more than the size that stands in the table of contents: that is the one to look at."""
    if package.getinfo(name).file_size > most:
        raise ArchiveError("The archive is larger than anything that was written here.")
    try:
        return package.read(name)
    except OSError as error:
        raise ArchiveError(f"The archive can not be read: {error.strerror}.") from error


def _opened(source: Path) -> zipfile.ZipFile:
    """A place in the file that its table of contents makes up is an error of the system's."""
    try:
        return zipfile.ZipFile(source)
    except OSError as error:
        raise ArchiveError(f"The archive can not be read: {error.strerror}.") from error


def _sounds(package: zipfile.ZipFile, named: Collection[str]) -> Iterator[tuple[str, str, bytes]]:
    """(name, kind, bytes) of what the takes of the archive name."""
    for place in package.namelist():
        parts = place.split("/")
        if len(parts) == 3 and parts[0] == "sounds" and parts[1] in KINDS and parts[2] in named:
            yield parts[2], parts[1], _read(package, place, _MOST_SOUND)


def _refuse_another(data: bytes, name: str, kind: str) -> None:
    """A name is the hash of the bytes, but for what is made to be played, which has its original's. Raises ArchiveError."""
    if kind != "playback" and hashlib.sha256(data).hexdigest() != name:
        raise ArchiveError("A recording in the archive is not the one that was put into it.")


def _known_here(audio: AudioStore, named: Collection[str]) -> dict[str, set[str]]:
    """By kind what is left as it is: it may be another studio's recording too. Of an original that is here what is played is made here,
    if it is not made yet."""
    known = {kind: {name for name in named if audio.exists(name, kind)} for kind in KINDS}
    known["playback"] |= known["original"]
    return known


def _hashes(row: Mapping[str, Any]) -> set[str]:
    return {row[name] for name in ("sha256", "help_sha256", "picture_sha256") if row.get(name)}


def _put_rows(session: Session, document: Any) -> uuid.UUID:
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise ArchiveError("This file is no archive of a studio.")
    if document.get("version") != VERSION:
        raise ArchiveError("The archive was written by another version of the program.")
    given = document["tables"]
    if len(given.get("studio", [])) != 1:
        raise ArchiveError("An archive holds one studio.")
    studio_id = uuid.UUID(given["studio"][0]["id"])
    studio = Base.metadata.tables["studio"]
    if session.scalar(select(studio.c.id).where(studio.c.id == studio_id)) is not None:
        raise ArchiveError("This studio is here already.")
    ids = {name: {row["id"] for row in rows if "id" in row} for name, rows in given.items()}
    for table in tables():
        rows = [_typed(table, row) for row in given.get(table.name, [])]
        for row in rows:
            if row.get("studio_id", studio_id) != studio_id or not _points_inside(table, row, ids):
                raise ArchiveError("The archive holds rows of another studio.")
        if table.name == "exercise":
            rows = _older_first(rows)
        if rows:
            try:
                session.execute(insert(table), rows)
            except IntegrityError as error:
                raise ArchiveError("An e-mail or a class code of this studio is used here already.") from error
    for row in given.get("take", []):
        if row["state"] not in ("checked", "refused"):
            defer_check(session, uuid.UUID(row["id"]))
    return studio_id


def _points_inside(table: Table, row: Mapping[str, Any], ids: Mapping[str, set[str]]) -> bool:
    """Whether what a row points at is in the archive too (`ids`, by table): a made-up one could name another studio's pupil."""
    pointed = (
        (key.column.table.name, row.get(column.name)) for column in _written(table) for key in column.foreign_keys
    )
    return all(value is None or str(value) in ids.get(name, ()) for name, value in pointed)


def _older_first(rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """A version after the one that it replaces."""
    return sorted(rows, key=lambda row: row["version"])


def _typed(table: Table, row: Mapping[str, Any]) -> dict[str, Any]:
    kinds = {column.name: column for column in _written(table)}
    return {name: _value(kinds[name], value) for name, value in row.items()}


def _value(column: Column[Any], value: Any) -> Any:
    if value is None:
        return None
    if isinstance(column.type, Uuid):
        return uuid.UUID(value)
    kind = None if column.type.__class__.__name__ in ("JSON", "JSONB") else column.type.python_type
    if kind in (datetime, date, time):
        return kind.fromisoformat(value)
    return value
