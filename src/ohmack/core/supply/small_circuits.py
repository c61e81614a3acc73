"""The small circuits: the feed of a converter or another part, speaker cable, and the wire all of them take."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from math import log10

from ohmack.core.document import Design
from ohmack.core.document.handles import at, sure
from ohmack.core.document.links import FeedLink, Link, LinkBase, SpeakerLink
from ohmack.core.document.part import PartBase
from ohmack.core.document.parts import Accessory, Converter, HeadUnit, PoweredSubwoofer
from ohmack.core.document.vehicle import Feed, FeedRole
from ohmack.core.errors import require
from ohmack.core.figures.figure import Book, Figure, Formula, Reading, Term, fixed, reference
from ohmack.core.fit.runs import Run, over_loom_from
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.physics.bench_wiring import BenchWiring
from ohmack.core.physics.conductors import Conductor, ampacity_a, conductor
from ohmack.core.physics.protection import best_fuse, family
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.supply.feed_return import WayBack
from ohmack.core.supply.wire_choice import pool_of, size_there, wire_of

FEED_FUSE = Formula(
    "Feed fuse", "a", "next standard blade at or above I / head-room",
    lambda amps, headroom: best_fuse("blade", max(amps, 0.05), AMPLE_A, headroom).rating_a, PRACTICE,
)  # fmt: skip
FEED_FUSE_NAMED = Formula(
    "Feed fuse", "a", "as its maker names, next standard blade",
    lambda wanted: next((size for size in family("blade").ratings_a if size >= wanted), wanted), PRACTICE,
)  # fmt: skip
FEED_FUSE_FIXED = Formula("Feed fuse", "a", "as the plan names", float)
FEED_WIRE = Reading(
    "Wire from the feed", "", "as the plan names, or from the usual size up one that carries its maker's fuse and loses"
    " no more than half the drop allowed, the factory wire counted in", lambda wire: wire.label, PHYSICS,
)  # fmt: skip
FEED_DROP = Formula(
    "Lost in the new wire from", "v", "I × R × L, positive lead", lambda amps, r, metres: amps * r * metres, PHYSICS
)
FEED_LOST = Formula("Lost in both wires", "v", "sum of the factory wire and the new one", lambda *v: sum(v), PHYSICS)

SPEAKER = Formula(
    "Current in the speaker cable", "a", "√(P × share / Z)", lambda p, part, z: (p * part / z) ** 0.5, PHYSICS
)
LOSS = Formula(
    "Lost in speaker cable", "db", "20 log₁₀(1 + 2 R L / Z)", lambda metres, z, r: loss_db(2 * r * metres, z), PHYSICS
)


HALF = 0.5  # of the drop allowed goes into the positive lead, the rest is for joints and return
STATED_FOR_OHM = 4.0  # the load makers state a damping factor for, common practice
AMPLE_A = 1000.0  # the fuse follows the load here; whether the wire carries it is judged apart
SMALL = {"AWG": {"remote": "18 AWG", "tap": "18 AWG", "feed": "16 AWG"},
         "mm2": {"remote": "1.5 mm2", "tap": "1.5 mm2", "feed": "1.5 mm2"}}  # fmt: skip


Fed = Converter | PoweredSubwoofer | HeadUnit | Accessory


@record
class ConverterFeed:
    """The feed of a converter, a powered subwoofer or another part that draws current, with its wire and fuse."""

    link: FeedLink
    part: Fed
    feed: Feed
    wire: Conductor
    size: Figure  # of that wire
    drop: Figure | None  # in that wire; None where it only wakes a radio, which draws over its constant feed
    lost: Figure | None  # with the factory wire before it, where that is judged
    back: Figure | None  # on the way back, its ground lead as thick; None where it has no ground or only wakes a radio
    fuse: Figure
    fuse_reason: str
    draws_a: float


@record
class SpeakerCable:
    """The cable of one speaker link: what flows in it, what it loses, and whether a size was found that does."""

    link: SpeakerLink
    wire: Conductor
    loss: Figure
    current: Figure
    enough: bool  # whether some size loses little enough and carries the current
    damping: Figure

    @property
    def there_and_back_ohm(self) -> float:
        """Resistance of both its wires [ohm]; zero where its length is not known."""
        length_m = self.loss.inputs[0].value
        return 2 * self.wire.resistance_ohm_per_m * length_m if length_m else 0.0


def small_wire(design: Design, link: Link) -> Conductor:
    """The wire of a small circuit: as named, or the shop's usual size."""
    usual = SMALL[design.policy.wire_system].get(link.kind, SMALL[design.policy.wire_system]["tap"])
    return wire_of(link.wire) or conductor(usual, link.wire.material)


