"""Rules on leads that have no wire in the radio's plug, and feeds thought to be there."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.handles import at
from ohmack.core.document.harness import CavityUse
from ohmack.core.document.links import FeedLink, RemoteLink
from ohmack.core.document.vehicle import FeedRole
from ohmack.core.figures.finding import Draft, Remedy, find_part, rule, set_to, stop
from ohmack.core.harness.lead_ends import not_on_the_plug, sources_for
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import count, listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

MOST_NAMED = 6


@rule("lead-missing", "build", PRACTICE)
def lead_missing(results: Results) -> Iterator[Draft]:
    """A lead the new unit needs has no wire in the map."""
    ends = [end for end in results.joints.loose if end.missing]
    missing = [end.what for end in ends]
    if missing:
        first = results.design.vehicle.connectors[0]
        remedy = Remedy("Pin by pin", sheet="harness")
        if all(end.use is CavityUse.SWITCHED for end in ends):
            sources = sources_for(results.design, CavityUse.SWITCHED)
            remedy = (
                Remedy(f"Take it from {sources[0].name}", connect=ends[0].unit_id)
                if sources
                else find_part("Find a bus interface", "accessory")
            )
        yield stop(
            at(first),
            f"No wire on the map for {listed(missing[:MOST_NAMED])}",
            f"{count(len(missing), 'lead')} would hang in the air. Find the wire with the meter, pin by pin, or bring a"
            " fused feed of its own. In a car that wakes its radio by the data bus no wire is switched: a bus interface"
            " gives it.",
            remedy,
        )


@rule("feed-not-on-plug", "supply", PRACTICE)
def feed_not_on_plug(results: Results) -> Iterator[Draft]:
    """The plan uses a feed of the radio's plug that its map does not have."""
    design = results.design
    gone = {feed.id: feed for feed in not_on_the_plug(design)}
    links: list[FeedLink | RemoteLink] = [*design.links_of(FeedLink), *design.links_of(RemoteLink)]
    for link in links:
        feed = gone.pop(link.from_id, None)
        if feed is None:
            continue
        sources = [s for s in sources_for(design, CavityUse.SWITCHED) if s.id != feed.id]
        swap = isinstance(link, RemoteLink) and sources
        yield stop(
            feed.id,
            f"{feed.name}: the plug has no such wire",
            f"The map of the radio's plug names none for {feed.role.value}. "
            + (
                "In a car that wakes its radio by the data bus nothing there is switched: a bus interface gives it, or"
                " a feed of the fuse box."
                if feed.role is FeedRole.SWITCHED
                else "Take it from the fuse box or the battery."
            ),
            Remedy(f"Take {sources[0].name}", (set_to(at(link, lambda it: it.from_id), sources[0].id),))
            if swap
            else find_part("Find a bus interface", "accessory"),
        )
