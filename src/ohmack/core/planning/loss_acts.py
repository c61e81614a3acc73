"""What there is to do about a loss: copper, sizes, grounds, runs of their own, wider blocks and holders, wirings, and
what is only assumed to be read.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from math import dist
from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit
from ohmack.core.document.facts import Basis
from ohmack.core.document.grounding import NEVER_GROUND
from ohmack.core.document.handles import at
from ohmack.core.document.ids import free_id
from ohmack.core.document.links import GroundLink, PowerLink
from ohmack.core.document.parts import DistributionBlock, FuseHolder
from ohmack.core.document.paths import get
from ohmack.core.document.rewired import new_wire
from ohmack.core.document.vehicle import GroundKind, GroundPoint, SupplyKind
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.network.model import Place
from ohmack.core.physics.conductors import ROUNDED, Conductor, goes_in, sizes
from ohmack.core.planning.part_added import added
from ohmack.core.planning.parts_tried import taking
from ohmack.core.record import record
from ohmack.core.supply.parallel_leads import further_leads
from ohmack.core.supply.results import SupplyResult
from ohmack.core.supply.study import holder_of
from ohmack.core.wording import amount

NEAR_M = 1.5  # from what is grounded to another ground point; common practice


@record
class Act:
    """One thing to do about a loss: edits to try; where `path` or `query` is set a person has to measure, or to find
    the part, and nothing is pressed.
    """

    key: str
    name: str
    why: str
    edits: tuple[Edit, ...]
    path: str = ""
    query: str = ""
    quieter: bool = False  # whether it takes power off an amplifier
    part_id: str = ""  # of the part it replaces

    @property
    def pressed(self) -> bool:
        """Whether Ohmack can do it by itself."""
        return not self.path and not self.query


def acts_on_loss(evaluation: Evaluation, catalogue: Sequence[dict[str, Any]]) -> Iterator[Act]:
    """Everything that could take something off the loops that lose most."""
    results = evaluation.results
    fed = [s for s in results.supplies if not s.is_main and s.chosen]
    limit_v = results.design.policy.drop_limit_v
    over = [s for s in fed if (s.figures["drop"].value or 0.0) > limit_v] or [
        max(fed, key=lambda s: s.figures["drop"].value or 0.0)
    ]
    seen: set[str] = set()
    for act in (
        *_copper(results.design, over),
        *_sizes(results.design, over),
        *_leads(over),
        *_grounds(evaluation, over),
        *_own_runs(results.design, over),
        *_blocks(results.design, over, catalogue),
        *_wider(evaluation, over, catalogue),
        *_wirings(evaluation, over),
        *_measured(evaluation, over),
    ):
        if act.key not in seen:
            seen.add(act.key)
            yield act


def _copper(design: Design, over: Sequence[SupplyResult]) -> Iterator[Act]:
    """Copper where copper-clad aluminium lies in the loop."""
    laid = [link for s in over for link in (*s.way, s.ground) if link is not None]
    clad = list({k.id: k for k in laid if k.wire.material != "copper"}.values())
    if clad:
        edits = tuple(e for k in clad for e in new_wire(k, at(k, lambda it: it.wire.material), "copper"))
        yield Act("copper", "Copper instead of clad aluminium", "Clad conducts about 63 % as well.", edits)


def _sizes(design: Design, over: Sequence[SupplyResult]) -> Iterator[Act]:
    """Ohmack's choice where a size was named, along the whole loop."""
    laid = [link for s in over for link in (*s.way, s.ground) if link is not None]
    named = list({k.id: k for k in laid if k.wire.size}.values())
    if named:
        edits = tuple(e for k in named for e in new_wire(k, at(k, lambda it: it.wire.size), None))
        yield Act("sizes", "Let Ohmack choose every size of the loop", "Sizes that were named stand now.", edits)


def _leads(over: Sequence[SupplyResult]) -> Iterator[Act]:
    """A lead to every power terminal of what has several, each with its own fuse."""
    for supply in over:
        further = further_leads(supply.link, supply.part)
        if further is not None and isinstance(supply.part, Amplifier):
            words = f"{supply.part.terminal_count} leads to {supply.part.name}, each with its own fuse"
            yield Act(f"leads-{supply.link.id}", words, "One into each of its power terminals.", further.edits)


