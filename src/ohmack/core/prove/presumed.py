"""A car nobody measured, for a search in it: what was not read of its cables is taken as this shop would lay them."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from ohmack.core.document import Design
from ohmack.core.document.links import GroundLink, Link, PowerLink, SpeakerLink
from ohmack.core.loads.meter import wired_as
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.prove.car import Car
from ohmack.core.record import record

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

TIMES = 3.0  # what a cable nobody read may be off by, either way; common practice


@record
class Presumed:
    """A design with what nobody read taken as usual, and the links that is so of."""

    design: Design
    link_ids: frozenset[str]


def presumed(results: Results) -> Presumed | None:
    """What a search may take for granted.

    Parameters:
        results: the evaluated design.

    Returns:
        the design with coils nobody named wired as their pair reads, and, where something that hangs on the battery is
        not solved, every unread cable as a new one, of the size and wiring it would get; None where that is the design.
    """
    design, car = results.design, results.car
    wired = {load.link.id: key for load in results.loads if load.unread and (key := _wired_as_read(results, load))}
    solved = all(car.solves(fed.id) for fed in car.fed)
    unread = frozenset(link.id for link in design.links if _unread(link) and not solved)
    if not unread and not wired:
        return None
    new = {name: {"in_car": False} for name in unread}
    named = {name: {"wiring": key} for name, key in wired.items()}
    links = (k.model_copy(update={**new.get(k.id, {}), **named.get(k.id, {})}) for k in design.links)
    return Presumed(design.model_copy(update={"links": tuple(links)}), unread)


def _wired_as_read(results: Results, load: LoadResult) -> str:
    """The one wiring that what was read of a pair speaks for, in the survey or in the proof; "" where there is none, or
    where the amplifier does not permit it: then it is what a search should name.
    """
    check = results.proof.named(f"dead/pair/{load.scope}")
    ohm = load.link.reads_ohm.value if check is None or check.value is None else check.value
    fit = wired_as(load, ohm, results.lead_ohm(load)) if ohm is not None else ()
    return fit[0].key if len(fit) == 1 and fit[0].permitted and fit[0].power_w is not None else ""


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
