"""Any two points of the car, chosen freely: where a probe may sit, and the check two probes make."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.network.model import Place
from ohmack.core.prove.car import Setting
from ohmack.core.prove.checks import METERS, Check, Spot, Spots, minutes_of
from ohmack.core.prove.judged import EXTRA
from ohmack.core.prove.points import BODY, minus_of, plus_of, remote_of
from ohmack.core.prove.probes import Probe, Quantity
from ohmack.core.record import record

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

FREE = f"{EXTRA}free"
BAR = "|"
READS = (Quantity.DC_V, Quantity.DROP_MV, Quantity.OHM)


@record
class Spotted:
    """A point a probe may sit at: the name the model gives it, and where it is."""

    point: str
    spot: Spot
    drawn: bool = True  # whether a picture has room for it; else it is in the list alone


def points_of(results: Results) -> tuple[Spotted, ...]:
    """Every point of a car a probe may sit at, each once.

    Parameters:
        results: the evaluated plan.

    Returns:
        posts, ends of runs, terminals, switch-on and feeds, ends of speaker pairs, the body at the battery.
    """
    return tuple({one.point: one for one in _points(results)}.values())


def _points(results: Results) -> Iterator[Spotted]:
    car, spots = results.car, Spots(results)
    for name, plus, minus in car.posts:
        _, red, black = spots.post(name)
        yield Spotted(plus, red)
        yield Spotted(minus, black)
    if car.network is not None:
        battery = spots.of(car.network.cells[0].id)
        yield Spotted(BODY, Spot(f"body beside {battery.name}", battery.point))
        for branch in car.network.branches:
            link_id = branch.id.rsplit("/", 1)[0]
            if link_id in results.runs:
                start = spots.run(link_id, last=False)
                yield Spotted(branch.start, Spot(f"{start.name}, before: {branch.term.name}", start.point))
            if branch.place is Place.RING:
                end = spots.run(link_id, last=True)
                yield Spotted(branch.end, Spot(f"bare metal beside {end.name}", end.point))
        for consumer in car.network.consumers:
            yield Spotted(consumer.plus, spots.end(consumer.id, "+ terminal"))
            yield Spotted(consumer.minus, spots.end(consumer.id, "− terminal"))
    for fed in car.fed:
        yield Spotted(remote_of(fed.id), spots.end(fed.id, "switch-on"))
    for small in car.small:
        yield Spotted(f"{small.id} feed", spots.end(small.part_id, f"feed from {spots.of(small.feed_id).name}"))
    for output in car.outputs:
        owner = spots.of(output.owner_id)
        yield Spotted(plus_of(output.scope), Spot(f"{output.name}, + lead", owner.point), drawn=False)
        yield Spotted(minus_of(output.scope), Spot(f"{output.name}, − lead", owner.point), drawn=False)


def free_id(quantity: Quantity, setting: Setting, plus: str, minus: str) -> str:
    """The id of a check at two chosen points."""
    return BAR.join((FREE, quantity.name, setting.name, plus, minus))[:120]


def free_check(results: Results, check_id: str) -> Check | None:
    """The check at two chosen points, by its id.

    Parameters:
        results: the evaluated plan.
        check_id: as `free_id` makes it.

    Returns:
        the check; None where the id names no points of this car, or a quantity that is not read between two.
    """
    parts = check_id.split(BAR)
    if len(parts) != 5 or parts[0] != FREE:
        return None
    spotted = {one.point: one.spot for one in points_of(results)}
    quantity = next((q for q in READS if q.name == parts[1]), None)
    setting = next((s for s in Setting if s.name == parts[2]), None)
    if quantity is None or setting is None or not {parts[3], parts[4]} <= spotted.keys() or parts[3] == parts[4]:
        return None
    if quantity is Quantity.OHM:
        setting = Setting.DEAD  # ohms are read with nothing on
    elif setting is Setting.DEAD:
        return None
    plus, minus = spotted[parts[3]], spotted[parts[4]]
    said = results.design.vehicle.as_said(setting.value)
    title = f"{plus.name} to {minus.name}, {said}"
    how = f"{METERS[quantity]}, {said}. Red at {plus.name}, black at {minus.name}."
    minutes = minutes_of("ohm" if quantity is Quantity.OHM else "v")
    probe = Probe(quantity, parts[3], parts[4], setting)
    return Check(check_id, 1 if quantity is Quantity.OHM else 2, title, how, probe, minutes, plus, minus)
