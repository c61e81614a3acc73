"""Rules on parts that do nothing in a plan: bought for a car that has no use for them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.build.fuse_places import fuse_places
from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.boxed import boxed
from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import Tier
from ohmack.core.document.handles import at
from ohmack.core.document.interventions import interventions_of
from ohmack.core.document.links import LineLink, Pickup, RemoteLink, TapLink
from ohmack.core.document.part import PartBase
from ohmack.core.document.parts import Accessory, FuseHolder, HeadUnit, VoltageConverter
from ohmack.core.document.small_parts import SwitchingRelay
from ohmack.core.factory.functions import CAMERA_ADAPTER, measure_part, shown_on_the_radio
from ohmack.core.figures.finding import Draft, Remedy, rule, stop, watch
from ohmack.core.fit.runs import plays_over_the_loom
from ohmack.core.reference import PRACTICE

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

WITH_A_RADIO = frozenset({"adapter", "aerial adapter", "digital aerial", "interface"})
WITH_ITS_AMPLIFIER = frozenset({"amplifier adapter", "line adapter"})
WITHOUT_AMPLIFIER = frozenset({Tier.PLAIN, Tier.AFTERMARKET, Tier.NONE})


@rule("part-idle", "plan", PRACTICE)
def part_idle(results: Results) -> Iterator[Draft]:
    """A part is on the list, and nothing of this plan has a use for it."""
    for part, why in _idle(results):
        by_way = part.laid_by is not None and not (isinstance(part, FuseHolder) and _all_fed(results))
        if part.in_car or by_way:
            continue  # it costs nothing; or a way for this car put it in, and says what for
        yield watch(
            part.id,
            f"{part.name}: nothing in this plan takes it",
            f"{why} It is bought and charged all the same.",
            Remedy("Take it out", (Edit(op="remove", path=at(part)),)),
        )


def _all_fed(results: Results) -> bool:
    """Whether no part waits for a run of its own any more, which a holder might go into."""
    return all(any(tap.verdict == "allowed" for tap in one.taps) for one in results.self_fed)


def _idle(results: Results) -> Iterator[tuple[PartBase, str]]:
    """Every part that does nothing, with what would have to be there."""
    design = results.design
    new_packs = (feed for feed in results.pack_feeds if design.vehicle.above_12_v and not feed.part.in_car)
    packs = Counter(feed.family for feed in new_packs)  # a converter takes a holder of its fuse's family
    runs, feeds = sum(p.many for p in fuse_places(results)), sum(feed.link.fuse is not None for feed in results.feeds)
    why = "Every fuse of it has a holder already." if runs or feeds or packs else "No fuse of it wants a holder."
    for holder in design.new_parts_of(FuseHolder):
        blade = holder.family == "blade"  # only such a one takes the small fuse of a feed
        if runs > 0:
            runs -= holder.circuits
        elif packs[holder.family] > 0:
            packs[holder.family] -= holder.circuits
        elif blade and feeds > 0:
            feeds -= holder.circuits
        else:
            yield holder, why
    why = "Every switch-on that wants a relay has one." if design.relayed else "No switch-on goes through a relay."
    yield from ((relay, why) for relay in list(design.parts_of(SwitchingRelay))[len(design.relayed) :])
    fed = {getattr(link, "from_id", "") for link in design.links}
    for number, converter in enumerate(design.parts_of(VoltageConverter)):
        awaited = design.vehicle.above_12_v and number == 0  # 12 V of the next part begins at it
        if converter.id not in fed and not awaited:
            yield converter, "Nothing is fed from it."
    for box, subs in boxed(design):
        if not subs:
            yield box, "No driver goes into it."
    needed = _needed(design)
    for part in design.parts_of(Accessory):
        if part.category in WHY and part.category not in needed:
            yield part, WHY[part.category]
    yield from ((part, "One of it does.") for part in _once_too_often(design))


def _once_too_often(design: Design) -> Iterator[Accessory]:
    """What goes behind the radio and is there already: the same part twice, where the car has one place for it."""
    plugs = sum(tap.method is Pickup.PLUG_ADAPTER for tap in design.links_of(TapLink))
    places = {"adapter": plugs + any(True for _ in design.parts_of(HeadUnit))}
    seen = Counter[str]()
    for part in design.parts_of(Accessory):
        if part.category in WITH_A_RADIO | WITH_ITS_AMPLIFIER:
            seen[part.name] += 1
            if seen[part.name] > max(1, places.get(part.category, 1)):
                yield part


@rule("radio-twice", "plan", PRACTICE)
def radio_twice(results: Results) -> Iterator[Draft]:
    """Two radios want the one place in the dash; only the first is judged."""
    units = list(results.design.parts_of(HeadUnit))
    for unit in units[1:]:
        yield stop(
            unit.id,
            f"Two radios for one place: {units[0].name} and {unit.name}",
            "There is one in the dash, and every level, feed and function was judged with the first one.",
            Remedy("Take it out", (Edit(op="remove", path=at(unit)),)),
        )


WHY = {
    "adapter": "No signal is picked up through a plug, and no radio is changed.",
    "ring coupler": "No module of a ring is taken out and looped past.",
    "extension loom": "Nothing is moved and kept alive on a longer loom.",
    "shorting plug": "Nothing is taken out that a plug stands in for.",
    "interface": "No radio is changed, nothing is kept alive or switched on by a bus.",
    "aerial adapter": "No radio is changed.",
    "digital aerial": "No radio is changed.",
    "amplifier adapter": "No radio is changed before a works amplifier.",
    "line adapter": "No radio is changed before a works amplifier.",
    "camera adapter": "No new radio shows a camera of the car's.",
    "microphone": "No radio of this plan hears it.",
    "aerial": "No radio of this plan receives by it.",
}


def _needed(design: Design) -> set[str]:
    """The categories of part this plan has a use for."""
    needed = {measure_part(measure) for act in interventions_of(design) for measure in act.keep_alive}
    if any(design.parts_of(HeadUnit)):
        amplified = any(module.amplifies for module in design.vehicle.modules)
        needed |= WITH_A_RADIO | {"microphone", "aerial"}
        needed |= {CAMERA_ADAPTER} if shown_on_the_radio(design) else set()
        if amplified or design.vehicle.radio.tier.value not in WITHOUT_AMPLIFIER:
            needed |= WITH_ITS_AMPLIFIER
    taps = (tap for tap in design.links_of(TapLink) if not plays_over_the_loom(design, tap))
    if any(tap.method is Pickup.PLUG_ADAPTER for tap in taps):
        needed.add("adapter")
    adapters = {part.id for part in design.parts_of(Accessory) if part.is_amplifier_adapter}
    on_a_ring = design.vehicle.radio.tier.value is Tier.RING and any(a.plugs_in for a in design.parts_of(Amplifier))
    if on_a_ring or any(line.from_id in adapters for line in design.links_of(LineLink)):
        needed.add("amplifier adapter")
    switching = {link.from_id for link in design.links_of(RemoteLink)}
    if any(part.category == "interface" and part.id in switching for part in design.parts_of(Accessory)):
        needed.add("interface")
    return needed
