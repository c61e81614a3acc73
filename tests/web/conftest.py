"""One client of the application for the tests of a module, as a browser without scripts is one."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from starlette.testclient import TestClient

from judging import judged_once
from ohmack.store.database import Database, DatabaseSettings
from web.test_pages import client_on


@pytest.fixture(scope="session", autouse=True)
def judging() -> Iterator[None]:
    with judged_once():
        yield


@pytest.fixture(scope="module")
def client(settings: DatabaseSettings, database: Database) -> Iterator[TestClient]:
    with client_on(settings) as made:
        yield made
