"""The nightly backup: made by one of all processes, kept for so many days."""

from __future__ import annotations

import logging
import threading
from contextlib import suppress
from datetime import date, datetime
from pathlib import Path

from ohmack.store.backup import back_up, claim_backup, give_backup_back
from ohmack.store.database import Database, DatabaseSettings, StoreError

LOG = logging.getLogger("ohmack.backup")
LOOK_SECONDS = 60.0
ENDING = ".backup"


class Nightly:
    """Looks at the clock once a minute; makes the backup of a day once its time has come."""

    def __init__(self, settings: DatabaseSettings, folder: Path, at: str, keep: int) -> None:
        self.settings, self.folder, self.at, self.keep = settings, folder, at, keep
        self._ended = threading.Event()
        self._thread = threading.Thread(target=self._look, name="nightly backup", daemon=True)

    def start(self) -> None:
        """Begin to look."""
        self._thread.start()

    def end(self) -> None:
        """Look no more; a backup under way has ten seconds."""
        self._ended.set()
        if self._thread.is_alive():
            self._thread.join(10)

    def _look(self) -> None:
        tried: date | None = None
        while not self._ended.wait(LOOK_SECONDS if tried else 0):
            now = datetime.now()
            if f"{now:%H:%M}" >= self.at and tried != now.date():
                self.make(now.date())
            tried = now.date() if f"{now:%H:%M}" >= self.at else date.min

    def make(self, day: date) -> Path | None:
        """The backup of a day, where nobody made it yet; None where somebody did, or it failed, which the log says."""
        database, claimed = Database(self.settings), False
        try:
            claimed = claim_backup(database, day)
            if not claimed:
                return None
            self.folder.mkdir(mode=0o700, parents=True, exist_ok=True)
            path = self.folder / f"ohmack-{day.isoformat()}{ENDING}"
            made = back_up(self.settings, path)
            LOG.info("backup %s: %d rows", path, made.rows)
            for old in sorted(self.folder.glob(f"ohmack-????-??-??{ENDING}"))[: -self.keep]:
                old.unlink(missing_ok=True)
            return path
        except Exception:
            LOG.exception("the nightly backup of %s failed", day)
            if claimed:
                with suppress(StoreError):
                    give_backup_back(database, day)
            return None
        finally:
            database.close()
