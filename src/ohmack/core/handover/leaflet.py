"""What the customer gets, in plain words: how loud is clean, what to do when it stops, what not to touch, when to come
back. Every sentence follows from the plan and the readings; what nobody read is not promised.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.build.outgoing import going_back
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.boxes import Box
from ohmack.core.document.links import GroundLink
from ohmack.core.document.outgoing import Goes, Whereabouts
from ohmack.core.document.parts import DistributionBlock, PoweredSubwoofer
from ohmack.core.factory.functions import Fate
from ohmack.core.handover.fuse_map import FuseSpot
from ohmack.core.handover.settings import ceilings
from ohmack.core.record import record
from ohmack.core.reference import table
from ohmack.core.wording import count, hours, listed, lowered

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

AFTER = "After four weeks, or 1,000 km: bolts and terminals are looked at again, for nothing."  # common practice


@record
class WhenStops:
    """What to do when something stops: what is noticed, and the steps a driver can take."""

    noticed: str
    steps: tuple[str, ...]


@record
class Leaflet:
    """The page for the customer."""

    loud: tuple[str, ...]
    stops: tuple[WhenStops, ...]
    leave_alone: tuple[str, ...]
    care: tuple[str, ...]
    lost: tuple[str, ...]
    out: tuple[str, ...]  # what came out of the car, and what was made good
    back: str
    call: str


def leaflet(results: Results) -> Leaflet:
    """The page for the customer.

    Parameters:
        results: the evaluated plan.

    Returns:
        its sentences. Source: what is said when: common practice; figures as read or as the plan's papers say.
    """
    hand = results.design.handover
    lost = (v.function.title for v in results.ledger if v.fate is Fate.LOST)
    return Leaflet(
        tuple(_loud(results)), tuple(_stops(results)), tuple(_leave_alone(results)), tuple(_care(results)),
        tuple(f"{title[:1].upper()}{title[1:]}" for title in lost), tuple(_came_out(results)),
        hand.come_back or (AFTER if any(results.design.links_of(GroundLink)) else ""), hand.call,
    )  # fmt: skip


def _came_out(results: Results) -> Iterator[str]:
    going = results.design.coming_out
    if parts := list(dict.fromkeys(one.name for one in going if one.goes is Goes.PART)):
        yield f"Out of the car: {listed(parts)}."
    joints, holes = (sum(one.goes is kind for one in going) for kind in (Goes.JOINT, Goes.HOLE))
    made = [count(n, one) for n, one in ((joints, "joint"), (holes, "hole")) if n]
    if made:
        yield f"Made good: {listed(made)}; what and where stands in the job's papers."
    here = (one for one in going_back(results) if one.instead_is is Whereabouts.HERE)
    if back := [one.place or one.instead for one in here]:
        yield f"The car's own is back: {listed(back)}."
    if stays := sum(one.stays for one in going):
        yield f"{count(stays, 'cable stays', 'cables stay')} in the car, both ends insulated."


def _amplified(results: Results) -> bool:
    design = results.design
    return any(design.parts_of(Amplifier)) or any(design.parts_of(PoweredSubwoofer))


def _loud(results: Results) -> Iterator[str]:
    found = ceilings(results)
    for ceiling in found:
        if ceiling.read:
            when = f" (read in this car on {ceiling.when})" if ceiling.when else " (read in this car)"
            yield f"{ceiling.source}: clean up to {ceiling.words}{when}. Past it the sound hardens and speakers burn."
        elif ceiling.words:
            yield f"{ceiling.source}: clean up to {ceiling.words}, by its papers; nobody tried it in this car."
        else:
            yield f"{ceiling.source}: nobody has read how far it is clean. Stop where the sound turns hard."
    if not found and results.design.parts:
        yield "Turn up until the sound turns hard, then back: past that speakers burn."
    off, off_words = results.engine_off, results.design.vehicle.as_said("Engine off")
    for one in off.listening if off is not None else ():
        if one.hours.value is not None:
            share = f"{results.design.use.programme_percent:g} % of full power on average"
            kept = f"{one.battery.name} is down to the {results.design.use.reserve_percent:g} % that are kept"
            if one.plays:
                yield f"{off_words}: about {_h(one.hours.value)} of music at {share}, until {kept}."
            else:
                yield f"{off_words}, the radio is on {one.battery.name}: about {_h(one.hours.value)}, until {kept}."


def _h(value: float) -> str:
    return f"{60 * value:.0f} min" if value < 1.5 else f"{hours(60 * value)} hours"


def _at(spot: FuseSpot) -> str:
    return f"fuse {spot.number}, {lowered(spot.where)}, {spot.rating}"


def _stops(results: Results) -> Iterator[WhenStops]:
    said, care = table("handover", "stops"), table("handover", "care")
    if not results.design.parts:
        return
    powered = _amplified(results)
    spots = [s for s in results.fuse_map if s.kind != "its own"]
    again = "Same value only. Blows it again: leave it out, come back."
    yield WhenStops(said["all"], ("Key on, radio on, volume up a little?", *_all_silent(results, spots, again)))
    deep = {load.amplifier.name for load in results.loads if load.driver.is_subwoofer}
    deep |= {p.name for p in results.design.parts_of(PoweredSubwoofer)}
    if deep:
        own = [_at(s) for s in spots if set(s.feeds) & deep]
        look = (f"Look at {listed(own)}.", again) if own else ()
        yield WhenStops(said["bass"], ("Bass at the radio in the middle, bass knob up, where there is one?", *look,
                                       "Warm to the hand? Ten minutes of rest."))  # fmt: skip
    yield WhenStops(said["side"], ("Fader and balance in the middle?", "Then turn down and come back: a lead that"
                                   " touches the body takes the amplifier with it."))  # fmt: skip
    if powered:
        yield WhenStops(said["cuts"], ("Turn down, ten minutes of rest. Does something lie on the amplifier?",
                                       "If it does so below the clean step, come back."))  # fmt: skip
        yield WhenStops(said["whine"], ("Nothing breaks. Note when: as it drives, with the lights, with a charger in"
                                        " the socket; come back.",))  # fmt: skip
        where = f" Fuse {spots[0].number} out, if it is in reach: {lowered(spots[0].where)}." if spots else ""
        yield WhenStops(said["smell"], (f"Stop, key off, out of the car.{where} Call, and do not drive on with it"
                                        " in.",))  # fmt: skip
    if spots:
        yield WhenStops("A fuse is blown", (care["fuse"],))


def _all_silent(results: Results, spots: list[FuseSpot], again: str) -> tuple[str, ...]:
    """Where to look when nothing plays: what feeds every output, or the radio that plays by itself."""
    own = {m.id for m in results.design.vehicle.modules} | {results.design.vehicle.radio.id}
    owners = {output.owner_id for output in results.car.outputs}
    names = {part.name for part in results.design.parts if part.id in owners}
    mains = [_at(s) for s in spots if names and names <= set(s.feeds)]
    if mains and not owners & own:
        return (f"Look at {listed(mains)}.", again)
    return ("The radio has a fuse of its own in the car's fuse box: the handbook says which.", "Then come back.")


def _leave_alone(results: Results) -> Iterator[str]:
    design, care = results.design, table("handover", "care")
    if any(design.parts_of(Amplifier)):
        yield care["knobs"]
    if any(design.parts_of(DistributionBlock)) or results.supplies:
        yield care["jump"]
    if any(design.parts_of(Box)):
        yield care["box"]
    if design.vehicle.seat_airbags.value is not False:
        yield care["yellow"]
    if design.links:
        yield care["work"]


def _care(results: Results) -> Iterator[str]:
    design, care = results.design, table("handover", "care")
    if not design.parts:
        return
    yield care["hearing"]
    yield care["traffic"]
    if _amplified(results):
        yield care["loads"]
    if any(design.parts_of(Box)) or any(design.parts_of(PoweredSubwoofer)):
        yield care["child"]
        yield care["wash"]
    if results.supplies:
        yield results.design.vehicle.as_said(care["battery"])
