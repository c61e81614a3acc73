"""Rules of what is lost: by the drop test, and in the wires from factory feeds."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.drop_readings import Section
from ohmack.core.document.facts import Basis, Verified
from ohmack.core.document.grounding import NEVER_GROUND, ground_for
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.rewired import new_wire
from ohmack.core.document.vehicle import Supply
from ohmack.core.figures.finding import Draft, Remedy, rule, set_to, stop, watch
from ohmack.core.fit.runs import place_of
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.supply.drop_test import DropSection
from ohmack.core.supply.feed_taps import lost_before
from ohmack.core.supply.radio_feeds import taps_of
from ohmack.core.supply.small_circuits import HALF, ConverterFeed
from ohmack.core.wording import amount

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

CURE = {
    Section.FUSE: "Post clamp, ring and fuse holder: take them apart, bright metal, tight again.",
    Section.RUN: "A crimp, a block or a thin piece of wire: halve the run with the probe until it shows.",
    Section.GROUND: "Ring, stud and paint under it: bare metal, star washer, tight; and the lead as thick as the plus.",
    Section.BODY: "A panel that is bolted, glued or painted in between: ground at a welded member, or run a lead back.",
    Section.STRAP: "The works' strap is corroded or thin: clean it, or add a second one.",
}


@rule("drop-test", "supply", PRACTICE)
def drop_test(results: Results) -> Iterator[Draft]:
    """A reading between two points is more than was planned there."""
    for test in results.drop_tests:
        for one in test.sections:
            if one.good is not False or one.reading is None or one.read is None or one.read.value is None:
                continue
            lost_v = one.read.value * test.current_a
            more_mohm = 1000 * one.more_ohm
            draft = (
                stop if lost_v - (one.planned.value or 0.0) / 1000 > results.design.policy.drop_limit_v / 2 else watch
            )
            yield draft(
                at(one.reading),
                f"{test.supply.part.name}, {one.section.value}: {amount(one.read.value, 'ohm')}, planned"
                f" {amount(one.planned_ohm, 'ohm')}",
                f"{more_mohm:.1f} mΩ too much: at full load {amount(lost_v, 'v')} are lost there alone."
                f" {CURE[one.section]}",
                _taken_over(one) or Remedy("See the drop test", sheet="drop"),
            )


@rule("feed-drop", "supply", PHYSICS)
def feed_drop(results: Results) -> Iterator[Draft]:
    """What hangs on a factory feed loses more in its new wire, or in both one after another, than the shop allows."""
    limit_v = results.design.policy.drop_limit_v
    most_v = HALF * limit_v
    before = lost_before(taps_of(results.self_fed, results.radio_feeds))
    for feed in results.feeds:
        own_v, lost_v = (f.value if f is not None else None for f in (feed.drop, feed.lost))
        if own_v is None or lost_v is None:
            continue
        factory = before.get((feed.part.id, feed.feed.id))
        factory_v = factory.value if factory is not None else 0.0
        if lost_v <= most_v + 1e-9 or factory_v > most_v:
            continue  # that the factory wire loses too much alone is said of the feed
        besides = f", {amount(factory_v, 'v')} in the factory wire before it" if factory_v else ""
        remedy = (
            Remedy("Let Ohmack choose the size", new_wire(feed.link, at(feed.link, lambda it: it.wire.size), None))
            if feed.link.wire.size
            else Remedy("Look at the wire", path=at(feed.link))
        )
        yield (stop if lost_v > limit_v else watch)(
            feed.link.id,
            f"{feed.part.name}: {amount(own_v, 'v')} lost in {feed.wire.label} from {feed.feed.name}{besides}",
            f"{amount(feed.draws_a, 'a')} at full level; the shop allows {amount(most_v, 'v')} in a positive lead, half"
            f" of its {amount(limit_v, 'v')}. Take a thicker wire, or a run of its own from the battery.",
            remedy,
        )


@rule("feed-return", "supply", PHYSICS)
def feed_return(results: Results) -> Iterator[Draft]:
    """What hangs on a factory feed loses more on its way back than the shop allows."""
    limit_v = results.design.policy.drop_limit_v
    most_v = HALF * limit_v
    for feed in results.feeds:
        lost_v = feed.back.value if feed.back is not None else None
        if lost_v is None or lost_v <= most_v + 1e-9:
            continue
        yield (stop if lost_v > limit_v else watch)(
            feed.link.id,
            f"{feed.part.name}: {amount(lost_v, 'v')} lost on its way back to the battery",
            f"Ground lead in {feed.wire.label}, body and strap, at {amount(feed.draws_a, 'a')}; the shop allows"
            f" {amount(most_v, 'v')}, half of its {amount(limit_v, 'v')}. Ground it nearer, or read the drop under"
            " load.",
            _nearer_ground(results, feed),
        )


def _nearer_ground(results: Results, feed: ConverterFeed) -> Remedy:
    """A press that grounds what hangs on a feed at the nearest point, else by wire of Ohmack's choosing."""
    link, place = feed.link, place_of(results.design, feed.part.id)
    near = ground_for(results.design, place) if place is not None else None
    if near is not None and near.id != link.ground_point_id and near.kind.value not in NEVER_GROUND:
        return Remedy(f"Ground it at {near.name}", (set_to(at(link, lambda it: it.ground_point_id), near.id),))
    if link.wire.size:
        return Remedy("Let Ohmack choose the size", new_wire(link, at(link, lambda it: it.wire.size), None))
    return Remedy("Enter the body return", path=at_the(Supply, lambda it: it.body_return_ohm))


def _taken_over(one: DropSection) -> Remedy | None:
    """The remedy that plans with what was read, where a fact of the car stands for it."""
    if one.read is None or one.read.value is None or one.section not in (Section.BODY, Section.STRAP):
        return None
    path = (
        at_the(Supply, lambda it: it.body_return_ohm)
        if one.section is Section.BODY
        else at_the(Supply, lambda it: it.battery_strap_ohm)
    )
    fact = {"value": round(one.read.value, 6), "basis": Basis.MEASURED.value, "how": Verified.METER.value}
    return Remedy(f"Plan with {amount(one.read.value, 'ohm')}", (set_to(path, fact),))
