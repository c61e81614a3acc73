"""A reading: which quantity, where the probes sit, in which setting; and what the car shows there."""

from __future__ import annotations

from enum import StrEnum

from ohmack.core.document.vehicle import KeyState
from ohmack.core.prove.car import Car, Setting
from ohmack.core.prove.ohms import NOTHING_OHM, between_ohm
from ohmack.core.record import record


class Quantity(StrEnum):
    """What is read."""

    OHM = "ohm"
    DC_V = "v"
    DROP_MV = "mv"
    CURRENT = "a"
    ASLEEP_MA = "ma"
    AC_V = "v_ac"
    DISTORTION = "percent"
    STEP = "step"
    HEAT = "c"
    ANSWER = ""

    @property
    def unit(self) -> str:
        """The suffix of its unit, as amounts are said."""
        return "v" if self is Quantity.AC_V else self.value


class Ask(StrEnum):
    """What is looked at, listened to or tried, where no number is read."""

    PLAYS = "plays"
    SIDE = "side"
    POP = "pop"
    TREBLE = "treble"
    BASS = "bass"
    WHINE = "whine"
    THUMP = "thump"
    FUNCTION = "function"
    SEEN = "seen"
    DONE = "done"


@record
class Probe:
    """One reading: two points for a meter, or what is asked, and of which thing."""

    quantity: Quantity
    plus: str = ""
    minus: str = ""
    setting: Setting = Setting.DEAD
    ask: Ask | None = None
    subject: str = ""


@record
class Taken:
    """What was found: a value, nothing within the meter's range, or whether it is good."""

    value: float | None = None
    over: bool = False
    passed: bool | None = None


def take(car: Car, probe: Probe) -> Taken | None:
    """What the car shows at a probe.

    Parameters:
        car: the car as it stands.
        probe: what is read, and where.

    Returns:
        the reading without a meter's own error; None where something it rests on is not known.

    Source: Ohm's law and the solved network; what is heard follows from what is wired.
    """
    match probe.quantity:
        case Quantity.OHM:
            ohm = between_ohm(car.dead(probe.plus), probe.plus, probe.minus)
            return Taken(over=True) if ohm >= NOTHING_OHM else Taken(ohm)
        case Quantity.DC_V | Quantity.DROP_MV:
            volts = _dc_v(car, probe)
            if volts is None:
                return None
            return Taken(1000 * volts if probe.quantity is Quantity.DROP_MV else volts)
        case Quantity.CURRENT:
            live = car.live(probe.setting)
            return None if live is None else Taken(live.current_a.get(probe.subject, 0.0))
        case Quantity.ASLEEP_MA:
            return _asleep(car)
        case Quantity.AC_V | Quantity.DISTORTION:
            return _at_output(car, probe)
        case Quantity.ANSWER:
            return _answered(car, probe)
        case _:
            return None


def _dc_v(car: Car, probe: Probe) -> float | None:
    live = car.live(probe.setting)
    if live is None:
        return None
    volts = live.volts
    if probe.plus not in volts or probe.minus not in volts:
        return None
    return volts[probe.plus] - volts[probe.minus]


def _asleep(car: Car) -> Taken:
    """What the whole car draws asleep, in thousandths of an ampere."""
    live = car.live(Setting.ASLEEP)
    drawn = sum(live.current_a.values()) if live is not None else 0.0
    for fed in (f for f in car.fed if not car.solves(f.id)):
        drawn += fed.idle.current_a if car.is_on(fed, KeyState.ASLEEP) else fed.asleep_a
    return Taken(1000 * (car.standby_a + drawn))


def _at_output(car: Car, probe: Probe) -> Taken | None:
    output = car.output(probe.subject)
    if output is None:
        return None
    if probe.quantity is Quantity.DISTORTION:
        return Taken(output.thd_percent)
    volts = {"source": output.source_v, "input": output.in_v, "output": output.out_v}[probe.plus]
    if volts is None:
        return None
    fed = car.plays and output.signal and car.powered(output.converter_id)  # as its input is, itself on or not
    alive = fed if probe.plus == "input" else fed and car.powered(output.owner_id)
    return Taken(volts if probe.plus == "source" or alive else 0.0)


def _answered(car: Car, probe: Probe) -> Taken | None:
    passed: bool | None
    match probe.ask:
        case Ask.PLAYS:
            passed = car.heard(probe.subject)
        case Ask.SIDE:
            output = car.output(probe.subject)
            crossed = [o for o in car.outputs if o.crossed]
            passed = not crossed if not probe.subject else output is not None and output not in crossed
        case Ask.POP:
            passed = not any(probe.subject in o.reversed for o in car.outputs)
        case Ask.TREBLE:
            passed = all(o.treble for o in car.outputs) and _all_of(car, probe.subject)
        case Ask.BASS:
            passed = all(o.bass and not o.reversed for o in car.outputs) and _all_of(car, probe.subject)
        case Ask.WHINE:
            passed = not whining(car)
        case Ask.THUMP:
            passed = not any(f.early for f in car.fed)
        case Ask.SEEN:
            passed = probe.subject not in car.wrong
        case _:
            passed = True  # what no fault of the model touches
    return None if passed is None else Taken(passed=passed)


def _all_of(car: Car, places: str) -> bool:
    return all(car.heard(place) is not False for place in places.split() if place)


def whining(car: Car) -> bool:
    """Whether the alternator is heard: through the line leads, or over a ground lead that is not one."""
    if car.whines:
        return True
    live = car.live(Setting.LEVEL)
    if live is None or not car.charges:
        return False
    return any(
        1000 * abs(live.volts.get(f"{f.id} minus", 0.0)) > GROUND_WHINES_MV for f in car.fed if f.id in live.awake
    )


GROUND_WHINES_MV = 500.0  # between an amplifier's ground and the battery at full level; common practice
