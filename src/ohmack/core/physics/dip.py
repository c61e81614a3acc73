"""The dip over time: battery, alternator with limit and lag, cables, a capacitor, a load that comes and goes."""

from __future__ import annotations

from dataclasses import replace
from math import exp, sqrt

import numpy as np
from numpy.typing import NDArray

from ohmack.core.errors import NoOperatingPoint, require
from ohmack.core.record import record

Floats = NDArray[np.float64]
RATE_HZ = 1000.0
LAMP_POWER = 3.4  # light of a filament lamp over voltage: photometric rule of thumb, from memory


@record
class Capacitor:
    """A capacitor at the amplifier: with the resistance of itself and its leads."""

    capacitance_f: float
    series_ohm: float


@record
class Circuit:
    """What a load dips: everything between the battery's plates and the amplifier's terminals."""

    rest_v: float  # the battery's own voltage
    inner_ohm: float  # its resistance while it gives, warm
    taking_ohm: float  # its resistance while it is charged: far higher, a charged battery takes little
    loop_ohm: float  # from the post to the amplifier and back
    car_a: float  # what the car draws at the post
    idle_a: float  # what the amplifier draws without music
    regulated_v: float  # what the alternator's regulator holds at the post; 0 with the engine off
    alternator_a: float  # the most it gives at this speed
    lag_s: float  # how slowly its field follows
    capacitor: Capacitor | None = None


@record(eq=False)
class Dip:
    """Volts over time, at the post and at the amplifier."""

    time_s: Floats
    post_v: Floats
    amplifier_v: Floats
    before_v: float  # at the post before the load came

    @property
    def lowest_amplifier_v(self) -> float:
        """The lowest voltage at the amplifier [v]."""
        return float(self.amplifier_v.min())

    @property
    def lowest_post_v(self) -> float:
        """The lowest voltage at the post, where the headlights hang [v]."""
        return float(self.post_v.min())

    @property
    def light_lost(self) -> float:
        """The share of a filament lamp's light that is lost at the lowest point."""
        return float(1 - (self.lowest_post_v / self.before_v) ** LAMP_POWER)

    def dim_for(self, share: float) -> float:
        """How much of the time a filament lamp loses more than a share of its light, as a share of the whole."""
        return float(((self.post_v / self.before_v) ** LAMP_POWER < 1 - share).mean())


def burst(power_w: float, at_s: float, on_s: float, off_s: float, seconds: float) -> Floats:
    """Power that comes and goes, as a beat does.

    Parameters:
        power_w: while it is on, drawn from the supply [w].
        at_s: when it begins [s].
        on_s: how long it is on [s].
        off_s: how long it is off between [s].
        seconds: how long in all [s].

    Returns:
        power at RATE_HZ [w].

    Raises:
        OutOfRange: a length not above zero.

    Source: none: a choice.
    """
    for name, value in (("on_s", on_s), ("off_s", off_s), ("seconds", seconds)):
        require(name, value, "s")
    times = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    beat = (times - at_s) % (on_s + off_s) < on_s - 0.5 / RATE_HZ
    return np.where((times >= at_s - 0.5 / RATE_HZ) & beat, power_w, 0.0)


