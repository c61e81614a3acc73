"""Rules on fuses: what they protect, what they carry, where they sit."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document import Design
from ohmack.core.document.handles import at, sure
from ohmack.core.document.links import ChargeLink, FeedLink, PowerLink
from ohmack.core.document.parts import DistributionBlock, FuseHolder, PoweredSubwoofer
from ohmack.core.figures.finding import Draft, Remedy, find_part, note, rule, set_to, stop, watch
from ohmack.core.network.build import parents
from ohmack.core.physics.conductors import ampacity_a
from ohmack.core.physics.protection import best_fuse, family
from ohmack.core.reference import PRACTICE, Grade, Source
from ohmack.core.supply.findings import let_choose
from ohmack.core.supply.holders import held_by, places_in, room_in
from ohmack.core.supply.results import SupplyResult
from ohmack.core.supply.study import named_fuse_a
from ohmack.core.supply.whose import whose
from ohmack.core.wording import count, listed, trimmed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

ABYC = Source("ABYC E-11: the fuse protects the wire, near the source", Grade.MEMORY)


def _fused(design: Design) -> list[PowerLink | FeedLink]:
    return [*design.links_of(PowerLink), *design.links_of(FeedLink)]


@rule("fuse-above-ampacity", "supply", ABYC)
def fuse_above_ampacity(results: Results) -> Iterator[Draft]:
    """The fuse lets more through than the wire behind it may carry."""
    for supply in results.supplies:
        if not supply.chosen or (not supply.link.fuse and supply.link is supply.way[0]):
            continue
        wire = supply.chosen.wire
        which = (wire if supply.chosen.fuses == 1 else wire.one_lead).label
        smallest_a, rating_a = supply.chosen.behind_one_a, supply.chosen.fuse_a
        if rating_a <= smallest_a:
            continue
        current_a = supply.chosen.through_one_a or 0.0
        free = best_fuse(supply.family, current_a or 1.0, smallest_a, results.design.policy.fuse_headroom)
        remedy = let_choose(supply.link, supply)
        if supply.link.fuse and free.rating_a <= smallest_a and free.rating_a >= current_a:
            remedy = Remedy(
                f"Use {free.rating_a:g} A", (set_to(at(supply.link, lambda it: sure(it.fuse).rating_a), None),)
            )
        where = "on" if supply.link.fuse is not None else "before"
        if supply.link.fuse is None:
            remedy = remedy or Remedy("Put a fuse in", (set_to(at(supply.link, lambda it: it.fuse), {}),))
        yield stop(
            supply.link.id,
            whose(results, supply, f"{rating_a:g} A fuse {where} {which}, which may carry {smallest_a:.0f} A"),
            "The wire would burn before the fuse opens. The fuse protects the wire, not the amplifier.",
            remedy,
        )


@rule("fuse-below-current", "supply", PRACTICE)
def fuse_below_current(results: Results) -> Iterator[Draft]:
    """The fuse is smaller than the design current, or has too little head-room."""
    headroom = results.design.policy.fuse_headroom
    for supply in results.supplies:
        chosen = supply.chosen
        if not chosen or chosen.through_one_a is None or not supply.link.fuse:
            continue
        current_a = chosen.through_one_a
        flows = results.say(current_a, "a") if chosen.fuses == 1 else f"{results.say(current_a, 'a')} a lead"
        free = Remedy("Let Ohmack choose the fuse", (set_to(at(supply.link, lambda it: sure(it.fuse).rating_a), None),))
        remedy = free if supply.link.fuse.rating_a else let_choose(supply.link, supply)
        if chosen.fuse_a < current_a:
            wants = f"It wants {current_a / headroom:.0f} A or more, and no more than its wire may carry."
            wire = f" Of the wire: {supply.limit.rstrip('.')}." if supply.limit else ""
            yield stop(
                supply.link.id,
                whose(results, supply, f"{chosen.fuse_a:g} A fuse for {flows}"),
                f"It blows at full level. {wants}{wire}",
                remedy,
            )
        elif chosen.fuse_a < current_a / headroom - 1e-9 and not _as_named(supply):
            yield watch(
                supply.link.id,
                whose(
                    results,
                    supply,
                    f"{chosen.fuse_a:g} A fuse has little head-room over {current_a:.0f} A",
                ),
                f"The shop wants design current at {headroom:.0%} of the fuse at most. Long loud passages may open it.",
                remedy,
            )


def _as_named(supply: SupplyResult) -> bool:
    """Whether the fuse is the one the part's maker names, who knows how long the peaks last."""
    part = supply.part
    return isinstance(part, PoweredSubwoofer) and supply.chosen is not None and supply.chosen.fuse_a == part.fuse_a


def _fused_before(link_id: str, before: dict[str, PowerLink]) -> bool:
    """Whether a fuse sits somewhere between the battery and a link."""
    seen: set[str] = set()
    while link_id in before and link_id not in seen:
        seen.add(link_id)
        if before[link_id].fuse is not None:
            return True
        link_id = before[link_id].id
    return False


@rule("fuse-missing", "supply", ABYC)
def fuse_missing(results: Results) -> Iterator[Draft]:
    """A power wire has no fuse at its source; behind a block the fuse before it may protect it, if its wire carries
    that.
    """
    before = parents(results.design)
    for link in _fused(results.design):
        if link.fuse is None and not _fused_before(link.id, before):
            yield stop(
                link.id,
                "No fuse at the battery" if link.kind == "power" else "No fuse in the converter's feed",
                "The lead from the source is unprotected; a fuse in or on the unit does not protect the wire to it.",
                Remedy("Put a fuse in", (set_to(at(link, lambda it: it.fuse), {}),)),
            )


