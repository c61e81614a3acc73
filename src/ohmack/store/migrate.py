"""Migrations, forward only: each statement is applied once and noted, so that a run that was killed goes on where it
stopped.

The lock is one of the connection's: it goes with the process that held it, and no row of a dead one stands in the way.
"""

from __future__ import annotations

import re
from collections.abc import Container
from importlib.resources import files
from typing import Any

from pymysql.cursors import DictCursor

from ohmack.store.database import DatabaseSettings, StoreError, plain_connection

LOCK = "ohmack-migrations"
LOCK_SECONDS = 60
NOTES = (
    "CREATE TABLE IF NOT EXISTS applied_migrations (id VARCHAR(80) NOT NULL, statement SMALLINT UNSIGNED NOT NULL,"
    " applied_at DATETIME NOT NULL DEFAULT UTC_TIMESTAMP(), PRIMARY KEY (id, statement)) ENGINE=InnoDB DEFAULT"
    " CHARSET=utf8mb4"
)


class Busy(StoreError):
    """Another process is applying migrations and does not come to an end."""


def migrations() -> dict[str, tuple[str, ...]]:
    """Every migration by its id with its statements, in order. A statement may run twice: it says IF NOT EXISTS."""
    folder = files("ohmack.store") / "migrations"
    texts = {f.name.removesuffix(".sql"): f.read_text() for f in folder.iterdir() if f.name.endswith(".sql")}
    return {name: _statements(texts[name]) for name in sorted(texts)}


def _statements(text: str) -> tuple[str, ...]:
    """The statements of a file: each ends with a semicolon at the end of a line; lines of comment are left out."""
    lines = [line for line in text.splitlines() if not line.lstrip().startswith("--")]
    return tuple(part.strip() for part in re.split(r";[ \t]*(?:\n|$)", "\n".join(lines)) if part.strip())


def applied(settings: DatabaseSettings) -> dict[str, int]:
    """The migrations that were applied to a database, with how many statements of each.

    Raises:
        pymysql.MySQLError: the database cannot be read.
    """
    connection = _connect(settings)
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT id, COUNT(*) AS statements FROM applied_migrations GROUP BY id ORDER BY id")
            return {row["id"]: int(row["statements"]) for row in cursor.fetchall()}
    finally:
        connection.close()


def _connect(settings: DatabaseSettings) -> Any:
    return plain_connection(settings, cursorclass=DictCursor, autocommit=True)


def migrate(settings: DatabaseSettings, upto: Container[str] | None = None) -> int:
    """Apply what is not applied yet.

    Parameters:
        settings: where the database is.
        upto: only migrations of these ids, as an older backup needs them; None for all.

    Returns:
        how many migrations were applied or completed.

    Raises:
        Busy: another process holds the lock for longer than a minute.
        pymysql.MySQLError: the database cannot be used.
    """
    connection = _connect(settings)
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT GET_LOCK(%s, %s) AS held", (LOCK, LOCK_SECONDS))
            if not _first(cursor)["held"]:
                raise Busy("Another process is applying the migrations of this database.")
            cursor.execute(NOTES)
            wanted = ((n, each) for n, each in migrations().items() if upto is None or n in upto)
            return sum(_apply(cursor, name, statements) for name, statements in wanted)
    finally:
        connection.close()


def _first(cursor: Any) -> dict[str, Any]:
    row: dict[str, Any] = cursor.fetchone()
    return row


def _apply(cursor: Any, name: str, statements: tuple[str, ...]) -> bool:
    """Whether anything of a migration was still to be done; it is done then."""
    cursor.execute("SELECT COUNT(*) AS done FROM applied_migrations WHERE id = %s", (name,))
    done = int(_first(cursor)["done"])
    for number, statement in enumerate(statements[done:], start=done + 1):
        cursor.execute(statement)
        cursor.execute("INSERT INTO applied_migrations (id, statement) VALUES (%s, %s)", (name, number))
    return done < len(statements)
