"""Watching over the database: one that stops by itself is started again, and the terminal says so.

Standard library only.
"""

from __future__ import annotations

import threading

from ohmack.launch.mariadb import MariaDbServer
from ohmack.launch.system import SetupTrouble, say

LOOK_SECONDS = 1.0
AGAIN_SECONDS = 5.0


class Watch:
    """Starts a server again, on the port it had, whenever it is found gone; gives up never, for the disk may have
    room again.
    """

    def __init__(self, server: MariaDbServer) -> None:
        self._server = server
        self._ended = threading.Event()
        self._thread = threading.Thread(target=self._look, name="database watch", daemon=True)

    def start(self) -> None:
        """Begin to look."""
        self._thread.start()

    def end(self) -> None:
        """Look no more; a start that is under way has five seconds."""
        self._ended.set()
        if self._thread.is_alive():
            self._thread.join(5)

    def _look(self) -> None:
        said = ""
        while not self._ended.wait(AGAIN_SECONDS if said else LOOK_SECONDS):
            if self._server.running:
                said = ""
                continue
            if not said:
                say("MariaDB has stopped by itself; starting it again")
            try:
                self._server.start_on(self._server.port)
                say("MariaDB answers again; nothing that was saved is lost")
            except (SetupTrouble, OSError) as trouble:
                if str(trouble) != said:
                    say(f"{trouble}\n  Trying again every {AGAIN_SECONDS:g} s.")
                said = str(trouble)
