"""What a factory feed carries: old and new load against its fuse, its wire and the drop."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from ohmack.core.document import Design
from ohmack.core.document.links import FeedLink
from ohmack.core.document.part import PartBase
from ohmack.core.document.parts import HeadUnit
from ohmack.core.document.vehicle import Feed
from ohmack.core.errors import OutOfRange, UnknownName
from ohmack.core.figures.figure import Book, Figure, Formula, Term
from ohmack.core.physics.conductors import Conductor, conductor
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.supply.small_circuits import HALF, fed_current, only_wakes
from ohmack.core.wording import amount

ELECTRONICS_A = 1.0  # below it a part is electronics, which any radio feed carries; common practice

TAP_TOTAL = Formula("Old and new load on", "a", "sum of old and new", lambda *a: sum(a), PHYSICS)
TAP_TOTAL_INSTEAD = Formula(
    "Old and new load on", "a", "the first new part in place of what was on it, or that where it is more; and the rest",
    lambda old, new, *rest: max(old, new) + sum(rest), PRACTICE,
)  # fmt: skip
TAP_NEW = Formula("New load on", "a", "what is new, the first part in place of the old one", lambda *a: sum(a), PHYSICS)
TAP_ROOM = Formula("Fuse with head-room", "a", "fuse × head-room", lambda f, h: f * h, PRACTICE)
TAP_CARRIES = Formula("Factory wire carries", "a", "ampacity by size", lambda s: factory_wire(s).ampacity_a, PRACTICE)
TAP_DROP = Formula(
    "Lost in the factory wire to", "v", "I × R × L, positive lead", lambda i, size, m: feed_drop_v(i, size, m), PHYSICS
)


@record
class FeedTap:
    """One factory feed that might carry a part: total load, what it has room for, and the verdict."""

    feed: Feed
    taken: bool
    draws: Term | Figure  # what the part draws
    total: Figure
    room: Figure
    carries: Figure
    drop: Figure
    refused: tuple[str, ...]
    open: tuple[tuple[str, str], ...]  # (path, name) of what is not known

    @property
    def nothing_known(self) -> bool:
        """Whether neither its fuse nor its wire is known: then only what it is taken to give speaks."""
        return self.room.value is None and self.carries.value is None

    @property
    def verdict(self) -> str:
        """Allowed, refused or open."""
        return "refused" if self.refused else "open" if self.open else "allowed"


def factory_wire(size: str) -> Conductor:
    """The conductor of a factory feed.

    Parameters:
        size: wire, such as `2.5 mm2` or `14 AWG`.

    Returns:
        the conductor.

    Raises:
        OutOfRange: no figures on file for that size.
    """
    try:
        return conductor(size)
    except UnknownName as error:
        raise OutOfRange("factory wire", float(size.split()[0].split("/")[0]), size.split()[-1], str(error)) from None


def feed_drop_v(current_a: float, size: str, length_m: float) -> float:
    """What is lost in the factory wire to a feed, positive lead only.

    Parameters:
        current_a: old and new load together [a].
        size: wire, such as `2.5 mm2`.
        length_m: from the battery [m].

    Returns:
        drop [v].

    Raises:
        OutOfRange: a size that is not on file.

    Formula: I R L. Source: IEC 60228 class 5 or ASTM B258 with IEC 60028 copper.
    """
    return current_a * factory_wire(size).resistance_ohm_per_m * length_m


def speaks_against(feed: Feed, total_a: float, headroom: float, most_v: float) -> tuple[str, ...]:
    """Why a factory feed cannot carry what would hang on it, as far as its facts are known; empty where nothing
    speaks against it.

    Parameters:
        feed: the feed with its facts.
        total_a: old and new load together [a].
        headroom: the share of its fuse that may flow for long.
        most_v: what its wire may lose [v].

    Returns:
        reasons; both schools tap or run anew, the check decides. Source: ABYC E-11 for the wire (from memory),
        head-room common practice.
    """
    fuse_a, size, length_m = feed.fuse_a.value, feed.wire_size.value, feed.wire_length_m.value
    found = []
    room_a = fuse_a * headroom if fuse_a is not None else None
    if room_a is not None and total_a > room_a + 1e-9:
        found.append(
            f"{amount(total_a, 'a')} on a {amount(fuse_a or 0.0, 'a')} fuse, which wants {amount(room_a, 'a')} or less"
        )
    try:
        wire = factory_wire(size) if size is not None else None
    except OutOfRange:
        return (*found, f"no figures on file for a wire of {str(size).replace('mm2', 'mm²')}")
    carries_a = wire.ampacity_a if wire is not None else None
    if carries_a is not None and fuse_a is not None and fuse_a > carries_a:
        found.append(f"its {amount(fuse_a, 'a')} fuse does not protect a wire for {amount(carries_a, 'a')}")
    elif carries_a is not None and total_a > carries_a:
        found.append(f"{amount(total_a, 'a')} in a wire for {amount(carries_a, 'a')}")
    if size is not None and length_m is not None and (lost_v := feed_drop_v(total_a, size, length_m)) > most_v:
        found.append(f"{amount(lost_v, 'v')} lost in its wire; {amount(most_v, 'v')} are allowed for the positive lead")
    return tuple(found)


def feed_refuses(design: Design, feed: Feed, current_a: float, instead: bool = False) -> tuple[str, ...]:
    """Why a factory feed cannot carry one more part beside what hangs on it already, as far as its facts are known.

    Parameters:
        design: the design, for its limits and for new radios on that feed.
        feed: the feed with its facts.
        current_a: what the part draws [a].
        instead: whether it takes the place of what is on it.

    Returns:
        reasons, as of `speaks_against`.
    """
    policy, old_a = design.policy, feed.old_load_a.value or 0.0
    radios_a = sum(unit.supply_current_a for unit in radios_on(design, feed))
    there_a = old_a + radios_a if design.radio_hidden else max(old_a, radios_a)
    total_a = max(old_a, current_a) if instead else there_a + current_a
    return speaks_against(feed, total_a, policy.fuse_headroom, HALF * policy.drop_limit_v)


def radios_on(design: Design, feed: Feed) -> list[HeadUnit]:
    """The new radios that draw from a feed, by a wire of their own or over the old one's plug; what the old one drew
    is gone with it, unless it goes on out of sight.
    """
    wires = {(link.from_id, link.to_id) for link in design.links_of(FeedLink)}
    fed = {to_id for _, to_id in wires}
    by_plug = design.vehicle.has_known_plug and not design.radio_hidden and feed is design.vehicle.constant_feed
    return [
        u for u in design.parts_of(HeadUnit)
        if (by_plug and u.id not in fed) or ((feed.id, u.id) in wires and not only_wakes(design, u, feed))
    ]  # fmt: skip


def tap_of(
    book: Book,
    part: PartBase,
    feed: Feed,
    current: Term | Figure,
    beside: Sequence[Term],
    taken: bool,
    instead: bool = False,
) -> FeedTap:
    """One feed held against a part, what was on it and what the plan hangs on it besides included.

    Parameters:
        book: the book of the design.
        part: what hangs on the feed, or might.
        feed: the feed.
        current: what the part draws [a].
        beside: what else the plan hangs on the feed, without radios [a].
        taken: whether the part hangs on it.
        instead: whether it takes the place of what was on it; a new radio does, unless the old one stays out of sight.

    Returns:
        the feed with its total, its room and what speaks against it.
    """
    policy, scope = book.design.policy, f"{part.id}/{feed.id}"
    old = book.fact(feed, lambda it: it.old_load_a, "what is on it already", "a")
    fuse = book.fact(feed, lambda it: it.fuse_a, "its fuse", "a")
    wire = book.fact(feed, lambda it: it.wire_size, "its wire")
    length = book.fact(feed, lambda it: it.wire_length_m, "the length of its wire", "m")
    radios = [fed_current(book, unit) for unit in radios_on(book.design, feed) if unit is not part]
    gone = not book.design.radio_hidden  # what the old radio drew, with a new one in its place
    first = instead or (isinstance(part, HeadUnit) and gone)
    new: list[Term | Figure] = [current, *radios] if first else [*radios, current]
    replaces = first or (bool(radios) and gone)
    new += beside
    formula, before = (
        (TAP_TOTAL, [old]) if not replaces else (TAP_NEW, []) if old.value is None else (TAP_TOTAL_INSTEAD, [old])
    )
    total = book.figure(f"{scope}/tap_total_a", formula, *before, *new, name=f"Old and new load on {feed.name}")
    room = book.figure(
        f"{scope}/tap_room_a",
        TAP_ROOM,
        fuse,
        book.policy(lambda it: it.fuse_headroom, "head-room"),
        name=f"{feed.name}: fuse with head-room",
    )
    carries = book.figure(f"{scope}/tap_carries_a", TAP_CARRIES, wire, name=f"{feed.name}: factory wire carries")
    drop = book.figure(
        f"{scope}/tap_drop_v", TAP_DROP, total, wire, length, name=f"Lost in the factory wire to {feed.name}"
    )
    known = [term.value for term in new]
    total_a = total.value if total.value is not None else None if None in known else sum(known)
    headroom, most_v = policy.fuse_headroom, HALF * policy.drop_limit_v
    refused = () if total_a is None else speaks_against(feed, total_a, headroom, most_v)
    asked = (fuse, wire, length) if replaces else (old, fuse, wire, length)
    unknown = tuple((gap.path, gap.name) for term in asked for gap in term.missing)
    return FeedTap(feed, taken, current, total, room, carries, drop, refused, unknown)


def lost_before(taps: Iterable[tuple[str, FeedTap]]) -> dict[tuple[str, str], Figure]:
    """What the factory wire to a feed loses before what hangs on it, by part and feed; without what is unknown.

    Parameters:
        taps: feeds held against parts, each with the id of its part.

    Returns:
        the drops [v] of feeds that parts hang on.
    """
    drops = {(part_id, tap.feed.id): tap.drop for part_id, tap in taps if tap.taken}
    return {key: drop for key, drop in drops.items() if drop.value is not None}
