"""Rules on the charge cable of a second battery."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.ids import free_id
from ohmack.core.document.links import ChargeLink
from ohmack.core.document.parts import ChargingRelay
from ohmack.core.document.rewired import new_wire
from ohmack.core.document.vehicle import Supply
from ohmack.core.figures.finding import Draft, Remedy, adding, find_part, rule, set_to, stop, watch
from ohmack.core.figures.later import fit_now
from ohmack.core.physics.conductors import ampacity_a, goes_in
from ohmack.core.reference import PRACTICE
from ohmack.core.supply.charging import Charging
from ohmack.core.supply.second_battery import usual_posts
from ohmack.core.wording import trimmed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@rule("charge-cable", "supply", PRACTICE)
def charge_cable(results: Results) -> Iterator[Draft]:
    """A new second battery has no charge cable, or one without relay, fuses or ground."""
    for entry in results.charging:
        link, name = entry.link, entry.battery.name
        if entry.relay is None:
            yield stop(
                at(link, lambda it: it.through_id),
                f"Nothing parts {name} from the starter battery",
                "Joined for good, one empties the other. Take a charging relay, a diode isolator or a DC-DC charger.",
                fit_now(results, "charging relay") or find_part("Find one", "charging relay"),
            )
        if link.fuse is None or not link.far_fuse:
            yield stop(
                at(link, lambda it: it.fuse),
                f"The charge cable of {name} is not fused at both ends",
                "A battery stands at either end: a short anywhere along it is fed from both. Each end wants its fuse.",
                Remedy(
                    "Fuse both ends",
                    (set_to(at(link, lambda it: it.fuse), {}), set_to(at(link, lambda it: it.far_fuse), True)),
                ),
            )
        if link.ground_point_id is None:
            point = next(iter(results.design.vehicle.ground_points), None)
            yield stop(
                at(link, lambda it: it.ground_point_id),
                f"{name} is not grounded",
                "Its negative goes to the body beside it, by a lead as thick as the charge cable.",
                Remedy(f"Ground it at {point.name}", (set_to(at(link, lambda it: it.ground_point_id), point.id),))
                if point
                else Remedy("Add a ground point", sheet="survey"),
            )
        yield from _size(results, entry)
        yield from _as_surveyed(results, entry)
        yield from _rest_apart(results, entry)


def _rest_apart(results: Results, entry: Charging) -> Iterator[Draft]:
    """Batteries that rest apart push a current through the relay that joins them."""
    joined = entry.figures.get("joined")
    if joined is None or joined.value is None or entry.relay is None or joined.value <= entry.relay.current_a:
        return
    yield watch(
        at(entry.battery, lambda it: it.own_resting_v),
        f"{joined.value:.0f} A flow as {entry.relay.name} joins the batteries",
        f"They rest apart, and it carries {results.say(entry.relay.current_a, 'a')}: its contacts weld, its fuses blow."
        " Charge the lower one first; batteries of one age and kind stay together. A DC-DC charger lets nothing like"
        " that flow.",
        Remedy("Look at the reading", path=at(entry.battery, lambda it: it.own_resting_v)),
    )


def _size(results: Results, entry: Charging) -> Iterator[Draft]:
    """Whether the fuse and the wire of a charge cable go together."""
    if entry.relay is None or entry.wire is None or "drop" not in entry.figures:
        return
    fuse_a, drop_v = entry.figures["fuse"].value, entry.figures["drop"].value
    carries_a = ampacity_a(entry.wire, engine_space=entry.link.engine_space)
    limit_v = results.design.policy.drop_limit_v
    if not goes_in(entry.wire, entry.relay.terminal_area_max_mm2):
        yield stop(
            entry.relay.id,
            f"{entry.wire.label} does not go into {entry.relay.name}",
            f"Its terminals take {trimmed(entry.relay.terminal_area_max_mm2)} mm². Never trim strands to make it fit.",
            Remedy("Look at the cable", path=at(entry.link)),
        )
    if fuse_a is not None and fuse_a > carries_a:
        yield stop(
            entry.link.id,
            f"{results.say(fuse_a, 'a')} before a charge cable of {entry.wire.label}, which may carry"
            f" {results.say(carries_a, 'a')}",
            "The fuse does not protect it.",
            Remedy("Let Ohmack choose the size", new_wire(entry.link, at(entry.link, lambda it: it.wire.size), None)),
        )
    if fuse_a is not None and fuse_a < entry.relay.current_a:
        yield stop(
            entry.link.id,
            f"{entry.relay.name} passes {results.say(entry.relay.current_a, 'a')}, its fuses blow at"
            f" {results.say(fuse_a, 'a')}",
            "Take larger fuses with a thicker cable, or a charger that passes less.",
            Remedy("Look at the cable", path=at(entry.link)),
        )
    if drop_v is not None and drop_v > limit_v + 1e-9:
        yield watch(
            entry.link.id,
            f"{results.say(drop_v, 'v')} lost in the charge cable; the shop allows {results.say(limit_v, 'v')}",
            "The second battery is never full. Thicker cable, or a DC-DC charger beside it.",
            Remedy("Look at the cable", path=at(entry.link)),
        )


def _as_surveyed(results: Results, entry: Charging) -> Iterator[Draft]:
    """Whether the survey says what is planned."""
    split = results.design.vehicle.supply.split_charging.value
    if entry.relay is not None and split is not None and split.value != entry.relay.how:
        yield watch(
            at_the(Supply, lambda it: it.split_charging),
            f"On file the second battery is charged by {split.value}; the plan takes {entry.relay.how}",
            "The voltages at its post in traffic and idling are reckoned by it.",
            Remedy(
                f"It is a {entry.relay.how}",
                (set_to(at_the(Supply, lambda it: it.split_charging.value), entry.relay.how),),
            ),
        )


@rule("charge-cable-missing", "supply", PRACTICE)
def charge_cable_missing(results: Results) -> Iterator[Draft]:
    """A relay is bought, and no cable goes through it."""
    cables = list(results.design.links_of(ChargeLink))
    used, charged = {link.through_id for link in cables}, {link.to_id for link in cables if link.through_id}
    second = results.design.vehicle.supply.batteries[1:]
    for relay in results.design.parts_of(ChargingRelay):
        if relay.id not in used:
            several = bool(second)
            if several and all(battery.id in charged for battery in second):
                yield stop(
                    relay.id,
                    f"{relay.name} is in no cable",
                    "Every second battery is charged through another already: swap it for that one, or leave it out.",
                    Remedy("Take it out", (Edit(op="remove", path=at(relay)),)),
                )
                continue
            yield stop(
                relay.id,
                f"{relay.name} is in no cable",
                "It sits in the charge cable between the two batteries."
                if several
                else "There is one battery on file: it waits for the second one.",
                Remedy("Wire it up", connect=relay.id) if several else _with_its_battery(results, relay),
            )


def _with_its_battery(results: Results, relay: ChargingRelay) -> Remedy:
    """A press that puts a second battery in the boot, across from the first, and charges it through a relay."""
    vehicle = results.design.vehicle
    first = vehicle.supply.batteries[0]
    place = {"x_m": round(IN_THE_BOOT * (vehicle.length_m.value or USUAL_M), 2), "y_m": -first.position.y_m}
    taken = results.design.taken_ids()
    battery = {"id": free_id("battery-2", taken), "name": "Second battery", "role": "leisure", "position": place}
    add = adding(at_the(Supply, lambda it: it.batteries), battery | usual_posts(results.design))
    return Remedy("Put the second battery in the boot", (add,), connect=relay.id)


IN_THE_BOOT, USUAL_M = 0.8, 4.2  # along the car, and how long that is where nobody said
