"""Rules on what wakes a new radio, and on what a plug-in amplifier hears."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.handles import at
from ohmack.core.document.links import FeedLink, LineLink, RemoteLink, TapLink
from ohmack.core.document.parts import Accessory, HeadUnit
from ohmack.core.document.vehicle import KeyState
from ohmack.core.figures.finding import Draft, Remedy, note, rule, stop, watch
from ohmack.core.reference import PRACTICE
from ohmack.core.supply.post_feeds import lead_from

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@rule("radio-unswitched", "plan", PRACTICE)
def radio_unswitched(results: Results) -> Iterator[Draft]:
    """A new radio on feeds of the car has none that goes off with the key."""
    woken = {link.to_id for link in results.design.links_of(RemoteLink)}
    for unit in results.design.new_parts_of(HeadUnit):
        states = [feed.feed.live.value for feed in results.feeds if feed.part.id == unit.id]
        if not states or unit.id in woken or not all(live and KeyState.ASLEEP in live for live in states):
            continue  # no feed of its own, or one that goes off; one nobody read has a Stop of its own
        yield stop(
            unit.id,
            f"{unit.name} has no switched feed",
            "On constant 12 V alone a radio stays off, or never goes off with the key. It wants both.",
            _switched(results.design, unit),
        )


def _switched(design: Design, unit: HeadUnit) -> Remedy:
    """A press that gives a radio the car's switched feed."""
    feed = design.vehicle.switched_feed
    if feed is None:
        return Remedy("Add the feed", sheet="survey")
    if any(link.from_id == feed.id and link.to_id == unit.id for link in design.links_of(FeedLink)):
        return Remedy("Enter when it is live", path=at(feed, lambda it: it.live))  # it hangs on it, and it stays live
    return Remedy(f"Feed it from {feed.name} too", (lead_from(design, unit, feed.id, f"feed-{unit.id}-switched"),))


@rule("adapter-risk", "signal", PRACTICE)
def adapter_risk(results: Results) -> Iterator[Draft]:
    """What an amplifier plays hangs on one small digital adapter."""
    from_it = {line.from_id for line in results.design.links_of(LineLink)}
    for part in results.design.parts_of(Accessory):
        if part.is_amplifier_adapter and part.id in from_it:
            yield note(
                part.id,
                f"{part.name}: all the music goes through it",
                "Cheap ones fail now and then, first without a pattern. Fit it where a hand reaches it, and play it"
                " warm and cold before closing. A radio with line outputs of its own is the robust way.",
            )


@rule("plug-in-level", "signal", PRACTICE)
def plug_in_level(results: Results) -> Iterator[Draft]:
    """A plug-in amplifier hears the car through an adapter, whose level is on no paper here."""
    design = results.design
    silent = (part for part in design.parts_of(Accessory) if part.is_amplifier_adapter and not part.gives_lines)
    adapter = next(silent, None)
    heard = {link.to_id for link in design.links if isinstance(link, LineLink | TapLink)}
    for amplifier in design.parts_of(Amplifier):
        if amplifier.plugs_in and adapter is not None and amplifier.id not in heard:
            yield watch(
                amplifier.id,
                f"{amplifier.name}: its level behind {adapter.name} was not judged",
                "What the adapter gives, and over how many pairs, is not on file, so neither is where this amplifier"
                " clips. Read its papers; else begin at the least sensitive setting and set its gain by a scope.",
                Remedy("Enter what it gives", path=at(adapter, lambda it: it.line_v)),
            )
