"""Fixtures: a throwaway MariaDB on loopback, and designs to work on."""

from __future__ import annotations

import gc
import os
from collections.abc import Iterator
from pathlib import Path

import pytest
from argon2 import PasswordHasher
from argon2.profiles import CHEAPEST
from hypothesis import HealthCheck
from hypothesis import settings as hypothesis_settings

from ohmack.core.document import Design
from ohmack.demo.jobs import demo_design
from ohmack.demo.load import load_demo
from ohmack.launch.mariadb import MariaDbServer
from ohmack.store import passwords
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database, DatabaseSettings
from ohmack.store.migrate import migrate
from ohmack.store.people import PeopleStore
from ohmack.store.sessions import SessionStore
from ohmack.web.serving import YOUNG_OBJECTS

# Wall time is never asserted: a busy machine must not fail a property.
# The same examples every time, so that what failed fails again, until a number in the sources changes: those are tried
# too; OHMACK_RANDOM=yes draws others.
hypothesis_settings.register_profile(
    "ohmack", deadline=None, max_examples=36, suppress_health_check=[HealthCheck.too_slow],
    derandomize=not os.environ.get("OHMACK_RANDOM"),
)  # fmt: skip
hypothesis_settings.load_profile("ohmack")


def pytest_collection_finish() -> None:
    """The collector looks at what a test makes, and seldom: as the served application has it."""
    gc.freeze()
    gc.set_threshold(YOUNG_OBJECTS, 10, 10)


AS_SERVED = passwords._hasher
passwords._hasher = PasswordHasher.from_parameters(CHEAPEST)  # hundreds sign in here; how slow it is has its own test

collect_ignore = [] if os.environ.get("OHMACK_CLUSTER") else ["cluster"]  # ./ohmack test cluster
PASSWORD = "seven brass terminals in a row"  # of the owner who is signed in wherever a test asks for a page


@pytest.fixture(scope="session")
def mariadb(tmp_path_factory: pytest.TempPathFactory) -> Iterator[MariaDbServer]:
    server = MariaDbServer(Path(tmp_path_factory.mktemp("mariadb")), quiet=True, fast=True)
    server.start()
    yield server
    server.stop()


@pytest.fixture(scope="session")
def settings(mariadb: MariaDbServer) -> DatabaseSettings:
    found = DatabaseSettings("127.0.0.1", mariadb.port, "ohmack", mariadb.password, "ohmack")
    assert migrate(found) > 0
    assert migrate(found) == 0, "a second run applies nothing"
    return found


@pytest.fixture(scope="session")
def database(settings: DatabaseSettings) -> Iterator[Database]:
    db = Database(settings)
    assert load_demo(db)
    SessionStore(db).use_link(PeopleStore(db).found(BUILT_IN, "Tester", "tester"), PASSWORD)
    yield db
    db.close()


@pytest.fixture
def hashed_as_served(monkeypatch: pytest.MonkeyPatch) -> None:
    """Passwords are as slow to try as they are in a shop."""
    monkeypatch.setattr(passwords, "_hasher", AS_SERVED)


@pytest.fixture
def estate() -> Design:
    """The theatre's estate: the complete demo job."""
    return demo_design(0)
