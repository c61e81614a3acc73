"""The pool, transactions, retries, and the errors the rest of the application sees."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from importlib.resources import as_file, files
from random import uniform
from threading import Lock
from typing import Any, TypeVar

import aiosql
import pymysql
from dbutils.pooled_db import PooledDB
from pymysql.cursors import DictCursor

T = TypeVar("T")
RETRY_CODES = {1213, 1205}  # deadlock and certification failure, lock wait time-out
RETRIES = 12
PAUSE_S, LONGEST_PAUSE_S = 0.02, 0.5  # at most the first time, doubled with each, and never longer
THIS_MACHINE = ("127.0.0.1", "::1", "localhost")
# without escapes by backslash a plan of fifty thousand letters is quoted in a moment; patterns say what escapes in them
SQL_MODE = "STRICT_ALL_TABLES,NO_ENGINE_SUBSTITUTION,NO_BACKSLASH_ESCAPES"
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
    """Where the database is: one server, or every node of a cluster as `host:port,host:port`."""

    host: str = "127.0.0.1"
    port: int = 3306
    user: str = "ohmack"
    password: str = ""
    name: str = "ohmack"

    @property
    def login(self) -> dict[str, Any]:
        """Where a connection goes and as whom. On this machine nothing is on a wire to be read, and to prepare for TLS
        takes a twentieth of a second each time.
        """
        return {
            "host": self.host, "port": self.port, "user": self.user, "password": self.password, "database": self.name,
            "charset": "utf8mb4", "ssl_disabled": self.host in THIS_MACHINE,
        }  # fmt: skip

    @property
    def places(self) -> tuple[DatabaseSettings, ...]:
        """Each server by itself, in the order they are asked."""
        found = []
        for place in self.host.split(","):
            host, _, port = place.strip().rpartition(":") if place.count(":") == 1 else (place.strip(), "", "")
            found.append(replace(self, host=host, port=int(port) if port.isdigit() else self.port))
        return tuple(found)


def _load_queries() -> Any:
    with as_file(files("ohmack.store") / "queries") as folder:
        return aiosql.from_path(folder, "pymysql")


QUERIES: Any = _load_queries()


def search_pattern(words: str) -> str:
    """A pattern for LIKE ... ESCAPE '|' that finds the words anywhere; its own signs are taken as they are."""
    plain = words.strip().replace("|", "||").replace("%", "|%").replace("_", "|_")
    return f"%{plain}%"


def plain_connection(settings: DatabaseSettings, **more: Any) -> Any:
    """One connection outside any pool, to the first server that answers: for migrations and backups.

    Raises:
        pymysql.MySQLError: none of them does.
    """
    for n, s in enumerate(settings.places, start=1):
        try:
            return pymysql.connect(**s.login, connect_timeout=5, **more)
        except LOST:
            if n == len(settings.places):
                raise
    raise StoreUnavailable("no server is named")


class Database:
    """Pools of connections, one a server; everything runs in a transaction. Where there are several servers a dead one
    is left for the next.
    """

    def __init__(self, settings: DatabaseSettings) -> None:
        self.settings = settings
        self.places = settings.places
        self._here = 0  # the place that answered last
        self._pools: dict[int, PooledDB] = {}
        self._lock = Lock()

    def _pool(self, place: int) -> PooledDB:
        with self._lock:
            if place not in self._pools:
                begin = f"SET SESSION sql_mode='{SQL_MODE}', time_zone='+00:00'"
                if len(self.places) > 1:  # what one node acknowledged every node shows
                    begin += ", wsrep_sync_wait=1"
                self._pools[place] = PooledDB(
                    creator=pymysql, maxconnections=16, mincached=0, maxcached=8, blocking=True, ping=1,
                    cursorclass=DictCursor, autocommit=True, reset=False, connect_timeout=3, read_timeout=15,
                    write_timeout=15, init_command=begin, **self.places[place].login,
                )  # fmt: skip
            return self._pools[place]

    def _connect(self) -> tuple[Any, int]:
        """A connection to the place that answered last, or to the next that does."""
        place, failed = self._here, Exception()
        for _ in self.places:
            try:
                return self._pool(place).connection(), place
            except LOST as error:
                place, failed = self._leave(place), error
        raise StoreUnavailable(str(failed)) from failed

    def _leave(self, place: int) -> int:
        """A place that does not answer is asked last from now on; the one to ask next."""
        with self._lock:
            if self._here == place:
                self._here = (place + 1) % len(self.places)
            return (place + 1) % len(self.places)

    def read(self, work: Callable[[Any], T]) -> T:
        """Run work(connection) that is a single query: no transaction is needed around it.

        Raises:
            StoreUnavailable: the database cannot be reached.
        """
        for _ in self.places:
            connection, place = self._connect()
            try:
                return work(connection)
            except LOST as error:
                self._leave(place)
                failed = error
            finally:
                connection.close()
        raise StoreUnavailable(str(failed)) from failed

    def run(self, work: Callable[[Any], T]) -> T:
        """Run work(connection) in one transaction; deadlocks and certification conflicts are tried again, on another
        server too where one dies before it was asked to commit.

        Raises:
            StoreUnavailable: the database cannot be reached or went away; the transaction did not happen, or its
                fate is not known, in which case the version check refuses to do it twice.
        """
        for attempt in range(RETRIES + len(self.places)):
            connection, place = self._connect()
            asked_to_commit = False
            try:
                connection.begin()
                result = work(connection)
                asked_to_commit = True
                connection.commit()
                return result
            except LOST as error:
                self._abandon(connection)
                code = error.args[0] if error.args else 0
                if code in RETRY_CODES and attempt + 1 < RETRIES + len(self.places):
                    time.sleep(uniform(0, min(PAUSE_S * 2**attempt, LONGEST_PAUSE_S)))  # who met do not meet again
                    continue
                gone = code in UNREACHABLE | RETRY_CODES or isinstance(error, pymysql.err.InterfaceError)
                if gone and code not in RETRY_CODES:
                    self._leave(place)
                    if len(self.places) > 1 and not asked_to_commit:
                        continue
                if gone:
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
        with self._lock:
            for pool in self._pools.values():
                pool.close()
            self._pools.clear()
