"""Checks nobody makes while all is well: between any two neighbours of a power run, at a source, a look at a plug."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.proof import FaultKind
from ohmack.core.network.model import Place
from ohmack.core.prove.car import Setting
from ohmack.core.prove.checks import METERS, Check, Spots, minutes_of
from ohmack.core.prove.judged import EXTRA
from ohmack.core.prove.plan_of_proof import new_outputs
from ohmack.core.prove.points import alone_of
from ohmack.core.prove.probes import Ask, Probe, Quantity
from ohmack.core.wording import lowered

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

LOOKS = {
    FaultKind.BROKEN_RING: ("The ring is closed", "Every plug of the ring sits; a loop is in place of what is out."),
    FaultKind.DEAD_ADAPTER: ("Another adapter plays", "Put another adapter in its place: it plays no better."),
    FaultKind.RELAY_STUCK: (
        "The charging relay parts the batteries",
        "Engine off, one cable off the relay, its end covered: across the two studs the ohmmeter shows nothing.",
    ),
    FaultKind.NO_PLUG: ("The shorting plug is in", "Where the changer was, the plug the maker asks for sits."),
}


def extra_checks(results: Results) -> tuple[Check, ...]:
    """Checks a search for a fault may ask for besides the plan of proof.

    Parameters:
        results: the evaluated plan.

    Returns:
        the drop over every piece of every power run at full level; what each amplifier draws asleep; with the fuse out,
        ohms of every ground lead and of every ring against what it sits on; what the car's plug brings a new radio;
        looks that only a search asks for.

    Source: common practice.
    """
    return (
        *_drops(results),
        *_asleep(results),
        *_contacts(results),
        *_coils(results),
        *_plug(results),
        *_looks(results),
    )


def _plug(results: Results) -> Iterator[Check]:
    """At the plug of a new radio that hangs on the car's: constant, switched, ground, in that order."""
    car, spots = results.car, Spots(results)
    post, _, minus = car.posts[0] if car.posts else ("", "", "")
    black = spots.end(post, "− post")
    brought = [small for small in car.small if small.at_plug]
    for small in brought:
        here = spots.of(small.part_id)
        for setting in (Setting.ASLEEP, Setting.ACCESSORY, Setting.ON):
            name = f"{spots.of(small.feed_id).name} at the plug of {small.name}, {setting.value}"
            how = f"{METERS[Quantity.DC_V]}, {setting.value}. Red in the back of the plug, black at {black.name}."
            probe = Probe(Quantity.DC_V, f"{small.id} feed", minus, setting)
            yield Check(f"{EXTRA}plug/{small.id}/{setting.name.lower()}", 2, name, how, probe, minutes_of("v"), here,
                        black, (), small.part_id)  # fmt: skip
    for small in {small.part_id: small for small in reversed(brought)}.values():
        how = f"{METERS[Quantity.DC_V]}, key on, plug in. Red at the radio's ground, black at {black.name}: nothing."
        probe = Probe(Quantity.DC_V, f"{small.id} ground", minus, Setting.ON)
        yield Check(f"{EXTRA}plug/{small.part_id}/ground", 2, f"Ground of {small.name} at its plug", how, probe,
                    minutes_of("v"), spots.of(small.part_id), black, (), small.part_id)  # fmt: skip


def _asleep(results: Results) -> Iterator[Check]:
    """What each amplifier draws with the key off, one after the other: which of them does not go to sleep."""
    spots, minutes = Spots(results), minutes_of("current")
    for consumer in results.car.network.consumers if results.car.network is not None else ():
        here = spots.of(consumer.id)
        how = f"{METERS[Quantity.CURRENT]} round the power lead of {here.name}, key off, doors closed, the car asleep."
        probe = Probe(Quantity.CURRENT, setting=Setting.ASLEEP, subject=consumer.id)
        yield Check(f"{EXTRA}asleep/{consumer.id}", 3, f"Current of {here.name}, key off", how, probe, minutes,
                    spots.end(consumer.id, "+ terminal"), None, about=consumer.id)  # fmt: skip


def _drops(results: Results) -> Iterator[Check]:
    car, spots = results.car, Spots(results)
    if car.network is None:
        return
    minutes = minutes_of("drop")
    for branch in car.network.branches:
        if branch.place in (Place.POSITIVE, Place.NEGATIVE):
            continue
        name = lowered(branch.term.name)
        link_id = branch.id.rsplit("/", 1)[0]
        last = branch.place in (Place.RING, Place.BODY)
        spot = spots.run(link_id, last) if link_id in results.runs else spots.of(link_id)
        how = f"{METERS[Quantity.DROP_MV].partition(',')[0]}, {Setting.LEVEL.value}: one probe before, one behind."
        yield Check(
            f"{EXTRA}drop/{branch.id}", 3, f"Drop over: {name}{_of(results, link_id)}", how,
            Probe(Quantity.DROP_MV, branch.start, branch.end, Setting.LEVEL), minutes, spot, None, about=link_id,
        )  # fmt: skip


CONTACTS = {
    Place.LEAD: "Meter on ohms, leads held together first. One probe at each end of the lead, on its own metal.",
    Place.RING: "Meter on ohms, leads held together first. One probe on the ring, one on bright metal beside it.",
    Place.POST: "Meter on ohms, leads held together first. One probe on the ring, one on the post itself.",
}


def _contacts(results: Results) -> Iterator[Check]:
    car, spots = results.car, Spots(results)
    if car.network is None:
        return
    minutes = minutes_of("ohm")
    for branch in (b for b in car.network.branches if b.place in CONTACTS):
        link_id = branch.id.rsplit("/", 1)[0]
        spot = spots.run(link_id, branch.place is Place.RING) if link_id in results.runs else spots.of(link_id)
        yield Check(
            f"{EXTRA}ohms/{branch.id}", 1, f"Ohms of {lowered(branch.term.name)}{_of(results, link_id)}",
            CONTACTS[branch.place], Probe(Quantity.OHM, branch.start, branch.end), minutes, spot, None, about=link_id,
        )  # fmt: skip


def _of(results: Results, link_id: str) -> str:
    """Which run something is a piece of."""
    run = results.runs.get(link_id)
    return f", {run.start_name} to {run.end_name}" if run is not None else ""


def _coils(results: Results) -> Iterator[Check]:
    """Every coil by itself, its leads off: it takes the driver out, and tells what a pair cannot."""
    car, spots = results.car, Spots(results)
    minutes = minutes_of("driver_out")
    for output in new_outputs(results, car):
        places = {coil: place for place, coils in output.coils.items() for coil in coils}
        for part in (p for p in output.parts if p.name in places):
            spot = spots.of(places[part.name])
            alone = len(output.parts) < 3 or part.name in output.coils
            name = spot.name if alone else f"{spot.name}, coil {part.name}"
            how = f"{METERS[Quantity.OHM]}. Driver out, its leads off, both probes on the coil's own terminals."
            probe = Probe(Quantity.OHM, *alone_of(output.scope, part.name), subject=output.scope)
            yield Check(f"{EXTRA}coil/{output.scope}/{part.name}", 1, f"Ohms of {name} by itself", how, probe, minutes,
                        spot, None, about=places[part.name])  # fmt: skip


def _looks(results: Results) -> Iterator[Check]:
    minutes = minutes_of("look")
    for kind, (title, how) in LOOKS.items():
        probe = Probe(Quantity.ANSWER, setting=Setting.ON, ask=Ask.SEEN, subject=kind.name)
        yield Check(f"{EXTRA}look/{kind.name.lower()}", 2, title, how, probe, 3 * minutes)
