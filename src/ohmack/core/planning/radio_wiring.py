"""The wires of a new radio: its feeds and ground, what wakes it, and what of the old one moves to it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.design import ends_of
from ohmack.core.document.edits import Edit
from ohmack.core.document.facts import Position
from ohmack.core.document.grounding import ground_for
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.harness import CavityUse
from ohmack.core.document.ids import free_id
from ohmack.core.document.links import FeedLink, LineLink, RemoteLink, TapLink
from ohmack.core.document.parts import Converter, HeadUnit, PoweredSubwoofer
from ohmack.core.document.vehicle import Feed, FeedRole
from ohmack.core.errors import UnknownName
from ohmack.core.harness.lead_ends import ended_at, sources_for


def fuse_at(value_m: float, low_m: float, high_m: float) -> dict[str, Any]:
    """A fuse this far from its source, until somebody measures it."""
    return {"from_source_m": {"value": value_m, "basis": "assumed", "low": low_m, "high": high_m}}


def on_feed(design: Design, part_id: str, feed: Feed, near: Position) -> dict[str, Any]:
    """A part on a factory feed, fused close to it, grounded near some place."""
    point = ground_for(design, near)
    return {
        "kind": "feed",
        "from_id": feed.id,
        "to_id": part_id,
        "ground_point_id": point.id if point else None,
        "fuse": fuse_at(0.1, 0.05, 0.15),
    }


def connect_radio(design: Design, unit: HeadUnit, add: Any) -> None:
    """The feeds and the ground of a new radio where no plug of the works brings them."""
    fed = {link.from_id for link in design.links_of(FeedLink) if link.to_id == unit.id}
    if design.vehicle.has_known_plug and not design.radio_hidden:  # whose plug the hidden one keeps
        _wake_radio(design, unit, add)
        return
    if fed:
        return
    for role in (FeedRole.CONSTANT, FeedRole.SWITCHED):
        feed = next((f for f in design.vehicle.feeds if f.role is role), None)
        if feed is not None:
            tree = on_feed(design, unit.id, feed, design.vehicle.radio.position)
            if role is FeedRole.SWITCHED:
                tree["ground_point_id"] = None  # one ground is enough
            add(f"feed-{unit.id}-{role.name.lower()}", tree)


def _wake_radio(design: Design, unit: HeadUnit, add: Any) -> None:
    """A switched wire for a radio whose mapped plug has none: off the bus interface, else a feed that follows the
    key.
    """
    cavities = [c for k in design.vehicle.connectors if k.at_id == design.vehicle.radio.id for c in k.cavities]
    known = [c.taken_for for c in cavities if c.taken_for is not None]
    if not known or CavityUse.SWITCHED in known:
        return
    source = next(iter(sources_for(design, CavityUse.SWITCHED)), None)
    if source is not None and not ended_at(design, unit, CavityUse.SWITCHED):
        add(f"remote-{unit.id}", {"kind": "remote", "from_id": source.id, "to_id": unit.id})


def own_lead(design: Design) -> Iterator[Edit]:
    """A new radio nothing hangs on yet switches on, by its remote lead, what an accessory feed did."""
    unit = next((u for u in design.parts_of(HeadUnit) if u.remote_out_limit_a), None)
    if unit is None or any(unit.id in ends_of(link) for link in design.links):
        return
    switched = {feed.id for feed in design.vehicle.feeds if feed.role is FeedRole.SWITCHED}
    for link in design.links_of(RemoteLink):
        if link.from_id in switched:
            yield Edit(path=at(link, lambda it: it.from_id), value=unit.id)


def own_lines(design: Design) -> Iterator[Edit]:
    """A new radio with line outputs takes powered subwoofers, amplifiers and processors over from the speaker pairs of
    the one that goes.
    """
    unit = next((u for u in design.parts_of(HeadUnit) if u.line_pairs and u.line_v), None)
    if unit is None or any(line.from_id == unit.id for line in design.links_of(LineLink)):
        return
    old = {channel.id for channel in design.vehicle.radio.channels}
    played = {sub.id for sub in design.parts_of(PoweredSubwoofer) if sub.takes_line}
    played |= {amplifier.id for amplifier in design.parts_of(Amplifier) if not amplifier.plugs_in}
    set_to = {line.from_id for line in design.links_of(LineLink) if line.input_ids}  # by pairs, each chosen
    played |= {one.id for one in design.parts_of(Converter) if one.kind == "processor"} - set_to
    for tap in design.links_of(TapLink):
        if tap.to_id in played and set(tap.from_ids) <= old and not tap.by_hand:
            yield Edit(op="remove", path=at(tap))


def end_lead(design: Design, unit_id: str, use: str, source_id: str) -> tuple[Edit, ...]:
    """The edit that joins a radio's lead, for which the plug has no wire, to something else.

    Parameters:
        design: the design.
        unit_id: the radio.
        use: what the lead is for.
        source_id: an interface or a feed that may end it.

    Returns:
        the edit: a switch-on wire for the switched lead, a fused feed for the constant one.

    Raises:
        UnknownName: no such radio, or nothing that may end such a lead.
    """
    unit = next((u for u in design.parts_of(HeadUnit) if u.id == unit_id), None)
    if unit is None:
        raise UnknownName("radio", unit_id)
    wanted = next((u for u in CavityUse if u.value == use), CavityUse.OTHER)
    sources = sources_for(design, wanted)
    if source_id not in {s.id for s in sources}:
        raise UnknownName("end of this lead", source_id, ", ".join(s.name for s in sources))
    taken = design.taken_ids()
    if wanted is CavityUse.SWITCHED:
        tree = {"kind": "remote", "from_id": source_id, "to_id": unit_id, "id": free_id(f"remote-{unit_id}", taken)}
    else:
        feed = next(f for f in design.vehicle.feeds if f.id == source_id)
        tree = on_feed(design, unit_id, feed, design.vehicle.radio.position)
        tree["id"] = free_id(f"feed-{unit_id}", taken)
    return (Edit(op="add", path=at_the(Design, lambda it: it.links), value=tree),)
