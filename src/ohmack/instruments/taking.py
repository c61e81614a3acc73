"""One reading from an instrument for one check: at a real car where the probes are, at the bench where they are put."""

from __future__ import annotations

import json
from dataclasses import dataclass

from ohmack.core.document import Design
from ohmack.core.document.proof import Fault
from ohmack.core.prove.checks import Check
from ohmack.core.prove.probes import Probe, Quantity
from ohmack.instruments.address import Address, NoInstrument
from ohmack.instruments.bench import MAKER, car_key, probe_tree, quoted
from ohmack.instruments.scpi import Session, opened, read

SEED = 1  # of the car before the bench, where nobody asks for another


@dataclass(frozen=True, slots=True)
class FromInstrument:
    """What an instrument said: a value, nothing within its range, or whether it is good; and who it is."""

    instrument: str
    value: float | None = None
    over: bool = False
    passed: bool | None = None
    leads_ohm: float = 0.0


@dataclass(frozen=True, slots=True)
class OnTheBench:
    """What stands before the bench: a plan, which of the cars it may have become, and what is wrong in it."""

    design: Design
    seed: int = SEED
    faults: tuple[Fault, ...] = ()


def take_from(address: Address, check: Check, car: OnTheBench) -> FromInstrument:
    """A reading for a check.

    Parameters:
        address: of the instrument.
        check: what is read; at a real car the person holds the probes.
        car: what stands before the bench, where the instrument is one of its own.

    Returns:
        the reading, in the unit of the check.

    Raises:
        NoInstrument: nothing can be read, in a sentence for the person at it.
    """
    with opened(address) as session:
        fields = [f.strip() for f in session.ask("*IDN?").split(",")]
        if len(fields) != 4:
            raise NoInstrument(f"{address} answers, but not as an instrument does.")
        name = f"{fields[0]} {fields[1]}".strip()
        at_bench = fields[0] == MAKER
        leads_ohm = _put(session, check.probe, car) if at_bench else 0.0
        if check.probe.quantity is Quantity.ANSWER:
            if not at_bench:
                raise NoInstrument("No instrument answers that: look, and say what you see.")
            return FromInstrument(name, passed=session.ask("BENCh:ANSWer?") == "1")
        shown = read(session, check.probe.quantity)
        if shown.value is None and (trouble := session.trouble()):
            raise NoInstrument(f"The meter says: {trouble}.")
        return FromInstrument(name, shown.value, shown.over, None, leads_ohm if check.probe.quantity is Quantity.OHM
                              else 0.0)  # fmt: skip


def _put(session: Session, probe: Probe, car: OnTheBench) -> float:
    """The right car before the bench and the probes where they belong; what its test leads read by themselves [ohm]."""
    text = car.design.model_dump_json()
    faults = json.dumps([f.model_dump(mode="json") for f in car.faults])
    if session.ask("BENCh:CAR?").strip('"') != car_key(text, car.seed, faults):
        tree = json.dumps({"seed": car.seed, "faults": faults, "design": text})
        session.tell(f"BENCh:CAR {quoted(tree)}")
        if trouble := session.trouble():
            raise NoInstrument(f"The bench does not take this car: {trouble}.")
    session.tell(f"BENCh:PROBe {quoted(json.dumps(probe_tree(probe)))}")
    return float(session.ask("BENCh:LEADs?"))
