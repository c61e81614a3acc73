"""The dip over time: battery, alternator with limit and lag, cables, a capacitor, a load that comes and goes."""

from __future__ import annotations

from dataclasses import replace
from math import exp, sqrt
from typing import NamedTuple

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
class SecondBattery:
    """A battery that a relay joins with the first one while the engine runs."""

    rest_v: float  # its own voltage
    inner_ohm: float  # its resistance while it gives, warm
    taking_ohm: float  # its resistance while it is charged
    join_ohm: float  # from the first one's post to its own: cable, relay, fuses and the way back
    feeds: bool  # whether the amplifier hangs on it, rather than on the first


@record
class Circuit:
    """What a load dips: everything between the battery's plates and the amplifier's terminals."""

    rest_v: float  # the battery's own voltage
    inner_ohm: float  # its resistance while it gives, warm
    taking_ohm: float  # its resistance while it is charged: far higher, a charged battery takes little
    loop_ohm: float  # from the post of its battery to the amplifier and back
    car_a: float  # what the car draws at the post
    idle_a: float  # what the amplifier draws without music
    regulated_v: float  # what the alternator's regulator holds at the post; 0 with the engine off
    alternator_a: float  # the most it gives at this speed
    lag_s: float  # how slowly its field follows
    capacitor: Capacitor | None = None
    second: SecondBattery | None = None


@record(eq=False)
class Dip:
    """Volts over time, at the first battery's post and at the amplifier."""

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


def dipped(
    circuit: Circuit, power_w: Floats, beside_a: Floats | None = None, beside_v: Floats | None = None,
    far_a: Floats | None = None,
) -> Dip:  # fmt: skip
    """What a load does to the voltages.

    Parameters:
        circuit: what feeds it.
        power_w: what it draws besides its idle current, at RATE_HZ, at constant power [w].
        beside_a: what others draw meanwhile at the post of its battery, as long; None for nothing [a].
        beside_v: what they lose in the pieces of the loop they share with it; None for nothing [v].
        far_a: what others draw at the post of the other battery; None for nothing, or where there is one only [a].

    Returns:
        volts at the first post and at the amplifier, sample by sample.

    Raises:
        NoOperatingPoint: more than the loop can carry at some moment.
        OutOfRange: a resistance not above zero.

    Formula: nodes of the circuit solved at every step (constant power: the upper root), the capacitor by backward
    Euler, the alternator's current following what would hold its voltage with one lag, inside its limit. Source:
    textbook circuit theory.
    """
    c, step_s = circuit, 1 / RATE_HZ
    _checked(c)
    siemens = 0.0 if c.capacitor is None else 1 / (c.capacitor.series_ohm + step_s / c.capacitor.capacitance_f)
    follow = 1 - exp(-step_s / c.lag_s) if c.lag_s > 0 else 1.0
    near, shared, far = (
        np.zeros(len(power_w)) if given is None else given for given in (beside_a, beside_v, far_a)
    )  # fmt: skip
    moments = [Moment(*row) for row in zip(power_w.tolist(), near.tolist(), far.tolist(), shared.tolist(), strict=True)]
    still = moments[0]._replace(watts=0.0)
    ways = _ways(c)
    give_a = _steady_a(c, ways, still)
    before = _solved(c, ways, give_a, 0.0, 0.0, still)
    held_v = before.amplifier_v
    post, amplifier = np.empty(len(power_w)), np.empty(len(power_w))
    for n, moment in enumerate(moments):
        found = _solved(c, ways, give_a, siemens, held_v, moment)
        post[n], amplifier[n] = found.first_v, found.amplifier_v
        if c.capacitor is not None:
            held_v += siemens * (found.amplifier_v - held_v) * step_s / c.capacitor.capacitance_f
        give_a += follow * (_held_a(c, _leaves_a(c, moment, found)) - give_a)
    times = np.asarray(np.arange(len(power_w)) * step_s, dtype=np.float64)
    return Dip(times, post, amplifier, before.first_v)


def _checked(c: Circuit) -> None:
    second = c.second or SecondBattery(0.0, 1.0, 1.0, 1.0, feeds=False)
    for name, value in (
        ("inner_ohm", c.inner_ohm), ("taking_ohm", c.taking_ohm), ("loop_ohm", c.loop_ohm),
        ("inner_ohm", second.inner_ohm), ("taking_ohm", second.taking_ohm), ("join_ohm", second.join_ohm),
    ):  # fmt: skip
        require(name, value, "ohm")


class Moment(NamedTuple):
    """What is drawn in one step."""

    watts: float  # by the amplifier looked at, besides its idle current
    near_a: float  # by others, at the post of its battery
    far_a: float  # by others, at the post of the other battery
    shared_v: float  # lost by others in the pieces of the loop they share with it


class Nodes(NamedTuple):
    """Volts of one step; both posts are one where there is one battery."""

    first_v: float
    second_v: float
    near_v: float  # of the two posts, the one the amplifier hangs on
    amplifier_v: float


class Way(NamedTuple):
    """The batteries, each giving or taking, as the amplifier's loop sees them: volts open, falling with what is drawn
    beside, behind one resistance; and what that leaves the post of the other one.
    """

    first_gives: bool
    second_gives: bool
    open_v: float  # before the alternator gives and others draw
    per_given: float  # volts for an ampere of the alternator, and for one drawn at either post [ohm]
    per_near: float
    per_far: float
    source_ohm: float
    far_v: float  # the post of the other battery: these volts, and of what the near one has this share
    far_per_given: float
    far_per_far: float
    far_share: float


