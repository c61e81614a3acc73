"""Reading instruments over SCPI: through PyVISA, on a TCP socket, never for longer than a moment."""

from __future__ import annotations

import math
import os
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

from ohmack.core.prove.probes import Quantity
from ohmack.instruments.address import Address, NoInstrument

TIMEOUT_MS = 2000  # a meter that says nothing for so long is not there
OVERLOAD = 9.9e37  # what an instrument answers where it can read nothing; SCPI 1999.0, from memory
ASKS: dict[Quantity, tuple[str, float]] = {
    Quantity.OHM: ("MEASure:RESistance?", 1.0),
    Quantity.DC_V: ("MEASure:VOLTage:DC?", 1.0),
    Quantity.DROP_MV: ("MEASure:VOLTage:DC?", 1000.0),
    Quantity.CURRENT: ("MEASure:CURRent:DC?", 1.0),
    Quantity.ASLEEP_MA: ("MEASure:CURRent:DC?", 1000.0),
    Quantity.AC_V: ("MEASure:VOLTage:AC?", 1.0),
    Quantity.DISTORTION: ("MEASure:VOLTage:THD?", 1.0),
    Quantity.HEAT: ("MEASure:TEMPerature?", 1.0),
}  # what is asked, and times what it answers


@dataclass(frozen=True, slots=True)
class Identity:
    """What an instrument says it is: the four fields of IEEE 488.2's *IDN?."""

    maker: str
    model: str
    serial: str
    firmware: str

    @property
    def words(self) -> str:
        """Maker and model."""
        return f"{self.maker} {self.model}".strip()


@dataclass(frozen=True, slots=True)
class Shown:
    """What an instrument shows: a value, or nothing within its range."""

    value: float | None
    over: bool = False


class Session:
    """A conversation with one instrument."""

    def __init__(self, resource: Any) -> None:
        self._resource = resource

    def ask(self, command: str) -> str:
        """One query and its answer."""
        return str(self._resource.query(command)).strip()

    def tell(self, command: str) -> None:
        """One command without an answer; what went wrong is in the error queue."""
        self._resource.write(command)

    def trouble(self) -> str:
        """The oldest entry of its error queue; empty where there is none."""
        code, _, words = self.ask("SYSTem:ERRor?").partition(",")
        return "" if code.strip() in ("0", "+0") else words.strip().strip('"')


@contextmanager
def opened(address: Address, timeout_ms: int = TIMEOUT_MS) -> Iterator[Session]:
    """An instrument for a few questions.

    Parameters:
        address: where it is.
        timeout_ms: how long one answer may take.

    Yields:
        the conversation; it is hung up afterwards.

    Raises:
        NoInstrument: it is not there, does not answer in time, hangs up, or answers what is no answer.
    """
    os.environ.setdefault("PYVISA_PY_NO_PSUTIL", "1")
    import pyvisa

    manager = pyvisa.ResourceManager("@py")
    try:
        resource = manager.open_resource(
            address.visa, open_timeout=timeout_ms, timeout=timeout_ms, read_termination="\n", write_termination="\n"
        )  # fmt: skip
    except Exception as error:  # PyVISA-py lets errors of the socket through as they are
        raise NoInstrument(f"Nothing answers at {address}: is it switched on, and on this network?") from error
    try:
        yield Session(resource)
    except NoInstrument:
        raise
    except pyvisa.errors.VisaIOError as error:
        if error.error_code == pyvisa.constants.StatusCode.error_timeout:
            raise NoInstrument(f"{address} took the question and gave no answer in {timeout_ms / 1000:g} s.") from error
        raise NoInstrument(f"The line to {address} dropped half way. Try again.") from error
    except ConnectionRefusedError as error:
        raise NoInstrument(f"Nothing answers at {address}: is it switched on, and on this network?") from error
    except (OSError, UnicodeDecodeError, ValueError) as error:
        raise NoInstrument(f"The line to {address} dropped half way, or it answered nonsense. Try again.") from error
    finally:
        resource.close()


def identify(address: Address, timeout_ms: int = TIMEOUT_MS) -> Identity:
    """Who an instrument is.

    Raises:
        NoInstrument: as `opened`, or it does not say.
    """
    with opened(address, timeout_ms) as session:
        fields = [field.strip() for field in session.ask("*IDN?").split(",")]
    if len(fields) != 4 or not fields[1]:
        raise NoInstrument(f"{address} answers, but not as an instrument does: “{','.join(fields)[:60]}”.")
    return Identity(*fields)


def play(address: Address, hz: float, level_dbfs: float) -> None:
    """Let a signal source play a tone.

    Parameters:
        address: of the source.
        hz: its frequency [hz].
        level_dbfs: its level under full scale [dbfs].

    Raises:
        NoInstrument: as `opened`, or it refuses the tone.
    """
    with opened(address) as session:
        session.tell(f"SOURce:FREQuency {hz:g}")
        session.tell(f"SOURce:LEVel {level_dbfs:g}")
        session.tell("OUTPut ON")
        if trouble := session.trouble():
            raise NoInstrument(f"The source does not play that: {trouble}.")


def hush(address: Address) -> None:
    """Let a signal source fall silent.

    Raises:
        NoInstrument: as `opened`.
    """
    with opened(address) as session:
        session.tell("OUTPut OFF")
        session.ask("*OPC?")


def read(session: Session, quantity: Quantity) -> Shown:
    """One reading.

    Parameters:
        session: the conversation.
        quantity: what is read.

    Returns:
        the value in the quantity's unit.

    Raises:
        NoInstrument: it reads no such thing, or its answer is no number.
    """
    if quantity not in ASKS:
        raise NoInstrument("No instrument reads that: look, and say what you see.")
    command, times = ASKS[quantity]
    answer = session.ask(command)
    try:
        value = float(answer)
    except ValueError:
        raise NoInstrument(f"The meter answers “{answer[:40]}”, which is no number.") from None
    if math.isnan(value):
        raise NoInstrument("The meter shows no value yet. Hold the probes still and take it again.")
    if abs(value) >= OVERLOAD:
        return Shown(None, over=True)
    return Shown(value * times)
