"""Rules on what hangs on factory feeds, and what would rather have a run of its own."""

from __future__ import annotations

from collections.abc import Iterator
from math import inf
from typing import TYPE_CHECKING

from ohmack.core.document import Basis, Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.links import FeedLink, RemoteLink
from ohmack.core.document.parts import Accessory, Converter
from ohmack.core.document.vehicle import Feed
from ohmack.core.figures.finding import Draft, Remedy, adding, note, rule, stop, watch
from ohmack.core.reference import PRACTICE
from ohmack.core.supply.feed_taps import ELECTRONICS_A, FeedTap, speaks_against
from ohmack.core.supply.own_runs import SelfFed
from ohmack.core.supply.post_feeds import from_the_battery
from ohmack.core.wording import amount, listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


def _hang_on(item: SelfFed, tap: FeedTap) -> Remedy:
    """The feed link that hangs a part on a factory feed."""
    link = {"id": f"feed-{item.part.id}", "kind": "feed", "from_id": tap.feed.id, "to_id": item.part.id}
    return Remedy(f"Hang it on {tap.feed.name}", (adding(at_the(Design, lambda it: it.links), link),))


def _own_run(results: Results, item: SelfFed) -> Remedy:
    """A press that lays a run of a part's own, in the place of the feed it hangs on."""
    if isinstance(item.part, Accessory):
        return Remedy("See Supply", sheet="supply")
    hung = [link for link in results.design.links_of(FeedLink) if link.to_id == item.part.id]
    off = tuple(Edit(op="remove", path=at(link)) for link in hung)
    return Remedy("Lay its own run", off, connect=item.part.id)


@rule("self-fed", "supply", PRACTICE)
def self_fed(results: Results) -> Iterator[Draft]:
    """A part with its own amplifier needs a run of its own, or a factory feed that passes the check."""
    for item in results.self_fed:
        current_a = item.current.value
        if current_a is None or (current_a <= ELECTRONICS_A and not item.on_feed):
            continue  # an unknown current has its own Stop; electronics run off any radio feed
        own = (
            f"Its own run: a {amount(item.fuse.value or 0.0, 'a')} fuse within"
            f" {results.say(results.design.policy.fuse_distance_m, 'm')} of the post and about"
            f" {results.say(item.length.value or 0.0, 'm')} of {item.wire.value}."
        )
        tap = next((t for t in item.taps if t.verdict == "allowed"), None) or next(reversed(item.taps), None)
        plugs = isinstance(item.part, Amplifier) and item.part.plugs_in  # it draws from what fed the factory amplifier
        hangs = item.on_feed or plugs
        if tap is None or (tap.verdict != "allowed" and not hangs):
            known = (
                ""
                if tap is None
                else f" {tap.feed.name}: {'; '.join(tap.refused) or f'not known yet, {_unknown(tap)}'}."
            )
            yield stop(
                item.part.id,
                f"{item.part.name}: {amount(current_a, 'a')} and no supply",
                f"Nothing on file feeds it.{known} {own}",
                Remedy("Enter it", path=tap.open[0][0]) if tap is not None and tap.open else _own_run(results, item),
            )
        elif tap.verdict == "allowed":
            yield note(
                item.part.id,
                f"{tap.feed.name} carries {item.part.name}",
                f"{amount(tap.total.value or 0.0, 'a')} old and new, {amount(tap.room.value or 0.0, 'a')} with"
                f" head-room; {amount(tap.drop.value or 0.0, 'v')} lost in its wire. Both are practised; a run of its"
                " own also does.",
                None if hangs else _hang_on(item, tap),
            )
        elif tap.verdict == "refused":
            yield stop(
                item.part.id,
                f"{tap.feed.name} does not carry {item.part.name}",
                f"{'; '.join(tap.refused)}. {own}",
                _own_run(results, item),
            )
        else:
            yield stop(
                item.part.id,
                f"{item.part.name}: nobody knows whether {tap.feed.name} carries {amount(current_a, 'a')}",
                f"Not known yet: {_unknown(tap)}. Only where old and new load fit its fuse, its wire and the drop."
                f" {own}",
                Remedy("Enter it", path=tap.open[0][0]),
            )


