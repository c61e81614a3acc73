"""Rules on listening with the engine off: what plays from the battery that has to start it, and for how long."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document import Design
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.links import FeedLink
from ohmack.core.document.parts import HeadUnit
from ohmack.core.document.use import Use
from ohmack.core.document.vehicle import Battery, BatteryRole, FeedRole
from ohmack.core.figures.finding import Draft, Remedy, note, rule, watch
from ohmack.core.reference import PRACTICE
from ohmack.core.supply.engine_off import EngineOff, listening
from ohmack.core.supply.post_feeds import from_the_battery, radio_battery
from ohmack.core.supply.second_battery import one_with_first
from ohmack.core.wording import amount, hours

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@rule("starter-played", "supply", PRACTICE)
def starter_played(results: Results) -> Iterator[Draft]:
    """The amplifiers play from a leisure battery, what comes before them from the one that starts the engine."""
    design = results.design
    off = listening(results) if len(design.vehicle.supply.batteries) > 1 else None
    if off is None:
        return
    apart = [b for b in design.vehicle.supply.batteries if b not in one_with_first(design)]
    plays = next((one.battery for one in off.listening if one.plays and one.battery in apart), None)
    if plays is None or plays.role is not BatteryRole.LEISURE:
        return
    radio = radio_battery(design)
    if radio is None or radio in apart:
        return
    unit, feed = next(design.parts_of(HeadUnit), None), design.vehicle.constant_feed
    said = watch if design.use.listens_h is not None else note
    yield said(
        unit.id if unit is not None else at(design.vehicle.radio),
        f"{unit.name if unit is not None else design.vehicle.radio.name} still plays from {radio.name}",
        f"{_lasts(off, design.use, radio)}: it takes the charge that has to start the engine. Its constant lead from"
        f" {plays.name}; its switched lead from there too, over a switch of its own, or the key keeps waking what else"
        " the car has.",
        _moved(design, unit, plays) if unit is not None
        else Remedy("Say what its feed hangs on", path=at(feed)) if feed is not None else None,
    )  # fmt: skip


def _lasts(off: EngineOff, use: Use, battery: Battery) -> str:
    """For how long a battery plays, in words."""
    lasts_h = next((one.hours.value for one in off.listening if one.battery is battery), None)
    if lasts_h is None:
        return "For how long is not known"
    return f"After {hours(60 * lasts_h)} h {battery.name} is down to the {use.reserve_percent:g} % kept"


def _moved(design: Design, unit: HeadUnit, battery: Battery) -> Remedy:
    """A press that feeds a radio from another battery."""
    constant = {feed.id for feed in design.vehicle.feeds if feed.role is FeedRole.CONSTANT}
    own = (link for link in design.links_of(FeedLink) if link.to_id == unit.id and link.from_id in constant)
    return from_the_battery(design, unit, next(own, None), battery)


@rule("listening-short", "supply", PRACTICE)
def listening_short(results: Results) -> Iterator[Draft]:
    """The customer wants to listen with the engine off for longer than a battery plays, or nobody knows."""
    wanted_h = results.design.use.listens_h
    off = listening(results) if wanted_h is not None else None
    for one in off.listening if off is not None else ():
        lasts_h, name = one.hours.value, one.battery.name
        if lasts_h is None:
            gap = next(iter(one.hours.missing), None)
            why = f"Not known: {gap.name}" if gap is not None else one.hours.refused
            yield watch(
                at_the(Use, lambda it: it.listens_h),
                f"Whether {name} plays for {wanted_h:g} h with the engine off was not judged",
                f"{why.rstrip('.')}.",
                Remedy("Enter it", path=gap.path) if gap is not None else None,
            )
        elif lasts_h < wanted_h:
            enough = one.enough.value if one.enough is not None else None
            larger = f"{amount(enough, 'ah')} would do there. " if enough is not None else ""
            yield watch(
                one.battery.id,
                f"{name} plays for {hours(60 * lasts_h)} h with the engine off; {wanted_h:g} h are wanted",
                f"{larger}Or quieter music, or the engine now and then; at {results.design.use.programme_percent:g} %"
                f" of full power on average, until {results.design.use.reserve_percent:g} % are left.",
                Remedy("Look at it", sheet="charging"),
            )
