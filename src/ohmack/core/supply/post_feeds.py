"""Small circuits from a battery's own post, and which battery a feed of the car hangs on."""

from __future__ import annotations

from ohmack.core.document import Basis, Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import Tier
from ohmack.core.document.grounding import ground_for
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.ids import free_id
from ohmack.core.document.links import FeedLink, RemoteLink
from ohmack.core.document.parts import Converter, HeadUnit
from ohmack.core.document.vehicle import Battery, Feed, FeedRole, KeyState, Vehicle
from ohmack.core.figures.finding import Remedy, adding, set_to
from ohmack.core.supply.high_feed_findings import from_its_12_v_side

LONGEST = 36  # letters of its id, one more added where it is taken
POST_GIVES_A = 60.0  # with a fuse of its own in every lead; common practice


def battery_of(design: Design, feed: Feed) -> Battery:
    """The battery a feed of the car hangs on: as read, else the first."""
    batteries = design.vehicle.supply.batteries
    return next((battery for battery in batteries if battery.id == feed.battery_id), batteries[0])


def radio_battery(design: Design) -> Battery | None:
    """The battery that empties while the radio plays: that of its constant feed; None where the car has no radio."""
    units = {unit.id for unit in design.parts_of(HeadUnit)}
    if not units and design.vehicle.radio.tier.value is Tier.NONE:
        return None
    feeds = {feed.id: feed for feed in design.vehicle.feeds}
    laid = (feeds[link.from_id] for link in design.links_of(FeedLink) if link.to_id in units)
    feed = next((one for one in laid if one.role is FeedRole.CONSTANT), design.vehicle.constant_feed)
    return battery_of(design, feed) if feed is not None else design.vehicle.supply.batteries[0]


def lead_from(
    design: Design, part: HeadUnit | Converter, feed_id: str, wanted_id: str, ground_id: str | None = None
) -> Edit:
    """The edit that lays a small fused lead from a feed to a part, its fuse close to the feed."""
    taken = design.taken_ids()
    link: dict[str, object] = {"id": free_id(wanted_id, taken), "kind": "feed", "from_id": feed_id, "to_id": part.id}
    ground = {"ground_point_id": ground_id} if ground_id is not None else {}
    close = {"value": 0.1, "basis": Basis.ASSUMED.value, "low": 0.05, "high": 0.15}
    return adding(at_the(Design, lambda it: it.links), link | ground | {"fuse": {"from_source_m": close}})


def _woken(design: Design, unit: HeadUnit) -> bool:
    """Whether something besides its constant feed wakes a radio already."""
    hung: tuple[FeedLink | RemoteLink, ...] = (*design.links_of(FeedLink), *design.links_of(RemoteLink))
    return any(link.to_id == unit.id for link in hung)


def from_the_battery(
    design: Design, part: HeadUnit | Converter, link: FeedLink | None, battery: Battery | None = None
) -> Remedy:
    """The remedy that feeds a radio or a processor by a small fused lead of its own from a battery's post.

    Parameters:
        design: the design.
        part: what is fed.
        link: what feeds it now; None where the plug of the old radio brings it.
        battery: the battery, the first one where none is named.
    """
    first, feeds = design.vehicle.supply.batteries[0], at_the(Vehicle, lambda it: it.feeds)
    battery = battery or first
    post_id = "feed-post" if battery is first else f"feed-{battery.id}"[:LONGEST]
    taken = design.taken_ids()
    mine = (feed for feed in design.vehicle.feeds if feed.id.startswith(post_id))  # one of a battery that went is not
    at_post = next((feed for feed in mine if battery_of(design, feed) is battery), None)
    if at_post is not None and link is not None and link.from_id == at_post.id:
        return Remedy("Look at the feed", path=at(at_post, lambda it: it.limit_a))
    if design.vehicle.above_12_v:  # its posts are no supply for a part of 12 V
        return from_its_12_v_side(design, part, link)
    feed_id = free_id(post_id, taken) if at_post is None else at_post.id
    always = {"value": [state.value for state in KeyState], "basis": Basis.DOCUMENTED.value}
    point = ground_for(design, part.position or design.vehicle.radio.position)
    name = "Battery post, small circuits" if battery is first else f"{battery.name}, small circuits"
    post = {
        "id": feed_id, "name": name, "position": battery.position.model_dump(), "role": FeedRole.CONSTANT.value,
        "live": always, "limit_a": {"value": POST_GIVES_A, "basis": Basis.DOCUMENTED.value},
        "battery_id": None if battery is first else battery.id,
    }  # fmt: skip
    edits = [adding(feeds, post)] if at_post is None else []
    if link is None:
        ground_id = point.id if point is not None else None
        edits.append(lead_from(design, part, feed_id, f"feed-{part.id}", ground_id))
        key = design.vehicle.switched_feed
        if isinstance(part, HeadUnit) and key is not None and not _woken(design, part):
            edits.append(lead_from(design, part, key.id, f"feed-{part.id}-switched"))
    else:
        edits.append(set_to(at(link, lambda it: it.from_id), feed_id))
    return Remedy(f"Feed it from {'the battery' if battery is first else battery.name}", tuple(edits))
