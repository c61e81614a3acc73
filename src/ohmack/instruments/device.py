"""A SCPI instrument as IEEE 488.2 wants it: common commands, an error queue, one answer a line."""

from __future__ import annotations

import asyncio
import re
from collections.abc import Awaitable, Callable
from contextlib import suppress

from ohmack.core.errors import OhmackError

MOST_LINE, MOST_ERRORS = 4_000_000, 20
Handler = Callable[[str], "str | None"]
COMMAND_ERROR, EXECUTION_ERROR = (-113, "Undefined header", 32), (-200, "Execution error", 16)
LOST = (-350, "Queue overflow", 8)


def short(header: str) -> str:
    """The short form of a header as manuals write it: its capitals, `?` and `*` kept.

    >>> short("MEASure:VOLTage:DC?"), short("*IDN?")
    ('MEAS:VOLT:DC?', '*IDN?')
    """
    return re.sub(r"[a-z]", "", header)


class Device:
    """One instrument: what it is, what it understands, what went wrong last."""

    def __init__(self, identity: str) -> None:
        self.identity = identity
        self._handlers: dict[str, Handler] = {}
        self._errors: list[tuple[int, str]] = []
        self._events = 0
        self._enabled = 0
        for header, handler in (
            ("*IDN?", lambda _: self.identity), ("*OPC?", lambda _: "1"), ("*OPC", self._complete),
            ("*CLS", self._cleared), ("*RST", self._reset), ("*ESR?", self._events_read), ("*STB?", self._status),
            ("*ESE", self._enable), ("*ESE?", lambda _: str(self._enabled)), ("*TST?", lambda _: "0"),
            ("*WAI", lambda _: None), ("SYSTem:ERRor?", self._error), ("SYSTem:VERSion?", lambda _: "1999.0"),
        ):  # fmt: skip
            self.understands(header, handler)

    def understands(self, header: str, handler: Handler) -> None:
        """Register a command: in its long form as manuals write it; the short one is taken too."""
        self._handlers[header.upper()] = handler
        self._handlers[short(header).upper()] = handler

    def reset(self) -> None:
        """What *RST puts back; nothing here."""

    def hear(self, line: str) -> str | None:
        """One line of program messages.

        Parameters:
            line: commands, parted by semicolons.

        Returns:
            the answers, parted by semicolons; None where nothing was asked. What is wrong goes into the error queue.
        """
        answers = []
        for message in _messages(line):
            header, _, arguments = message.partition(" ")
            handler = self._handlers.get(header.upper().lstrip(":"))
            if handler is None:
                self.fail(COMMAND_ERROR)
                continue
            try:
                answer = handler(arguments.strip())
            except (ValueError, LookupError, OhmackError) as error:
                self.fail(EXECUTION_ERROR, str(error))
                continue
            if answer is not None:
                answers.append(answer)
        return ";".join(answers) if answers else None

    def fail(self, error: tuple[int, str, int], more: str = "") -> None:
        """Note an error: its number, its text and its bit of the event register."""
        number, words, bit = error
        self._events |= bit
        if len(self._errors) >= MOST_ERRORS:
            self._errors[-1] = LOST[:2]
            return
        self._errors.append((number, f"{words}; {more}" if more else words))

    def _complete(self, _: str) -> None:
        self._events |= 1

    def _cleared(self, _: str) -> None:
        self._errors.clear()
        self._events = 0

    def _reset(self, _: str) -> None:
        self.reset()

    def _events_read(self, _: str) -> str:
        events, self._events = self._events, 0
        return str(events)

    def _enable(self, value: str) -> None:
        self._enabled = int(value) & 255

    def _status(self, _: str) -> str:
        summary = 32 if self._events & self._enabled else 0
        return str(summary | (4 if self._errors else 0))

    def _error(self, _: str) -> str:
        number, words = self._errors.pop(0) if self._errors else (0, "No error")
        clean = words.replace('"', "'")
        return f'{number},"{clean}"'


def _messages(line: str) -> list[str]:
    """The commands of a line; a semicolon within quotes parts nothing.

    >>> _messages('*CLS; BENC:PROB "a;b";*OPC?')
    ['*CLS', 'BENC:PROB "a;b"', '*OPC?']
    """
    parts, begin, quoted = [], 0, False
    for at, character in enumerate(line):
        if character == '"':
            quoted = not quoted
        elif character == ";" and not quoted:
            parts.append(line[begin:at])
            begin = at + 1
    return [part.strip() for part in (*parts, line[begin:]) if part.strip()]


class Server:
    """Instruments on loopback, a port each."""

    def __init__(self, devices: list[Device], host: str = "127.0.0.1", port: int = 5025) -> None:
        self.devices = devices
        self.host = host
        self.port = port
        self._servers: list[asyncio.Server] = []

    async def start(self) -> list[int]:
        """Listen.

        Returns:
            the ports, in the order of the devices; free ones where the port is 0.

        Raises:
            OSError: a port is taken.
        """
        for n, device in enumerate(self.devices):
            talk = self._talk_with(device)
            port = self.port + n if self.port else 0
            self._servers.append(await asyncio.start_server(talk, self.host, port, limit=MOST_LINE))
        return [server.sockets[0].getsockname()[1] for server in self._servers]

    async def stop(self) -> None:
        """Hang up."""
        for server in self._servers:
            server.close()
            with suppress(asyncio.TimeoutError):
                await asyncio.wait_for(server.wait_closed(), 1.0)

    def _talk_with(self, device: Device) -> Callable[[asyncio.StreamReader, asyncio.StreamWriter], Awaitable[None]]:
        async def talk(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
            with suppress(ConnectionError, ValueError, asyncio.IncompleteReadError):
                while line := await reader.readline():
                    answer = await asyncio.to_thread(device.hear, line.decode("utf-8", "replace").strip())
                    if answer is not None:
                        writer.write(f"{answer}\n".encode())
                        await writer.drain()
            writer.close()

        return talk
