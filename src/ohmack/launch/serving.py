"""Serving a shop's own database: one process or several, and the nightly backup beside them."""

from __future__ import annotations

import os
import shutil
from pathlib import Path
from typing import Any

from ohmack.launch.nightly import Nightly

COUNTS = "PROMETHEUS_MULTIPROC_DIR"


def serve_on(settings: Any, var: Path) -> None:
    """Serve until stopped.

    Parameters:
        settings: where to listen and where the database is.
        var: a folder for what several processes count together.
    """
    nightly = None
    if settings.backup_folder:
        folder = Path(settings.backup_folder).absolute()
        nightly = Nightly(settings.database, folder, settings.backup_at, settings.backup_keep)
        nightly.start()
    try:
        if settings.workers > 1:
            _several(settings, var)
        else:
            from ohmack.web.app import create_app
            from ohmack.web.serving import server_for

            server_for(create_app(settings), settings.host, settings.port, settings.log, "INFO").run()
    finally:
        if nightly is not None:
            nightly.end()


def _several(settings: Any, var: Path) -> None:
    counts = var / f"counts-{settings.port}"
    shutil.rmtree(counts, ignore_errors=True)  # a process that is gone counts no more
    counts.mkdir(mode=0o700, parents=True)
    os.environ[COUNTS] = str(counts)  # before anything that counts is imported
    os.environ |= {"OHMACK_HOST": settings.host, "OHMACK_ALLOWED_HOSTS": settings.allowed_hosts}
    from ohmack.web.serving import several

    several("ohmack.web.app:from_environment", settings.host, settings.port, settings.workers, settings.log).run()
