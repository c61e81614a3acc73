"""Rules on the harness: what was found against papers, colours that mislead, joints that will not do, wires nobody
has.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

from ohmack.core.document.handles import at, cavity_at
from ohmack.core.document.harness import Cavity, CavityUse, Colour, Condition, Connector, Fault, JointMethod, Polarity
from ohmack.core.document.part import Phase
from ohmack.core.figures.finding import Draft, Remedy, note, rule, set_to, stop, watch
from ohmack.core.harness.joints import Joint
from ohmack.core.harness.pin_map import meter_contradicts, use_words
from ohmack.core.harness.wire_colours import colour_words, mirror_pairs
from ohmack.core.reference import PRACTICE, table
from ohmack.core.wording import digits, listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

MOST_NAMED = 6
CONVENTION = {Colour.BLACK: CavityUse.GROUND, Colour.YELLOW: CavityUse.CONSTANT, Colour.RED: CavityUse.SWITCHED}


def _cavities(results: Results) -> Iterator[tuple[Connector, Cavity]]:
    for connector in results.design.vehicle.connectors:
        for cavity in connector.cavities:
            yield connector, cavity


def _named(connector: Connector, cavity: Cavity) -> str:
    colour = colour_words(cavity.base, cavity.tracer)
    return f"{connector.name} {connector.called(cavity)}{f' ({colour})' if colour else ''}"


def _cavity_names(connector: Connector, numbers: Sequence[int]) -> str:
    return listed([f"cavity {connector.housing.called(n)}" for n in numbers])


@rule("speaker-broken", "loads", PRACTICE)
def speaker_broken(results: Results) -> Iterator[Draft]:
    """A hunt found a speaker dead or shorted, and nothing new goes into its place."""
    hunt = results.design.vehicle.hunt
    for drive in results.drives if hunt is not None else ():
        fault = hunt.fault_of(drive.speaker.id) if hunt is not None else None
        if fault is None or drive.driver is not None:
            continue
        look = Remedy("Look at the hunt", sheet="finder")
        if fault is Fault.SHORTED:
            yield stop(
                at(drive.speaker),
                f"{drive.speaker.name} or its wires are shorted",
                "Whatever drives that pair shuts off or dies. Mend the wire or take another speaker first.",
                look,
            )
        else:
            yield watch(
                at(drive.speaker),
                f"{drive.speaker.name} is dead",
                "It plays nothing until its wire is mended or another takes its place.",
                look,
            )


@rule("pin-number", "survey", PRACTICE)
def pin_number(results: Results) -> Iterator[Draft]:
    """A cavity is on file twice, or its housing has no such cavity."""
    for connector in results.design.vehicle.connectors:
        numbers = Counter(c.number for c in connector.cavities)
        twice = sorted(n for n, times in numbers.items() if times > 1)
        beyond = sorted(n for n in numbers if n > connector.housing.size)
        look = Remedy("Look at the map", path=at(connector))
        if twice:
            yield stop(
                at(connector),
                f"{connector.name}: {_cavity_names(connector, twice[:MOST_NAMED])} twice",
                "One cavity holds one wire. Two rows for it mean one of them sits elsewhere.",
                look,
            )
        if beyond:
            yield watch(
                at(connector),
                f"{connector.name} has {connector.housing.size} cavities, the map names"
                f" {listed([str(n) for n in beyond[:MOST_NAMED]])}",
                "Count rows and columns on the mating side, or take the rows out of the map.",
                look,
            )


@rule("pin-found", "survey", PRACTICE)
def pin_found(results: Results) -> Iterator[Draft]:
    """The meter or the eye found something else than the map says."""
    for connector, cavity in _cavities(results):
        found = meter_contradicts(cavity)
        path = cavity_at(connector, cavity) if found is not None else ""
        if found is not None:
            taken = cavity.taken_for
            what = "dead in off and in accessory" if found is CavityUse.OTHER else found.value
            swap = {CavityUse.CONSTANT, CavityUse.SWITCHED} == {found, taken}
            yield stop(
                path,
                f"{_named(connector, cavity)} is {what}" + (f", not {taken.value}" if taken else ""),
                (
                    "Constant and switched are often confused: the radio would lose its memory, or never sleep."
                    if swap
                    else "Go by the meter, not by papers or colour."
                ),
                (
                    None
                    if found is CavityUse.OTHER
                    else Remedy(
                        f"It is {found.value}",
                        (set_to(f"{path}/use", {"value": found.value, "basis": "measured", "how": "by meter"}),),
                    )
                ),
            )
        elif cavity.use.value is not None and cavity.expected is not None and cavity.use.value is not cavity.expected:
            path = cavity_at(connector, cavity)
            yield watch(
                path,
                f"{_named(connector, cavity)}: papers say {cavity.expected.value}, found {cavity.use.value.value}",
                "Papers age, and modules added later change wires. What was found counts; trust the rest of this map"
                " less.",
                Remedy("Look at it", path=path),
            )


@rule("pin-mirror", "survey", PRACTICE)
def pin_mirror(results: Results) -> Iterator[Draft]:
    """Two wires of one connector whose colours are each other's mirror."""
    for connector in results.design.vehicle.connectors:
        for one, other in mirror_pairs(connector.cavities):
            worst = one.channel_id is not None and one.channel_id == other.channel_id
            draft = watch if worst or one.taken_for is not other.taken_for else note
            yield draft(
                cavity_at(connector, one),
                f"{colour_words(one.base, one.tracer)} and {colour_words(other.base, other.tracer)} are different"
                " wires",
                f"{connector.name}: {connector.called(one)} is {use_words(results.design.vehicle, one)},"
                f" {connector.called(other)} is {use_words(results.design.vehicle, other)}. The broad colour comes"
                " first, the stripe second; hold both to the light before you cut.",
            )