def _grounds(evaluation: Evaluation, over: Sequence[SupplyResult]) -> Iterator[Act]:
    """Another ground point, and straight back to the battery; not past a sensor on the negative post."""
    design = evaluation.results.design
    points = {p.id: p for p in design.vehicle.ground_points}
    leads = [s.ground for s in over if s.ground is not None and s.ground.to_id in points and not s.ground.in_car]
    if not leads:
        return
    for point in points.values():
        kind = point.kind.value
        moved = [k for k in leads if k.to_id != point.id and _near(design, k, point)]
        if not moved or kind in NEVER_GROUND or kind is GroundKind.BATTERY:
            continue
        name = f"Ground at {point.name}"
        yield Act(
            f"ground-{point.id}", name, "Another way back through the body.", _regrounded(design, moved, point.id)
        )
    battery = design.vehicle.supply.batteries[0]
    sensed = design.vehicle.supply.kind in (SupplyKind.SMART, SupplyKind.DC_DC)
    if sensed or any(s.battery_id != battery.id for s in over):
        return
    there = next((p.id for p in points.values() if p.kind.value is GroundKind.BATTERY), None)
    moved = [k for k in leads if k.to_id != there]
    if not moved:
        return
    name = there or free_id("ground-battery", set(points))
    new: tuple[Edit, ...] = ()
    if there is None:
        tree = {
            "id": name,
            "name": f"{battery.name}, negative post",
            "position": battery.position.model_dump(mode="json"),
            "kind": {"value": GroundKind.BATTERY.value, "basis": Basis.ASSUMED.value},
        }
        new = (Edit(op="add", path=f"{at(design.vehicle)}/ground_points", value=tree),)
    yield Act(
        "ground-battery",
        "Ground straight back to the battery",
        "No body in the way, but as much cable again.",
        (*new, *_regrounded(design, moved, name)),
    )


def _near(design: Design, lead: GroundLink, point: GroundPoint) -> bool:
    """Whether a ground point is near what is grounded: a long lead across the car is no cure."""
    part = design.part(lead.from_id)
    where = part.position if part is not None else None
    return where is not None and dist(where.point, point.position.point) <= NEAR_M


def _regrounded(design: Design, leads: Sequence[Any], point_id: str) -> tuple[Edit, ...]:
    """Ground leads moved to another point: a length by tape is of the old way."""
    edits: list[Edit] = []
    for lead in {k.id: k for k in leads}.values():
        edits += [
            Edit(path=at(lead, lambda it: it.to_id), value=point_id),
            Edit(path=at(lead, lambda it: it.tape_length_m), value={"value": None}),
            Edit(path=at(lead, lambda it: it.wire.size), value=None),
        ]
    return tuple(edits)


def _own_runs(design: Design, over: Sequence[SupplyResult]) -> Iterator[Act]:
    """A run of its own from the battery for what hangs on a block."""
    for supply in over:
        if len(supply.way) < 2 or supply.link.in_car:
            continue
        link, first = supply.link, supply.way[0]
        fuse: dict[str, Any] = first.fuse.model_dump(mode="json") if first.fuse is not None else {}
        edits = (
            Edit(path=at(link, lambda it: it.from_id), value=first.from_id),
            Edit(path=at(link, lambda it: it.fuse), value={**fuse, "rating_a": None, "holder_id": None}),
            Edit(path=at(link, lambda it: it.engine_space), value=first.engine_space),
            Edit(path=at(link, lambda it: it.tape_length_m), value={"value": None}),
            Edit(path=at(link, lambda it: it.wire.size), value=None),
        )
        why = "Its current no longer goes through the main run, nor the other's through its own."
        yield Act(f"own-{link.id}", f"A run of its own to {supply.part.name}", why, edits)


def _blocks(design: Design, over: Sequence[SupplyResult], catalogue: Sequence[dict[str, Any]]) -> Iterator[Act]:
    """A block of the catalogue before what takes no thicker wire itself: thick to the block, a short lead from it."""
    direct = [s for s in over if len(s.way) == 1 and not s.link.in_car]
    if not direct or any(design.parts_of(DistributionBlock)):
        return
    most_mm2 = max(s.chosen.wire.area_mm2 for s in direct if s.chosen)
    for tree in catalogue:
        if tree["kind"] == "distribution block" and tree["in_area_max_mm2"] > most_mm2 * ROUNDED:
            why = "Thick cable to the block, a short lead from it to what takes no thicker one."
            yield Act(f"block-{tree['name']}", f"{tree['name']} before it", why, added(design, tree))


