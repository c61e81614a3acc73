"""Rules on ways and places: zones to keep clear of, ways through the bulkhead, things outside the body."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from ohmack.core.document import Design
from ohmack.core.document.cabin import Zone
from ohmack.core.document.design import ends_of
from ohmack.core.document.edits import Edit
from ohmack.core.document.facts import Position
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.ids import free_id
from ohmack.core.document.links import CapacitorLink, GroundLink
from ohmack.core.document.parts import Accessory
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.figures.finding import Draft, Remedy, adding, rule, set_to, stop, watch
from ohmack.core.fit.places import bulkhead_m
from ohmack.core.fit.zones import BulkheadCrossing
from ohmack.core.physics.geometry import Point
from ohmack.core.reference import PRACTICE, Grade, Source, table
from ohmack.core.wording import listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

GUIDE = Source("the maker's guide comes first; where these sit is common practice", Grade.PRACTICE)
REACH_M = 0.02


@rule("zone", "survey", GUIDE)
def zone(results: Results) -> Iterator[Draft]:
    """A cable or a part comes where pedals, column, airbags, rails, hinges, anchors or heat are."""
    why = table("cabin", "zones")["why"]
    seen: dict[tuple[str, str], list[str]] = {}
    for crossing in results.crossings:
        seen.setdefault((crossing.thing_id, crossing.zone.kind.value), []).append(crossing.zone.name)
    names = {c.thing_id: c.name for c in results.crossings}
    for (thing_id, kind), zones in seen.items():
        is_run = any(link.id == thing_id for link in results.design.links)
        if is_run:
            title = f"{names[thing_id]}: the cable runs past {listed(_lower(zones))}"
        else:
            title = f"{names[thing_id]} sits at {listed(_lower(zones))}"
        yield watch(
            thing_id,
            title,
            why[kind],
            _round(results, thing_id, kind)
            if is_run
            else Remedy("Move it on the plan", path=f"{at_the(Design, lambda it: it.parts)}/{thing_id}"),
        )


def _round(results: Results, link_id: str, kind: str) -> Remedy:
    """A press that lays a cable round; one that begins or ends in the zone is moved with what it begins or ends at."""
    run, design = results.runs[link_id], results.design
    for zone in (c.zone for c in results.crossings if c.thing_id == link_id and c.zone.kind.value == kind):
        for point in (run.points[0], run.points[-1]) if run.points else ():
            if _inside(zone, point):
                tied = (design.part(name) for name in ends_of(run.link))
                at_it = (part for part in tied if part is not None and part.position is not None)
                part = next((part for part in at_it if part.position and part.position.point == point), None)
                return Remedy(f"Move {part.name}", path=at(part)) if part else Remedy("Look at the zone", path=at(zone))
    if isinstance(run.link, GroundLink):  # it goes straight, as the leads of a capacitor do
        return Remedy("Choose another point", path=at(run.link, lambda it: it.to_id))
    if isinstance(run.link, CapacitorLink) and (capacitor := design.part(run.link.to_id)) is not None:
        return Remedy(f"Move {capacitor.name}", path=at(capacitor))
    return Remedy("Lay it round", connect=link_id)


def _inside(zone: Zone, point: Point) -> bool:
    x_m, y_m = zone.position.point
    return abs(point[0] - x_m) <= zone.length_m / 2 and abs(point[1] - y_m) <= zone.width_m / 2


def _lower(names: list[str]) -> list[str]:
    return [f"{name[0].lower()}{name[1:]}" for name in dict.fromkeys(names) if name]


@rule("bulkhead-way", "survey", PRACTICE)
def bulkhead_way(results: Results) -> Iterator[Draft]:
    """A power run goes through the bulkhead where no way is known."""
    for crossing in results.bulkhead:
        if crossing.passage_id is None:
            yield watch(
                crossing.link_id,
                f"{crossing.name}: no way through the bulkhead there",
                "Lead it through a known way with a grommet, or add the way that was found. Never over a bare edge.",
                Remedy("Lay it through a way", connect=crossing.link_id)
                if results.design.vehicle.passages
                else Remedy("Put the usual way on file", (_usual_way(results.design, crossing),)),
            )


def _usual_way(design: Design, crossing: BulkheadCrossing) -> Edit:
    """The edit that takes a grommet for granted where a run comes through, until somebody looks."""
    taken = design.taken_ids()
    place = {"x_m": round(bulkhead_m(design.vehicle), 2), "y_m": round(crossing.y_m, 2)}
    drilled = {"value": False, "basis": "assumed", "alternatives": [True]}
    tree = {"id": free_id("bulkhead", taken), "name": "Bulkhead grommet", "position": place, "needs_drilling": drilled}
    return adding(at_the(Vehicle, lambda it: it.passages), tree)


def _placed(design: Design) -> Iterator[tuple[Any, Position]]:
    vehicle = design.vehicle
    placed: tuple[tuple[Any, ...], ...] = (
        vehicle.supply.batteries,
        vehicle.speakers,
        vehicle.feeds,
        vehicle.ground_points,
        vehicle.passages,
        vehicle.modules,
        vehicle.spaces,
        vehicle.alterations,
        design.parts,
        (vehicle.radio,),
    )
    for items in placed:
        for item in items:
            if item.position is not None:
                yield item, item.position


@rule("outside-body", "survey", PRACTICE)
def outside_body(results: Results) -> Iterator[Draft]:
    """Something sits outside the car."""
    vehicle = results.design.vehicle
    length_m, width_m = vehicle.length_m.value, vehicle.width_m.value
    if length_m is None or width_m is None:
        return
    for item, place in _placed(results.design):
        if 0.0 <= place.x_m <= length_m and abs(place.y_m) <= width_m / 2:
            continue
        if isinstance(item, Accessory) and item.category == "camera":
            continue  # it sits on the skin, wherever that ends
        path, name = at(item), item.name
        x_m = min(max(place.x_m, 0.0), length_m)
        y_m = min(max(place.y_m, -width_m / 2), width_m / 2)
        off_m = max(abs(place.x_m - x_m), abs(place.y_m - y_m))
        if off_m > REACH_M:
            back = {"x_m": round(x_m, 2), "y_m": round(y_m, 2)}
            yield stop(
                path,
                f"{name} lies {results.say(off_m, 'm')} outside the body",
                f"The car is {results.say(length_m, 'm')} long and {results.say(width_m, 'm')} wide. Either the place"
                " or the size is wrong.",
                Remedy("Put it back on the body", (set_to(f"{path}/position", back),)),
            )