@rule("fuse-too-far", "supply", ABYC)
def fuse_too_far(results: Results) -> Iterator[Draft]:
    """A fuse sits too far from its source, or nobody knows where."""
    policy = results.design.policy
    fused_blocks = {b.id for b in results.design.parts_of(DistributionBlock) if b.fused}
    for link in (*_fused(results.design), *results.design.links_of(ChargeLink)):
        if link.fuse is None or link.from_id in fused_blocks:
            continue  # a block's own fuses sit where its ways begin
        limit_m = policy.feed_fuse_distance_m if link.kind == "feed" else policy.fuse_distance_m
        distance_m = link.fuse.from_source_m.value
        path = at(link, lambda it: sure(it.fuse).from_source_m)
        block = results.design.part(link.from_id)
        source = "its feed" if link.kind == "feed" else "the battery post" if block is None else block.name
        if distance_m is None:
            yield stop(
                link.id,
                f"Not known: how far the fuse sits from {source}",
                f"The shop's limit is {results.say(limit_m, 'm')}.",
                Remedy("Enter it", path=path),
            )
        elif distance_m > limit_m + 1e-9:
            yield stop(
                link.id,
                f"Fuse {results.say(distance_m, 'm')} from {source}",
                f"The shop's limit is {results.say(limit_m, 'm')}: everything before the fuse is unprotected.",
                Remedy(
                    f"Move it to {results.say(limit_m, 'm')}",
                    (set_to(path, {"value": limit_m, "basis": "assumed", "note": "moved to the shop's limit"}),),
                ),
            )


@rule("feed-fuse", "supply", ABYC)
def feed_fuse(results: Results) -> Iterator[Draft]:
    """The converter's feed fuse does not protect its wire or does not carry the load."""
    for feed in results.feeds:
        rating_a = feed.fuse.value
        if feed.link.fuse is None or rating_a is None:
            continue
        carries_a = ampacity_a(feed.wire, engine_space=False)
        remedy = Remedy("Use the maker's size", (set_to(at(feed.link, lambda it: sure(it.fuse).rating_a), None),))
        if rating_a > carries_a:
            yield stop(
                feed.link.id,
                f"{rating_a:g} A fuse on {feed.wire.label}, which may carry {carries_a:.0f} A",
                "The wire would burn before the fuse opens.",
                remedy,
            )
        if rating_a < feed.draws_a:
            yield stop(
                feed.link.id,
                f"{rating_a:g} A fuse for {feed.part.name}, which draws {results.say(feed.draws_a, 'a')}",
                "It blows.",
                remedy,
            )


@rule("holder-full", "supply", PRACTICE)
def holder_full(results: Results) -> Iterator[Draft]:
    """More fuses are to sit in a holder than it has room for."""
    for holder in results.design.parts_of(FuseHolder):
        held = places_in(results.design, holder)
        over = [link for link in held_by(results.design, holder) if not held[link.id]]
        if over:
            names = listed([part.name for k in over if (part := results.design.part(k.to_id)) is not None])
            planned = holder.circuits - room_in(results.design, holder)
            room = count(holder.circuits, "fuse")
            yield stop(
                holder.id,
                f"{holder.name} holds {room}, {planned} are planned in it",
                f"Without room: {names}. Every run has a fuse of its own; a holder of its own is ordered with it.",
                Remedy(
                    f"Order {'one' if len(over) == 1 else len(over)} more",
                    tuple(set_to(at(link, lambda it: sure(it.fuse).holder_id), None) for link in over),
                ),
            )


MUCH = 1.5  # a fuse so many times the next one that would do protects the wire only, common practice


@rule("fuse-size", "supply", PRACTICE)
def fuse_size(results: Results) -> Iterator[Draft]:
    """A fuse somebody named is no size that is sold, or far larger than the load asks for."""
    headroom = results.design.policy.fuse_headroom
    for supply in results.supplies:
        drawn_a, made = supply.figures["current"].value, family(supply.family)
        current_a = drawn_a / supply.link.fuse_count if drawn_a is not None and supply.link.fuse else drawn_a
        asked_a = named_fuse_a(results.design, supply.link)
        if supply.link.fuse and supply.link.fuse.rating_a is None and asked_a and asked_a not in made.ratings_a:
            yield watch(
                supply.link.id,
                f"{supply.part.name}: its maker names {trimmed(asked_a)} A, no size of {made.title.lower()}",
                f"The holder takes {made.title.lower()} fuses. Take a holder for a family that has that size.",
                find_part("Find a holder", "fuse holder", supply.link.fuse.holder_id)
                if supply.link.fuse.holder_id
                else Remedy("Look at the run", path=at(supply.link)),
            )
        named_a = supply.link.fuse.rating_a if supply.link.fuse else None
        if named_a is None or current_a is None:
            continue
        would_do = next((size for size in made.ratings_a if size >= current_a / headroom), None)
        let = Remedy(
            "Let Ohmack choose", (set_to(at(supply.link, lambda it: sure(it.fuse).rating_a), None),)
        )  # fmt: skip
        if named_a not in made.ratings_a:
            near = sorted(made.ratings_a, key=lambda size: abs(size - named_a))[:2]
            yield watch(
                supply.link.id,
                f"{trimmed(named_a)} A is no size of {made.title.lower()}",
                f"Sold are {listed([f'{trimmed(size)} A' for size in sorted(near)])}.",
                let,
            )
        elif would_do is not None and named_a > MUCH * max(would_do, sum(supply.fuses_a) / supply.link.fuse_count):
            yield note(
                supply.link.id,
                f"{trimmed(named_a)} A where {trimmed(would_do)} A would do",
                f"It protects its wire; a fault in {supply.part.name} draws far more than it should before it blows.",
                let,
            )
