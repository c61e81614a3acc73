"""Rules on factory feeds of a 24 V car or a cart, and the presses that put 12 V parts behind its voltage converter."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from ohmack.core.document import Basis, Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import Tier
from ohmack.core.document.grounding import ground_for
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.ids import free_id
from ohmack.core.document.links import FeedLink, RemoteLink
from ohmack.core.document.part import PartBase
from ohmack.core.document.parts import HeadUnit, PoweredSubwoofer, VoltageConverter
from ohmack.core.document.small_parts import SwitchingRelay
from ohmack.core.document.vehicle import Feed, FeedRole, KeyState, Vehicle
from ohmack.core.figures.finding import Draft, Remedy, adding, find_part, rule, set_to, stop
from ohmack.core.figures.later import fit_now
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS
from ohmack.core.supply.small_circuits import only_wakes
from ohmack.core.wording import listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

BEARS_V = 16.0  # what 12 V parts bear; common practice
COIL_LEAST, COIL_MOST = 0.8, 1.3  # times its voltage a coil pulls and lives at, common practice
LONGEST = 30  # letters of a converter's id in those of its feeds
FUSED = {"from_source_m": {"value": 0.1, "basis": Basis.ASSUMED.value, "low": 0.05, "high": 0.15}}


@record
class Hung:
    """What of a plan draws from one factory feed."""

    feed: Feed
    parts: tuple[PartBase, ...]  # on the feed itself, by a wire of their own or over the plug of the old radio
    links: tuple[FeedLink, ...]
    remotes: tuple[RemoteLink, ...]  # switch-on wires straight from it
    coils: bool  # whether a relay's coil hangs on it


def hung_on(design: Design, feed: Feed) -> Hung:
    """What draws from a factory feed, or is switched by it.

    Parameters:
        design: the design.
        feed: a feed of the car.

    Returns:
        it; a new radio on the old one's plug hangs on the constant feed and the one that follows the key.
    """
    links = tuple(link for link in design.links_of(FeedLink) if link.from_id == feed.id)
    remotes = [link for link in design.links_of(RemoteLink) if link.from_id == feed.id]
    found = [design.part(link.to_id) for link in links]
    by_plug = _unit_on_the_plug(design)
    if by_plug is not None and feed in (design.vehicle.constant_feed, _key_feed(design)):
        found.append(by_plug)
    return Hung(
        feed,
        tuple(part for part in found if part is not None),
        links,
        tuple(link for link in remotes if not link.relay),
        any(link.relay for link in remotes) or any(other.relay_on_id == feed.id for other in design.vehicle.feeds),
    )


def _unit_on_the_plug(design: Design) -> HeadUnit | None:
    """The new radio that draws over the plug of the old one."""
    fed = {link.to_id for link in design.links_of(FeedLink)}
    plugged = design.vehicle.has_known_plug and not design.radio_hidden
    return next((unit for unit in design.parts_of(HeadUnit) if plugged and unit.id not in fed), None)


def _key_feed(design: Design) -> Feed | None:
    return next((feed for feed in design.vehicle.feeds if feed.role is FeedRole.SWITCHED), None)


@rule("feed-volts", "supply", PHYSICS)
def feed_volts(results: Results) -> Iterator[Draft]:
    """A factory feed of a 24 V car or a cart may hold more than what hangs on it bears."""
    design = results.design
    none_of_the_works = design.vehicle.radio.tier.value is Tier.NONE and any(design.parts_of(VoltageConverter))
    if not design.vehicle.above_12_v or none_of_the_works:
        return  # where there never was a radio, what is called its feed comes from the converter
    for hung in (hung_on(design, feed) for feed in design.vehicle.feeds):
        feed, path = hung.feed, at(hung.feed, lambda it: it.reads_v)
        if not (hung.parts or hung.remotes or hung.coils):
            continue
        if feed.behind_id is not None and design.part(feed.behind_id) is None:
            yield stop(
                feed.id,
                f"{feed.name}: its converter comes later",
                "Until it is there nothing of 12 V can hang on it.",
                fit_now(results, "voltage converter"),
            )
        if feed.reads_v.value is None:
            yield stop(
                path,
                f"{feed.name}: {design.vehicle.supply.system.value} or 12 V is not known",
                "A 12 V part on a lead of more is gone at once. Read it to the body with the key on.",
                Remedy("Enter it", path=path),
            )
        elif feed.reads_v.value > BEARS_V:
            yield from _too_high(results, hung, feed.reads_v.value)


def _too_high(results: Results, hung: Hung, reads_v: float) -> Iterator[Draft]:
    """What may not hang on a feed of more than 12 V, and the coil of a relay that may, where it is made for that."""
    feed, design = hung.feed, results.design
    if hung.parts:
        names = listed([part.name for part in hung.parts])
        yield stop(
            feed.id,
            f"{feed.name} reads {results.say(reads_v, 'v')}: {names} would hang on it",
            "A 12 V part is gone at once. Feed it from the 12 V side of a converter; what the key switches goes through"
            " a relay whose coil is made for that voltage.",
            _behind_the_converter(design, hung),
        )
    if hung.remotes:
        yield stop(
            f"{feed.id}/remote",
            f"{feed.name} reads {results.say(reads_v, 'v')}: no 12 V part is switched on by it",
            "A relay whose coil is made for that voltage goes between; its contact passes 12 V on.",
            Remedy("Put a relay in", tuple(set_to(at(link, lambda it: it.relay), True) for link in hung.remotes)),
        )
    for relay in design.parts_of(SwitchingRelay) if hung.coils else ():
        if not COIL_LEAST * relay.coil_v <= reads_v <= COIL_MOST * relay.coil_v:
            yield stop(
                relay.id,
                f"{relay.name}: a coil for {results.say(relay.coil_v, 'v')} on {results.say(reads_v, 'v')}",
                f"{'It burns' if reads_v > relay.coil_v else 'It does not pull'}. Take one whose coil is made for"
                f" {results.design.vehicle.supply.system.value}.",
                find_part("Find another", "switching relay"),
            )


def _behind_the_converter(design: Design, hung: Hung) -> Remedy:
    """A press that takes what hangs on a feed to the 12 V side of the converter."""
    converter = next(design.parts_of(VoltageConverter), None)
    if converter is None:
        return find_part("Find a converter", "voltage converter")
    own = next((part for part in hung.parts if isinstance(part, (Amplifier, PoweredSubwoofer))), None)
    if own is not None:
        off = tuple(Edit(op="remove", path=at(link)) for link in hung.links if link.to_id == own.id)
        return Remedy(f"Lay {own.name} a run from {converter.name}", off, connect=own.id)
    return Remedy(f"Feed it from {converter.name}", tuple(_moved(design, converter, hung)))


def from_its_12_v_side(design: Design, part: PartBase, link: FeedLink | None) -> Remedy:
    """The remedy that feeds a 12 V part of a 24 V car or a cart from the output of its voltage converter.

    Parameters:
        design: the design.
        part: what is fed.
        link: what feeds it now; None where the plug of the old radio brings it.
    """
    converter = next(design.parts_of(VoltageConverter), None)
    if converter is None:
        return find_part("Find a converter", "voltage converter")
    taken = design.taken_ids()
    feed_id, made = _low_feed(design, converter, None, taken)
    if link is not None:
        edits = (*made, set_to(at(link, lambda it: it.from_id), feed_id))
    else:
        edits = (*made, _laid(design, part, feed_id, True, taken))
    return Remedy(f"Feed it from {converter.name}", edits)


def _laid(design: Design, part: PartBase, feed_id: str, grounded: bool, taken: set[str]) -> Edit:
    """The edit that lays a feed of a part's own, fused close to its source."""
    point = ground_for(design, part.position or design.vehicle.radio.position) if grounded else None
    new = {
        "id": free_id(f"feed-{part.id}", taken), "kind": "feed", "from_id": feed_id, "to_id": part.id,
        "ground_point_id": point.id if point is not None else None, "fuse": FUSED,
    }  # fmt: skip
    taken.add(str(new["id"]))
    return adding(at_the(Design, lambda it: it.links), new)


