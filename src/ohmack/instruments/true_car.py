"""A car as it really is: a plan with values nobody knows exactly, and with hidden faults, read with a meter's error."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from math import floor, log10
from random import Random

from ohmack.core.document import Design
from ohmack.core.document.proof import Fault
from ohmack.core.evaluation.door import evaluate
from ohmack.core.prove.car import Car
from ohmack.core.prove.checks import Check
from ohmack.core.prove.faults import stricken
from ohmack.core.prove.probes import Probe, Quantity, Taken, take
from ohmack.core.prove.spans import moved, spans_of
from ohmack.core.prove.windows import meter_sigma

DIGITS = 4  # a hand-held meter shows so many; common practice
CONTACT = 0.3  # how much a probe's own contact differs from touch to touch, of the leads' resistance; common practice
LEADS_OHM = 0.12  # of a pair of test leads held together; common practice


def true_car(design: Design, seed: int, faults: Iterable[Fault] = ()) -> Car:
    """One of the cars a plan may have become.

    Parameters:
        design: the plan.
        seed: which of them; the same seed gives the same car.
        faults: what is wrong in it.

    Returns:
        the car, every value somewhere within its spread, with the faults in it.
    """
    car = evaluate(design).results.car
    chance = Random(seed)
    there = {span: chance.uniform(span.low, span.high) for span in spans_of(car)}
    return stricken(replace(moved(car, there)), faults)


class Meter:
    """What a meter shows of a car: its own error, its leads, its digits."""

    def __init__(self, car: Car, seed: int, leads_ohm: float = 0.0) -> None:
        self.car = car
        self.leads_ohm = leads_ohm
        self._chance = Random(seed)

    def read(self, probe: Probe) -> Taken | None:
        """One reading, which differs a little each time; None where nothing can be read."""
        there = take(self.car, probe)
        if there is None or there.value is None or probe.quantity is Quantity.ANSWER:
            return there
        value = there.value
        if probe.quantity is Quantity.OHM:
            value += self.leads_ohm * (1 + CONTACT * self._chance.uniform(-1, 1))
        noisy = self._chance.gauss(value, meter_sigma(probe.quantity, value))
        signed = probe.quantity in (Quantity.DC_V, Quantity.DROP_MV)
        return Taken(shown(noisy if signed else max(noisy, 0.0)))

    def at(self, check: Check) -> Taken:
        """One reading for a check; where the car's model says nothing, what a healthy one shows."""
        found = self.read(check.probe)
        if found is not None:
            return found
        if not check.is_read:
            return Taken(passed=True)
        if check.probe.quantity is Quantity.HEAT:
            return Taken(shown(self._chance.uniform(*WARM_C), 3))
        return Taken(check.planned if check.planned is not None else USUAL_STEP)


WARM_C, USUAL_STEP = (38.0, 56.0), 30.0  # a case after twenty minutes, a step of forty; common practice


def shown(value: float, digits: int = DIGITS) -> float:
    """A value as a display of so many digits shows it.

    >>> shown(13.98765), shown(0.0012345), shown(0.0)
    (13.99, 0.001, 0.0)
    """
    if value == 0:
        return 0.0
    places = max(0, min(3, digits - 1 - floor(log10(abs(value)))))
    return round(value, places)