def _wider(evaluation: Evaluation, over: Sequence[SupplyResult], catalogue: Sequence[dict[str, Any]]) -> Iterator[Act]:
    """A block or holder of the catalogue that takes thicker wire; where it has none, such a one to be found."""
    design = evaluation.results.design
    for part in _narrow(design, over):
        block = part if isinstance(part, DistributionBlock) else None
        fields = ("in_area_max_mm2", "out_area_max_mm2") if block else ("terminal_area_max_mm2",)
        had = {name: float(getattr(part, name)) for name in fields}
        for tree in catalogue:
            if tree["kind"] != part.kind or (block and not _splits_as(design, block, tree)):
                continue
            if all(tree[n] >= had[n] for n in fields) and any(tree[n] > had[n] * ROUNDED for n in fields):
                words = f"{tree['name']} instead of {part.name}"
                yield Act(
                    f"part-{part.id}-{tree['name']}",
                    words,
                    "It takes thicker wire.",
                    taking(design, tree, part.id),
                    part_id=part.id,
                )
        wire = _next_up(design, max(had.values()))
        if wire is None:
            continue
        edits = tuple(Edit(path=f"{at(part)}/{name}", value=max(had[name], wire.area_mm2)) for name in fields)
        yield Act(
            f"wider-{part.id}",
            f"A {part.kind} that takes {wire.label} instead of {part.name}",
            "No part of the catalogue brings as much.",
            edits,
            query=f"kind={part.kind.replace(' ', '+')}&instead={part.id}",
            part_id=part.id,
        )


def _narrow(design: Design, over: Sequence[SupplyResult]) -> list[DistributionBlock | FuseHolder]:
    """The new blocks and holders along the loops."""
    found: dict[str, DistributionBlock | FuseHolder] = {}
    for supply in over:
        for link in supply.way:
            for part in (holder_of(design, link), design.part(link.from_id), design.part(link.to_id)):
                if isinstance(part, DistributionBlock | FuseHolder) and not part.in_car:
                    found[part.id] = part
    return list(found.values())


def _splits_as(design: Design, block: DistributionBlock, tree: dict[str, Any]) -> bool:
    """Whether a block of the catalogue has ways enough, with fuses where the other has some."""
    used = sum(link.from_id == block.id for link in design.links_of(PowerLink))
    ways, fused = int(tree.get("ways", 2)), bool(tree.get("fused", False))
    return ways >= used and fused == block.fused


def _next_up(design: Design, area_mm2: float) -> Conductor | None:
    """Two sizes thicker than what goes in."""
    thicker = sorted(
        (w for w in sizes(design.policy.wire_system) if not goes_in(w, area_mm2)), key=lambda w: w.area_mm2
    )
    return thicker[min(1, len(thicker) - 1)] if thicker else None


def _wirings(evaluation: Evaluation, over: Sequence[SupplyResult]) -> Iterator[Act]:
    """Coils wired to a higher load: less current, and less power."""
    for supply in over:
        if not isinstance(supply.part, Amplifier):
            continue
        for load in evaluation.results.loads:
            if load.amplifier.id != supply.part.id or len(load.links) != 1:
                continue
            higher = [
                o
                for o in load.options
                if o.permitted and o.stays and not o.bars and o.load_ohm > load.chosen.load_ohm * 1.01
            ]
            for option in higher[:1]:
                edits = (Edit(path=at(load.link, lambda it: it.wiring), value=option.key),)
                words = f"{load.driven_name} wired to {amount(option.load_ohm, 'ohm')}"
                yield Act(
                    f"wiring-{load.link.id}", words, "A higher load draws less and gives less.", edits, quieter=True
                )


def _measured(evaluation: Evaluation, over: Sequence[SupplyResult]) -> Iterator[Act]:
    """What is only assumed of the body and the straps, read at the lowest of its range."""
    design = evaluation.results.design
    for segment in (s for supply in over for s in supply.segments):
        if segment.place not in (Place.BODY, Place.STRAP) or not segment.term.path:
            continue
        fact = get(design, segment.term.path)
        if fact.basis is not Basis.ASSUMED or fact.low is None or fact.value is None or fact.low >= fact.value:
            continue
        edits = (Edit(path=segment.term.path, value={**fact.model_dump(mode="json"), "value": fact.low}),)
        words = f"{segment.name} read at {amount(fact.low, 'ohm')}, the lowest it may be"
        yield Act(
            f"read-{segment.term.path}", words, f"{amount(fact.value, 'ohm')} is assumed: measure it first.", edits,
            path=segment.term.path,
        )  # fmt: skip
