"""Where an instrument is reached: a host and a port on the network, as people and as VISA write it."""

from __future__ import annotations

import re
from dataclasses import dataclass

_VISA = re.compile(r"TCPIP\d*::(?P<host>[^:\s]+)::(?P<port>\d+)::SOCKET", re.IGNORECASE)
_PLAIN = re.compile(r"(?P<host>[A-Za-z0-9.-]+):(?P<port>\d+)")


class NoInstrument(Exception):
    """An instrument that cannot be read: why, in a sentence for a person at the bench."""


@dataclass(frozen=True, slots=True)
class Address:
    """A host and a port."""

    host: str
    port: int

    @property
    def visa(self) -> str:
        """As VISA names it."""
        return f"TCPIP::{self.host}::{self.port}::SOCKET"

    def __str__(self) -> str:
        return f"{self.host}:{self.port}"


def read_address(typed: str) -> Address:
    """An address as it was typed.

    Parameters:
        typed: `host:port`, or VISA's `TCPIP::host::port::SOCKET`.

    Returns:
        the address.

    Raises:
        NoInstrument: it is neither.

    >>> str(read_address("TCPIP0::192.0.2.7::5025::SOCKET")), read_address("bench:5025").visa
    ('192.0.2.7:5025', 'TCPIP::bench::5025::SOCKET')
    """
    found = _VISA.fullmatch(typed.strip()) or _PLAIN.fullmatch(typed.strip())
    if found is None or not 0 < int(found["port"]) < 65536:
        raise NoInstrument("Write it as host:port, for example 192.168.0.20:5025, or TCPIP::host::port::SOCKET.")
    return Address(found["host"], int(found["port"]))
