"""The HTTP server: uvicorn with time limits on what comes in, so that half requests do not hold a connection for
ever.
"""

from __future__ import annotations

import asyncio
import gc
import socket
import sys
from typing import Any

import h11
import uvicorn
from fastapi import FastAPI
from uvicorn.protocols.http.h11_impl import H11Protocol
from uvicorn.supervisors import Multiprocess

from ohmack.web.logs import log_settings

HEADER_SECONDS = 15.0  # a request line and headers that take longer are nobody's browser
LARGEST_HEADER = 16_384
KEPT_OPEN_SECONDS = 75  # somebody who thinks between two edits comes back to the process that knows the job
TURN_SECONDS = 0.0005  # who comes back from the database waits no longer than this for another's page to let go
YOUNG_OBJECTS = 100_000  # before the collector looks: more than an edit holds while it is worked out


def settle() -> None:
    """What is there once an application is made stays for good: the collector need not look at it again, which stopped
    a page for a third of a second now and then. And threads take short turns. Once a process that does nothing but
    serve.
    """
    gc.collect()
    gc.freeze()
    gc.set_threshold(YOUNG_OBJECTS, 10, 10)
    sys.setswitchinterval(TURN_SECONDS)


class TimedConnection(H11Protocol):
    """A connection that is closed where a request's headers do not come to their end in time."""

    _late: asyncio.TimerHandle | None = None

    def connection_made(self, transport: Any) -> None:
        """A client is there; its first request is due."""
        super().connection_made(transport)
        self._wait()

    def data_received(self, data: bytes) -> None:
        """Something came; the clock runs only while headers are incomplete."""
        super().data_received(data)
        if self.conn.their_state is not h11.IDLE:
            self._stop_waiting()
        elif self._late is None:
            self._wait()

    def connection_lost(self, exc: Exception | None) -> None:
        """The client is gone."""
        self._stop_waiting()
        super().connection_lost(exc)

    def _wait(self) -> None:
        self._late = self.loop.call_later(HEADER_SECONDS, self._give_up)

    def _stop_waiting(self) -> None:
        if self._late is not None:
            self._late.cancel()
            self._late = None

    def _give_up(self) -> None:
        self._late = None
        if not self.transport.is_closing():
            self.transport.close()


def server_for(app: FastAPI, host: str, port: int, log: str = "text", log_level: str = "WARNING") -> uvicorn.Server:
    """A server for the application, not started yet; this process is its own from here on."""
    settle()
    return uvicorn.Server(_config(app, host, port, log_settings(log, log_level)))


def several(app: str, host: str, port: int, workers: int, log: str) -> Multiprocess:
    """So many processes on one port, each with an application of its own; one that dies is started again.

    Parameters:
        app: where a function that makes the application is found, as `module:function`.
        host, port: where to listen.
        workers: how many.
        log: `text` or `json`.
    """
    config = _config(app, host, port, log_settings(log), factory=True, workers=workers)
    shared = config.bind_socket()
    shared.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)  # what is accepted has it too; else answers wait 40 ms
    return Multiprocess(config, sockets=[shared])


def _config(app: FastAPI | str, host: str, port: int, log: dict[str, Any], **more: Any) -> uvicorn.Config:
    return uvicorn.Config(
        app, host=host, port=port, log_config=log, http=TimedConnection, server_header=False,
        h11_max_incomplete_event_size=LARGEST_HEADER, timeout_graceful_shutdown=5,
        timeout_keep_alive=KEPT_OPEN_SECONDS, **more,
    )  # fmt: skip
