"""The facts of a car gathered by place, in the order a survey takes them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ohmack.core.document import Design
from ohmack.core.document.handles import at
from ohmack.core.document.links import PowerLink
from ohmack.core.document.registry import Survey, scan, walk
from ohmack.core.document.vehicle import Battery, SupplyKind, Vehicle
from ohmack.drawing.picture import Mark
from ohmack.web.asked import facts_asked
from ohmack.web.fields import FactView, fact_view

GROUPS = tuple(Survey)


@dataclass(frozen=True)
class Row:
    """What a survey asks for at one place."""

    group: Survey
    thing_id: str  # on the drawing
    title: str
    paths: tuple[str, ...]


@dataclass(frozen=True)
class PlaceFacts:
    """The facts of one place on the car, behind one numbered mark."""

    number: int
    group: str
    thing_id: str
    title: str
    mark: str
    facts: tuple[FactView, ...]


def _first_battery(vehicle: Vehicle, first: Battery) -> tuple[str, ...]:
    """The first battery with the charging: the posts a survey reads are its own."""
    supply = vehicle.supply
    cranking = (at(supply, lambda it: it.post_cranking_v),) if vehicle.starts else ()
    if supply.kind is SupplyKind.DC_DC:
        charging: tuple[str, ...] = (at(supply, lambda it: it.dc_dc_limit_a),)
    else:
        charging = (at(supply, lambda it: it.alternator_rating_a), at(supply, lambda it: it.alternator_idle_a))
    traffic = (at(supply, lambda it: it.post_traffic_v),) if supply.kind is SupplyKind.SMART else ()
    return (
        at(supply, lambda it: it.system),
        at(supply, lambda it: it.positive_ground),
        at(supply, lambda it: it.post_running_v),
        at(supply, lambda it: it.post_loaded_v),
        *traffic,
        at(supply, lambda it: it.post_resting_v),
        *cranking,
        at(supply, lambda it: it.standby_current_a),
        at(supply, lambda it: it.battery_strap_ohm),
        *charging,
        at(first, lambda it: it.cca_a),
        at(first, lambda it: it.capacity_ah),
    )


def _supply(vehicle: Vehicle) -> Iterator[Row]:
    supply = vehicle.supply
    first, *others = supply.batteries
    yield Row(Survey.SUPPLY, first.id, "Battery and charging", _first_battery(vehicle, first))
    for battery in others:
        own = (f"{at(battery)}/{name}" for name in facts_asked(battery))
        paths = (at(supply, lambda it: it.split_charging), *own)
        yield Row(Survey.SUPPLY, battery.id, battery.name, paths)


def _of_the_radio(design: Design, *paths: str) -> tuple[str, ...]:
    """Those of some facts of the radio that this plan asks for."""
    asked = facts_asked(design.vehicle.radio, design)
    return tuple(path for path in paths if path.rpartition("/")[2] in asked)


def _system(design: Design) -> Row:
    radio = design.vehicle.radio
    return Row(
        Survey.SYSTEM,
        radio.id,
        radio.name,
        _of_the_radio(
            design,
            at(radio, lambda it: it.tier),
            at(radio, lambda it: it.line_pairs),
            at(radio, lambda it: it.line_v),
            at(radio, lambda it: it.source_voltage_v),
            at(radio, lambda it: it.clip_step),
            at(radio, lambda it: it.bridged),
            at(radio, lambda it: it.tap_low_hz),
        ),
    )


def _ways(design: Design) -> Iterator[Row]:
    for link in design.links_of(PowerLink):
        tape = at(link, lambda it: it.tape_length_m)
        yield Row(Survey.WAYS, f"run-{link.id}", "Power run", (tape,))


def _collections(design: Design) -> Iterator[Row]:
    """The items of every list of the car that a survey asks about, as the lists say under which heading."""
    body_return = at(design.vehicle.supply, lambda it: it.body_return_ohm)
    for collection in scan(Vehicle).collections:
        group = collection.many.survey
        if group is None:
            continue
        for found in walk(design.vehicle, collection.steps):
            for item in found.holder:
                paths = [f"{at(item)}/{name}" for name in facts_asked(item, design)]
                if item in design.vehicle.ground_points[:1]:
                    paths.insert(0, body_return)  # measured from there
                yield Row(group, item.id, item.name, tuple(paths))


def _body(design: Design) -> Row:
    vehicle = design.vehicle
    paths = (
        at(vehicle, lambda it: it.length_m),
        at(vehicle, lambda it: it.width_m),
        at(vehicle, lambda it: it.wheelbase_m),
        at(vehicle, lambda it: it.seat_airbags),
        *_of_the_radio(
            design,
            at(vehicle.radio, lambda it: it.opening_width_mm),
            at(vehicle.radio, lambda it: it.opening_height_mm),
            at(vehicle.radio, lambda it: it.opening_depth_mm),
        ),
    )
    nowhere = () if vehicle.ground_points else (at(vehicle.supply, lambda it: it.body_return_ohm),)
    return Row(Survey.BODY, "", "Body and dash", (*nowhere, *paths))


def survey_order(design: Design) -> list[Row]:
    """What a survey asks for at every place, in the order it takes them."""
    vehicle = design.vehicle
    rows = [*_supply(vehicle), _system(design), *_ways(design), *_collections(design), _body(design)]
    return sorted(rows, key=lambda row: GROUPS.index(row.group))


def places_of(design: Design) -> list[PlaceFacts]:
    """Facts gathered by place, numbered as on the drawing."""
    result: list[PlaceFacts] = []
    for row in survey_order(design):
        if row.paths:
            facts = tuple(fact_view(design, path) for path in row.paths)
            number = len(result) + 1
            result.append(PlaceFacts(number, row.group, row.thing_id, row.title, _weakest(facts), facts))
    return result


def marks_of(places: list[PlaceFacts]) -> tuple[Mark, ...]:
    """One numbered mark a place."""
    return tuple(
        Mark(place.number, place.thing_id, place.mark, place.facts[0].path, f"{place.number} {place.title}")
        for place in places
    )


def _weakest(facts: tuple[FactView, ...]) -> str:
    known = [f for f in facts if f.known]
    if not known:
        return "missing"
    return min(known, key=lambda f: f.basis.rank).basis.value
