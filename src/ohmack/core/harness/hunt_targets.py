"""The speakers a hunt's wires may lead to: what their pairs read, and whether a test shows, harms or says nothing."""

from __future__ import annotations

from dataclasses import replace

from ohmack.core.document.harness import Fault, Hunt
from ohmack.core.document.vehicle import Speaker, Vehicle
from ohmack.core.loads.driven import DC_HIGH, DC_LOW
from ohmack.core.record import record
from ohmack.core.reference import table


@record
class Target:
    """A speaker the wires may lead to: the DC resistance its pair may read, and whether a pop test shows or harms."""

    id: str
    name: str
    low_ohm: float
    high_ohm: float
    reads_open: bool
    may_pop: bool
    silent: bool = False  # dead or shorted: it never sounds
    fragile: bool = False  # a tweeter: never a cell on it


def targets_of(vehicle: Vehicle, hunt: Hunt) -> tuple[Target, ...]:
    """The speakers of a hunt with what their pairs may read.

    Parameters:
        vehicle: the car.
        hunt: the hunt.

    Returns:
        the targets, in the hunt's order. Source: 75 to 105 % of nominal, common practice; leads added.
    """
    speakers = {s.id: s for s in vehicle.speakers}
    known = ((_target(speakers[name]), hunt.fault_of(name)) for name in hunt.speaker_ids)
    return tuple(target if fault is None else broken(target, fault) for target, fault in known)


def hypotheses(vehicle: Vehicle, hunt: Hunt) -> tuple[tuple[Target, ...], ...]:
    """Every way the speakers of a hunt may be: some of them dead, some pairs shorted, where it is not known which.

    Parameters:
        vehicle: the car.
        hunt: the hunt.

    Returns:
        the targets of each way, all equally likely; one way where nothing of the kind is assumed.
    """
    ways = {targets_of(vehicle, hunt)}
    for fault, many in ((Fault.DEAD, hunt.dead_unknown), (Fault.SHORTED, hunt.shorted_unknown)):
        for _ in range(many):
            ways = {
                (*way[:k], broken(target, fault), *way[k + 1 :])
                for way in ways
                for k, target in enumerate(way)
                if not target.silent
            }
    return tuple(sorted(ways, key=lambda way: [(t.silent, t.reads_open) for t in way]))


def broken(target: Target, fault: Fault) -> Target:
    """A speaker as its pair reads when it is dead, coil or wire open, or when its pair is shorted; neither sounds.

    Parameters:
        target: the speaker.
        fault: dead or shorted.

    Returns:
        the target: open, or no more than its leads read.
    """
    if fault is Fault.DEAD:
        return replace(target, reads_open=True, may_pop=False, silent=True)
    shorted_ohm = float(table("harness", "hunt")["shorted_ohm"])
    return replace(target, low_ohm=0.0, high_ohm=shorted_ohm, reads_open=False, may_pop=False, silent=True)


def _target(speaker: Speaker) -> Target:
    lead_ohm = float(table("harness", "hunt")["lead_ohm"])
    nominal = speaker.impedance_ohm
    low, high = nominal.low or nominal.value or 1.6, nominal.high or nominal.value or 16.0
    low_ohm, high_ohm = DC_LOW * low, DC_HIGH * high + lead_ohm
    if read := speaker.dc_resistance_ohm.value:
        low_ohm, high_ohm = 0.9 * read, 1.1 * read + lead_ohm
    small = "tweeter" in speaker.name.lower() or speaker.own_capacitor.value is True
    blocked = speaker.own_capacitor.value is True
    return Target(speaker.id, speaker.name, low_ohm, high_ohm, blocked, not small, fragile=small)