@rule("pin-colour", "survey", PRACTICE)
def pin_colour(results: Results) -> Iterator[Draft]:
    """A factory wire in a colour that means something else on an aftermarket lead."""
    for connector, cavity in _cavities(results):
        means, taken = CONVENTION.get(cavity.base) if cavity.base else None, cavity.taken_for
        live = taken in (CavityUse.CONSTANT, CavityUse.SWITCHED, CavityUse.GROUND)
        if means is None or cavity.tracer is not None or taken in (None, CavityUse.EMPTY, CavityUse.AIRBAG, means):
            continue
        draft = watch if live else note
        yield draft(
            cavity_at(connector, cavity),
            f"{_named(connector, cavity)} is {use_words(results.design.vehicle, cavity)}, not {means.value}",
            f"{cavity.base.value.capitalize() if cavity.base else ''} means {means.value} on an aftermarket lead only."
            " Factory colours differ by car; never join by colour.",
        )


@rule("pin-airbag", "survey", PRACTICE)
def pin_airbag(results: Results) -> Iterator[Draft]:
    """A cavity or connector of the airbags is on the map."""
    for connector, cavity in _cavities(results):
        if cavity.taken_for is CavityUse.AIRBAG:
            yield note(
                cavity_at(connector, cavity),
                f"{_named(connector, cavity)}: leave it alone",
                "Never probe or cut an airbag circuit, not even with a meter. The maker's guide and a licensed"
                " technician come first.",
            )
            return


@rule("pin-damage", "build", PRACTICE)
def pin_damage(results: Results) -> Iterator[Draft]:
    """Earlier work on a wire the plan needs, or left open."""
    joined = {(j.connector.id, j.cavity.id) for j in results.joints.joints}
    for connector, cavity in _cavities(results):
        if cavity.condition is Condition.WHOLE:
            continue
        needed = (connector.id, cavity.id) in joined
        draft = stop if needed and cavity.condition is Condition.CUT else watch
        yield draft(
            cavity_at(connector, cavity),
            f"{_named(connector, cavity)} was {cavity.condition.value} before",
            (
                "The plan needs it: find both ends, ring them out, and mend it before anything is joined."
                if needed
                else "Insulate each end by itself and write it into the map; the next one starts from there."
            ),
            Remedy("Look at it", path=cavity_at(connector, cavity)),
        )


@rule("speaker-negative-ground", "survey", PRACTICE)
def speaker_negative_ground(results: Results) -> Iterator[Draft]:
    """A speaker wire has continuity to body."""
    for connector, cavity in _cavities(results):
        if cavity.taken_for is CavityUse.SPEAKER and cavity.body_ohm is not None and cavity.body_ohm < 50:
            yield stop(
                cavity_at(connector, cavity),
                f"{_named(connector, cavity)}: {digits(cavity.body_ohm)} Ω to body on a speaker wire",
                "Joined to a bridged output it kills the radio. Chafed wire, a speaker terminal on the door metal, or"
                " an old radio with a common ground: find it first.",
                Remedy("Look at it", path=cavity_at(connector, cavity)),
            )


@rule("joint-double", "build", PRACTICE)
def joint_double(results: Results) -> Iterator[Draft]:
    """Two cavities claim one thing, or a pair has one wire only."""
    vehicle = results.design.vehicle
    for connector in vehicle.connectors:
        claims: dict[tuple[str, Polarity], list[Cavity]] = {}
        for cavity in connector.cavities:
            if cavity.channel_id and cavity.polarity:
                claims.setdefault((cavity.channel_id, cavity.polarity), []).append(cavity)
        for (channel_id, polarity), cavities in claims.items():
            if len(cavities) > 1:
                yield stop(
                    cavity_at(connector, cavities[0]),
                    f"{use_words(vehicle, cavities[0])} on {_cavity_names(connector, [c.number for c in cavities])}",
                    "Two wires for one function: one of them is something else. Ring it out.",
                    Remedy("Look at it", path=cavity_at(connector, cavities[0])),
                )
            other = Polarity.MINUS if polarity is Polarity.PLUS else Polarity.PLUS
            if (channel_id, other) not in claims:
                yield watch(
                    cavity_at(connector, cavities[0]),
                    f"{connector.name}: {use_words(vehicle, cavities[0])} has no {other.value}",
                    "A speaker output has two wires of its own; the other is on no cavity of this map.",
                    Remedy("Hunt for it", sheet="finder"),
                )
    yield from _on_two_plugs(results)
    on_one = Counter(
        (j.connector.id, j.cavity.id, j.phase) for j in results.joints.joints if j.lead.use is not CavityUse.SPEAKER
    )
    for joint in results.joints.joints:
        key = (joint.connector.id, joint.cavity.id, joint.phase)
        if on_one[key] > 1 and joint.lead.use is CavityUse.CONSTANT:
            on_one[key] = 0
            units = [j.unit for j in results.joints.joints if (j.connector.id, j.cavity.id, j.phase) == key]
            yield watch(
                cavity_at(joint.connector, joint.cavity),
                f"{listed(units)} on one cavity",
                "Two leads under one joint share its fuse and come loose together. Give each its own fused feed, or"
                " check the shared one.",
            )