def _moved(design: Design, converter: VoltageConverter, hung: Hung) -> Iterator[Edit]:
    """The edits that put electronics and radios of a feed behind the converter: from its output, and, where it only
    wakes them, through a relay on the feed.
    """
    taken = design.taken_ids()
    for link in hung.links:
        part = design.part(link.to_id)
        wakes = part is not None and only_wakes(design, part, hung.feed)
        feed_id, made = _low_feed(design, converter, hung.feed if wakes else None, taken)
        yield from made
        yield set_to(at(link, lambda it: it.from_id), feed_id)
    unit = _unit_on_the_plug(design)
    if unit is None or unit not in hung.parts:
        return
    for source in (None, _key_feed(design)):
        feed_id, made = _low_feed(design, converter, source, taken)
        yield from made
        yield _laid(design, unit, feed_id, source is None, taken)


def _low_feed(
    design: Design, converter: VoltageConverter, key: Feed | None, taken: set[str]
) -> tuple[str, tuple[Edit, ...]]:
    """(the feed of 12 V from the converter, through a relay on another feed where one is given; the edits that make
    it where it is not there yet).
    """
    on = key.id if key is not None else None
    wanted = f"{converter.id[:LONGEST]}-{'out' if key is None else 'key'}"
    own = (feed for feed in design.vehicle.feeds if feed.behind_id == converter.id and feed.relay_on_id == on)
    there = next(own, None)
    if there is not None or wanted in taken:  # it is on file, or this press makes it already
        return (there.id if there is not None else wanted), ()
    taken.add(wanted)
    place = converter.position or design.vehicle.radio.position
    documented: dict[str, Any] = {"basis": Basis.DOCUMENTED.value}
    live = [state.value for state in KeyState] if key is None else [s.value for s in key.live.value or ()]
    basis = key.live.basis.value if key is not None else Basis.DOCUMENTED.value
    new = {
        "id": wanted,
        "name": f"{converter.name}, 12 V side" if key is None else f"{converter.name}, by a relay on {key.name}",
        "position": place.model_dump(),
        "role": (FeedRole.CONSTANT if key is None else FeedRole.SWITCHED).value,
        "behind_id": converter.id,
        "relay_on_id": on,
        "reads_v": {"value": converter.out_v} | documented,
        "limit_a": {"value": converter.current_a} | documented,
        "old_load_a": {"value": 0.0} | documented,
        "live": {"value": live, "basis": basis} if live else {},
    }
    return wanted, (adding(at_the(Vehicle, lambda it: it.feeds), new),)