def fed_current(book: Book, part: Fed) -> Term:
    """What a part on a factory feed draws, as its papers say."""
    if isinstance(part, Accessory):
        return book.part(part, lambda it: it.current_a, f"{part.name} draws", "a")
    return book.part(part, lambda it: it.supply_current_a, f"{part.name} draws", "a")


def compute_feeds(
    book: Book, runs: dict[str, Run], lost_before: Mapping[tuple[str, str], Figure]
) -> list[ConverterFeed]:
    """The feed, wire and fuse of everything on a factory feed; a plug-in amplifier keeps the factory's fuse.

    Parameters:
        book: the book of the design.
        runs: every link laid out.
        lost_before: by part and feed, what the factory wire before the new one loses [v].

    Returns:
        one for each feed link to a part that draws current.
    """
    design = book.design
    result: list[ConverterFeed] = []
    fed = {p.id: p for p in design.parts if isinstance(p, Fed)}
    feeds = {feed.id: feed for feed in design.vehicle.feeds}
    for link in design.links_of(FeedLink):
        part = fed.get(link.to_id)
        if part is None:
            continue
        feed = feeds[link.from_id]
        scope = link.id if any(one.part is part for one in result) else part.id  # a radio has two feeds
        draws = fed_current(book, part)
        fuse = _feed_fuse(book, part, link, draws, scope)
        length, before = runs[link.id].length, lost_before.get((part.id, feed.id))
        left_v = HALF * design.policy.drop_limit_v - (before.value if before is not None else 0.0)
        way_back = WayBack.of(book, link)
        legs = [((draws.value or 0.0) * (length.value or 0.0), left_v)]
        if way_back is not None:
            legs.append(way_back.leg(draws.value, HALF * design.policy.drop_limit_v))
        wire = feed_wire(design, link, fuse.value, *legs)
        reason = f"wire carries {ampacity_a(wire, engine_space=False):.0f} A"
        name = f"{part.name}: wire from {feed.name}"
        allowed = book.policy(lambda it: it.drop_limit_v, "drop allowed", "v")
        shared = () if before is None else (before,)
        per_m = _per_metre(link, runs[link.id], wire)
        there = (per_m,) if link.unread else ()
        size = book.reading(
            f"{scope}/feed_wire", FEED_WIRE, wire, draws, length, fuse, allowed, *shared, *there, name=name
        )
        drop = lost = back = None
        if not only_wakes(design, part, feed):
            drop = book.figure(
                f"{scope}/feed_drop_v",
                FEED_DROP,
                draws,
                per_m,
                length,
                name=f"{part.name}: lost in the new wire from {feed.name}",
            )
            lost = drop
            back = way_back.lost(draws, per_m, scope, part.name) if way_back is not None else None
            if before is not None:
                name = f"{part.name}: lost in both wires from {feed.name}"
                lost = book.figure(f"{scope}/feed_lost_v", FEED_LOST, before, drop, name=name)
        result.append(
            ConverterFeed(link, part, feed, wire, size, drop, lost, back, fuse, reason, float(draws.value or 0.0))
        )
    return result


def _per_metre(link: LinkBase, run: Run, wire: Conductor) -> Term:
    """The resistance of a link's wire a metre; missing where it lies in the car and nobody read which it is."""
    if link.unread:
        return size_there(link, run)
    return reference(f"resistance of {wire.label} a metre", wire.resistance_ohm_per_m, "ohm", wire.resistance_source)


