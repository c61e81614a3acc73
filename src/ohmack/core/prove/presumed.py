"""A car nobody measured, for a search in it: what was not read of its cables is taken as this shop would lay them."""

from __future__ import annotations

from dataclasses import replace

from ohmack.core.document import Design
from ohmack.core.document.links import GroundLink, Link, PowerLink, SpeakerLink
from ohmack.core.prove.car import Car
from ohmack.core.record import record

TIMES = 3.0  # what a cable nobody read may be off by, either way; common practice


@record
class Presumed:
    """A design with what nobody read taken as usual, and the links that is so of."""

    design: Design
    link_ids: frozenset[str]


def presumed(design: Design, car: Car) -> Presumed | None:
    """What a search may take for granted.

    Parameters:
        design: the design.
        car: the car as it stands on file.

    Returns:
        the design with every unread cable as a new one, of the size and wiring it would get; None where all that hangs
        on the battery is solved, or no cable is what keeps it from being.
    """
    if all(car.solves(fed.id) for fed in car.fed):
        return None
    unread = frozenset(link.id for link in design.links if _unread(link))
    if not unread:
        return None
    links = tuple(k.model_copy(update={"in_car": False}) if k.id in unread else k for k in design.links)
    return Presumed(design.model_copy(update={"links": links}), unread)


def _unread(link: Link) -> bool:
    if isinstance(link, SpeakerLink):
        return link.in_car and not (link.wiring and link.wire.named)
    return isinstance(link, PowerLink | GroundLink) and link.unread


def doubted(car: Car, link_ids: frozenset[str]) -> Car:
    """A car whose cables are as they were taken, and may be far from it.

    Parameters:
        car: the car with presumed cables.
        link_ids: which those are.

    Returns:
        the same, every branch of theirs anywhere between a third and three times of what was taken.
    """
    if car.network is None:
        return car
    theirs = (branch for branch in car.network.branches if branch.id.rsplit("/", 1)[0] in link_ids)
    wide = {b.id: (b.resistance_ohm / TIMES, b.resistance_ohm * TIMES) for b in theirs}
    return replace(car, spans={**car.spans, **wide})
