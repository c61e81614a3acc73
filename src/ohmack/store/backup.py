"""All that is stored into one file and back: every table, photos and plans with it, as it stood at one moment."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, timedelta
from pathlib import Path
from typing import Any

from pymysql.cursors import SSCursor

from ohmack.formats.backup_file import BackupManifest, BadBackup, Table, open_backup, verify_backup, write_backup
from ohmack.store.database import QUERIES, Database, DatabaseSettings, StoreError, plain_connection
from ohmack.store.migrate import applied, migrate, migrations

NOTES = "applied_migrations"
MARK = "restore_under_way"  # a table that is there while a restore is, and after one that was interrupted
BUILT_IN = {"shop": 1, "people": 1, "chores": 1, NOTES: 10_000}  # rows an empty place has
AT_ONCE = 200  # rows
MOST_AT_ONCE = 8_000_000  # bytes
BINARY = ("blob", "binary")


class NotEmpty(StoreError):
    """Something is stored there already."""


def _connect(settings: DatabaseSettings) -> Any:
    begin = "SET SESSION sql_mode='STRICT_ALL_TABLES,NO_ENGINE_SUBSTITUTION', time_zone='+00:00'"
    return plain_connection(settings, init_command=begin)


def back_up(settings: DatabaseSettings, path: Path) -> BackupManifest:
    """Write everything into a file, as it stands at this moment; others go on working meanwhile.

    Raises:
        OSError: the file cannot be written.
        pymysql.MySQLError: the database cannot be read.
    """
    schema = applied(settings)
    connection = _connect(settings)
    try:
        with connection.cursor() as cursor:
            cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ")
            cursor.execute("START TRANSACTION WITH CONSISTENT SNAPSHOT, READ ONLY")
            names = [name for name in _filled_in_order(cursor) if name not in (NOTES, MARK)]
            columns = {name: _columns(cursor, name) for name in names}
        return write_backup(path, schema, (_table(connection, name, columns[name]) for name in names))
    finally:
        connection.close()


def _table(connection: Any, name: str, columns: dict[str, bool]) -> Table:
    return Table(name, list(columns), [c for c, binary in columns.items() if binary], _rows(connection, name, columns))


def _rows(connection: Any, name: str, columns: dict[str, bool]) -> Iterator[tuple[Any, ...]]:
    """The rows as they come: no table is held as a whole."""
    listed = ", ".join(f"`{column}`" for column in columns)
    with connection.cursor(SSCursor) as cursor:
        cursor.execute(f"SELECT {listed} FROM `{name}`")
        yield from cursor


def _columns(cursor: Any, name: str) -> dict[str, bool]:
    """The columns of a table in order, and whether each holds bytes; those the database works out are left out."""
    cursor.execute(
        "SELECT column_name, data_type, extra FROM information_schema.columns"
        " WHERE table_schema = DATABASE() AND table_name = %s ORDER BY ordinal_position",
        (name,),
    )
    return {
        c: any(b in kind for b in BINARY) for c, kind, extra in cursor.fetchall() if "GENERATED" not in extra.upper()
    }


def _filled_in_order(cursor: Any) -> list[str]:
    """Every table, each behind those it refers to."""
    cursor.execute("SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE() ORDER BY 1")
    waiting = [name for (name,) in cursor.fetchall()]
    cursor.execute(
        "SELECT table_name, referenced_table_name FROM information_schema.key_column_usage"
        " WHERE table_schema = DATABASE() AND referenced_table_name IS NOT NULL"
    )
    needs: dict[str, set[str]] = {}
    for name, other in cursor.fetchall():
        if name != other:
            needs.setdefault(name, set()).add(other)
    ordered: list[str] = []
    while waiting:
        free = [name for name in waiting if needs.get(name, set()) <= set(ordered)]
        if not free:
            raise StoreError(f"The tables {', '.join(waiting)} refer to one another.")
        ordered += free
        waiting = [name for name in waiting if name not in free]
    return ordered


def restore(settings: DatabaseSettings, path: Path) -> BackupManifest:
    """Fill an empty place from a backup, and bring it up to this Ohmack's schema. One that was interrupted may be
    begun again.

    Raises:
        BadBackup: the file is broken, or of a newer Ohmack; nothing was stored.
        NotEmpty: something is stored there already; nothing was changed.
        pymysql.MySQLError: the database cannot be written; what was begun is told to whoever starts on it.
    """
    manifest = verify_backup(path)
    known = migrations()
    newer = [n for n, count in manifest.schema_ids.items() if count != len(known.get(n, ())) or n not in known]
    if newer:
        raise BadBackup(f"{path} was written by a newer Ohmack: this one does not know {', '.join(sorted(newer))}.")
    _claim_place(settings)
    migrate(settings, upto=set(manifest.schema_ids))
    connection = _connect(settings)
    try:
        with connection.cursor() as cursor, open_backup(path) as backup:
            cursor.execute("SET SESSION foreign_key_checks = 0")
            _check_tables(cursor, manifest, path)
            for name in reversed(list(manifest.tables)):
                cursor.execute(f"DELETE FROM `{name}`")
            connection.commit()
            for name in manifest.tables:
                _fill(connection, cursor, name, manifest.tables[name].columns, backup.rows(name))
    finally:
        connection.close()
    migrate(settings)
    _release_place(settings)
    return manifest


def _check_tables(cursor: Any, manifest: BackupManifest, path: Path) -> None:
    for name, entry in manifest.tables.items():
        there = _columns(cursor, name)
        if list(there) != entry.columns:
            raise BadBackup(f"{path}: the table {name} is not one this Ohmack knows.")


def _fill(connection: Any, cursor: Any, name: str, columns: list[str], rows: Iterator[list[Any]]) -> None:
    listed, places = ", ".join(f"`{c}`" for c in columns), ", ".join(["%s"] * len(columns))
    statement = f"INSERT INTO `{name}` ({listed}) VALUES ({places})"
    waiting: list[list[Any]] = []
    size = 0
    for row in rows:
        waiting.append(row)
        size += sum(len(v) for v in row if isinstance(v, str | bytes))
        if len(waiting) >= AT_ONCE or size >= MOST_AT_ONCE:
            _insert(connection, cursor, statement, waiting)
            waiting, size = [], 0
    _insert(connection, cursor, statement, waiting)


def _insert(connection: Any, cursor: Any, statement: str, rows: list[list[Any]]) -> None:
    if rows:
        cursor.executemany(statement, rows)
        connection.commit()


def _claim_place(settings: DatabaseSettings) -> None:
    """Make sure that nothing is stored there, and mark it; what an interrupted restore left is taken out.

    Raises:
        NotEmpty: something is.
    """
    connection = _connect(settings)
    try:
        with connection.cursor() as cursor:
            names = _filled_in_order(cursor)
            if MARK not in names:
                for name in names:
                    cursor.execute(f"SELECT COUNT(*) FROM `{name}`")
                    if cursor.fetchone()[0] > BUILT_IN.get(name, 0):
                        raise NotEmpty(
                            f"The database is not empty: {name} has rows. A backup goes into an empty place."
                        )
                cursor.execute(f"CREATE TABLE `{MARK}` (id INT NOT NULL PRIMARY KEY) ENGINE=InnoDB")
            for name in reversed([n for n in names if n != MARK]):  # what is there is empty, or half of a backup
                cursor.execute(f"DROP TABLE `{name}`")
    finally:
        connection.close()


def _release_place(settings: DatabaseSettings) -> None:
    connection = _connect(settings)
    try:
        with connection.cursor() as cursor:
            cursor.execute(f"DROP TABLE `{MARK}`")
    finally:
        connection.close()


def half_restored(settings: DatabaseSettings) -> bool:
    """Whether a restore was interrupted there: it has to be run again before anybody works on it."""
    connection = _connect(settings)
    try:
        with connection.cursor() as cursor:
            cursor.execute(
                "SELECT 1 FROM information_schema.tables WHERE table_schema = DATABASE() AND table_name = %s", (MARK,)
            )
            return cursor.fetchone() is not None
    finally:
        connection.close()


def give_backup_back(database: Database, day: date) -> None:
    """Say that the backup of a day was not made after all: whoever asks next may try."""
    before = day - timedelta(days=1)
    database.run(lambda c: QUERIES.give_chore_back(c, name="backup", day=day, before=before))


def claim_backup(database: Database, day: date) -> bool:
    """Whether the nightly backup of a day is this process's to make: of all that ask only one is told so."""
    return bool(database.run(lambda c: QUERIES.claim_chore(c, name="backup", day=day)))