def only_wakes(design: Design, part: PartBase, feed: Feed) -> bool:
    """Whether a feed is a radio's second one, on the key."""
    others = {link.from_id for link in design.links_of(FeedLink) if link.to_id == part.id}
    constant = any(f.role is FeedRole.CONSTANT for f in design.vehicle.feeds if f.id in others)
    return isinstance(part, HeadUnit) and feed.role is not FeedRole.CONSTANT and constant


def _feed_fuse(book: Book, part: Fed, link: FeedLink, draws: Term, scope: str) -> Figure:
    """The fuse as the plan names it, by the load, or as the part's maker names it."""
    name = f"{part.name}: feed fuse"
    own = link.fuse.rating_a if link.fuse else None
    if own is not None:
        term = fixed("fuse the plan names", own, "a", at(link, lambda it: sure(it.fuse).rating_a))
        return book.figure(f"{scope}/feed_fuse_a", FEED_FUSE_FIXED, term, name=name)
    if isinstance(part, Accessory):
        headroom = book.policy(lambda it: it.fuse_headroom, "head-room")
        return book.figure(f"{scope}/feed_fuse_a", FEED_FUSE, draws, headroom, name=name)
    named = book.part(part, lambda it: it.fuse_a, "fuse its maker names", "a")
    return book.figure(f"{scope}/feed_fuse_a", FEED_FUSE_NAMED, named, name=name)


def feed_wire(design: Design, link: FeedLink, fuse_a: float | None, *legs: tuple[float, float]) -> Conductor:
    """The wire from a factory feed to what hangs on it.

    Parameters:
        design: the design.
        link: the feed link; where it names a size that is taken.
        fuse_a: its fuse [a]; one the plan names does not make the wire thicker, it is judged against it.
        legs: of its positive and its ground lead, what flows times the length [a m], 0 where either is not known, and
            what the wire may lose [v].

    Returns:
        the shop's usual size, or the next one that loses little enough and carries the fuse; the usual one where none
        does.
    """
    usual = small_wire(design, link)
    if wire_of(link.wire) is not None:
        return usual
    named = link.fuse is not None and link.fuse.rating_a is not None
    to_carry_a = fuse_a if fuse_a is not None and not named else 0.0
    does = (
        wire
        for wire in pool_of(design.policy.wire_system, link.wire)
        if wire.area_mm2 >= usual.area_mm2
        and ampacity_a(wire, engine_space=False) >= to_carry_a
        and all(ampere_metres * wire.resistance_ohm_per_m <= left_v for ampere_metres, left_v in legs)
    )
    return next(does, usual)


def loss_db(wire_ohm: float, load_ohm: float) -> float:
    """Power lost in a speaker cable.

    Parameters:
        wire_ohm: there and back [ohm].
        load_ohm: load [ohm].

    Returns:
        loss [db].

    Formula: 20 log10(1 + R_wire / Z). Source: textbook circuit theory.
    """
    return 20 * log10(1 + wire_ohm / load_ohm)


def own_piece(load: LoadResult, driver_id: str) -> tuple[float, float]:
    """(impedance [ohm], share of the output's power) of what one cable of an output feeds.

    Where the coils of one driver are spread over the network, its cable is judged as if it carried all of it.
    """
    driven = next(d for d in (*load.driven, *load.beside) if d.plays_at(driver_id))
    wiring = load.chosen.wiring
    if isinstance(wiring, BenchWiring) and wiring.reduced is not None:
        wiring = wiring.reduced
    piece = wiring.part_of(frozenset(coil.name for coil in driven.coils))
    if not load.chosen.stays:
        return load.lowest_ohm, 1.0  # no load yet: as heavy as it may become
    if driven in load.beside:
        own_ohm = sum(coil.impedance_ohm for coil in driven.coils)
        return own_ohm, load.chosen.load_ohm / own_ohm  # all of the output's voltage, above its capacitor's corner
    if piece is None:
        return load.chosen.load_ohm, 1.0
    shares = wiring.shares()
    return piece.resistance_ohm(), sum(shares[coil.name] for coil in driven.coils)


