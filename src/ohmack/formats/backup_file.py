"""The file of a backup: a ZIP with one list of rows a table, and a manifest with the schema, the counts and a checksum
of every list. A list has one row a line, as a JSON array in the order of the columns the manifest names; bytes are in
base64, moments and decimal numbers as the database writes them.
"""

from __future__ import annotations

import base64
import json
import os
import zlib
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from hashlib import sha256
from io import BufferedReader, RawIOBase
from pathlib import Path
from typing import Any, Literal, cast
from zipfile import ZIP_DEFLATED, BadZipFile, ZipFile

from pydantic import BaseModel, ConfigDict, Field, ValidationError

FORMAT: Literal["ohmack-backup"] = "ohmack-backup"
VERSION = 1
MANIFEST = "manifest.json"
READ_AT_ONCE = 65_536  # bytes: to look for the end of a line in an archive itself is slow
PACKED = 1  # zlib's quickest: photos do not get smaller, plans do at once
LARGEST_MANIFEST = 2_000_000
LARGEST_ROW = 200_000_000
BROKEN = (BadZipFile, zlib.error, EOFError, NotImplementedError, OSError, KeyError, UnicodeDecodeError)


class BadBackup(Exception):
    """A file that is no backup, or no whole one; the sentence says what is wrong."""


class _Entry(BaseModel):
    model_config = ConfigDict(extra="ignore", strict=True)


class TableEntry(_Entry):
    """One table: its columns in order, which of them hold bytes, how many rows it has, and what they hash to."""

    columns: list[str] = Field(min_length=1, max_length=200)
    binary: list[str] = Field(default_factory=list)
    rows: int = Field(ge=0)
    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")


class BackupManifest(_Entry):
    """What a backup says of itself. `schema_ids`: every migration that was applied, with how many statements of it."""

    format: Literal["ohmack-backup"]
    version: int = Field(ge=1)
    made_at: str = Field(max_length=40)
    schema_ids: dict[str, int]
    tables: dict[str, TableEntry]

    @property
    def rows(self) -> int:
        """Rows of all tables."""
        return sum(table.rows for table in self.tables.values())


def _row(values: Sequence[Any]) -> str:
    return json.dumps(
        [
            base64.b64encode(v).decode() if isinstance(v, bytes) else v
            if v is None or isinstance(v, int | float | str) else str(v)
            for v in values
        ],
        ensure_ascii=False, separators=(",", ":"),
    )  # fmt: skip


@dataclass(frozen=True)
class Table:
    """One table on its way into a file."""

    name: str
    columns: Sequence[str]
    binary: Sequence[str]
    rows: Iterable[Sequence[Any]]


def write_backup(path: Path, schema_ids: dict[str, int], tables: Iterable[Table]) -> BackupManifest:
    """Write a backup; the file is there whole or not at all.

    Parameters:
        path: where to; a file of that name is replaced once the new one is whole.
        schema_ids: the migrations that were applied, with how many statements of each.
        tables: in the order they are to be filled again.

    Raises:
        OSError: it cannot be written.
    """
    unfinished = path.with_name(f"{path.name}.part")
    entries: dict[str, TableEntry] = {}
    try:
        with unfinished.open("wb") as out:
            os.chmod(unfinished, 0o600)  # customers' names are in it
            with ZipFile(out, "w", ZIP_DEFLATED, compresslevel=PACKED) as archive:
                for table in tables:
                    entries[table.name] = _write_table(archive, table)
                made_at = datetime.now(UTC).isoformat(timespec="seconds")
                manifest = BackupManifest(
                    format=FORMAT, version=VERSION, made_at=made_at, schema_ids=schema_ids, tables=entries
                )
                archive.writestr(MANIFEST, manifest.model_dump_json(indent=1))
            out.flush()
            os.fsync(out.fileno())
        unfinished.replace(path)
    finally:
        unfinished.unlink(missing_ok=True)
    return manifest


def _write_table(archive: ZipFile, table: Table) -> TableEntry:
    whole, rows = sha256(), 0
    with archive.open(f"{table.name}.jsonl", "w", force_zip64=True) as out:
        for values in table.rows:
            line = _row(values).encode() + b"\n"
            whole.update(line)
            out.write(line)
            rows += 1
    return TableEntry(columns=list(table.columns), binary=list(table.binary), rows=rows, sha256=whole.hexdigest())


class Backup:
    """A backup that is open for reading."""

    def __init__(self, archive: ZipFile, manifest: BackupManifest) -> None:
        self.archive, self.manifest = archive, manifest

    def rows(self, name: str) -> Iterator[list[Any]]:
        """The rows of a table, checked against its checksum at the end.

        Raises:
            BadBackup: a row cannot be read, or the list is not the one that was written.
        """
        entry, whole, count = self.manifest.tables[name], sha256(), 0
        binary = [column in entry.binary for column in entry.columns]
        try:
            with (
                self.archive.open(f"{name}.jsonl") as packed,
                BufferedReader(cast(RawIOBase, packed), READ_AT_ONCE) as lines,
            ):
                while line := lines.readline(LARGEST_ROW):
                    whole.update(line)
                    count += 1
                    yield _values(json.loads(line), binary)
        except (*BROKEN, ValueError, TypeError) as error:
            raise BadBackup(f"The rows of {name} cannot be read: the file is damaged.") from error
        if whole.hexdigest() != entry.sha256 or count != entry.rows:
            raise BadBackup(f"The rows of {name} are not those that were written: the file was changed or is damaged.")


def _values(row: Any, binary: Sequence[bool]) -> list[Any]:
    if not isinstance(row, list) or len(row) != len(binary):
        raise ValueError("a row of another length")
    pairs = zip(row, binary, strict=True)
    return [base64.b64decode(v, validate=True) if b and v is not None else v for v, b in pairs]


@contextmanager
def open_backup(path: Path) -> Iterator[Backup]:
    """Open a backup for reading.

    Raises:
        BadBackup: it is none, not whole, or of a newer Ohmack.
    """
    try:
        archive = ZipFile(path)
    except FileNotFoundError:
        raise BadBackup(f"There is no file {path}.") from None
    except BROKEN as error:
        raise BadBackup(f"{path} is no whole backup: it is cut short, damaged, or something else.") from error
    with archive:
        yield Backup(archive, _manifest(archive, path))


def _manifest(archive: ZipFile, path: Path) -> BackupManifest:
    try:
        if archive.getinfo(MANIFEST).file_size > LARGEST_MANIFEST:
            raise BadBackup(f"{path} is no backup of Ohmack.")
        tree = json.loads(archive.read(MANIFEST))
        version = tree.get("version") if isinstance(tree, dict) else None
        if isinstance(version, int) and version > VERSION:
            raise BadBackup(f"{path} was written by a newer Ohmack (format {version}; this one reads {VERSION}).")
        manifest = BackupManifest.model_validate(tree)
    except (*BROKEN, ValueError, ValidationError) as error:
        raise BadBackup(f"{path} is no backup of Ohmack, or a damaged one.") from error
    missing = [name for name in manifest.tables if f"{name}.jsonl" not in archive.namelist()]
    if missing:
        raise BadBackup(f"{path} is not whole: {', '.join(missing)} is missing.")
    return manifest


def verify_backup(path: Path) -> BackupManifest:
    """Read a backup to its end and check every list against its checksum.

    Raises:
        BadBackup: it is none, not whole, damaged, or of a newer Ohmack.
    """
    with open_backup(path) as backup:
        for name in backup.manifest.tables:
            for _ in backup.rows(name):
                pass
        return backup.manifest