def _ways(c: Circuit) -> list[Way]:
    """Every way in which the batteries may give and take, giving first."""
    found = []
    for first_ohm in (c.inner_ohm, c.taking_ohm):
        first_v, gives = c.rest_v - first_ohm * c.car_a, first_ohm == c.inner_ohm
        if c.second is None:
            found.append(Way(gives, True, first_v, first_ohm, first_ohm, 0.0, first_ohm, 0.0, 0.0, 0.0, 1.0))
            continue
        for second_ohm in (c.second.inner_ohm, c.second.taking_ohm):
            feeds, join_ohm, second_v = c.second.feeds, c.second.join_ohm, c.second.rest_v
            near_v, near_ohm, far_v, far_ohm = (
                (second_v, second_ohm, first_v, first_ohm) if feeds else (first_v, first_ohm, second_v, second_ohm)
            )
            from_near, from_far = (part / (near_ohm + far_ohm + join_ohm) for part in (far_ohm + join_ohm, near_ohm))
            stays = join_ohm / (far_ohm + join_ohm)
            found.append(
                Way(
                    gives, second_ohm == c.second.inner_ohm, near_v * from_near + far_v * from_far,
                    first_ohm * (from_far if feeds else from_near), near_ohm * from_near, far_ohm * from_far,
                    near_ohm * from_near, far_v * stays, far_ohm * stays if feeds else 0.0, far_ohm * stays, 1 - stays,
                )
            )  # fmt: skip
    return found


def _solved(c: Circuit, ways: list[Way], give_a: float, siemens: float, held_v: float, moment: Moment) -> Nodes:
    """Volts with one current of the alternator and one charge of the capacitor."""
    watts, near_a, far_a, shared_v = moment
    second, found = c.second, None
    for way in ways:
        open_v = way.open_v + way.per_given * give_a - way.per_near * near_a - way.per_far * far_a - shared_v
        through_ohm = way.source_ohm + c.loop_ohm
        a, b = 1 / through_ohm + siemens, open_v / through_ohm + siemens * held_v - c.idle_a
        inside = b * b - 4 * a * watts
        if inside < 0 or b <= 0:
            continue  # more than it carries this way
        volts = (b + sqrt(inside)) / (2 * a)
        near_v = volts + (open_v - volts) / through_ohm * c.loop_ohm + shared_v
        if second is None:
            found = Nodes(near_v, near_v, near_v, volts)
            if (near_v <= c.rest_v) is way.first_gives:
                return found
            continue
        far_v = way.far_v + way.far_per_given * give_a - way.far_per_far * far_a + way.far_share * near_v
        found = Nodes(far_v, near_v, near_v, volts) if second.feeds else Nodes(near_v, far_v, near_v, volts)
        if (found.first_v <= c.rest_v) is way.first_gives and (found.second_v <= second.rest_v) is way.second_gives:
            return found
    if found is None:
        raise NoOperatingPoint("load", watts, c.rest_v)
    return found  # on the edge between giving and taking, where both say the same


def _leaves_a(c: Circuit, moment: Moment, found: Nodes) -> float:
    """What leaves the first post: the car, what hangs on it, and what goes over to the second battery."""
    loop_a = (found.near_v - found.amplifier_v - moment.shared_v) / c.loop_ohm
    if c.second is None:
        return c.car_a + moment.near_a + loop_a
    over_a = (found.first_v - found.second_v) / c.second.join_ohm
    return c.car_a + over_a + (moment.far_a if c.second.feeds else moment.near_a + loop_a)


SETTLES = 300  # rounds until what the alternator gives stands still


def _steady_a(c: Circuit, ways: list[Way], moment: Moment) -> float:
    """What the alternator gives before the music."""
    give_a = _held_a(c, c.car_a + c.idle_a + moment.near_a)
    for _ in range(SETTLES if c.second is not None and c.regulated_v > 0 else 0):
        give_a = _held_a(c, _leaves_a(c, moment, _solved(c, ways, give_a, 0.0, 0.0, moment)))
    return give_a


def _held_a(c: Circuit, drawn_a: float) -> float:
    """What the alternator has to give to hold its voltage, inside its limit [a]; nothing with the engine off."""
    if c.regulated_v <= 0:
        return 0.0
    charge_ohm = c.taking_ohm if c.regulated_v > c.rest_v else c.inner_ohm
    return min(max(drawn_a + (c.regulated_v - c.rest_v) / charge_ohm, 0.0), c.alternator_a)


CABLES, CAPACITOR, BATTERY, ALTERNATOR = (
    "cables of twice the copper",
    "a capacitor of 1 F",
    "one more battery beside it",
    "an alternator of half as much again",
)


def remedied(circuit: Circuit) -> dict[str, Circuit]:
    """The circuit with one thing mended at a time.

    Parameters:
        circuit: as it is.

    Returns:
        by name: a loop of half the resistance, a farad at the amplifier, one more battery beside the one that feeds
        it, an alternator of half as much again.

    Source: the usual remedies of the trade; common practice.
    """
    second = circuit.second
    if second is not None and second.feeds:
        larger = replace(circuit, second=replace(second, inner_ohm=second.inner_ohm / 2))
    else:
        larger = replace(circuit, inner_ohm=circuit.inner_ohm / 2)
    return {
        CABLES: replace(circuit, loop_ohm=circuit.loop_ohm / 2),
        CAPACITOR: replace(circuit, capacitor=Capacitor(1.0, 0.003)),
        BATTERY: larger,
        ALTERNATOR: replace(circuit, alternator_a=circuit.alternator_a * 1.5),
    }
