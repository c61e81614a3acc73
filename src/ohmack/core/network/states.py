"""The states of a car a power network is solved in: what its batteries hold, what its runs weigh, what its consumers
draw.
"""

from __future__ import annotations

from enum import StrEnum

from ohmack.core.document.handles import at
from ohmack.core.document.parts import VoltageConverter
from ohmack.core.document.vehicle import Battery, CrankingStandard, SplitCharging
from ohmack.core.figures.figure import Book, Term, fixed, reference
from ohmack.core.reference import table

OPEN_V = 12.6  # a charged battery at rest


class State(StrEnum):
    """What the car is doing."""

    RUNNING = "engine running"
    HOT = "engine running, runs hot"
    COLD = "engine running, runs cold"
    TRAFFIC = "in traffic"
    IDLING = "idling with everything on"
    ENGINE_OFF = "engine off, at full level"
    RESTING = "engine off, idle"
    CRANKING = "cranking"

    @property
    def playing(self) -> bool:
        """Whether consumers draw what they draw at full level; else only their idle current."""
        return self not in (State.RESTING, State.CRANKING)

    @property
    def charging(self) -> bool:
        """Whether an alternator or a converter holds the posts; else a battery's own resistance is in the loop."""
        return self not in (State.ENGINE_OFF, State.RESTING, State.CRANKING)


def twelve_volt_side(book: Book) -> Term | None:
    """What a 12 V consumer is fed with in a 24 V or pack vehicle: the 12 V side of its converter; None in a 12 V
    car.
    """
    if not book.design.vehicle.above_12_v:
        return None
    part = next(book.design.parts_of(VoltageConverter), None)
    if part is not None:
        return book.part(part, lambda it: it.out_v, f"{part.name}: gives", "v")
    row = table("supply", "converter_12v")
    return reference("12 V side of the converter", float(row["output_v"]), "v", row["source"])


def held_v(book: Book, battery: Battery, state: State) -> tuple[Term, ...]:
    """The terms of what a battery's post holds in a state; one, or for a second battery that follows the first: its
    own, and the first one's two.
    """
    if (converter := twelve_volt_side(book)) is not None:
        return (converter,)
    supply = book.design.vehicle.supply
    first = battery is supply.batteries[0]
    resting = state in (State.ENGINE_OFF, State.RESTING)
    if first:
        return (_first_post(book, state),)
    split = supply.split_charging.value
    reads = battery.own_resting_v if resting or state is State.CRANKING else battery.own_running_v
    if split is SplitCharging.FOR_GOOD and reads.value is None:
        return (_first_post(book, state),)  # two posts of one battery: one reading serves
    if resting or state is State.CRANKING:
        own = book.fact(battery, lambda it: it.own_resting_v, f"{battery.name}: own post, resting", "v")
    else:
        own = book.fact(battery, lambda it: it.own_running_v, f"{battery.name}: own post, engine running", "v")
    follows = split in (SplitCharging.RELAY, SplitCharging.DIODE, SplitCharging.FOR_GOOD)
    if state not in (State.TRAFFIC, State.IDLING) or not follows:
        return (own,)
    return (own, *held_v(book, supply.batteries[0], State.RUNNING), *held_v(book, supply.batteries[0], state))


def _first_post(book: Book, state: State) -> Term:
    """What the first battery's post reads in a state."""
    supply = book.design.vehicle.supply
    match state:
        case State.ENGINE_OFF | State.RESTING:
            return book.fact(supply, lambda it: it.post_resting_v, "battery post, resting", "v")
        case State.TRAFFIC:
            return book.fact(supply, lambda it: it.post_traffic_v, "battery post, in traffic", "v")
        case State.IDLING:
            return book.fact(supply, lambda it: it.post_loaded_v, "battery post, idling with everything on", "v")
        case State.CRANKING:
            return book.fact(supply, lambda it: it.post_cranking_v, "battery post, cranking", "v")
        case _:
            return book.fact(supply, lambda it: it.post_running_v, "battery post, engine running", "v")


def emf_v(terms: tuple[Term, ...]) -> float | None:
    """The voltage the terms of `held_v` come to; None while one of them has no value."""
    if any(term.value is None for term in terms):
        return None
    own, *first = (float(term.value) for term in terms)
    return own - (first[0] - first[1]) if first else own


def inner_terms(book: Book, battery: Battery, state: State) -> tuple[Term, ...]:
    """The terms of a battery's own resistance, where a state has it in the loop."""
    if state.charging or state is State.CRANKING or twelve_volt_side(book) is not None:
        return ()  # a post read while cranking has the drop over the battery in it
    path = at(battery, lambda it: it.cranking_standard)
    standard = fixed("stated by", battery.cranking_standard.value, path=path)
    first = battery is book.design.vehicle.supply.batteries[0]
    name = "cold cranking amps" if first else f"{battery.name}: cold cranking amps"
    return (book.fact(battery, lambda it: it.cca_a, name, "a"), standard)


def inner_ohm(terms: tuple[Term, ...]) -> float:
    """The resistance the terms of `inner_terms` come to [ohm]; zero where there are none."""
    return battery_resistance_ohm(terms[0].value, CrankingStandard(terms[1].value)) if terms else 0.0


def battery_resistance_ohm(cca_a: float, standard: CrankingStandard = CrankingStandard.SAE) -> float:
    """Internal resistance of a warm lead-acid battery.

    Parameters:
        cca_a: cold cranking amps [a].
        standard: by what they are stated: the voltage the battery still holds at that current.

    Returns:
        resistance [ohm].

    Formula: half of (12.6 - V_held) / CCA. Source: SAE J537, EN 50342-1, DIN 43539 (from memory); the half is common
    practice.

    >>> round(1000 * battery_resistance_ohm(600), 2), round(1000 * battery_resistance_ohm(600, CrankingStandard.EN), 2)
    (4.5, 4.25)
    """
    return float((OPEN_V - table("supply.cranking", standard.value)["holds_v"]) / cca_a / 2)
