"""The simulated bench: a multimeter, an analyser and a signal source in front of a car that hides what it likes."""

from __future__ import annotations

import json
from dataclasses import dataclass, field
from hashlib import sha256

from ohmack.core.document import Design
from ohmack.core.document.proof import Fault
from ohmack.core.prove.car import Setting
from ohmack.core.prove.probes import Ask, Probe, Quantity, Taken
from ohmack.formats.design_file import read_design
from ohmack.instruments.device import Device
from ohmack.instruments.scpi import OVERLOAD
from ohmack.instruments.true_car import LEADS_OHM, Meter, true_car

MAKER = "Ohmack"
DESK_TONE_HZ, DESK_LEVEL_DBFS = 1000.0, 0.0


@dataclass
class Car:
    """What stands before the bench, and where its probes are."""

    meter: Meter | None = None
    key: str = ""  # of the design and what is hidden in it
    probe: Probe = field(default_factory=lambda: Probe(Quantity.DC_V))

    def taken(self, quantity: Quantity) -> Taken:
        """What is read at the probes.

        Raises:
            ValueError: no car stands there, or nothing can be read so.
        """
        if self.meter is None:
            raise ValueError("no car stands before the bench")
        here = Probe(quantity, self.probe.plus, self.probe.minus, self.probe.setting, self.probe.ask,
                     self.probe.subject)  # fmt: skip
        found = self.meter.read(here)
        if found is None:
            raise ValueError("nothing is known of these points in this setting")
        return found


def number(taken: Taken, times: float = 1.0) -> str:
    """A reading as instruments answer it."""
    if taken.over or taken.value is None:
        return f"{OVERLOAD:+.6E}"
    return f"{taken.value * times:+.6E}"


def probe_tree(probe: Probe) -> dict[str, str]:
    """A probe as it is sent."""
    return {
        "quantity": probe.quantity.name, "plus": probe.plus, "minus": probe.minus, "setting": probe.setting.name,
        "ask": probe.ask.name if probe.ask is not None else "", "subject": probe.subject,
    }  # fmt: skip


def probe_from(tree: dict[str, str]) -> Probe:
    """A probe as it was sent.

    Raises:
        LookupError: a word in it is not known.
    """
    return Probe(
        Quantity[tree["quantity"]], tree["plus"], tree["minus"], Setting[tree["setting"]],
        Ask[tree["ask"]] if tree["ask"] else None, tree["subject"],
    )  # fmt: skip


def car_key(text: str, seed: int, faults: str) -> str:
    """What tells one car before the bench from another."""
    return sha256(f"{seed}\n{faults}\n{text}".encode()).hexdigest()[:16]


class Multimeter(Device):
    """Ohms, volts and amperes between two probes; and the bench's own commands that put the probes somewhere."""

    def __init__(self, car: Car) -> None:
        super().__init__(f"{MAKER},Bench multimeter,{1:04d},1.0")
        self.car = car
        for header, quantity, times in (
            ("MEASure:RESistance?", Quantity.OHM, 1.0), ("MEASure:VOLTage:DC?", Quantity.DC_V, 1.0),
            ("MEASure:VOLTage:AC?", Quantity.AC_V, 1.0), ("MEASure:CURRent:DC?", Quantity.CURRENT, 1.0),
        ):  # fmt: skip
            self.understands(header, lambda _, q=quantity, t=times: number(self._read(q), t))  # type: ignore[misc]
        self.understands("MEASure:TEMPerature?", lambda _: f"{44.0:+.6E}")
        for header, handler in (
            ("BENCh:CAR", self._stands), ("BENCh:CAR?", lambda _: f'"{self.car.key}"'), ("BENCh:PROBe", self._put),
            ("BENCh:ANSWer?", self._answer), ("BENCh:LEADs?", lambda _: f"{LEADS_OHM:+.6E}"),
        ):  # fmt: skip
            self.understands(header, handler)

    def _read(self, quantity: Quantity) -> Taken:
        own = self.car.probe.quantity
        if quantity is Quantity.CURRENT and own is Quantity.ASLEEP_MA:
            taken = self.car.taken(own)
            return Taken(None if taken.value is None else taken.value / 1000, taken.over)
        return self.car.taken(quantity)

    def _stands(self, argument: str) -> None:
        """A car is driven before the bench: `seed,"faults","design"`, both as JSON with doubled quotes."""
        tree = json.loads(_unquoted(argument))
        design: Design = read_design(tree["design"].encode())
        faults = [Fault.model_validate(f) for f in json.loads(tree["faults"])]
        seed = int(tree["seed"])
        self.car.meter = Meter(true_car(design, seed, faults), seed, LEADS_OHM)
        self.car.key = car_key(tree["design"], seed, tree["faults"])

    def _put(self, argument: str) -> None:
        self.car.probe = probe_from(json.loads(_unquoted(argument)))

    def _answer(self, _: str) -> str:
        taken = self.car.taken(Quantity.ANSWER)
        return "1" if taken.passed else "0"


class Analyser(Device):
    """Effective volts and harmonics at an output."""

    def __init__(self, car: Car) -> None:
        super().__init__(f"{MAKER},Bench analyser,{2:04d},1.0")
        self.understands("MEASure:VOLTage:AC?", lambda _: number(car.taken(Quantity.AC_V)))
        self.understands("MEASure:VOLTage:THD?", lambda _: number(car.taken(Quantity.DISTORTION)))


class Source(Device):
    """A signal source: a tone of a frequency and a level, on or off."""

    def __init__(self) -> None:
        super().__init__(f"{MAKER},Bench source,{3:04d},1.0")
        self.reset()
        self.understands("SOURce:FREQuency", self._frequency)
        self.understands("SOURce:FREQuency?", lambda _: f"{self.hz:+.6E}")
        self.understands("SOURce:LEVel", self._level)
        self.understands("SOURce:LEVel?", lambda _: f"{self.dbfs:+.6E}")
        self.understands("OUTPut", self._output)
        self.understands("OUTPut?", lambda _: "1" if self.on else "0")

    def reset(self) -> None:
        """Silent, a middle tone at full scale."""
        self.hz, self.dbfs, self.on = DESK_TONE_HZ, DESK_LEVEL_DBFS, False

    def _frequency(self, value: str) -> None:
        if not 10 <= float(value) <= 40_000:
            raise ValueError("between 10 Hz and 40 kHz")
        self.hz = float(value)

    def _level(self, value: str) -> None:
        if not -120 <= float(value) <= 0:
            raise ValueError("between -120 dB and 0 dB of full scale")
        self.dbfs = float(value)

    def _output(self, value: str) -> None:
        states = {"ON": True, "1": True, "OFF": False, "0": False}
        self.on = states[value.upper()]


def _unquoted(argument: str) -> str:
    """A quoted string, its doubled quotes single again."""
    if len(argument) < 2 or argument[0] != '"' or argument[-1] != '"':
        raise ValueError("a quoted string is expected")
    return argument[1:-1].replace('""', '"')


def quoted(text: str) -> str:
    """A string as it is sent."""
    doubled = text.replace('"', '""')
    return f'"{doubled}"'


def bench() -> list[Device]:
    """The instruments of one bench, before one car."""
    car = Car()
    return [Multimeter(car), Analyser(car), Source()]
