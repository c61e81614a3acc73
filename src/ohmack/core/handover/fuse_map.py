"""The fuse map: every fuse by number, where it sits, how large it is, what goes silent when it blows."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import TYPE_CHECKING

from ohmack.core.build.lists import several
from ohmack.core.document.links import PowerLink
from ohmack.core.document.parts import DistributionBlock
from ohmack.core.fit.far_ends import own_lead
from ohmack.core.physics.geometry import Point, point_at
from ohmack.core.physics.protection import family
from ohmack.core.record import record
from ohmack.core.supply.charging import FAMILY, Charging
from ohmack.core.supply.results import SupplyResult
from ohmack.core.wording import amount, listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

NOT_DRAWN_M = 0.3  # where along its run a fuse is drawn whose distance nobody read


@record
class FuseSpot:
    """One fuse: its number on the map, where it is, its kind and value, what it feeds."""

    number: int
    where: str
    kind: str
    rating_a: float | None
    feeds: tuple[str, ...]  # what goes silent without it
    point: Point | None = None
    size: str = ""  # the wire behind it, or how many there are

    @property
    def rating(self) -> str:
        """Its value in words."""
        return f"{self.rating_a:g} A" if self.rating_a else self.size or "not chosen"

    @property
    def stops(self) -> str:
        """What goes silent without it, in words."""
        return listed(list(self.feeds))


def fuse_map(results: Results) -> tuple[FuseSpot, ...]:
    """Every fuse this plan puts in or has behind it, numbered from the battery on.

    Parameters:
        results: the evaluated plan.

    Returns:
        the fuses; a value nobody chose says so and is no number.
    """
    found = (*_mains(results), *_charges(results), *_fed(results), *_packs(results), *_own(results))
    return tuple(replace(spot, number=n) for n, spot in enumerate(found, start=1))


def _mains(results: Results) -> Iterator[FuseSpot]:
    for supply in results.supplies:
        fuse = supply.link.fuse
        if fuse is not None:
            yield FuseSpot(
                0, _where(results, supply) + several(supply.link.fuse_count), family(supply.family).title,
                supply.figures["fuse"].value,
                _behind(results, supply.link), _point(results, supply),
                str(supply.figures["wire"].value or ""),
            )  # fmt: skip
        for rating_a in dict.fromkeys(supply.fuses_a):
            many = supply.fuses_a.count(rating_a)
            position = getattr(supply.part, "position", None)
            times = f", {many} of them" if many > 1 else ""
            yield FuseSpot(0, f"In {supply.part.name}{times}", "its own", rating_a, (supply.part.name,),
                           position.point if position is not None else None)  # fmt: skip


def _where(results: Results, supply: SupplyResult) -> str:
    block = results.design.part(supply.link.from_id)
    if isinstance(block, DistributionBlock):
        return f"In {block.name}"
    batteries = {b.id: b.name for b in results.design.vehicle.supply.batteries}
    start = block.name if block is not None else batteries.get(supply.link.from_id, "its source")
    from_m = supply.link.fuse.from_source_m.value if supply.link.fuse is not None else None
    unit = results.design.policy.length_unit
    return f"{amount(from_m, 'm', unit)} from {start}" if from_m is not None else f"Near {start}"


def _point(results: Results, supply: SupplyResult) -> Point | None:
    block = results.design.part(supply.link.from_id)
    if isinstance(block, DistributionBlock) and block.position is not None:
        return block.position.point
    points = results.runs[supply.link.id].points
    if not points or supply.link.fuse is None:
        return None
    known = supply.link.fuse.from_source_m.value
    return point_at(points, NOT_DRAWN_M if known is None else known)


def _behind(results: Results, link: PowerLink) -> tuple[str, ...]:
    """The names of all consumers a run feeds, through blocks too."""
    part = results.design.part(link.to_id)
    if not isinstance(part, DistributionBlock):
        return (part.name,) if part is not None else ()
    return _from(results, part.id)


def _from(results: Results, source_id: str) -> tuple[str, ...]:
    """The names of all consumers that hang on a block or on what makes 12 V."""
    further = (k for k in results.design.links_of(PowerLink) if k.from_id == source_id)
    return tuple(dict.fromkeys(name for k in further for name in _behind(results, k)))


def _charges(results: Results) -> Iterator[FuseSpot]:
    for entry in results.charging:
        yield from _of_charge(results, entry)


def _of_charge(results: Results, entry: Charging) -> Iterator[FuseSpot]:
    named, title = entry.figures.get("fuse"), family(FAMILY).title
    rating_a, points = named.value if named is not None else None, results.runs[entry.link.id].points
    stops = (f"charging of {entry.battery.name}",)
    if entry.link.fuse is not None:
        near_m = entry.link.fuse.from_source_m.value
        at = point_at(points, NOT_DRAWN_M if near_m is None else near_m) if points else None
        yield FuseSpot(0, "Charge cable, at the starter battery", title, rating_a, stops, at)
    if entry.link.far_fuse:
        yield FuseSpot(0, f"Charge cable, at {entry.battery.name}", title, rating_a, stops,
                       points[-1] if points else None)  # fmt: skip


def _fed(results: Results) -> Iterator[FuseSpot]:
    for feed in results.feeds:
        if feed.link.fuse is not None:
            yield FuseSpot(0, f"At {feed.feed.name}", family("blade").title, feed.fuse.value, (feed.part.name,),
                           feed.feed.position.point, feed.wire.label)  # fmt: skip


def _own(results: Results) -> Iterator[FuseSpot]:
    """Of what has a lead of its own to the radio, where it takes its plus."""
    for part in results.design.parts:
        if (row := own_lead(part)) is not None and "fuse_a" in row:
            rating_a = None if part.in_car else float(row["fuse_a"])  # what somebody else put in, nobody read
            yield FuseSpot(0, "At the reversing lamp", family("blade").title, rating_a, (part.name,),
                           part.position.point if part.position is not None else None, "not read")  # fmt: skip


def _packs(results: Results) -> Iterator[FuseSpot]:
    for pack in results.pack_feeds:
        yield FuseSpot(0, f"At {pack.battery.name}, plus of the whole pack", "at the pack", pack.fuse.value,
                       _from(results, pack.part.id) or (pack.part.name,), pack.battery.position.point)  # fmt: skip
