"""Distribution blocks: which one has a way left, and a new one wired in between a battery and its runs."""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.design import ends_of
from ohmack.core.document.edits import Edit
from ohmack.core.document.facts import Position
from ohmack.core.document.grounding import ground_for
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.ids import free_id
from ohmack.core.document.links import GroundLink, PowerLink
from ohmack.core.document.parts import DistributionBlock, VoltageConverter
from ohmack.core.document.vehicle import Battery, BatteryRole, SplitCharging
from ohmack.core.supply.second_battery import charged_by


def source_of_12_v(design: Design) -> Battery | VoltageConverter:
    """What 12 V parts are fed from: the first battery, or where that holds more the converter, once there is one; the
    leisure battery where it is known how that is charged.
    """
    first, *others = design.vehicle.supply.batteries
    if design.vehicle.above_12_v:
        return next(design.parts_of(VoltageConverter), first)
    charged = (b for b in others if charged_by(design, b) not in (None, SplitCharging.NONE))
    return next((b for b in charged if b.role is BatteryRole.LEISURE), first)


def onto_the_converter(design: Design) -> tuple[Edit, ...]:
    """The runs that begin at batteries of more than 12 V moved to the converter, once there is one; a tape length or
    way points are of the old way and go.
    """
    source = source_of_12_v(design)
    if not isinstance(source, VoltageConverter):
        return ()
    batteries = {b.id for b in design.vehicle.supply.batteries}
    edits: list[Edit] = []
    for base in (at(link) for link in design.links_of(PowerLink) if link.from_id in batteries):
        edits += [Edit(path=f"{base}/from_id", value=source.id), Edit(path=f"{base}/way_points", value=[]),
                  Edit(path=f"{base}/tape_length_m", value={"value": None})]  # fmt: skip
    return tuple(edits)


def block_with_room(design: Design) -> DistributionBlock | None:
    """A block that is fed and has a way left."""
    links = list(design.links_of(PowerLink))
    for block in design.parts_of(DistributionBlock):
        if any(k.to_id == block.id for k in links) and sum(k.from_id == block.id for k in links) < block.ways:
            return block
    return None


def wire_in(design: Design, block: DistributionBlock) -> tuple[Edit, ...]:
    """A main run from the battery to a block, and behind one that feeds nothing yet every power run of that battery;
    a ground lead from one that gathers grounds.

    Parameters:
        design: the design, the block in it.
        block: the block.

    Returns:
        edits: the main run takes the fuse's place of the first run; a tape length or way points of a moved run are of
        its old way and go.
    """
    if grounds_at(design, block.id):
        return _grounded(design, block)
    batteries = {b.id for b in design.vehicle.supply.batteries} | {source_of_12_v(design).id}
    runs = [link for link in design.links_of(PowerLink) if link.from_id in batteries and link.to_id != block.id]
    feeds = any(link.from_id == block.id for link in design.links_of(PowerLink))
    runs = [] if feeds else [link for link in runs if link.from_id == runs[0].from_id]
    fed = any(link.to_id == block.id for link in design.links_of(PowerLink))
    edits = []
    if not fed:
        first = runs[0].model_dump(mode="json") if runs else {}
        battery_id = runs[0].from_id if runs else source_of_12_v(design).id
        fuse = first.get("fuse") or {"from_source_m": {"value": 0.3, "basis": "assumed", "low": 0.1, "high": 0.45}}
        main = {
            "id": free_id(f"power-{block.id}"[:36], {k.id for k in design.links}),
            "kind": "power",
            "from_id": battery_id,
            "to_id": block.id,
            "engine_space": first.get("engine_space", True),
            "fuse": fuse | {"rating_a": None},
        }
        edits.append(Edit(op="add", path=at_the(Design, lambda it: it.links), value=main))
    for link in runs:
        base = at(link)
        edits += [
            Edit(path=f"{base}/from_id", value=block.id),
            Edit(path=f"{base}/way_points", value=[]),
            Edit(path=f"{base}/engine_space", value=False),
        ]
        edits += [
            Edit(path=f"{base}/tape_length_m", value={"value": None}),
            Edit(path=f"{base}/fuse", value={} if block.fused else None),
        ]
    return tuple(edits)


def grounds_at(design: Design, block_id: str) -> bool:
    """Whether a block gathers ground leads."""
    return any(block_id in ends_of(link) for link in design.links_of(GroundLink))


def _grounded(design: Design, block: DistributionBlock) -> tuple[Edit, ...]:
    """A lead from a block that gathers grounds to a ground point, where it has none."""
    point = ground_for(design, block.position or Position(x_m=3.4, y_m=0))
    if point is None or any(link.from_id == block.id for link in design.links_of(GroundLink)):
        return ()
    link_id = free_id(f"ground-{block.id}"[:36], {k.id for k in design.links})
    lead = {"id": link_id, "kind": "ground", "from_id": block.id, "to_id": point.id}
    return (Edit(op="add", path=at_the(Design, lambda it: it.links), value=lead),)