def _unknown(tap: FeedTap) -> str:
    return listed([name for _, name in tap.open])


BLOWS = "Its fuse blows at the first loud passage. Take a feed of its own from the battery or the fuse box."


@rule("radio-feed", "supply", PRACTICE)
def radio_feed(results: Results) -> Iterator[Draft]:
    """What hangs on a feed of the radio is more than it gives, than its fuse or its wire carries, or nobody knows."""
    high = results.design.vehicle.above_12_v
    own = "A fused lead from a converter's 12 V side" if high else "A fused run of its own from the battery"
    for item in results.radio_feeds:
        tap, part, feed = item.tap, item.part, item.tap.feed
        known_a, gives_a = tap.draws.value if tap.total.value is None else tap.total.value, _gives_a(feed)
        if known_a is None:
            continue  # an unknown current has its own Stop
        path = at(feed, lambda it: it.limit_a)
        draws = f"{part.name} draws {results.say(tap.draws.value, 'a')}"
        if tap.refused:
            wrong = speaks_against(feed, known_a, 1.0, inf)  # even with its whole fuse, whatever is lost
            yield (stop if wrong else watch)(
                part.id,
                f"{feed.name} {'does not carry' if wrong else 'hardly carries'} {part.name}",
                f"{'; '.join(wrong or tap.refused)}. {own} does; never a larger fuse before the old wire.",
                from_the_battery(results.design, part, item.link),
            )
        elif gives_a is None and feed.fuse_a.value is None:
            yield stop(
                path,
                f"Not known: what {feed.name} can give",
                f"{draws} at full level.",
                Remedy("Enter it", path=path),
            )
        elif gives_a is not None and known_a > gives_a:
            more = "" if known_a == tap.draws.value else f", {results.say(known_a, 'a')} with what else is on it"
            fresh = from_the_battery(results.design, part, item.link)
            yield stop(feed.id, f"{feed.name} gives {results.say(gives_a, 'a')}, {draws}{more}", BLOWS, fresh)
        elif tap.total.value is None:
            yield watch(
                at(feed, lambda it: it.old_load_a),
                f"Not known: what {feed.name} carries already",
                f"{draws} beside it, and what is there stays on it.",
                Remedy("Enter it", path=at(feed, lambda it: it.old_load_a)),
            )
    heavy = {item.tap.feed.id for item in results.radio_feeds}
    heavy |= {tap.feed.id for item in results.self_fed for tap in item.taps if tap.taken}
    for hung in results.feeds:  # electronics take so little that the feed is not asked for its fuse
        gives_a = _gives_a(hung.feed)
        if hung.feed.id not in heavy and gives_a is not None and hung.draws_a > gives_a and hung.drop is not None:
            draws = f"{hung.part.name} draws {results.say(hung.draws_a, 'a')}"
            title = f"{hung.feed.name} gives {results.say(gives_a, 'a')}, {draws}"
            yield stop(
                hung.feed.id, title, BLOWS, Remedy("Choose another feed", path=at(hung.link, lambda it: it.from_id))
            )


@rule("feed-unneeded", "supply", PRACTICE)
def feed_unneeded(results: Results) -> Iterator[Draft]:
    """A passive converter hangs on a feed, or something is to switch it on: it takes no current and has no switch."""
    design = results.design
    for part in design.parts_of(Converter):
        hung: tuple[FeedLink | RemoteLink, ...] = (*design.links_of(FeedLink), *design.links_of(RemoteLink))
        idle = [link for link in hung if link.to_id == part.id]
        if part.active or not idle:
            continue
        feed = next((k for k in idle if isinstance(k, FeedLink)), None)
        yield watch(
            idle[0].id,
            f"{part.name} is passive, and {'has a feed' if feed is not None else 'is to be switched on'}",
            "It takes no current: no feed, no fuse and no switch-on. Or its papers say it is active after all.",
            Remedy("Take its feed out", tuple(Edit(op="remove", path=at(link)) for link in idle)),
        )


def _gives_a(feed: Feed) -> float | None:
    """What a feed can give [a]: a guess says nothing once its fuse was read."""
    guessed = feed.limit_a.basis is Basis.ASSUMED and feed.fuse_a.value is not None
    return None if guessed else feed.limit_a.value