def _on_two_plugs(results: Results) -> Iterator[Draft]:
    """The same wire of a pair on two plugs of one box: one of the maps is wrong."""
    vehicle = results.design.vehicle
    first: dict[tuple[str, str, Polarity], tuple[Connector, Cavity]] = {}
    for connector, cavity in _cavities(results):
        if not (connector.at_id and cavity.channel_id and cavity.polarity):
            continue
        key = (connector.at_id, cavity.channel_id, cavity.polarity)
        other, there = first.setdefault(key, (connector, cavity))
        if other.id != connector.id:
            yield stop(
                cavity_at(connector, cavity),
                f"{use_words(vehicle, cavity)} on {_named(other, there)} and on {_named(connector, cavity)}",
                "Both plugs go into the same box, and an output has one wire of each sign: one map is wrong. Ring it"
                " out.",
                Remedy("Look at it", path=cavity_at(connector, cavity)),
            )


@rule("joint-gauge", "build", PRACTICE)
def joint_gauge(results: Results) -> Iterator[Draft]:
    """A joint that does not suit its wires."""
    for joint in results.joints.joints:
        taken = next(way for way in joint.ranked if way.method is joint.method)
        best, bad = joint.ranked[0], taken.reason
        if best is taken or taken.against is None:
            continue
        path = cavity_at(joint.connector, joint.cavity)
        draft = stop if taken.against.fails else watch
        yield draft(
            path,
            f"{joint.method.value} at {joint.car_label}",
            f"{bad[0].upper()}{bad[1:]}. {best.method.value[0].upper()}{best.method.value[1:]}: {best.reason}.",
            Remedy(f"Take {best.method.value}", (set_to(f"{path}/joint", best.method.value),)),
        )


def _dearer(joint: Joint) -> float:
    """What a plug adapter costs more than the joint there is."""
    adapter = table("harness", "joints")[JointMethod.ADAPTER.value]
    return max(0.0, float(adapter["price"]) - joint.price)


@rule("joint-later", "build", PRACTICE)
def joint_later(results: Results) -> Iterator[Draft]:
    """A factory wire cut now is wanted again by a part of a later phase."""
    for joint in results.joints.joints:
        if joint.later and joint.phase is Phase.NOW and joint.cuts and joint.method is not JointMethod.SCREW_LOCK:
            path = cavity_at(joint.connector, joint.cavity)
            yield watch(
                path,
                f"{joint.car_label}: cut now, cut again for {joint.later}",
                f"A {joint.method.value} has no gender and does not open. A plug adapter with the"
                f" {'socket' if joint.connector.gender == 'plug' else 'plug'} on its car side lets the later part plug"
                " in without a cut; today it costs about {_dearer(joint):.2f} {results.design.policy.currency}"
                " more.",
                Remedy("Take a plug adapter", (set_to(f"{path}/joint", JointMethod.ADAPTER.value),)),
            )


@rule("pair-reach", "survey", PRACTICE)
def pair_reach(results: Results) -> Iterator[Draft]:
    """A pair leads elsewhere than the survey says, or nowhere."""
    used = {name for link in results.design.links for name in getattr(link, "channel_ids", ())}
    for circuit in results.circuits:
        if circuit.dead_end and circuit.channel.id in used:
            yield stop(
                circuit.channel.id,
                f"{circuit.channel.name} leads nowhere and the plan takes its signal there",
                "A plug that is there may lead nowhere: no load, so some factory amplifiers fall silent on it. Take"
                " another pair.",
                Remedy("What the pairs reach", sheet="harness"),
            )
        elif circuit.read_ohm is not None and circuit.reaches and circuit.on_file is None:
            yield watch(
                circuit.channel.id,
                f"{circuit.channel.name}: {circuit.verdict}",
                f"It reads {digits(circuit.read_ohm)} Ω. The load of this channel follows from what really hangs"
                " on it.",
                Remedy("What the pairs reach", sheet="harness"),
            )
