"""Everything that can be wrong in a car that was wired by a plan: each fault, where, how bad, how often it is met."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import chain
from typing import TYPE_CHECKING

from ohmack.core.document.factory import FactoryLinkKind
from ohmack.core.document.functions import KeepAlive
from ohmack.core.document.interventions import interventions_of
from ohmack.core.document.proof import Fault, FaultKind
from ohmack.core.document.vehicle import KeyState, SplitCharging, feed_pattern
from ohmack.core.network.model import Place
from ohmack.core.prove.car import LEAD, Car, Output, Setting
from ohmack.core.prove.checks import Spots
from ohmack.core.prove.faults import stricken
from ohmack.core.prove.ohms import NOTHING_OHM, pair_ohm
from ohmack.core.prove.plan_of_proof import new_outputs
from ohmack.core.prove.points import is_itself
from ohmack.core.record import record
from ohmack.core.reference import table
from ohmack.core.supply.second_battery import charged_by, charger_of
from ohmack.core.wording import listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

IN_BRANCH = {
    Place.RING: (FaultKind.BAD_GROUND,),
    Place.LEAD: (FaultKind.OPEN_GROUND,),
    Place.FUSE: (FaultKind.CORRODED_HOLDER, FaultKind.BLOWN_FUSE),
    Place.POST: (FaultKind.LOOSE_RING,),
    Place.RUN: (
        FaultKind.THIN_WIRE,
        FaultKind.CLAD_WIRE,
        FaultKind.RUN_TO_BODY,
        FaultKind.OPEN_RUN,
        FaultKind.BAD_CRIMP,
    ),
    Place.STRAP: (FaultKind.BAD_STRAP,),
}
PATTERNS = (("constant", "always"), ("ignition", "with the ignition only"), ("accessory", "with the key only"))
NEAR_OHM = 0.15  # wirings that read nearer than this to the planned one no meter tells from it; common practice


@record
class Candidate:
    """One thing that may be wrong: the fault, the place in words, and how often it is met against the others."""

    fault: Fault
    where: str
    weight: float
    point: tuple[float, float] | None = None

    @property
    def words(self) -> str:
        """What and where."""
        return f"{self.fault.kind.value}: {self.where}"

    @property
    def remedy(self) -> str:
        """What the trade does about it."""
        return str(table("proof", "remedies")[self.fault.kind.name])


def prior(kind: FaultKind) -> float:
    """How often a kind of fault is met at one place, against the others."""
    return float(table("proof", "priors")[kind.name])


def sizes(kind: FaultKind) -> tuple[float, ...]:
    """How bad a fault of a kind usually is, in ohms, decibels or times; one nought where it has no size."""
    return tuple(float(size) for size in table("proof", "sizes").get(kind.name, (0.0,)))


def candidates(results: Results) -> tuple[Candidate, ...]:
    """Every single fault the plan leaves room for.

    Parameters:
        results: the evaluated plan.

    Returns:
        the faults with their weights; one of several sizes is there once a size, its weight shared.

    Source: what happens how often: common practice.
    """
    car, spots = results.car, Spots(results)
    found: list[Candidate] = []
    rows = chain(
        _electric(results, car, spots), _switching(results, car, spots), _outputs(results, car, spots),
        _signals(results, car, spots),
    )  # fmt: skip
    for kind, at, other, where, point in rows:
        for by in sizes(kind):
            fault = Fault(id=f"f{len(found)}", kind=kind, at=at, other=other, by=by)
            found.append(Candidate(fault, where, prior(kind) / len(sizes(kind)), point))
    return tuple(found)


Row = tuple[FaultKind, str, str, str, tuple[float, float] | None]


def _electric(results: Results, car: Car, spots: Spots) -> Iterator[Row]:
    yield from _charging(results, car, spots)
    network = car.network
    if network is None:
        return
    for branch in network.branches:
        for kind in IN_BRANCH.get(branch.place, ()):
            link_id = branch.id.rsplit("/", 1)[0]
            if branch.place is Place.STRAP:
                spot = spots.of(link_id)
            elif kind in (FaultKind.BAD_GROUND, FaultKind.OPEN_GROUND, FaultKind.LOOSE_RING):
                spot = spots.run(link_id, last=kind is FaultKind.BAD_GROUND)
            else:
                spot = spots.run(link_id, last=False)
            name = spots.run(link_id, last=True).name
            where = {
                Place.RING: f"{spot.name}, for {spots.run(link_id, last=False).name}",
                Place.LEAD: spot.name,
                Place.STRAP: spot.name,
                Place.POST: f"{spot.name}, run to {name}",
            }.get(branch.place, f"run to {name}")
            yield kind, branch.id, "", where, spot.point
    for battery_id in (name for name, _, _ in car.posts if not is_itself(name)):
        spot = spots.of(battery_id)
        yield FaultKind.WEAK_BATTERY, battery_id, "", spot.name, spot.point
    charged = any(is_itself(name) for name in car.emf_v.get(Setting.RUNNING, {}))
    if charged or not results.design.vehicle.above_12_v:  # what charges a pack is not in the car
        yield FaultKind.NOT_CHARGING, network.cells[0].id, "", "engine", None


def _charging(results: Results, car: Car, spots: Spots) -> Iterator[Row]:
    """What goes wrong between the first battery and one that is charged from it."""
    design, used = results.design, {name for name, _, _ in car.posts}
    for battery in (b for b in design.vehicle.supply.batteries[1:] if b.id in used):
        spot, charged = spots.of(battery.id), charged_by(design, battery)
        if charged in CHARGED_APART:
            yield FaultKind.CHARGE_OFF, battery.id, "", spot.name, spot.point
        if charged is SplitCharging.RELAY:
            relay = charger_of(design, battery.id)
            where = relay.name if relay is not None else f"between the first battery and {spot.name}"
            yield FaultKind.RELAY_STUCK, relay.id if relay is not None else battery.id, "", where, spot.point


CHARGED_APART = (SplitCharging.RELAY, SplitCharging.DIODE, SplitCharging.CHARGER)


def _switching(results: Results, car: Car, spots: Spots) -> Iterator[Row]:
    for fed in car.fed:
        spot = spots.of(fed.id)
        if fed.source_id:
            yield FaultKind.NO_SWITCH_ON, fed.id, "", spot.name, spot.point
            yield FaultKind.EARLY_ON, fed.id, "", spot.name, spot.point
            if not car.is_on(fed, KeyState.ASLEEP):
                yield FaultKind.KEEPS_ON, fed.id, "", spot.name, spot.point
    feeds = {f.id: f.live.value for f in results.design.vehicle.feeds}
    for fed in {f.source_id or f.id: f for f in reversed(car.fed)}.values():
        if fed.source_id not in feeds and not car.switched(fed, KeyState.ASLEEP):
            source = spots.of(fed.source_id or fed.id)
            where = f"switch-on from {source.name}" if fed.source_id else f"{source.name}, which listens for music"
            yield FaultKind.STAYS_ON, fed.source_id or fed.id, "", where, source.point
    if car.fed or car.small:
        yield FaultKind.CAR_DRAINS, "car", "", "none of what was fitted", None
    for small in car.small:
        spot = spots.of(small.part_id)
        yield FaultKind.BLOWN_FUSE, small.id, "", f"{small.name}, on {spots.of(small.feed_id).name}", spot.point
    for lead in car.leads:
        yield FaultKind.BAD_JOINT, lead.id, "", lead.name, spots.of(lead.to_id).point
    for part_id in dict.fromkeys(s.part_id for s in car.small):
        spot = spots.of(part_id)
        yield FaultKind.OPEN_GROUND, part_id, "", spot.name, spot.point
    used = [*(f.source_id for f in car.fed), *(s.feed_id for s in car.small)]
    for source_id in dict.fromkeys(name for name in used if name in feeds):
        spot = spots.of(source_id)
        for pattern, words in PATTERNS:
            if feed_pattern(feeds[source_id] or ()) != pattern:
                yield FaultKind.WRONG_FEED, source_id, pattern, f"{spot.name} is live {words}", spot.point


def _outputs(results: Results, car: Car, spots: Spots) -> Iterator[Row]:
    wired = new_outputs(results, car)
    for output in wired:
        point = spots.of(output.owner_id).point
        for words in _telling(output):
            yield FaultKind.WRONG_COILS, output.scope, words, f"{output.name}: {words}", point
        for part in (p for p in output.parts if p.name != LEAD):
            name = _coil_name(spots, output, part.name)
            yield FaultKind.COIL_OPEN, output.scope, part.name, name, point
            yield FaultKind.COIL_SHORTED, output.scope, part.name, name, point
        yield FaultKind.PAIR_OPEN, output.scope, "", output.name, point
        yield FaultKind.PAIR_TO_BODY, output.scope, "", output.name, point
        yield FaultKind.PAIR_SHARED, output.scope, "", output.name, point
        if any(p.name == LEAD for p in output.parts):
            yield FaultKind.BAD_JOINT, output.scope, "", f"speaker lead, {output.name}", point
        for place in output.coils:
            spot = spots.of(place)
            yield FaultKind.REVERSED, output.scope, place, spot.name, spot.point
    knobs: dict[object, list[Output]] = {}
    for output in (o for o in wired if o.out_v is not None):
        knobs.setdefault(output.knob or output.scope, []).append(output)
    for same in knobs.values():
        spot, knob = spots.of(same[0].owner_id), same[0].knob
        channels = listed([str(n) for n in knob[1]]) if knob is not None else ""
        name = f"{spot.name}, channels {channels}" if len(same) > 1 else same[0].name
        yield FaultKind.WRONG_GAIN, same[0].scope, "", name, spot.point
    for one, other in zip(wired, wired[1:], strict=False):
        if one.owner_id == other.owner_id:
            yield (
                FaultKind.CROSSED,
                one.scope,
                other.scope,
                f"{one.name} and {other.name}",
                spots.of(one.owner_id).point,
            )


def _coil_name(spots: Spots, output: Output, coil: str) -> str:
    """A coil in words: by its output alone where nothing else plays there, by its place where that is all it is."""
    if coil in output.coils:
        return output.name if len(output.coils) < 2 else f"{output.name}, {spots.of(coil).name}"
    return f"{output.name}, coil {coil}" if len(output.parts) > 2 else output.name


def _telling(output: Output) -> Iterator[str]:
    """The other wirings a meter tells from the planned one; of those that read alike the first."""
    read: list[float] = [pair_ohm(output.parts)]
    for words, parts in output.others.items():
        ohm = pair_ohm(parts)
        if ohm < NOTHING_OHM and all(abs(ohm - known) > NEAR_OHM for known in read):
            read.append(ohm)
            yield words


def _signals(results: Results, car: Car, spots: Spots) -> Iterator[Row]:
    played = [o for o in car.outputs if o.line_id]
    for line_id in dict.fromkeys(o.line_id for o in played if any(k.id == o.line_id for k in car.leads)):
        lead = next(k for k in car.leads if k.id == line_id)
        yield FaultKind.NO_SIGNAL, line_id, "", lead.name, spots.of(lead.to_id).point
    for converter_id in dict.fromkeys(o.converter_id for o in played if o.converter_id):
        spot = spots.of(converter_id)
        yield FaultKind.CONVERTER_RANGE, converter_id, "", spot.name, spot.point
    for owner_id in dict.fromkeys(o.owner_id for o in played if o.in_v is not None):
        spot = spots.of(owner_id)
        yield FaultKind.INPUT_OVERLOAD, owner_id, "", spot.name, spot.point
    radio = spots.of(results.design.vehicle.radio.id)
    if any(o.from_factory and o.line_id for o in car.outputs):
        yield FaultKind.THIN_SOURCE, "source", "", f"what is taken at {radio.name}", radio.point
        yield FaultKind.BASS_LOST, "source", "", f"what is taken at {radio.name}", radio.point
    if any(k.kind == "line" for k in car.leads):
        yield FaultKind.GROUND_LOOP, "line", "", "between source and amplifier", radio.point
    if any(link.kind is FactoryLinkKind.RING for link in results.design.vehicle.factory_links):
        yield FaultKind.BROKEN_RING, "ring", "", "the car's optical ring", radio.point
    if any(o.adapter for o in car.outputs):
        yield FaultKind.DEAD_ADAPTER, "adapter", "", f"behind {radio.name}", radio.point
    if any(KeepAlive.PLUG in act.keep_alive for act in interventions_of(results.design)):
        yield FaultKind.NO_PLUG, "plug", "", "where the changer was", radio.point


def with_fault(car: Car, candidate: Candidate) -> Car:
    """The car with one candidate in it."""
    return stricken(car, (candidate.fault,)).sharing(car)
