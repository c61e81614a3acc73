"""The pool, transactions, retries, and the errors the rest of the application sees."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from importlib.resources import as_file, files
from typing import Any, TypeVar

import aiosql
import pymysql
from dbutils.pooled_db import PooledDB
from pymysql.cursors import DictCursor

T = TypeVar("T")
RETRY_CODES = {1213, 1205}  # deadlock and certification failure, lock wait time-out
RETRIES = 4
# disk full, table full, error writing, or: server gone, refused, shutting down, too many connections, read-only or
# not yet joined to its cluster
UNREACHABLE = {
    0,
    1021,
    1026,
    1030,
    1114,
    1040,
    1042,
    1043,
    1045,
    1047,
    1053,
    1129,
    1152,
    1158,
    1159,
    1160,
    1161,
    1290,
    1927,
    2002,
    2003,
    2006,
    2013,
    2055,
}
LOST = (pymysql.err.OperationalError, pymysql.err.InterfaceError)


class StoreError(Exception):
    """Root of the store's errors."""


class StoreUnavailable(StoreError):
    """The database cannot be reached; nothing was saved."""


class NotFound(StoreError):
    """No such row."""


@dataclass
class Conflict(StoreError):
    """Somebody saved another version first."""

    expected_version: int


@dataclass(frozen=True)
class DatabaseSettings:
    """Where the database is."""

    host: str = "127.0.0.1"
    port: int = 3306
    user: str = "ohmack"
    password: str = ""
    name: str = "ohmack"


def _load_queries() -> Any:
    with as_file(files("ohmack.store") / "queries") as folder:
        return aiosql.from_path(folder, "pymysql")


QUERIES: Any = _load_queries()


def search_pattern(words: str) -> str:
    """A pattern for LIKE that finds the words anywhere; its own signs are taken as they are."""
    plain = words.strip().replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")
    return f"%{plain}%"


class Database:
    """A pool of connections; everything runs in a transaction."""

    def __init__(self, settings: DatabaseSettings) -> None:
        self.settings = settings
        self._pool: PooledDB | None = None

    def _connect(self) -> Any:
        try:
            if self._pool is None:
                s = self.settings
                self._pool = PooledDB(
                    creator=pymysql,
                    maxconnections=16,
                    mincached=0,
                    maxcached=8,
                    blocking=True,
                    ping=1,
                    host=s.host,
                    port=s.port,
                    user=s.user,
                    password=s.password,
                    database=s.name,
                    charset="utf8mb4",
                    cursorclass=DictCursor,
                    autocommit=True,
                    reset=False,
                    connect_timeout=3,
                    read_timeout=15,
                    write_timeout=15,
                    init_command="SET SESSION sql_mode='STRICT_ALL_TABLES,NO_ENGINE_SUBSTITUTION', time_zone='+00:00'",
                )
            return self._pool.connection()
        except LOST as error:
            raise StoreUnavailable(str(error)) from error

    def read(self, work: Callable[[Any], T]) -> T:
        """Run work(connection) that is a single query: no transaction is needed around it.

        Raises:
            StoreUnavailable: the database cannot be reached.
        """
        connection = self._connect()
        try:
            return work(connection)
        except LOST as error:
            raise StoreUnavailable(str(error)) from error
        finally:
            connection.close()

    def run(self, work: Callable[[Any], T]) -> T:
        """Run work(connection) in one transaction; deadlocks are tried again.

        Raises:
            StoreUnavailable: the database cannot be reached or went away; the transaction did not happen, or its
                fate is not known, in which case the version check refuses to do it twice.
        """
        for attempt in range(RETRIES):
            connection = self._connect()
            try:
                connection.begin()
                result = work(connection)
                connection.commit()
                return result
            except LOST as error:
                self._abandon(connection)
                code = error.args[0] if error.args else 0
                if code in RETRY_CODES and attempt + 1 < RETRIES:
                    continue
                if code in UNREACHABLE | RETRY_CODES or isinstance(error, pymysql.err.InterfaceError):
                    raise StoreUnavailable(str(error)) from error
                raise
            except BaseException:
                self._abandon(connection)
                raise
            finally:
                connection.close()
        raise StoreUnavailable("the database kept refusing the transaction")

    @staticmethod
    def _abandon(connection: Any) -> None:
        try:
            connection.rollback()
        except Exception:  # the connection is gone, and with it the transaction
            return

    def close(self) -> None:
        """Close every connection."""
        if self._pool is not None:
            self._pool.close()
            self._pool = None