def dipped(circuit: Circuit, power_w: Floats, beside_a: Floats | None = None, beside_v: Floats | None = None) -> Dip:
    """What a load does to the voltages.

    Parameters:
        circuit: what feeds it.
        power_w: what it draws besides its idle current, at RATE_HZ, at constant power [w].
        beside_a: what others draw at the post meanwhile, as long; None for nothing [a].
        beside_v: what they lose in the pieces of the loop they share with it; None for nothing [v].

    Returns:
        volts at the post and at the amplifier, sample by sample.

    Raises:
        NoOperatingPoint: more than the loop can carry at some moment.
        OutOfRange: a resistance not above zero.

    Formula: nodes of the circuit solved at every step (constant power: the upper root), the capacitor by backward
    Euler, the alternator's current following what would hold its voltage with one lag, inside its limit. Source:
    textbook circuit theory.
    """
    c, step_s = circuit, 1 / RATE_HZ
    for name, value in (("inner_ohm", c.inner_ohm), ("taking_ohm", c.taking_ohm), ("loop_ohm", c.loop_ohm)):
        require(name, value, "ohm")
    siemens = 0.0 if c.capacitor is None else 1 / (c.capacitor.series_ohm + step_s / c.capacitor.capacitance_f)
    follow = 1 - exp(-step_s / c.lag_s) if c.lag_s > 0 else 1.0
    nothing = np.zeros(len(power_w))
    others = nothing if beside_a is None else beside_a
    shared = nothing if beside_v is None else beside_v
    give_a = _held_a(c, c.car_a + c.idle_a + float(others[0]))
    before_v, held_v = _solved(c, give_a - float(others[0]), 0.0, 0.0, 0.0, float(shared[0]))
    post, amplifier = np.empty(len(power_w)), np.empty(len(power_w))
    drawn = zip(power_w.tolist(), others.tolist(), shared.tolist(), strict=True)
    for n, (watts, other_a, other_v) in enumerate(drawn):
        post_v, volts = _solved(c, give_a - other_a, siemens, held_v, watts, other_v)
        post[n], amplifier[n] = post_v, volts
        if c.capacitor is not None:
            held_v += siemens * (volts - held_v) * step_s / c.capacitor.capacitance_f
        give_a += follow * (_held_a(c, c.car_a + other_a + (post_v - volts - other_v) / c.loop_ohm) - give_a)
    return Dip(np.asarray(np.arange(len(power_w)) * step_s, dtype=np.float64), post, amplifier, before_v)


def _solved(
    c: Circuit, give_a: float, siemens: float, held_v: float, watts: float, shared_v: float = 0.0
) -> tuple[float, float]:
    """(volts at the post, at the amplifier) with one current of the alternator and one charge of the capacitor."""
    found = _with(c, c.inner_ohm, give_a, siemens, held_v, watts, shared_v)
    if found is not None and found[0] <= c.rest_v:
        return found
    found = _with(
        c, c.taking_ohm, give_a, siemens, held_v, watts, shared_v
    )  # more comes than is drawn: the battery takes it
    if found is None:
        raise NoOperatingPoint("load", watts, c.rest_v)
    return found


def _with(
    c: Circuit, battery_ohm: float, give_a: float, siemens: float, held_v: float, watts: float, shared_v: float
) -> tuple[float, float] | None:
    """The same with the battery's resistance in one direction; None where the load is more than it carries."""
    open_v = c.rest_v + battery_ohm * (give_a - c.car_a) - shared_v
    through_ohm = battery_ohm + c.loop_ohm
    a, b = 1 / through_ohm + siemens, open_v / through_ohm + siemens * held_v - c.idle_a
    inside = b * b - 4 * a * watts
    if inside < 0 or b <= 0:
        return None
    volts = (b + sqrt(inside)) / (2 * a)
    return volts + (open_v - volts) / through_ohm * c.loop_ohm + shared_v, volts


def _held_a(c: Circuit, drawn_a: float) -> float:
    """What the alternator has to give to hold its voltage, inside its limit [a]; nothing with the engine off."""
    if c.regulated_v <= 0:
        return 0.0
    charge_ohm = c.taking_ohm if c.regulated_v > c.rest_v else c.inner_ohm
    return min(max(drawn_a + (c.regulated_v - c.rest_v) / charge_ohm, 0.0), c.alternator_a)


CABLES, CAPACITOR, BATTERY, ALTERNATOR = (
    "cables of twice the copper",
    "a capacitor of 1 F",
    "a second battery beside the first",
    "an alternator of half as much again",
)


def remedied(circuit: Circuit) -> dict[str, Circuit]:
    """The circuit with one thing mended at a time.

    Parameters:
        circuit: as it is.

    Returns:
        by name: a loop of half the resistance, a farad at the amplifier, a second battery beside the first, an
        alternator of half as much again.

    Source: the usual remedies of the trade; common practice.
    """
    return {
        CABLES: replace(circuit, loop_ohm=circuit.loop_ohm / 2),
        CAPACITOR: replace(circuit, capacitor=Capacitor(1.0, 0.003)),
        BATTERY: replace(circuit, inner_ohm=circuit.inner_ohm / 2),
        ALTERNATOR: replace(circuit, alternator_a=circuit.alternator_a * 1.5),
    }
