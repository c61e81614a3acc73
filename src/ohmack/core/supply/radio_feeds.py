"""Radios and processors on factory feeds: whether the feed carries what hangs on it now."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from ohmack.core.document.links import FeedLink
from ohmack.core.document.parts import Converter, HeadUnit
from ohmack.core.figures.figure import Book, Term
from ohmack.core.record import record
from ohmack.core.supply.feed_taps import ELECTRONICS_A, FeedTap, radios_on, tap_of
from ohmack.core.supply.own_runs import SelfFed
from ohmack.core.supply.small_circuits import fed_current


@record
class RadioFeed:
    """A feed of the radio with what hangs on it, the heaviest named."""

    part: HeadUnit | Converter
    link: FeedLink | None  # none where the plug brings it
    tap: FeedTap


def compute_radio_feeds(book: Book, self_fed: Sequence[SelfFed]) -> list[RadioFeed]:
    """Every factory feed that radios and processors alone hang on: old and new load against fuse, wire and drop.

    Parameters:
        book: the book of the design.
        self_fed: parts with their own amplifier; a feed one of them hangs on is judged with it.

    Returns:
        one for each feed of which more is drawn than electronics take.
    """
    design = book.design
    judged = {tap.feed.id for one in self_fed for tap in one.taps if tap.taken}
    found = []
    for feed in design.vehicle.feeds:
        there = {link.to_id: link for link in design.links_of(FeedLink) if link.from_id == feed.id}
        radios = radios_on(design, feed)
        hung: list[HeadUnit | Converter] = [*radios, *(part for part in design.parts_of(Converter) if part.id in there)]
        draws: dict[str, Term] = {part.id: fed_current(book, part) for part in hung}
        heaviest = max(hung, key=lambda part: draws[part.id].value or 0.0, default=None)
        if feed.id in judged or heaviest is None or (draws[heaviest.id].value or 0.0) <= ELECTRONICS_A:
            continue
        beside = [draws[part.id] for part in hung if part is not heaviest and part not in radios]
        found.append(
            RadioFeed(heaviest, there.get(heaviest.id), tap_of(book, heaviest, feed, draws[heaviest.id], beside, True))
        )
    return found


def taps_of(self_fed: Iterable[SelfFed], radio_feeds: Iterable[RadioFeed]) -> Iterator[tuple[str, FeedTap]]:
    """Every feed that was held against a part, with the id of the part."""
    yield from ((one.part.id, tap) for one in self_fed for tap in one.taps)
    yield from ((one.part.id, one.tap) for one in radio_feeds)