def compute_cables(book: Book, runs: dict[str, Run], loads: Iterable[LoadResult]) -> list[SpeakerCable]:
    """The cable of every speaker link that is laid anew, as far as the factory wire where it plays over one."""
    return [
        compute_speaker_cable(book, runs[link.id], load, link)
        for load in loads
        for link in load.links
        if not link.factory_wire or over_loom_from(book.design, link) is not None
    ]


def compute_speaker_cable(book: Book, run: Run, load: LoadResult, link: SpeakerLink) -> SpeakerCable:
    """The speaker cable: smallest that loses little enough and carries the current of what hangs at its end."""
    policy = book.design.policy
    own_ohm, share = own_piece(load, link.to_id)
    length_m = run.length.value
    current_a = ((load.power.value or 0.0) * share / own_ohm) ** 0.5
    pool = pool_of(policy.wire_system, link.wire)

    def loss_of(wire: Conductor, metres: float) -> float:
        return loss_db(2 * wire.resistance_ohm_per_m * metres, own_ohm)

    good = [w for w in pool if loss_of(w, length_m or 0.0) <= policy.speaker_loss_db and w.ampacity_a >= current_a]
    wire = wire_of(link.wire) or (good[0] if good else pool[-1])
    known = load.chosen.stays and not load.unread
    load_term = reference("load at its end", own_ohm, "ohm", PHYSICS) if known else load.load.term
    share_term = reference("its share of the output's power", share, "", PHYSICS)
    current = book.figure(
        f"{link.id}/speaker_a",
        SPEAKER,
        load.power,
        share_term,
        load_term,
        name=f"Current in the {'' if link.unread else f'{wire.label} '}speaker cable",
    )
    loss = book.figure(
        f"{link.id}/loss_db",
        LOSS,
        run.length,
        load_term,
        _per_metre(link, run, wire),
        name="Lost in the speaker cable that lies there" if link.unread else f"Lost in {wire.label} speaker cable",
    )
    return SpeakerCable(link, wire, loss, current, bool(good), _damping(book, load, link, loss))


DAMPING = Formula(
    "Damping at the driver", "", "Z / (2 L r + 4 Ω / damping factor)",
    lambda metres, ohm, per_m, *factor: damping(2 * metres * per_m, ohm, *factor), PHYSICS,
)  # fmt: skip
DAMPING_AT_MOST = Formula(
    "Damping at the driver, at most", "", "Z / (2 L r); the amplifier's own factor is not on file",
    lambda metres, ohm, per_m: damping(2 * metres * per_m, ohm), PHYSICS,
)  # fmt: skip


def _damping(book: Book, load: LoadResult, link: SpeakerLink, loss: Figure) -> Figure:
    """How hard the output brakes the cone through its cable: load over everything in series with it."""
    if load.amplifier.damping_factor is None:
        return book.figure(f"{link.id}/damping", DAMPING_AT_MOST, *loss.inputs)
    factor = book.part(load.amplifier, lambda it: it.damping_factor, "damping factor, at 4 Ω")
    return book.figure(f"{link.id}/damping", DAMPING, *loss.inputs, factor)


def damping(wire_ohm: float, load_ohm: float, factor: float | None = None) -> float:
    """What an output's damping comes to at a driver.

    Parameters:
        wire_ohm: of the cable, there and back [ohm].
        load_ohm: of the driver [ohm].
        factor: the amplifier's damping factor, stated for 4 Ω; None counts the cable alone.

    Returns:
        load over the resistance in series with it.

    Raises:
        OutOfRange: nothing is in series with it.

    Formula: Z / (R_wire + 4 Ω / DF). Source: textbook circuit theory.

    >>> round(damping(0.1, 4.0, 100.0), 1)
    28.6
    """
    series_ohm = wire_ohm + (STATED_FOR_OHM / factor if factor else 0.0)
    require("series_ohm", series_ohm, "Ω")
    return load_ohm / series_ohm
