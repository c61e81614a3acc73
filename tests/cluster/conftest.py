"""One cluster for all tests of it."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from pathlib import Path

import pytest

from cluster.galera import Cluster
from ohmack.store.migrate import migrate


@pytest.fixture(scope="session")
def cluster() -> Iterator[Cluster]:
    with tempfile.TemporaryDirectory(prefix="ohmack-cluster-") as folder:  # every server's user reaches it
        made = Cluster(Path(folder))
        try:
            made.start()
            assert migrate(made.settings()) > 0
            assert migrate(made.settings(1)) == 0
            yield made
        finally:
            made.stop()
