"""Migrations on a server of their own: killed after any statement, with the lock held, the next run completes the
schema.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import pymysql
import pytest

from ohmack.launch.mariadb import MariaDbServer
from ohmack.store.database import DatabaseSettings
from ohmack.store.migrate import LOCK, NOTES, migrate, migrations

COLUMNS = "SELECT table_name, column_name, column_type FROM information_schema.columns WHERE table_schema = 'ohmack'"


@contextmanager
def asking(settings: DatabaseSettings) -> Iterator[Any]:
    with pymysql.connect(
        host=settings.host, port=settings.port, user=settings.user, password=settings.password, autocommit=True
    ) as connection, connection.cursor() as cursor:  # fmt: skip
        yield cursor


def columns(settings: DatabaseSettings) -> set[tuple[str, str, str]]:
    with asking(settings) as cursor:
        cursor.execute(COLUMNS)
        return set(cursor.fetchall())


def test_migrations_that_were_killed_go_on(tmp_path_factory: pytest.TempPathFactory) -> None:
    server = MariaDbServer(tmp_path_factory.mktemp("killed"), quiet=True, fast=True)
    server.start()
    try:
        settings = DatabaseSettings("127.0.0.1", server.port, "ohmack", server.password)
        steps = [(name, n, text) for name, texts in migrations().items() for n, text in enumerate(texts, 1)]
        assert migrate(settings) == len(migrations())
        whole = columns(settings)
        assert len(whole) > 50
        for noted in (0, 3, len(steps) - 3, len(steps) - 1):
            with asking(settings) as cursor:
                for words in (
                    "DROP DATABASE ohmack",
                    "CREATE DATABASE ohmack CHARACTER SET utf8mb4",
                    "USE ohmack",
                    NOTES,
                ):
                    cursor.execute(words)
                for name, n, text in steps[:noted]:
                    cursor.execute(text)
                    cursor.execute("INSERT INTO applied_migrations (id, statement) VALUES (%s, %s)", (name, n))
                cursor.execute(steps[noted][2])  # done, and the power went before it was noted
                cursor.execute("SELECT GET_LOCK(%s, 1)", (LOCK,))
            assert migrate(settings) == len({name for name, _, _ in steps[noted:]})
            assert migrate(settings) == 0
            assert columns(settings) == whole
    finally:
        server.stop()
