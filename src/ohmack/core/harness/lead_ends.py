"""What ends a radio's lead that has no wire in the plug: a bus interface, a feed of the fuse box, a ground point."""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.harness import CavityUse
from ohmack.core.document.links import FeedLink, RemoteLink
from ohmack.core.document.parts import Accessory, HeadUnit
from ohmack.core.document.vehicle import Feed, FeedRole, KeyState
from ohmack.core.record import record

AT_THE_RADIO_M = 0.3  # a feed so near to the radio is taken to be at its plug
OF_THE_CAMERA = (CavityUse.VIDEO, CavityUse.REVERSE)  # what a screen takes from the plug to show the camera
WOKEN_BY = (CavityUse.BUS, CavityUse.BUTTONS)  # what a bus interface listens to at the plug


@record
class LeadSource:
    """Something a lead may be joined to besides a wire of the plug."""

    id: str
    name: str


ROLE_USE = {
    FeedRole.CONSTANT: CavityUse.CONSTANT,
    FeedRole.SWITCHED: CavityUse.SWITCHED,
    FeedRole.ILLUMINATION: CavityUse.ILLUMINATION,
}


def not_on_the_plug(design: Design) -> tuple[Feed, ...]:
    """Feeds thought to be at the radio's plug for which its map has no wire.

    Parameters:
        design: the design.

    Returns:
        the feeds at the radio's place whose use no cavity of its mapped plugs has, and no cavity names.
    """
    radio = design.vehicle.radio
    cavities = [c for k in design.vehicle.connectors if k.at_id == radio.id for c in k.cavities]
    if not any(c.taken_for is not None for c in cavities):
        return ()
    uses, named = {c.taken_for for c in cavities}, {c.feed_id for k in design.vehicle.connectors for c in k.cavities}
    return tuple(
        feed
        for feed in design.vehicle.feeds
        if feed.role in ROLE_USE and ROLE_USE[feed.role] not in uses and feed.id not in named
        and abs(feed.position.x_m - radio.position.x_m) < AT_THE_RADIO_M
        and abs(feed.position.y_m - radio.position.y_m) < AT_THE_RADIO_M
    )  # fmt: skip


def sources_for(design: Design, use: CavityUse) -> tuple[LeadSource, ...]:
    """What may end a lead of a new radio where the plug has no wire for it.

    Parameters:
        design: the design.
        use: what the lead is for.

    Returns:
        for the switched lead a bus interface with a switched output first, then feeds that sleep with the key; for
        the constant lead feeds that stay live; none for others. Source: common practice.
    """
    if use is CavityUse.SWITCHED:
        boxes = [LeadSource(a.id, a.name) for a in design.parts_of(Accessory) if a.remote_out_limit_a is not None]
        gone = not_on_the_plug(design)
        return (*boxes, *(LeadSource(f.id, f.name) for f in design.vehicle.feeds if _sleeps(f) and f not in gone))
    if use is CavityUse.CONSTANT:
        return tuple(LeadSource(f.id, f.name) for f in design.vehicle.feeds if KeyState.ASLEEP in (f.live.value or ()))
    return ()


def _sleeps(feed: Feed) -> bool:
    live = feed.live.value
    if live is None:
        return feed.role is FeedRole.SWITCHED
    return KeyState.ASLEEP not in live and bool(live)


def ended_at(design: Design, unit: HeadUnit, use: CavityUse) -> str:
    """What ends a lead of a radio by a wire of its own.

    Parameters:
        design: the design.
        unit: the new radio.
        use: what the lead is for.

    Returns:
        in words where it goes; "" where no wire of the plan takes it.
    """
    feeds = {f.id: f for f in design.vehicle.feeds}
    for link in design.links_of(FeedLink):
        if link.to_id != unit.id:
            continue
        feed = feeds[link.from_id]
        if use is CavityUse.GROUND and link.ground_point_id:
            return next(g.name for g in design.vehicle.ground_points if g.id == link.ground_point_id)
        constant = KeyState.ASLEEP in (feed.live.value or ()) or feed.role is FeedRole.CONSTANT
        if use is (CavityUse.CONSTANT if constant else CavityUse.SWITCHED):
            return f"{feed.name}, behind a fuse of its own"
    if use is CavityUse.SWITCHED:
        for remote in design.links_of(RemoteLink):
            if remote.to_id == unit.id:
                part = design.part(remote.from_id)
                own = feeds.get(remote.from_id)
                return f"{part.name}, its switched output" if part is not None else own.name if own else ""
    return ""
