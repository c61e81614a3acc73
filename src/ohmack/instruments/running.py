"""The bench while it runs: its instruments on loopback, in a thread of its own or until somebody stops it."""

from __future__ import annotations

import asyncio
import threading

from ohmack.instruments.bench import bench
from ohmack.instruments.device import Server

PORT = 5025  # the port instruments listen on by convention


class RunningBench:
    """A bench in a thread."""

    def __init__(self, port: int = PORT) -> None:
        self.ports: list[int] = []
        self._loop = asyncio.new_event_loop()
        self._server = Server(bench(), port=port)
        self._ready = threading.Event()
        self._trouble: OSError | None = None
        self._thread = threading.Thread(target=self._run, name="bench", daemon=True)

    def start(self) -> list[int]:
        """Listen.

        Returns:
            the ports of the multimeter, the analyser and the source.

        Raises:
            OSError: a port is taken.
        """
        self._thread.start()
        self._ready.wait(5.0)
        if self._trouble is not None:
            raise self._trouble
        return self.ports

    def stop(self) -> None:
        """Hang up."""
        self._loop.call_soon_threadsafe(self._loop.stop)
        self._thread.join(3.0)

    def _run(self) -> None:
        asyncio.set_event_loop(self._loop)
        try:
            self.ports = self._loop.run_until_complete(self._server.start())
        except OSError as error:
            self._trouble = error
            return
        finally:
            self._ready.set()
        self._loop.run_forever()
        self._loop.run_until_complete(self._server.stop())
        self._loop.close()
