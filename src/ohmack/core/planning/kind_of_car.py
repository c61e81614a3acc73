"""A car that turns out to be of another body, hand of drive, powertrain or year: what was only usual of the old kind
becomes what is usual of the new one.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator
from math import dist
from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.facts import Position
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.parts import Driver
from ohmack.core.document.registry import holders, named_by, scan
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.planning.placing import place_for
from ohmack.core.planning.starting_points import new_vehicle

MOVED_M = 0.02  # from where it was put: somebody moved it
KIND = ("body", "hand_of_drive", "powertrain", "year")
NAMED = (*KIND, "make", "model")  # what a person says of the car, and nothing usual stands for


def as_the_kind(design: Design, after: Design, paths: set[str]) -> Iterator[Edit]:
    """Edits that follow a change of what kind of car it is.

    Parameters:
        design: the design before the change.
        after: the design with it.
        paths: what was changed with it already, and stays.

    Returns:
        the edits: every fact, place, zone and speaker nobody touched becomes the new kind's, those it has not go where
        nothing hangs on them, those it has besides come; parts go where such parts go. What was read, typed or
        moved stays.
    """
    if _same_kind(design, after):
        return
    usual = _usual(design.vehicle), _usual(after.vehicle)
    trees = [one.model_dump(mode="json", exclude=set(NAMED)) for one in (after.vehicle, *usual)]
    found = list(_changes(at_the(Vehicle), *trees))
    going = {edit.path.rpartition("/")[2] for edit in found if edit.op == "remove"}
    while kept := _named_by_others(after, going):
        going -= kept  # and what those name in their turn
    found = [edit for edit in found if edit.op != "remove" or edit.path.rpartition("/")[2] in going]
    found = [edit for edit in found if edit.path not in paths]
    yield from found
    yield from parts_along(design, apply_edits(after, found), paths)


def _same_kind(design: Design, after: Design) -> bool:
    return all(getattr(design.vehicle, name) == getattr(after.vehicle, name) for name in KIND)


def parts_along(design: Design, changed: Design, paths: Collection[str] = ()) -> Iterator[Edit]:
    """Edits that put parts where such parts go in a car that is of another kind; what somebody moved keeps its share of
    length and width. None where it is of the same kind, or for what `paths` say was moved with the change.
    """
    if _same_kind(design, changed):
        return
    usual_was, usual_now = _usual(design.vehicle), _usual(changed.vehicle)
    along = (usual_now.length_m.value or 1.0) / (usual_was.length_m.value or 1.0)
    across = (usual_now.width_m.value or 1.0) / (usual_was.width_m.value or 1.0)
    before, now = (one.model_copy(update={"parts": (), "links": ()}) for one in (design, changed))
    for part in changed.parts:
        tree, place = part.model_dump(mode="json"), part.position
        own = design.part(part.id) or part
        here = place == own.position and at(part, lambda it: it.position) not in paths
        if here and place is not None and not isinstance(part, Driver):
            usual, there = place_for(before, tree), place_for(now, tree)
            if usual is None or there is None or dist(place.point, Position.model_validate(usual).point) > MOVED_M:
                there = {"x_m": round(place.x_m * along, 2), "y_m": round(place.y_m * across, 2)}
            place = place.model_copy(update={"x_m": there["x_m"], "y_m": there["y_m"]})
            if place != part.position:
                yield Edit(path=at(part, lambda it: it.position), value=place.model_dump())
        before = before.model_copy(update={"parts": (*before.parts, own)})
        now = now.model_copy(update={"parts": (*now.parts, part.model_copy(update={"position": place}))})


def _usual(vehicle: Vehicle) -> Vehicle:
    """A car of the same kind of which nothing is known."""
    return new_vehicle(
        vehicle.make, vehicle.model, vehicle.year, vehicle.body, vehicle.hand_of_drive, vehicle.powertrain
    )


def _named_by_others(design: Design, going: set[str]) -> set[str]:
    """The ids of a set that something outside of it hangs on."""
    found: set[str] = set()
    for reference in scan(Design).references:
        for holder in holders(design, reference.steps):
            if getattr(holder, "id", "") not in going:
                found |= going.intersection(named_by(reference, holder))
    return found


WHOLE = {"basis", "x_m"}  # what a fact and a place have: they are one thing


def _changes(path: str, tree: dict[str, Any], was: dict[str, Any], now: dict[str, Any]) -> Iterator[Edit]:
    """Edits below a path, for what stands there as it was usual."""
    for name, new in now.items():
        here, old, where = tree.get(name), was.get(name), f"{path}/{name}"
        if new == old:
            continue
        if _is_list_of_things(new) or _is_list_of_things(old):
            yield from _things(where, here or [], old or [], new or [])
        elif isinstance(new, dict) and isinstance(old, dict) and isinstance(here, dict) and not WHOLE & new.keys():
            yield from _changes(where, here, old, new)
        elif here == old:
            yield Edit(path=where, value=new)


def _things(
    path: str, tree: list[dict[str, Any]], was: list[dict[str, Any]], now: list[dict[str, Any]]
) -> Iterator[Edit]:
    """The same for things with ids: told apart by them."""
    here, old, new = ({thing["id"]: thing for thing in things} for things in (tree, was, now))
    for thing_id, thing in new.items():
        if thing_id in here and thing_id in old:
            yield from _changes(f"{path}/{thing_id}", here[thing_id], old[thing_id], thing)
        elif thing_id not in here and thing_id not in old:
            yield Edit(op="add", path=path, value=thing)
    for thing_id, thing in old.items():
        if thing_id not in new and here.get(thing_id) == thing:
            yield Edit(op="remove", path=f"{path}/{thing_id}")


def _is_list_of_things(value: Any) -> bool:
    return isinstance(value, list) and bool(value) and isinstance(value[0], dict) and "id" in value[0]
